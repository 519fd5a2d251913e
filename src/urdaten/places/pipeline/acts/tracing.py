"""A trace: what each stage of a pipeline does in one text, and why."""

from __future__ import annotations

from dataclasses import dataclass, replace

from sqlalchemy.orm import Session

from urdaten.core.pipeline import Beside, PlacedStage, Plan, Told, build, told
from urdaten.core.spans import Span
from urdaten.core.text import Batch, batch_of
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


def trace_words(db: Session, project: Project, plan: Plan, body: str) -> Trace:
    """In words that are in no text. Raises BadInput and BadPattern where the plan cannot be built."""
    batch = batch_of([body], project.language, abbreviations=project.abbreviations)
    return _trace(db, project, plan, batch, 0, Beside())


def trace_text(db: Session, project: Project, plan: Plan, text: texts.Text) -> Trace:
    """In a text of the project, read with those of its group; errors as those of trace_words."""
    groups = reading_groups(db, project.id)
    (unit,) = units_of(db, project.id, [(text.id, text.group)], groups)
    read = [text, *texts.read_texts(db, project.id, set(unit) - {text.id})]
    batch = texts.batch_of(db, read, project.language)
    return _trace(db, project, plan, batch, 0, Beside(["together"] * len(read) if len(read) > 1 else ()))


def _trace(db: Session, project: Project, plan: Plan, batch: Batch, at: int, beside: Beside) -> Trace:
    pipeline = build(plan, read_material(db, project, plan))
    steps = [
        TraceStep(
            name=step.stage.name,
            kind=step.stage.kind if isinstance(step.stage, PlacedStage) else "",
            changes=told(step, at),
            after=step.after.spans(len(batch))[at],
            troubles=[one.said for one in step.changes.troubles if one.text == at],
        )
        for step in pipeline.steps(batch, beside)
    ]
    return Trace(body=batch.bodies[at], sentences=batch.sentence_bounds()[at], steps=steps)


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
