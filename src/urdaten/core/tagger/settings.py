"""Training settings: every value that changes what is learnt, with its limits."""

from __future__ import annotations

from dataclasses import asdict, dataclass, fields
from typing import Any

from urdaten.errors import BadSettings

FEATURE_GROUPS = ("words", "shapes", "affixes", "lists", "rules")


@dataclass(frozen=True, kw_only=True)
class Setting:
    """What one setting means and which values it takes."""

    name: str
    default: float | int
    least: float
    most: float
    help: str


SETTINGS = (
    Setting(
        name="epochs",
        default=40,
        least=1,
        most=1000,
        help="Training passes over the signed sentences, at most.",
    ),
    Setting(
        name="patience",
        default=8,
        least=1,
        most=1000,
        help="Training ends when dev F1 has not risen for this many epochs; the best one is kept.",
    ),
    Setting(
        name="rate",
        default=0.2,
        least=1e-4,
        most=10,
        help="Step size of the optimiser; larger learns faster and less steadily.",
    ),
    Setting(
        name="l2",
        default=0.05,
        least=0,
        most=10,
        help="Pull of every weight towards zero; larger means a simpler model.",
    ),
    Setting(name="batch", default=16, least=1, most=4096, help="Sentences per step of the optimiser."),
    Setting(
        name="seed", default=7, least=0, most=2**31 - 1, help="Order of the sentences; same seed, same model."
    ),
)
_BY_NAME = {setting.name: setting for setting in SETTINGS}


@dataclass(frozen=True, kw_only=True)
class TrainingSettings:
    """Settings of one training. Raises BadSettings for values out of range."""

    epochs: int = 40
    patience: int = 8
    rate: float = 0.2
    l2: float = 0.05
    batch: int = 16
    seed: int = 7
    features: tuple[str, ...] = FEATURE_GROUPS

    def __post_init__(self) -> None:
        for setting in SETTINGS:
            value = getattr(self, setting.name)
            if not setting.least <= value <= setting.most:
                raise BadSettings(
                    f"{setting.name} is {value}; it must lie between {setting.least:g} and {setting.most:g}.",
                    field=setting.name,
                )
        unknown = sorted(set(self.features) - set(FEATURE_GROUPS))
        if unknown:
            raise BadSettings(
                f"There is no feature group {unknown[0]!r}; the groups are {', '.join(FEATURE_GROUPS)}.",
                field="features",
            )
        if not set(self.features) & {"words", "shapes", "affixes"}:
            raise BadSettings(
                "Lists and rules alone are not enough; switch on words, shapes or affixes.", field="features"
            )

    def as_dict(self) -> dict[str, Any]:
        return asdict(self) | {"features": list(self.features)}

    @classmethod
    def from_dict(cls, values: dict[str, Any]) -> TrainingSettings:
        """Settings from plain values. Raises BadSettings for a name it does not know."""
        known = {field.name for field in fields(cls)}
        for name in values:
            if name not in known:
                raise BadSettings(
                    f"There is no setting {name!r}; the settings are {', '.join(sorted(known))}.", field=name
                )
        values = dict(values)
        if "features" in values:
            values["features"] = tuple(values["features"])
        return cls(**values)
