"""Signed texts as pipelines are held against them: cut once, read in their groups, judged in signed sentences alone."""

from __future__ import annotations

from collections.abc import Hashable, Sequence
from dataclasses import dataclass

from sqlalchemy.orm import Session

from urdaten.core.pipeline import Beside, Pipeline
from urdaten.core.spans import Span
from urdaten.core.text import Batch
from urdaten.places.desk import acts as desk
from urdaten.places.pipeline.acts.gold import gold_by_sentence
from urdaten.places.pipeline.acts.groups import reading_groups
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts


@dataclass(frozen=True, kw_only=True)
class Against:
    """An answer against gold, in signed sentences."""

    right: int
    found: int
    gold: int

    @property
    def f1(self) -> float | None:
        """0 to 1; None where there is neither gold nor anything found."""
        return 2 * self.right / (self.found + self.gold) if self.found + self.gold else None


class SignedTexts:
    """Of some texts those that have a signed sentence and are not quiet."""

    def __init__(self, db: Session, project: Project, among: Sequence[texts.Text]) -> None:
        quiet = desk.quiet_among(db, project, among)
        loud = [text for text in among if text.id not in quiet]
        self.signed = {number: own for number, own in gold_by_sentence(db, loud).items() if own}
        self.wanted = [text for text in loud if text.id in self.signed]
        self.batch: Batch = texts.batch_of(db, self.wanted, project.language)
        groups = reading_groups(db, project.id)
        self.beside = Beside([text.group if text.group in groups else "" for text in self.wanted])

    @property
    def sentences(self) -> int:
        """How many signed sentences there are."""
        return sum(map(len, self.signed.values()))

    @property
    def gold(self) -> list[list[Span]]:
        """Of each text all that was signed."""
        return [
            [span for _, annotation in self.signed[text.id] for span in annotation.spans]
            for text in self.wanted
        ]

    @property
    def bounds(self) -> list[list[tuple[int, int]]]:
        """Of each text its signed sentences."""
        return [
            [(sentence.start, sentence.end) for sentence, _ in self.signed[text.id]] for text in self.wanted
        ]

    @property
    def groups(self) -> list[Hashable]:
        """Of each text what it belongs to, for intervals."""
        return [text.group or text.id for text in self.wanted]

    def answers(self, pipeline: Pipeline) -> list[list[Span]]:
        """What a pipeline answers in each text."""
        return pipeline.answer(self.batch, self.beside).spans(len(self.batch))

    def judged(self, answers: Sequence[Sequence[Span]]) -> list[list[Span]]:
        """Of each text's answer what lies in signed sentences."""
        return [
            [span for sentence, _ in self.signed[text.id] for span in texts.within(own, sentence)]
            for text, own in zip(self.wanted, answers, strict=True)
        ]

    def scored(self, answers: Sequence[Sequence[Span]]) -> Against:
        """An answer against gold."""
        right = found = wanted = 0
        for gold, own in zip(self.gold, self.judged(answers), strict=True):
            mine = set(own)
            right += len(mine & set(gold))
            found += len(mine)
            wanted += len(set(gold))
        return Against(right=right, found=found, gold=wanted)


def signed_dev(db: Session, project: Project) -> SignedTexts:
    """All signed dev texts."""
    return SignedTexts(db, project, texts.all_texts(db, project.id, ("dev",)))
