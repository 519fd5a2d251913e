"""From a plan and what its names stand for to stages that run."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property

from urdaten.core.lists import Gazetteer, ListHead
from urdaten.core.lists import Part as ListPart
from urdaten.core.pipeline.placing import PlacedStage
from urdaten.core.pipeline.plan import (
    GivenSettings,
    ListsSettings,
    Plan,
    RepeatsSettings,
    RulesSettings,
    StagePlan,
    TaggerSettings,
    TypesSettings,
    WhereSettings,
)
from urdaten.core.pipeline.policy import PolicyStage
from urdaten.core.pipeline.repeats import RepeatsStage
from urdaten.core.pipeline.resolve import Ranks
from urdaten.core.pipeline.sources import ListStage, RuleStage, TaggerStage
from urdaten.core.pipeline.stage import (
    ALONE,
    Beside,
    Stage,
    Step,
    fingerprint,
    steps,
)
from urdaten.core.pipeline.turning import GivenStage, TypesStage
from urdaten.core.pipeline.weighing import Weigher
from urdaten.core.pipeline.where import WhereStage
from urdaten.core.rules import CompiledRule, Rule, WordBase
from urdaten.core.spans import Overlap, Span, SpanTable
from urdaten.core.tagger import Tagger
from urdaten.core.text import Batch, batch_of
from urdaten.errors import BadInput


@dataclass(frozen=True, kw_only=True, eq=False)
class TaggerGiven:
    """A tagger, with what the types that it learnt are called now, and under which names it learnt lists and rules."""

    tagger: Tagger
    types: Mapping[str, str] | None = None
    makers: Mapping[tuple[str, str], str] | None = None


@dataclass(frozen=True, kw_only=True, eq=False)
class Material:
    """What the names in a plan stand for."""

    language: str = "en"
    # A project's own, folded and without their stop.
    abbreviations: frozenset[str] = frozenset()
    overlap: Overlap = "apart"
    # Compiled lists, and of each list by its number in them what it is called and how it is looked for.
    parts: Sequence[ListPart] = ()
    heads: Mapping[int, ListHead] = field(default_factory=dict)
    # In their order.
    rules: Sequence[CompiledRule] = ()
    ranks: Ranks = field(default_factory=dict)
    fragments: Mapping[str, str] = field(default_factory=dict)
    words: WordBase | None = None
    # By name; "" is the one in use.
    taggers: Mapping[str, TaggerGiven] = field(default_factory=dict)
    weigher: Weigher | None = None


@dataclass(frozen=True, eq=False)
class Pipeline:
    """Stages that are on, and the policy behind them."""

    stages: tuple[PlacedStage, ...]
    policy: PolicyStage
    language: str = "en"
    abbreviations: frozenset[str] = frozenset()

    @cached_property
    def fingerprint(self) -> str:
        """Equal only for pipelines that answer the same, whatever the texts."""
        own = [stage.fingerprint for stage in self.stages]
        return fingerprint(
            "pipeline", [own, self.policy.fingerprint, self.language, sorted(self.abbreviations)]
        )

    def steps(self, batch: Batch, beside: Beside = ALONE) -> Iterator[Step]:
        """Every stage and the policy, each when it is asked for."""
        return steps((*self.stages, self.policy), batch, beside)

    def candidates(self, batch: Batch, beside: Beside = ALONE) -> SpanTable:
        """What the stages have left before the policy."""
        spans = SpanTable.empty()
        for step in steps(self.stages, batch, beside):
            spans = step.after
        return spans

    def answer(self, batch: Batch, beside: Beside = ALONE) -> SpanTable:
        """What stands in the end, by text and place."""
        spans = self.candidates(batch, beside)
        return self.policy.apply(batch, spans, beside).to(spans).in_order()

    def batch(self, bodies: Sequence[str]) -> Batch:
        """Bodies, cut as the pipeline's language has it."""
        return batch_of(bodies, self.language, abbreviations=self.abbreviations)

    def run(self, bodies: Sequence[str], beside: Beside = ALONE) -> list[list[Span]]:
        """Of each body its spans, in order."""
        return self.answer(self.batch(bodies), beside).spans(len(bodies))


def build(plan: Plan, material: Material) -> Pipeline:
    """The pipeline of a plan. Raises BadInput where a name stands for nothing, BadPattern for a pattern that cannot be read."""
    return _Builder(plan, material).pipeline()


