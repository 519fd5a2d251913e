"""A trace: what each stage of a pipeline does in one text, and why."""

from __future__ import annotations

from dataclasses import dataclass, replace

from sqlalchemy.orm import Session

from urdaten.core.pipeline import Beside, Part, PlacedStage, Plan, Told, Weigher, build, told
from urdaten.core.spans import Span
from urdaten.core.text import Batch, batch_of
from urdaten.errors import BadInput, NotFound
from urdaten.places.pipeline.acts.groups import reading_groups, units_of
from urdaten.places.pipeline.acts.material import read_material
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts


@dataclass(frozen=True, kw_only=True)
class TraceStep:
    """One stage, or with no kind the policy: what it did, the spans after it, and what went wrong."""

    name: str
    kind: str
    changes: list[Told]
    after: list[Span]
    troubles: list[str]


@dataclass(frozen=True, kw_only=True)
class Trace:
    """What every stage does in a body, whose sentences have these bounds."""

    body: str
    sentences: list[tuple[int, int]]
    steps: list[TraceStep]


@dataclass(frozen=True, kw_only=True)
class Weighed:
    """The probability of a span, that from which one stands, and what adds to its log odds, the most first."""

    probability: float
    least: float
    parts: list[Part]


def trace_words(db: Session, project: Project, plan: Plan, body: str) -> Trace:
    """In words that are in no text. Raises BadInput and BadPattern where the plan cannot be built."""
    return _trace(db, project, plan, *_words(project, body))


def trace_text(db: Session, project: Project, plan: Plan, text: texts.Text) -> Trace:
    """In a text of the project, read with those of its group; errors as those of trace_words."""
    return _trace(db, project, plan, *_text(db, project, text))


def weighed_words(db: Session, project: Project, plan: Plan, body: str, span: Span) -> Weighed:
    """What a span weighs in words that are in no text.

    Raises BadInput where the plan does not weigh or cannot be built, NotFound where no stage says the span.
    """
    return _weighed(db, project, plan, *_words(project, body), span)


def weighed_text(db: Session, project: Project, plan: Plan, text: texts.Text, span: Span) -> Weighed:
    """What a span weighs in a text of the project; errors as those of weighed_words."""
    return _weighed(db, project, plan, *_text(db, project, text), span)


def _words(project: Project, body: str) -> tuple[Batch, Beside]:
    return batch_of([body], project.language, abbreviations=project.abbreviations), Beside()


def _text(db: Session, project: Project, text: texts.Text) -> tuple[Batch, Beside]:
    """A text as the first of those that are read with it."""
    groups = reading_groups(db, project.id)
    (unit,) = units_of(db, project.id, [(text.id, text.group)], groups)
    read = [text, *texts.read_texts(db, project.id, set(unit) - {text.id})]
    batch = texts.batch_of(db, read, project.language)
    return batch, Beside(["together"] * len(read) if len(read) > 1 else ())


def _weighed(db: Session, project: Project, plan: Plan, batch: Batch, beside: Beside, span: Span) -> Weighed:
    """In the first text of a batch."""
    pipeline = build(plan, read_material(db, project, plan))
    weigher = pipeline.policy.weigher
    if plan.policy.kind != "weighed" or not isinstance(weigher, Weigher):
        raise BadInput(
            "This pipeline does not weigh its spans, so there are no weights to tell of.", field="kind"
        )
    spans = pipeline.candidates(batch, beside)
    row = spans.row_of(0, span)
    if row is None:
        raise NotFound("No stage says this span here.")
    return Weighed(
        probability=float(weigher.probabilities(batch, spans, beside)[row]),
        least=pipeline.policy.least,
        parts=weigher.explain(batch, spans, row, beside),
    )


def _trace(db: Session, project: Project, plan: Plan, batch: Batch, beside: Beside) -> Trace:
    """Of the first text of a batch."""
    pipeline = build(plan, read_material(db, project, plan))
    steps = [
        TraceStep(
            name=step.stage.name,
            kind=step.stage.kind if isinstance(step.stage, PlacedStage) else "",
            changes=told(step, 0),
            after=step.after.spans(len(batch))[0],
            troubles=[one.said for one in step.changes.troubles if one.text == 0],
        )
        for step in pipeline.steps(batch, beside)
    ]
    return Trace(body=batch.bodies[0], sentences=batch.sentence_bounds()[0], steps=steps)


def cut_down(trace: Trace, start: int, end: int) -> Trace:
    """What a trace says of one sentence of its body."""

    def inside(span: Span) -> bool:
        return start <= span.start and span.end <= end

    steps = [
        replace(
            step,
            changes=[one for one in step.changes if inside(one.span)],
            after=[span for span in step.after if inside(span)],
        )
        for step in trace.steps
    ]
    return replace(trace, sentences=[(start, end)], steps=steps)
