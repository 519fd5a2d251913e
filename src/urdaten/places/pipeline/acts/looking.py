"""What each stage of a pipeline does in signed dev texts, before the pipeline is kept."""

from __future__ import annotations

import time
from collections.abc import Sequence
from dataclasses import dataclass, field

from sqlalchemy.orm import Session

from urdaten.core.pipeline import Became, Beside, Pipeline, PlacedStage, Plan, Step, build
from urdaten.core.spans import Span, SpanTable
from urdaten.core.text import Batch
from urdaten.errors import BadInput
from urdaten.places.desk import acts as desk
from urdaten.places.pipeline.acts import versions
from urdaten.places.pipeline.acts.gold import gold_by_sentence
from urdaten.places.pipeline.acts.groups import reading_groups
from urdaten.places.pipeline.acts.material import read_material
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
class Against:
    """An answer against gold, in signed sentences."""

    right: int
    found: int
    gold: int


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


def look(db: Session, project: Project, plan: Plan) -> Look:
    """Try a plan on dev, against the pipeline of now. Raises BadInput and BadPattern where it cannot be built."""
    pipeline = build(plan, read_material(db, project, plan))
    before = versions.present(db, project.id).plan
    held = _Texts(db, project)
    effects: list[Effect] = []
    after = held.answers(pipeline, effects)
    now = after if before == plan else _answers(db, project, held, before)
    differing = [one for one in held.against(now, after) if set(one.before) != set(one.after)]
    return Look(
        texts=len(held.wanted),
        all=held.all,
        tokens=len(held.batch.word),
        sentences=sum(map(len, held.signed.values())),
        stages=effects,
        after=held.scored(after),
        before=held.scored(now),
        differing=len(differing),
        example=held.example(),
        shown=differing[:DIFFERING],
    )


def _answers(db: Session, project: Project, held: _Texts, plan: Plan) -> list[list[Span]]:
    """Those of a plan, which answers nothing where it cannot run."""
    try:
        return held.answers(build(plan, read_material(db, project, plan)), None)
    except BadInput:
        return [[] for _ in held.wanted]


class _Texts:
    """Signed dev texts, cut once."""

    def __init__(self, db: Session, project: Project) -> None:
        wanted, self.all = texts.first_texts(db, project.id, LOOK_SIGNS, ("dev",))
        quiet = desk.quiet_among(db, project, wanted)
        wanted = [text for text in wanted if text.id not in quiet]
        self.signed = {number: own for number, own in gold_by_sentence(db, wanted).items() if own}
        self.wanted = [text for text in wanted if text.id in self.signed]
        self.batch: Batch = texts.batch_of(db, self.wanted, project.language)
        groups = reading_groups(db, project.id)
        self._beside = Beside([text.group if text.group in groups else "" for text in self.wanted])

    def answers(self, pipeline: Pipeline, effects: list[Effect] | None) -> list[list[Span]]:
        """What a pipeline answers in each text; what its stages do goes into `effects`."""
        spans = SpanTable.empty()
        began = time.perf_counter()
        for step in pipeline.steps(self.batch, self._beside):
            took = time.perf_counter() - began
            if effects is not None and isinstance(step.stage, PlacedStage):
                effects.append(self._effect(step, took))
            spans = step.after
            began = time.perf_counter()
        return spans.spans(len(self.batch))

    def _effect(self, step: Step, took: float) -> Effect:
        changes = step.changes
        changed = sum(isinstance(why, Became) for why in changes.why_removed)
        judged = right = 0
        for text, own in zip(self.wanted, changes.added.spans(len(self.batch)), strict=True):
            for span, gold in self._judged(text, own):
                judged += 1
                right += span in gold
        stage = step.stage
        return Effect(
            name=stage.name,
            kind=stage.kind if isinstance(stage, PlacedStage) else "",
            added=len(changes.added) - changed,
            changed=changed,
            dropped=len(changes.removed) - changed,
            refused=len(changes.refused),
            judged=judged,
            right=right,
            milliseconds=1000 * took,
            troubles=tuple(
                f"{self.wanted[one.text].title}: {one.maker}: {one.said}" for one in changes.troubles[:10]
            ),
        )

    def example(self) -> str:
        """The words of the first signed sentence with gold."""
        return next(
            (
                text.body[sentence.start : sentence.end]
                for text in self.wanted
                for sentence, annotation in self.signed[text.id]
                if annotation.spans
            ),
            "",
        )

    def _judged(self, text: texts.Text, spans: Sequence[Span]) -> list[tuple[Span, frozenset[Span]]]:
        """Spans in signed sentences of a text, each with the gold of its sentence."""
        return [
            (span, frozenset(annotation.spans))
            for sentence, annotation in self.signed[text.id]
            for span in texts.within(spans, sentence)
        ]

    def scored(self, answers: Sequence[Sequence[Span]]) -> Against:
        """An answer against gold."""
        judged = [
            pair for text, own in zip(self.wanted, answers, strict=True) for pair in self._judged(text, own)
        ]
        gold = sum(len(annotation.spans) for own in self.signed.values() for _, annotation in own)
        return Against(right=sum(span in of for span, of in judged), found=len(judged), gold=gold)

    def against(self, before: Sequence[Sequence[Span]], after: Sequence[Sequence[Span]]) -> list[Differing]:
        """Each signed sentence with two answers."""
        return [
            Differing(
                text=text,
                sentence=sentence,
                gold=annotation.spans,
                before=texts.within(old, sentence),
                after=texts.within(new, sentence),
            )
            for text, old, new in zip(self.wanted, before, after, strict=True)
            for sentence, annotation in self.signed[text.id]
        ]
