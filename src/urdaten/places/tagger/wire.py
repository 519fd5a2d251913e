"""Wire models of the tagger place, and of jobs, which several places show."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from pydantic import Field

from urdaten.core.tagger import PRESETS
from urdaten.places.team.wire import Shown, Wire

MOST_NUMBER = 2**31 - 1
_STANDARD = PRESETS["thorough"]


class JobShown(Shown):
    id: int
    kind: str
    title: str
    state: str = Field(description="waiting, running, done, stopped, failed or interrupted")
    done: int
    total: int
    unit: str
    message: str
    created_at: datetime
    started_at: datetime | None
    finished_at: datetime | None


class SettingShown(Shown):
    name: str
    title: str = Field(description="its name in words")
    group: str = Field(description="among which settings it belongs")
    default: float
    least: float
    most: float
    help: str


class ChoiceShown(Shown):
    name: str
    title: str
    group: str
    default: str
    options: list[str]
    help: str


class FeatureShown(Shown):
    name: str
    help: str


class SettingsWish(Wire):
    """Values out of range are answered with what is allowed."""

    method: Annotated[str, Field(max_length=40)] = _STANDARD.method
    coding: Annotated[str, Field(max_length=40)] = _STANDARD.coding
    optimiser: Annotated[str, Field(max_length=40)] = _STANDARD.optimiser
    epochs: Annotated[int, Field(ge=-MOST_NUMBER, le=MOST_NUMBER)] = _STANDARD.epochs
    patience: Annotated[int, Field(ge=-MOST_NUMBER, le=MOST_NUMBER)] = _STANDARD.patience
    rate: float = _STANDARD.rate
    l2: float = _STANDARD.l2
    l1: float = _STANDARD.l1
    batch: Annotated[int, Field(ge=-MOST_NUMBER, le=MOST_NUMBER)] = _STANDARD.batch
    blank: float = _STANDARD.blank
    from_lists: Annotated[int, Field(ge=-MOST_NUMBER, le=MOST_NUMBER)] = _STANDARD.from_lists
    prune: float = _STANDARD.prune
    file_megabytes: float = _STANDARD.file_megabytes
    seconds: Annotated[int, Field(ge=-MOST_NUMBER, le=MOST_NUMBER)] = _STANDARD.seconds
    megabytes: Annotated[int, Field(ge=-MOST_NUMBER, le=MOST_NUMBER)] = _STANDARD.megabytes
    seed: Annotated[int, Field(ge=-MOST_NUMBER, le=MOST_NUMBER)] = _STANDARD.seed
    features: list[Annotated[str, Field(max_length=40)]] = Field(
        default_factory=lambda: list(_STANDARD.features), max_length=100
    )
    types: list[Annotated[str, Field(max_length=40)]] = Field(
        default_factory=list, max_length=1000, description="codes to learn; none means all"
    )


class PresetShown(Shown):
    name: str
    settings: SettingsWish


class SettingsHelp(Shown):
    """What the settings mean, which values they take, and the presets."""

    choices: list[ChoiceShown]
    settings: list[SettingShown]
    features: list[FeatureShown]
    presets: list[PresetShown]


class ConfigText(Wire):
    """A training config as `urdaten tagger config` prints it."""

    text: str = Field(max_length=20_000)


class TrainingWish(Wire):
    name: str = Field(max_length=80)
    settings: SettingsWish = SettingsWish()


class EpochShown(Shown):
    epoch: int
    epochs: int
    objective: float
    train_f1: float | None
    dev_f1: float | None
    best_epoch: int
    seconds: float | None = None


class TypeFigures(Shown):
    """What there was to learn of a type, and how well it was learnt."""

    type: str
    train_spans: int
    dev_spans: int
    dev_f1: float | None


class WordClassShown(Shown):
    number: int
    words: list[str] = Field(description="the commonest first")
    size: int
    type: str | None = Field(description="that of most marked words of the class")


class MadeFrom(Shown):
    """What a tagger was made from; absent members are not known yet."""

    train_texts: int | None = None
    train_sentences: int | None = None
    dev_sentences: int | None = None
    spans: int | None = None
    lists_sentences: int | None = Field(
        default=None, description="sentences that nobody has signed, learnt from as lists see them"
    )
    lists_spans: int | None = None
    lists_worth: float | None = Field(default=None, description="so many signed ones they count as in all")
    attributes: int | None = None
    token_features: int | None = None
    unsigned_texts: int | None = None
    by_type: list[TypeFigures] = Field(default_factory=list)
    best_epoch: int | None = None
    data: str | None = None


class TrainingShown(Shown):
    id: int
    name: str
    settings: SettingsWish
    config: str = Field(description="the settings as a config file")
    job: JobShown | None
    epochs: list[EpochShown]
    made_from: MadeFrom
    in_use: bool
    has_model: bool
    live: bool
    can_repeat: bool
    changes: list[str] = Field(description="what has changed since it was made")
    created_at: datetime


class RetrainingWish(Wire):
    after: int = Field(
        ge=-MOST_NUMBER,
        le=MOST_NUMBER,
        description="signings after which the tagger is trained anew; 0 for never",
    )


class RetrainingShown(Shown):
    after: int
    signings: int = Field(description="signings in train and dev texts since the newest training was begun")
