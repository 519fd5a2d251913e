"""What a pipeline is: its stages in order with their settings, and the policy; read from JSON and written to it.

Lists, rules and taggers go by names here; what the names stand for is handed in when it is built.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass, field, fields, replace
from typing import Any, Literal

from urdaten.core.fields import plain, read_fields, read_record, read_text
from urdaten.core.pipeline.policy import PolicyKind
from urdaten.core.pipeline.where import Scope
from urdaten.errors import BadInput

Relation = Literal["competes", "binds", "feeds"]
AfterFault = Literal["go on", "stop"]
MOST_STAGES = 40
LONGEST_NAME = 60


@dataclass(frozen=True, kw_only=True)
class ListsSettings:
    """Which lists; none named: all."""

    lists: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class RulesSettings:
    """Which rules, in the order that they have; none named: all."""

    rules: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class TaggerSettings:
    """Which tagger, and which of its spans."""

    # "" for the one in use.
    tagger: str = ""
    # Of its types ours; those that are not named are left out. None named: all, as they are called.
    types: Mapping[str, str] = field(default_factory=dict)
    least: float = 0.0
    # By type of ours.
    least_of: Mapping[str, float] = field(default_factory=dict)
    # Second thoughts, down to this probability; 0 for none.
    also: float = 0.0


@dataclass(frozen=True, kw_only=True)
class WhereSettings:
    """Spans of these types, from these stages, stay where the pattern finds something, or nothing; none named: all."""

    pattern: str
    scope: Scope = "sentence"
    has: bool = True
    types: tuple[str, ...] = ()
    stages: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class TypesSettings:
    """Which types stay, which go, and which become another, of spans from these stages; none named: all."""

    keep: tuple[str, ...] = ()
    drop: tuple[str, ...] = ()
    rename: Mapping[str, str] = field(default_factory=dict)
    stages: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class RepeatsSettings:
    """Which spans are certain enough to be found again, and where."""

    types: tuple[str, ...] = ()
    least: float = 0.9
    # Stages whose spans are certain though they have no probability; none named: all.
    stages: tuple[str, ...] = ()
    in_group: bool = False
    small: bool = False
    times: int = 1


@dataclass(frozen=True, kw_only=True)
class GivenSettings:
    """Spans that came with the texts, by where they are from; of their types ours, as with a tagger."""

    source: str
    types: Mapping[str, str] = field(default_factory=dict)


Settings = (
    ListsSettings
    | RulesSettings
    | TaggerSettings
    | WhereSettings
    | TypesSettings
    | RepeatsSettings
    | GivenSettings
)
SETTINGS: Mapping[str, type[Settings]] = {
    "lists": ListsSettings,
    "rules": RulesSettings,
    "tagger": TaggerSettings,
    "where": WhereSettings,
    "types": TypesSettings,
    "repeats": RepeatsSettings,
    "given": GivenSettings,
}
KINDS = tuple(SETTINGS)


@dataclass(frozen=True, kw_only=True)
class StagePlan:
    """One stage. Towards an earlier stage it competes unless something else is said."""

    name: str
    kind: str
    settings: Settings
    on: bool = True
    towards: Mapping[str, Relation] = field(default_factory=dict)
    after_fault: AfterFault = "go on"


@dataclass(frozen=True, kw_only=True)
class PolicyPlan:
    """Which spans stand where only one of several may."""

    kind: PolicyKind = "order"
    # Stages, the one first that goes first; those that are not named come after them, later ones first.
    order: tuple[str, ...] = ()
    # Of a type an order of its own.
    by_type: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    # What is less likely is left out by those that go by probability; None: as it was learnt, or 0.
    least: float | None = None
    # How likely the spans of a stage are that have no probability.
    worth: Mapping[str, float] = field(default_factory=dict)
    # Which weights weigh, where several were learnt; "" for those that are at hand.
    weights: str = ""


@dataclass(frozen=True, kw_only=True)
class Plan:
    """The stages in their order, and the policy."""

    stages: tuple[StagePlan, ...]
    policy: PolicyPlan = PolicyPlan()

    @property
    def on(self) -> tuple[StagePlan, ...]:
        """The stages that are on."""
        return tuple(stage for stage in self.stages if stage.on)

    def order(self) -> tuple[str, ...]:
        """All stages as the policy takes them."""
        named = self.policy.order
        rest = [stage.name for stage in reversed(self.stages) if stage.name not in named]
        return (*named, *rest)

    def without(self, name: str) -> Plan:
        """With one stage off."""
        return self._switched(lambda stage: stage.on and stage.name != name)

    def alone(self, name: str) -> Plan:
        """With one stage on, and those whose spans it is fed with or, if it finds nothing by itself, all before it."""
        number = next(k for k, stage in enumerate(self.stages) if stage.name == name)
        needed = {name, *(of for of, how in self.stages[number].towards.items() if how == "feeds")}
        if self.stages[number].kind in ("where", "types", "repeats"):
            needed |= {stage.name for stage in self.stages[:number]}
        return self._switched(lambda stage: stage.on and stage.name in needed)

    def _switched(self, on: Callable[[StagePlan], bool]) -> Plan:
        return replace(self, stages=tuple(replace(stage, on=on(stage)) for stage in self.stages))


def standard(*, with_tagger: bool = True) -> Plan:
    """Lists, rules and the tagger in use, which has seen what lists find and leaves out what it does not take."""
    stages = [
        StagePlan(name="lists", kind="lists", settings=ListsSettings()),
        StagePlan(name="rules", kind="rules", settings=RulesSettings()),
    ]
    if with_tagger:
        towards: dict[str, Relation] = {"lists": "feeds"}
        stages.append(StagePlan(name="tagger", kind="tagger", settings=TaggerSettings(), towards=towards))
    return Plan(stages=tuple(stages))


# Reading and writing


def plan_values(plan: Plan) -> dict[str, Any]:
    """A plan in JSON; `read_plan` reads it."""
    made: dict[str, Any] = plain(plan)
    return made


def read_plan(values: object) -> Plan:
    """What plan_values has written. Raises BadInput that names the stage and the setting."""
    held = read_fields(values, ("stages", "policy"), "pipeline")
    stages = held["stages"]
    if not isinstance(stages, list) or len(stages) > MOST_STAGES:
        raise BadInput(f"A pipeline has a list of at most {MOST_STAGES} stages.", field="stages")
    plan = Plan(
        stages=tuple(_stage(one, number) for number, one in enumerate(stages, start=1)),
        policy=read_record(PolicyPlan, held["policy"], "policy"),
    )
    check_plan(plan)
    return plan


def check_plan(plan: Plan) -> None:
    """Raises BadInput unless the stages and the policy name each other rightly."""
    known: set[str] = set()
    for stage in plan.stages:
        where = f"stage “{stage.name}”"
        if not stage.name.strip() or stage.name != stage.name.strip() or len(stage.name) > LONGEST_NAME:
            raise BadInput(f"A stage has a name of at most {LONGEST_NAME} letters.", field="name")
        if not stage.name.isprintable():
            raise BadInput(
                "The name of a stage has letters alone, no signs that cannot be seen.", field="name"
            )
        if stage.name in known:
            raise BadInput(f"There are two stages “{stage.name}”; give each its own name.", field="name")
        _check_named(stage.towards, known, where, "towards")
        _check_named(getattr(stage.settings, "stages", ()), known, where, "stages")
        known.add(stage.name)
        match stage.settings:
            case WhereSettings(pattern=pattern) if not pattern.strip():
                raise BadInput(f"The {where} has no pattern.", field="pattern")
            case TypesSettings(keep=keep, drop=drop, rename=rename) if not (keep or drop or rename):
                raise BadInput(f"The {where} keeps, drops and renames nothing.", field="keep")
            case GivenSettings(source=source) if not source.strip():
                raise BadInput(f"The {where} does not say where its spans come from.", field="source")
            case _:
                pass
    for names in (plan.policy.order, *plan.policy.by_type.values(), plan.policy.worth):
        _check_named(names, known, "policy", "order")


def _check_named(names: Collection[str], known: set[str], where: str, of: str) -> None:
    for name in names:
        if name not in known:
            raise BadInput(
                f"The {where} names the stage “{name}”, which is not there before it."
                if where != "policy"
                else f"The policy names the stage “{name}”, which is not there.",
                field=of,
            )


def _stage(values: object, number: int) -> StagePlan:
    held = dict(read_fields(values, [one.name for one in fields(StagePlan)], f"stage {number}"))
    name, kind = read_text(held["name"], f"stage {number}", "name"), held["kind"]
    where = f"stage “{name}”"
    if not isinstance(kind, str) or kind not in SETTINGS:
        raise BadInput(
            f"The kind of the {where} is one of {', '.join(KINDS)}, not {str(kind)[:60]!r}.", field="kind"
        )
    settings = read_record(SETTINGS[kind], held.pop("settings"), where)
    return StagePlan(**vars(read_record(_Head, held, where)), settings=settings)


@dataclass(frozen=True, kw_only=True)
class _Head:
    """All of a stage but its settings."""

    name: str
    kind: str
    on: bool
    towards: Mapping[str, Relation]
    after_fault: AfterFault
