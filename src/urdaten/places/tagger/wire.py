"""Wire models of the tagger place, and of jobs, which several places show."""

from __future__ import annotations

from datetime import datetime

from pydantic import Field

from urdaten.core.tagger import FEATURE_GROUPS, SETTINGS
from urdaten.places.team.wire import Shown, Wire

_DEFAULT = {setting.name: setting.default for setting in SETTINGS}


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
    default: float
    least: float
    most: float
    help: str


class SettingsHelp(Shown):
    settings: list[SettingShown]
    features: list[str]


class SettingsWish(Wire):
    """Values out of range are answered with what is allowed."""

    epochs: int = int(_DEFAULT["epochs"])
    patience: int = int(_DEFAULT["patience"])
    rate: float = _DEFAULT["rate"]
    l2: float = _DEFAULT["l2"]
    batch: int = int(_DEFAULT["batch"])
    seed: int = int(_DEFAULT["seed"])
    features: list[str] = Field(default_factory=lambda: list(FEATURE_GROUPS))


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


class MadeFrom(Shown):
    """What a tagger was made from; absent members are not known yet."""

    train_texts: int | None = None
    train_sentences: int | None = None
    dev_sentences: int | None = None
    spans: int | None = None
    attributes: int | None = None
    best_epoch: int | None = None
    data: str | None = None


class TrainingShown(Shown):
    id: int
    name: str
    settings: SettingsWish
    job: JobShown | None
    epochs: list[EpochShown]
    made_from: MadeFrom
    in_use: bool
    has_model: bool
    live: bool
    can_repeat: bool
    changes: list[str] = Field(description="what has changed since it was made")
    created_at: datetime
