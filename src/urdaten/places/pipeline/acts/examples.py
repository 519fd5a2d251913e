"""What taggers learn from: signed sentences with the evidence of lists and rules, and texts that nobody has signed."""

from __future__ import annotations

import hashlib
import os
from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy.orm import Session

from urdaten.core.spans import Span
from urdaten.core.tagger import (
    GoldText,
    Neighbours,
    Progress,
    Tagger,
    TaggerInput,
    TrainingSettings,
    text_from_lists,
    train,
    weighed,
)
from urdaten.core.text import Analysis, Vocabulary
from urdaten.installed import LANGUAGE, general_lexicon
from urdaten.places.desk import acts as desk
from urdaten.places.lists import acts as lists
from urdaten.places.pipeline.acts.gold import gold_by_sentence
from urdaten.places.pipeline.acts.groups import reading_groups
from urdaten.places.pipeline.acts.lanes import matches
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts


@dataclass(frozen=True, kw_only=True, eq=False)
class Examples:
    """Signed texts of train by their numbers, those of dev, and what is learnt from without anybody having signed it."""

    train: dict[int, GoldText]
    dev: list[GoldText]
    by_lists: list[GoldText]
    unsigned: list[Analysis]
    vocabulary: Vocabulary
    language: str
    # Of all of that.
    digest: str

    def told(self) -> dict[str, Any]:
        """How much there is, for whatever is made from it."""
        return self._told_of_lists() | {
            "data": self.digest,
            "train_texts": len(self.train),
            "train_sentences": sum(len(text.item.sentences or ()) for text in self.train.values()),
            "dev_sentences": sum(len(text.item.sentences or ()) for text in self.dev),
            "spans": sum(len(text.gold) for text in self.train.values()),
        }

    def _told_of_lists(self) -> dict[str, Any]:
        sizes = [len(text.item.token_ranges()) for text in self.by_lists]
        if not any(sizes):
            return {}
        worth = sum(size * text.weight for size, text in zip(sizes, self.by_lists, strict=True))
        return {
            "lists_sentences": sum(sizes),
            "lists_spans": sum(len(text.gold) for text in self.by_lists),
            "lists_worth": round(worth, 1),
        }

    def learnt(
        self,
        codes: Sequence[str],
        settings: TrainingSettings,
        report: Callable[[Progress], None],
        should_stop: Callable[[], bool],
        without: Collection[int] = (),
    ) -> Tagger:
        """A tagger that has learnt from all of it but some texts, by their numbers."""
        neighbours = Neighbours()
        neighbours.add(self.unsigned)
        return train(
            [*(text for number, text in self.train.items() if number not in without), *self.by_lists],
            self.dev,
            self.vocabulary,
            codes,
            settings,
            report,
            should_stop,
            unsigned=neighbours,
            general=general_lexicon() if self.language == LANGUAGE else None,
            threads=min(2, os.cpu_count() or 1),
        )


def read_examples(db: Session, project: Project, settings: TrainingSettings) -> Examples:
    """Everything that a training with these settings learns from now."""
    # Test texts are left out of everything; word classes are not learnt from dev texts either.
    wanted = texts.all_texts(db, project.id, ("train", "dev", "none"))
    signed = gold_by_sentence(db, wanted)
    batch = texts.batch_of(db, wanted, project.language)
    lanes = matches(db, project, wanted)
    groups = reading_groups(db, project.id)
    named = lists.lists_on(db, project.id) if settings.from_lists else []
    listed = {one.type for one in named}
    digest = hashlib.sha256()
    own: dict[int, GoldText] = {}
    dev: list[GoldText] = []
    unsigned: list[Analysis] = []
    by_lists: list[GoldText] = []
    for text, analysis, lane in zip(wanted, batch.analyses, lanes, strict=True):
        digest.update(text.body.encode())
        group = text.group if text.group in groups else None
        if named and text.split in ("train", "none"):
            found = [span for span in lane if span.source == "lists"]
            numbers = _numbers(signed[text.id], analysis)
            by_lists.append(text_from_lists(analysis, numbers, found, listed, group))
        if text.split in ("train", "dev") and signed[text.id]:
            gold = _gold_text(signed[text.id], analysis, lane, group)
            if text.split == "train":
                own[text.id] = gold
            else:
                dev.append(gold)
            digest.update(repr((gold.item.sentences, sorted(gold.gold))).encode())
        elif text.split != "dev":
            unsigned.append(analysis)
    sentences = sum(len(text.item.sentences or ()) for text in own.values())
    by_lists = weighed(by_lists, settings.from_lists, sentences)
    for seen in by_lists:
        digest.update(repr((seen.item.sentences, seen.gold, seen.unread, seen.weight)).encode())
    return Examples(
        train=own,
        dev=dev,
        by_lists=by_lists,
        unsigned=unsigned,
        vocabulary=batch.vocabulary,
        language=project.language,
        digest=digest.hexdigest(),
    )


def _gold_text(
    signed: list[tuple[texts.Sentence, desk.Annotation]],
    analysis: Analysis,
    evidence: list[Span],
    group: str | None,
) -> GoldText:
    gold = [span for _, annotation in signed for span in annotation.spans]
    return GoldText(TaggerInput(analysis, evidence, _numbers(signed, analysis), group), gold)


def _numbers(signed: list[tuple[texts.Sentence, desk.Annotation]], analysis: Analysis) -> list[int]:
    """The signed sentences among those that the analysis has, which may be more than the text's own."""
    first, _ = analysis.token_ranges([s.start for s, _ in signed], [s.end for s, _ in signed])
    numbers: list[int] = analysis.sentence[first].tolist()
    return numbers
