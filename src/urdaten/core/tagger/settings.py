"""Training settings: every value that changes what is learnt, with its limits."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, fields, replace
from difflib import get_close_matches
from typing import Any

from urdaten.core.spans import CODINGS
from urdaten.core.tagger.repeats import SOURCE as REPEATS
from urdaten.errors import BadSettings

# The general lexicon tells of forms, and of phrases.
LEXICON = "lexicon"
FORM_GROUPS = ("words", "shapes", "affixes", "grams", "classes", LEXICON)
TOKEN_GROUPS = ("pairs", "texts")
EVIDENCE_GROUPS = ("lists", "rules")
# What is seen as spans: evidence that texts come with, and what the tagger's own first look finds.
SPAN_GROUPS = (*EVIDENCE_GROUPS, REPEATS)
# Each list and each rule for itself.
MAKERS = "makers"
FEATURE_GROUPS = FORM_GROUPS + TOKEN_GROUPS + (*EVIDENCE_GROUPS, MAKERS, REPEATS)
GROUP_HELP = {
    "words": "the word itself, with and without capitals",
    "shapes": "capitals, small letters and figures",
    "affixes": "how words begin and end, up to four letters",
    "grams": "groups of three letters inside words",
    "classes": "classes of words that stand in like places, learnt from training texts and unsigned ones",
    "lexicon": "what kinds of things words and phrases stand for, whatever the trade, as the general lexicon has it",
    "pairs": "neighbouring words, and their outlines, two at a time",
    "texts": "how the same word stands elsewhere in its text",
    "lists": "names that the lists find",
    "rules": "spans that the rules find",
    "makers": "which list or rule it is that finds them, where several find names of one type",
    "repeats": "how the same words are marked elsewhere in the text or its group, by a first look at all of it",
}
METHODS = ("crf", "perceptron")
OPTIMISERS = ("steps", "whole")


@dataclass(frozen=True, kw_only=True)
class Setting:
    """What one number means and which values it takes."""

    name: str
    # In words, and among which settings it belongs.
    title: str
    group: str
    default: float | int
    least: float
    most: float
    help: str


@dataclass(frozen=True, kw_only=True)
class Choice:
    """What one word means and which words it may be."""

    name: str
    title: str
    group: str
    default: str
    options: tuple[str, ...]
    help: str


CHOICES = (
    Choice(
        name="method",
        title="model",
        group="Model",
        default="crf",
        options=METHODS,
        help="What is learnt: a conditional random field, which gives probabilities that mean something, or a"
        " perceptron, which is quicker and a little worse.",
    ),
    Choice(
        name="coding",
        title="coding of spans",
        group="Model",
        default="BIO",
        options=CODINGS,
        help="How spans become labels: BIO marks beginnings, BILOU ends and single words too.",
    ),
    Choice(
        name="optimiser",
        title="optimiser",
        group="Model",
        default="steps",
        options=OPTIMISERS,
        help="How the random field is fitted: in small steps, a few sentences at a time, or over the whole of"
        " the data at once (L-BFGS).",
    ),
)
SETTINGS = (
    Setting(
        name="epochs",
        title="most epochs",
        group="How long it trains",
        default=30,
        least=1,
        most=1000,
        help="Training passes over the signed sentences, at most.",
    ),
    Setting(
        name="patience",
        title="epochs without gain until it stops",
        group="How long it trains",
        default=6,
        least=1,
        most=1000,
        help="Training ends when dev F1 has not risen for this many epochs, the best of which is saved; with more than"
        " 3000 sentences an epoch counts for more than one.",
    ),
    Setting(
        name="rate",
        title="step size",
        group="Steps",
        default=0.1,
        least=1e-4,
        most=10,
        help="Step size of the optimiser; larger learns faster and less steadily. From 300 sentences for each type on"
        " it falls with the root of their number.",
    ),
    Setting(
        name="l2",
        title="L2 regularisation",
        group="Regularisation",
        default=1.0,
        least=0,
        most=1000,
        help="Draws every weight towards zero, the more the larger it is; more makes a simpler model. The"
        " number is for 1000 sentences and grows with the root of theirs.",
    ),
    Setting(
        name="l1",
        title="L1 regularisation",
        group="Regularisation",
        default=0.0,
        least=0,
        most=1000,
        help="Draws small weights to zero as strongly as large ones, and so removes them; makes a smaller model.",
    ),
    Setting(
        name="batch",
        title="sentences per step",
        group="Steps",
        default=32,
        least=1,
        most=4096,
        help="Sentences per step of the optimiser, at most; small corpora take fewer.",
    ),
    Setting(
        name="blank",
        title="share of words hidden",
        group="Regularisation",
        default=0.5,
        least=0,
        most=0.9,
        help="Share of the words whose letters are hidden in each training pass, so that shapes and neighbours are"
        " learnt as well as names; more helps where many names are new. Not with the optimiser *whole*.",
    ),
    Setting(
        name="from_lists",
        title="what lists find, as so many signed sentences",
        group="Unsigned texts",
        default=0,
        least=0,
        most=100_000,
        help="What lists find in sentences that nobody has signed is learnt from, too, and counts as much as so many signed"
        " ones in all; what is unclear is left open. Helps most while little is signed; where nothing is, it counts in full. 0"
        " leaves it out.",
    ),
    Setting(
        name="prune",
        title="smallest weight saved",
        group="Size",
        default=0.01,
        least=0,
        most=1,
        help="Weights smaller than this are left out when the tagger is saved.",
    ),
    Setting(
        name="file_megabytes",
        title="largest file, MB",
        group="Size",
        default=9.5,
        least=0.1,
        most=10_000,
        help="How large the tagger's file may be; the smallest weights are left out until it fits.",
    ),
    Setting(
        name="seconds",
        title="time limit, seconds",
        group="How long it trains",
        default=0,
        least=0,
        most=1_000_000,
        help="Training ends after this many seconds with the best so far; 0 sets no limit.",
    ),
    Setting(
        name="megabytes",
        title="most memory, MB",
        group="Size",
        default=4000,
        least=10,
        most=1_000_000,
        help="Memory that training may take; more is refused before it begins.",
    ),
    Setting(
        name="seed",
        title="seed",
        group="Steps",
        default=7,
        least=0,
        most=2**31 - 1,
        help="Order of the sentences; same seed, same model.",
    ),
)
_RANGES: dict[str, Setting] = {setting.name: setting for setting in SETTINGS}


@dataclass(frozen=True, kw_only=True)
class TrainingSettings:
    """Settings of one training. Raises BadSettings for values out of range."""

    method: str = "crf"
    coding: str = "BIO"
    optimiser: str = "steps"
    epochs: int = 30
    patience: int = 6
    rate: float = 0.1
    l2: float = 1.0
    l1: float = 0.0
    batch: int = 32
    blank: float = 0.5
    from_lists: int = 0
    prune: float = 0.01
    file_megabytes: float = 9.5
    seconds: int = 0
    megabytes: int = 4000
    seed: int = 7
    features: tuple[str, ...] = FEATURE_GROUPS
    # Type codes to learn; none means all.
    types: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        for choice in CHOICES:
            value = getattr(self, choice.name)
            if value not in choice.options:
                raise BadSettings(
                    f"{choice.name} is {value!r}; it can be {' or '.join(choice.options)}.", field=choice.name
                )
        for setting in SETTINGS:
            value = getattr(self, setting.name)
            if not setting.least <= value <= setting.most:
                raise BadSettings(
                    f"{setting.name} is {value}; it must lie between {setting.least:g} and {setting.most:g}.",
                    field=setting.name,
                )
        for group in self.features:
            if group not in FEATURE_GROUPS:
                raise BadSettings(
                    f"There is no feature group {group!r}; {_near(group, FEATURE_GROUPS)}", field="features"
                )
        if not set(self.features) & {"words", "shapes", "affixes", "grams"}:
            raise BadSettings(
                "Lists and rules alone are not enough; switch on words, shapes, affixes or grams.",
                field="features",
            )

        if self.from_lists and self.method == "perceptron":
            raise BadSettings(
                "A perceptron counts every sentence alike and cannot leave anything open; learn a crf from what lists find.",
                field="from_lists",
            )

    def as_dict(self) -> dict[str, Any]:
        return asdict(self) | {"features": list(self.features), "types": list(self.types)}

    @classmethod
    def from_dict(cls, values: Mapping[str, Any]) -> TrainingSettings:
        """Settings from plain values. Raises BadSettings for a name it does not know."""
        names = [field.name for field in fields(cls)]
        for name in values:
            if name not in names:
                raise BadSettings(f"There is no setting {name!r}; {_near(name, names)}", field=name)
        listed = {name: tuple(values[name]) for name in ("features", "types") if name in values}
        return cls(**{**values, **listed})

    def without(self, groups: Sequence[str]) -> TrainingSettings:
        """These settings without some feature groups."""
        return replace(self, features=tuple(group for group in self.features if group not in groups))


def _near(name: str, names: Sequence[str]) -> str:
    near = get_close_matches(name, names, n=1)
    return f"did you mean {near[0]!r}?" if near else f"there are {', '.join(names)}."


PRESETS = {
    "thorough": TrainingSettings(),
    "early": TrainingSettings(from_lists=60),
    "quick": TrainingSettings(
        method="perceptron",
        epochs=7,
        patience=3,
        blank=0.2,
        features=("words", "shapes", "affixes", "lists", "rules"),
    ),
}
