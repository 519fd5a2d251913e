"""What each stage of a pipeline does in signed dev texts, before the pipeline is kept."""

from __future__ import annotations

import time
from collections.abc import Sequence
from dataclasses import dataclass, field

from sqlalchemy.orm import Session

from urdaten.core.pipeline import Became, Pipeline, PlacedStage, Plan, Step, build
from urdaten.core.spans import Span, SpanTable
from urdaten.errors import BadInput
from urdaten.places.pipeline.acts import versions
from urdaten.places.pipeline.acts.material import read_material
from urdaten.places.pipeline.acts.signed_texts import Against, SignedTexts
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts

# On so many code points, the last text whole.
LOOK_SIGNS = 300_000
# So many sentences in which the answers differ are shown.
DIFFERING = 40


@dataclass(frozen=True, kw_only=True)
class Effect:
    """What a stage does: spans that it adds, gives another type, takes away, and would have added but for others; of those that
    it adds in signed sentences how many there are and how many are gold."""

    name: str
    kind: str
    added: int
    changed: int
    dropped: int
    refused: int
    judged: int
    right: int
    milliseconds: float
    troubles: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class Differing:
    """A signed sentence in which two pipelines answer differently."""

    text: texts.Text
    sentence: texts.Sentence
    gold: Sequence[Span]
    before: Sequence[Span]
    after: Sequence[Span]


@dataclass(frozen=True, kw_only=True)
class Look:
    """What a plan does on dev, beside the pipeline of now. `all` says whether these are all signed dev texts."""

    texts: int
    all: bool
    tokens: int
    sentences: int
    stages: list[Effect] = field(default_factory=list)
    after: Against
    before: Against
    differing: int
    # The words of a signed sentence with gold, for whoever wants to trace one; "" where there is none.
    example: str
    shown: list[Differing] = field(default_factory=list)


def look(db: Session, project: Project, plan: Plan, before: Plan | None = None) -> Look:
    """Try a plan on dev, against another or the pipeline of now. Raises BadInput and BadPattern where it cannot be built."""
    pipeline = build(plan, read_material(db, project, plan))
    before = before or versions.present(db, project.id).plan
    among, whole = texts.first_texts(db, project.id, LOOK_SIGNS, ("dev",))
    held = SignedTexts(db, project, among)
    after, effects = _watched(held, pipeline)
    now = after if before == plan else _answers(db, project, held, before)
    differing = [one for one in _against(held, now, after) if set(one.before) != set(one.after)]
    return Look(
        texts=len(held.wanted),
        all=whole,
        tokens=len(held.batch.word),
        sentences=held.sentences,
        stages=effects,
        after=held.scored(after),
        before=held.scored(now),
        differing=len(differing),
        example=_example(held),
        shown=differing[:DIFFERING],
    )


def _answers(db: Session, project: Project, held: SignedTexts, plan: Plan) -> list[list[Span]]:
    """Those of a plan, which answers nothing where it cannot run."""
    try:
        return held.answers(build(plan, read_material(db, project, plan)))
    except BadInput:
        return [[] for _ in held.wanted]


def _watched(held: SignedTexts, pipeline: Pipeline) -> tuple[list[list[Span]], list[Effect]]:
    """What a pipeline answers in each text, and what each of its stages does."""
    effects = []
    spans = SpanTable.empty()
    began = time.perf_counter()
    for step in pipeline.steps(held.batch, held.beside):
        took = time.perf_counter() - began
        if isinstance(step.stage, PlacedStage):
            effects.append(_effect(held, step, took))
        spans = step.after
        began = time.perf_counter()
    return spans.spans(len(held.batch)), effects


def _effect(held: SignedTexts, step: Step, took: float) -> Effect:
    changes, stage = step.changes, step.stage
    changed = sum(isinstance(why, Became) for why in changes.why_removed)
    added = held.scored(changes.added.spans(len(held.batch)))
    return Effect(
        name=stage.name,
        kind=stage.kind if isinstance(stage, PlacedStage) else "",
        added=len(changes.added) - changed,
        changed=changed,
        dropped=len(changes.removed) - changed,
        refused=len(changes.refused),
        judged=added.found,
        right=added.right,
        milliseconds=1000 * took,
        troubles=tuple(
            f"{held.wanted[one.text].title}: {one.maker}: {one.said}" for one in changes.troubles[:10]
        ),
    )


def _example(held: SignedTexts) -> str:
    """The words of the first signed sentence with gold."""
    return next(
        (
            text.body[sentence.start : sentence.end]
            for text in held.wanted
            for sentence, annotation in held.signed[text.id]
            if annotation.spans
        ),
        "",
    )


def _against(
    held: SignedTexts, before: Sequence[Sequence[Span]], after: Sequence[Sequence[Span]]
) -> list[Differing]:
    """Each signed sentence with two answers."""
    return [
        Differing(
            text=text,
            sentence=sentence,
            gold=annotation.spans,
            before=texts.within(old, sentence),
            after=texts.within(new, sentence),
        )
        for text, old, new in zip(held.wanted, before, after, strict=True)
        for sentence, annotation in held.signed[text.id]
    ]
