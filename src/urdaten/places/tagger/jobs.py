"""The training job."""

from __future__ import annotations

import hashlib
import os
import time
from collections import Counter
from collections.abc import Sequence
from typing import Any

from urdaten.core.scoring import score_spans
from urdaten.core.spans import Span
from urdaten.core.tagger import (
    GoldText,
    Neighbours,
    Progress,
    Tagger,
    TaggerInput,
    list_classes,
    text_from_lists,
    to_bytes,
    train,
    weighed,
)
from urdaten.core.text import Analysis, Vocabulary
from urdaten.installed import LANGUAGE, general_lexicon
from urdaten.places.desk import acts as desk
from urdaten.places.lists import acts as lists
from urdaten.places.pipeline import acts as pipeline
from urdaten.places.tagger import acts
from urdaten.places.team import acts as team
from urdaten.places.texts import acts as texts
from urdaten.platform.database import transaction
from urdaten.platform.jobs import JobContext, handles

STOP_LOOK_S = 0.2
CLASSES_KEPT = 40


@handles(acts.JOB)
def run_training(context: JobContext) -> str:
    """Train on signed sentences of the train split, watching the dev split; keep the best epoch."""
    training_id = context.job.params["training"]
    with transaction(context.database_url) as db:
        training = acts.read_training(db, context.project_id, training_id)
        project = team.project_by_id(db, context.project_id)
        team.wait_for_writers(db, project.id)
        made_from = acts.made_from_now(db, project.id)
        # Test texts are left out of everything; word classes are not learnt from dev texts either.
        wanted = texts.all_texts(db, project.id, ("train", "dev", "none"))
        signed = pipeline.gold_by_sentence(db, wanted)
        batch = texts.batch_of(db, wanted, project.language)
        lanes = pipeline.matches(db, project, wanted)
        groups = pipeline.reading_groups(db, project.id)
        named = lists.lists_on(db, project.id) if training.settings.from_lists else []
    split: dict[str, list[GoldText]] = {"train": [], "dev": []}
    unsigned: list[Analysis] = []
    by_lists: list[GoldText] = []
    listed = {one.type for one in named}
    digest = hashlib.sha256()
    for text, analysis, lane in zip(wanted, batch.analyses, lanes, strict=True):
        digest.update(text.body.encode())
        group = text.group if text.group in groups else None
        if named and text.split in ("train", "none"):
            found = [span for span in lane if span.source == "lists"]
            numbers = _numbers(signed[text.id], analysis)
            by_lists.append(text_from_lists(analysis, numbers, found, listed, group))
        if text.split in split and signed[text.id]:
            gold = _gold_text(signed[text.id], analysis, lane, group)
            split[text.split].append(gold)
            digest.update(repr((gold.item.sentences, sorted(gold.gold))).encode())
        elif text.split != "dev":
            unsigned.append(analysis)
    sentences = sum(len(text.item.sentences or ()) for text in split["train"])
    by_lists = weighed(by_lists, training.settings.from_lists, sentences)
    for seen in by_lists:
        digest.update(repr((seen.item.sentences, seen.gold, seen.unread, seen.weight)).encode())
    made_from |= _told_of_lists(by_lists) | {
        "data": digest.hexdigest(),
        "train_texts": len(split["train"]),
        "train_sentences": sentences,
        "dev_sentences": sum(len(text.item.sentences or ()) for text in split["dev"]),
        "spans": sum(len(text.gold) for text in split["train"]),
    }
    neighbours = Neighbours()
    neighbours.add(unsigned)
    context.progress(0, training.settings.epochs, "epochs", "Texts are analysed; the first epoch runs.")

    def report(progress: Progress) -> None:
        with transaction(context.database_url) as db:
            acts.add_epoch(db, training_id, progress.as_dict())
        context.progress(progress.epoch, progress.epochs, "epochs")

    tagger = train(
        [*split["train"], *by_lists],
        split["dev"],
        batch.vocabulary,
        list(made_from["type_numbers"]),
        training.settings,
        report,
        _StopLook(context),
        unsigned=neighbours,
        general=general_lexicon() if project.language == LANGUAGE else None,
        threads=min(2, os.cpu_count() or 1),
    )
    made_from |= tagger.manifest | {
        "unsigned_texts": len(unsigned),
        "by_type": _by_type(tagger, split, batch.vocabulary),
        "word_classes": [
            {"number": c.number, "words": list(c.words), "size": c.size, "type": c.type}
            for c in list_classes(tagger.table.classes, [*split["train"], *split["dev"]])[:CLASSES_KEPT]
        ],
    }
    run, best = tagger.manifest["epochs_run"], tagger.manifest["best_epoch"]
    how = "Stopped" if tagger.manifest["stopped"] else "Ended"
    said = f"{how} after {run} {'epoch' if run == 1 else 'epochs'}; epoch {best} was best and is kept."
    with transaction(context.database_url) as db:
        acts.keep_model(db, training_id, to_bytes(tagger), made_from)
        context.conclude(db, said)
    return said


def _by_type(
    tagger: Tagger, split: dict[str, list[GoldText]], vocabulary: Vocabulary
) -> list[dict[str, Any]]:
    """Spans of each type learnt from and watched, and its dev F1."""
    learnt = Counter(span.type for text in split["train"] for span in text.gold)
    found = tagger.tag([text.item for text in split["dev"]], vocabulary)
    pairs = [(text.gold, spans) for text, spans in zip(split["dev"], found, strict=True)]
    watched: Sequence[str] = [span.type for gold, _ in pairs for span in gold]
    scores = score_spans(pairs, tagger.types, rounds=1).types
    return [
        {
            "type": code,
            "train_spans": learnt[code],
            "dev_spans": watched.count(code),
            "dev_f1": scores[code].f1 if code in scores else None,
        }
        for code in tagger.types
    ]


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


def _told_of_lists(by_lists: Sequence[GoldText]) -> dict[str, Any]:
    """How much was learnt of what lists find; nothing where none was."""
    sizes = [len(text.item.token_ranges()) for text in by_lists]
    if not any(sizes):
        return {}
    return {
        "lists_sentences": sum(sizes),
        "lists_spans": sum(len(text.gold) for text in by_lists),
        "lists_worth": round(sum(size * text.weight for size, text in zip(sizes, by_lists, strict=True)), 1),
    }


class _StopLook:
    """Ask the database whether to stop, at most once per STOP_LOOK_S."""

    def __init__(self, context: JobContext) -> None:
        self._context = context
        self._looked = 0.0
        self._stop = False

    def __call__(self) -> bool:
        now = time.monotonic()
        if not self._stop and now - self._looked > STOP_LOOK_S:
            self._looked, self._stop = now, self._context.should_stop()
        return self._stop