class _Builder:
    def __init__(self, plan: Plan, material: Material) -> None:
        self._plan, self._material = plan, material

    def pipeline(self) -> Pipeline:
        material = self._material
        return Pipeline(
            tuple(self._placed(stage) for stage in self._plan.on),
            self._policy(),
            material.language,
            material.abbreviations,
        )

    def _placed(self, plan: StagePlan) -> PlacedStage:
        earlier = self._plan.stages[: self._plan.stages.index(plan)]
        return PlacedStage(
            name=plan.name,
            kind=plan.kind,
            stage=self._stage(plan),
            kinds={stage.name: stage.kind for stage in earlier if stage.on},
            overlap=self._material.overlap,
            binding=frozenset(name for name, how in plan.towards.items() if how == "binds"),
            stops=plan.after_fault == "stop",
        )

    def _policy(self) -> PolicyStage:
        plan, material = self._plan.policy, self._material
        on = {stage.name for stage in self._plan.on}
        fed = {
            name: stage.name
            for stage in self._plan.on
            for name, how in stage.towards.items()
            if how == "feeds" and name in on
        }
        least = plan.least
        if plan.kind == "weighed":
            if material.weigher is None:
                raise BadInput(
                    "Nothing has been learnt yet that could weigh spans; learn it first, or choose another policy.",
                    field="kind",
                )
            least = material.weigher.least if least is None else least
        return PolicyStage(
            kind=plan.kind,
            order=tuple(name for name in self._plan.order() if name in on),
            by_type=tuple(sorted(plan.by_type.items())),
            left_out=tuple(sorted(fed.items())),
            overlap=material.overlap,
            ranks=tuple(sorted(material.ranks.items())),
            ranked=tuple(stage.name for stage in self._plan.on if stage.kind == "rules"),
            least=least or 0.0,
            worth=tuple(sorted(plan.worth.items())),
            weigher=material.weigher,
        )

    def _stage(self, plan: StagePlan) -> Stage:
        match plan.settings:
            case ListsSettings(lists=names):
                return self._lists(plan, names)
            case RulesSettings(rules=names):
                return self._rules(plan, names)
            case TaggerSettings() as settings:
                return self._tagger(plan, settings)
            case WhereSettings() as settings:
                return self._where(plan, settings)
            case TypesSettings() as settings:
                return TypesStage(
                    frozenset(settings.keep) or None,
                    frozenset(settings.drop),
                    settings.rename,
                    frozenset(settings.stages) or None,
                )
            case RepeatsSettings() as settings:
                return RepeatsStage(
                    frozenset(settings.types),
                    settings.least,
                    frozenset(settings.stages) or None,
                    settings.in_group,
                    settings.small,
                    settings.times,
                )
            case GivenSettings() as settings:
                return GivenStage(settings.source, tuple(sorted(settings.types.items())) or None)

    def _lists(self, plan: StagePlan, names: Sequence[str]) -> ListStage:
        heads = self._material.heads
        _check_there(plan, names, {head.name for head in heads.values()}, "list")
        chosen = {number: head for number, head in heads.items() if not names or head.name in names}
        return ListStage(Gazetteer.joined(self._material.parts, chosen))

    def _rules(self, plan: StagePlan, names: Sequence[str]) -> RuleStage:
        rules = self._material.rules
        _check_there(plan, names, {one.rule.name for one in rules}, "rule")
        return RuleStage(tuple(one for one in rules if not names or one.rule.name in names))

    def _tagger(self, plan: StagePlan, settings: TaggerSettings) -> TaggerStage:
        given = self._material.taggers.get(settings.tagger)
        if given is None:
            which = f"the tagger “{settings.tagger}”" if settings.tagger else "the tagger in use"
            raise BadInput(f"The stage “{plan.name}” names {which}, and there is none.", field="tagger")
        types = given.types
        if settings.types:
            present = types if types is not None else {code: code for code in given.tagger.types}
            types = {
                learnt: settings.types[code] for learnt, code in present.items() if code in settings.types
            }
        return TaggerStage(
            given.tagger, types, given.makers, settings.least, settings.least_of, settings.also or None
        )

    def _where(self, plan: StagePlan, settings: WhereSettings) -> WhereStage:
        rule = Rule(name=plan.name, type="X", text=settings.pattern)
        compiled = rule.compiled(self._material.fragments, self._material.words)
        stages = frozenset(settings.stages) or None
        kinds = {stage.name: stage.kind for stage in self._plan.on}
        return WhereStage(compiled, settings.scope, settings.has, frozenset(settings.types), stages, kinds)


def _check_there(plan: StagePlan, names: Sequence[str], known: set[str], what: str) -> None:
    for name in names:
        if name not in known:
            raise BadInput(
                f"The stage “{plan.name}” names the {what} “{name}”, which is not there or is off.",
                field=f"{what}s",
            )
