"""Wire models of a pipeline: its plan, what it does on dev, and its trace."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import Field

from urdaten.core.pipeline import (
    LONGEST_NAME,
    MOST_STAGES,
    Plan,
    PolicyKind,
    Scope,
    plan_values,
    read_plan,
)
from urdaten.places.desk.wire import SpanShown, StaveShown, TokenShown
from urdaten.places.pipeline.acts import Incoming, Trace, Weights
from urdaten.places.pipeline.wire import shown_spans
from urdaten.places.tagger.wire import JobShown
from urdaten.places.team.wire import Shown, Wire

LONGEST_WORDS = 20_000
_MOST_NAMES = 10_000
Name = Annotated[str, Field(max_length=200)]
Names = Annotated[list[Name], Field(max_length=_MOST_NAMES)]
NamesByName = Annotated[dict[Name, Name], Field(max_length=_MOST_NAMES)]
Share = Annotated[float, Field(ge=0, le=1)]
Shares = Annotated[dict[Name, Share], Field(max_length=_MOST_NAMES)]


class ListsWish(Wire):
    lists: Names = Field(description="names of lists; none for all that are on")


class RulesWish(Wire):
    rules: Names = Field(description="names of rules; none for all that are on")


class TaggerStageWish(Wire):
    tagger: Name = Field(description="number of a training; empty for the tagger in use")
    types: NamesByName = Field(description="of its types ours; none for all as they are")
    least: Share
    least_of: Shares = Field(description="by type of ours")
    also: Share = Field(description="second thoughts, down to this probability; 0 for none")


class WhereWish(Wire):
    pattern: str = Field(max_length=10_000)
    scope: Scope
    has: bool
    types: Names
    stages: Names


class TypesStageWish(Wire):
    keep: Names
    drop: Names
    rename: NamesByName
    stages: Names


class RepeatsWish(Wire):
    types: Names
    least: Share
    stages: Names
    in_group: bool
    small: bool
    times: int = Field(ge=1, le=1000)


class GivenWish(Wire):
    source: Name
    types: NamesByName


class _StageWish(Wire):
    name: str = Field(max_length=LONGEST_NAME)
    on: bool
    towards: dict[Name, Literal["competes", "binds", "feeds"]] = Field(
        max_length=MOST_STAGES, description="how earlier stages stand to it; they compete unless said"
    )
    after_fault: Literal["go on", "stop"]


class ListsStageWish(_StageWish):
    kind: Literal["lists"]
    settings: ListsWish


class RulesStageWish(_StageWish):
    kind: Literal["rules"]
    settings: RulesWish


class TaggerOneWish(_StageWish):
    kind: Literal["tagger"]
    settings: TaggerStageWish


class WhereStageWish(_StageWish):
    kind: Literal["where"]
    settings: WhereWish


class TypesOneWish(_StageWish):
    kind: Literal["types"]
    settings: TypesStageWish


class RepeatsStageWish(_StageWish):
    kind: Literal["repeats"]
    settings: RepeatsWish


class GivenStageWish(_StageWish):
    kind: Literal["given"]
    settings: GivenWish


StageWish = Annotated[
    ListsStageWish
    | RulesStageWish
    | TaggerOneWish
    | WhereStageWish
    | TypesOneWish
    | RepeatsStageWish
    | GivenStageWish,
    Field(discriminator="kind"),
]


class PolicyWish(Wire):
    kind: PolicyKind
    order: Names = Field(description="stages, the one first that goes first")
    by_type: Annotated[dict[Name, Names], Field(max_length=_MOST_NAMES)]
    least: Share | None
    worth: Shares
    weights: Name = Field(description="number of what was learnt to weigh by; empty for none")


class PipelinePlan(Wire):
    stages: list[StageWish] = Field(max_length=MOST_STAGES)
    policy: PolicyWish


def plan_of(wish: PipelinePlan) -> Plan:
    """Raises BadInput that names the stage and the setting."""
    return read_plan(wish.model_dump())


def plan_shown(plan: Plan) -> PipelinePlan:
    return PipelinePlan.model_validate(plan_values(plan))


class KeepWish(Wire):
    plan: PipelinePlan
    seen: int = Field(ge=0, le=2**31 - 1, description="the number of the version that you began with")


class BackWish(Wire):
    seen: int = Field(ge=0, le=2**31 - 1)


class PipelineVersionShown(Shown):
    number: int
    said: str = Field(description="in words, what was changed; empty for the one that everything begins with")
    by: str = Field(description="whoever kept it")
    created_at: datetime | None
    name: str = Field(description="what somebody calls it; empty for its number alone")
    published: bool
    has_bundle: bool = Field(description="it was published, and its file is kept as it was then")
    plan: PipelinePlan


class ChoicesShown(Shown):
    """What the settings of stages can name."""

    lists: list[str]
    rules: list[str]
    types: list[str]
    taggers: dict[str, str] = Field(description="name of each by its number")


class PipelineShown(Shown):
    version: PipelineVersionShown
    fault: str = Field(description="why it cannot run as it is; empty where it can")
    choices: ChoicesShown


class EffectShown(Shown):
    """What a stage does in signed dev texts."""

    name: str
    kind: str
    added: int
    changed: int
    dropped: int
    refused: int
    judged: int
    right: int
    milliseconds: float
    troubles: list[str]


class AgainstShown(Shown):
    right: int
    found: int
    gold: int


class GainShown(Shown):
    """By how much one F1 is higher than another, with a 95 % interval."""

    f1: float
    low: float | None
    high: float | None


class WeightsShown(Shown):
    """Weights that were learnt, and how they did on dev by folds, beside the pipeline of then."""

    id: int
    created_at: datetime
    least: float = Field(description="from which probability on a span is taken, as it was learnt")
    texts: int
    sentences: int
    train_texts: int
    weighed: AgainstShown
    now: AgainstShown
    gain: GainShown


class WeighingShown(Shown):
    """Everything that was learnt, the newest first, and the job that learns."""

    job: JobShown | None
    weights: list[WeightsShown]


class WeighingWish(Wire):
    plan: PipelinePlan
    train: bool = Field(description="learn from train texts as well, by taggers that have not seen them")


class WeightsSeenShown(Shown):
    """The weights that a plan goes by."""

    weights: WeightsShown
    changes: list[str] = Field(description="in what its stages differ from those that they were learnt for")


class AblationRowShown(Shown):
    how: Literal["whole", "alone", "without"]
    stage: str
    fault: str = Field(description="why it could not run; then there are no figures")
    right: int
    found: int
    gold: int
    f1: float | None
    f1_low: float | None
    f1_high: float | None
    against: GainShown | None = Field(description="from the whole")


class AblationShown(Shown):
    """Stages compared on signed dev texts; no rows before that is done."""

    job: JobShown
    texts: int
    sentences: int
    rows: list[AblationRowShown]
    changes: list[str] = Field(
        description="in what the pipeline of now differs from the one that was compared"
    )


class BundlePartShown(Shown):
    """A part of a bundle, and under which name it is here."""

    what: Literal["type", "list", "fragment", "rule", "tagger", "template"]
    name: str
    becomes: str
    how: Literal["new", "same", "renamed"]


class IncomingShown(Shown):
    """A bundle that is looked through, or brought in once `kept`."""

    job: JobShown
    kept: bool
    arrivals: list[BundlePartShown]
    notes: list[str] = Field(description="what does not come along")
    plan: PipelinePlan | None = Field(description="its stages under the names of here, once it is brought in")


class WeighedPartShown(Shown):
    name: str
    value: float
    adds: float


class WeighedShown(Shown):
    """What a span weighs: its probability, that from which one stands, and what adds to its log odds."""

    probability: float
    least: float
    parts: list[WeighedPartShown]


class PlanLookShown(Shown):
    texts: int
    all: bool
    tokens: int
    sentences: int
    stages: list[EffectShown]
    after: AgainstShown
    before: AgainstShown
    differing: int = Field(description="signed sentences in which its answer is another than that of before")
    weights: WeightsSeenShown | None = Field(description="where it weighs, what by")
    example: str = Field(description="words of a signed dev sentence; empty where there is none")
    shown: list[StaveShown] = Field(description="the first of them: gold, before and after")


class VersionsComparedShown(Shown):
    """Two versions: in what they differ, in words, and what they answer on dev."""

    said: list[str]
    look: PlanLookShown


class VersionNameWish(Wire):
    name: str = Field(max_length=200)


class WeighWish(Wire):
    plan: PipelinePlan
    words: str = Field(default="", max_length=LONGEST_WORDS)
    sentence: int | None = Field(default=None, ge=1, le=2**31 - 1, description="in place of words")
    start: int = Field(ge=0, le=2**31 - 1)
    end: int = Field(ge=0, le=2**31 - 1)
    type: Name


class TraceWish(Wire):
    plan: PipelinePlan
    words: str = Field(default="", max_length=LONGEST_WORDS)
    sentence: int | None = Field(default=None, ge=1, le=2**31 - 1, description="in place of words")


class BecameShown(Shown):
    what: Literal["added", "changed", "dropped", "refused"]
    span: SpanShown
    why: str


class TraceStepShown(Shown):
    name: str
    kind: str
    after: list[SpanShown]
    changes: list[BecameShown]
    troubles: list[str]


class TraceSentenceShown(Shown):
    start: int
    end: int
    words: str
    tokens: list[TokenShown]


class TraceShown(Shown):
    sentences: list[TraceSentenceShown]
    steps: list[TraceStepShown]


def trace_shown(trace: Trace, tokens: list[Any]) -> TraceShown:
    """A trace, with the tokens of its body."""
    held = [TokenShown.model_validate(token) for token in tokens]
    return TraceShown(
        sentences=[
            TraceSentenceShown(
                start=start,
                end=end,
                words=trace.body[start:end],
                tokens=[token for token in held if start <= token.start and token.end <= end],
            )
            for start, end in trace.sentences
        ],
        steps=[
            TraceStepShown(
                name=step.name,
                kind=step.kind,
                after=shown_spans(step.after),
                changes=[
                    BecameShown(what=one.what, span=SpanShown.model_validate(one.span), why=one.why)
                    for one in step.changes
                ],
                troubles=step.troubles,
            )
            for step in trace.steps
        ],
    )


def incoming_shown(incoming: Incoming) -> IncomingShown:
    plan = incoming.plan
    return IncomingShown(
        job=JobShown.model_validate(incoming.job),
        kept=incoming.kept,
        arrivals=[BundlePartShown.model_validate(one) for one in incoming.arrivals],
        notes=incoming.notes,
        plan=None if plan is None else plan_shown(plan),
    )


def weights_shown(weights: Weights) -> WeightsShown:
    return WeightsShown.model_validate(
        {"id": weights.id, "created_at": weights.created_at, **weights.figures}
    )
