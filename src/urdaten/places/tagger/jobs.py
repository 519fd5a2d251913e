"""The training job."""

from __future__ import annotations

import hashlib
import time

from urdaten.core.spans import Span
from urdaten.core.tagger import GoldText, Progress, TaggerInput, train
from urdaten.core.text import Analysis
from urdaten.places.desk import acts as desk
from urdaten.places.pipeline import acts as pipeline
from urdaten.places.tagger import acts
from urdaten.places.team import acts as team
from urdaten.places.texts import acts as texts
from urdaten.platform.database import transaction
from urdaten.platform.jobs import JobContext, handles

STOP_LOOK_S = 0.2


@handles(acts.JOB)
def run_training(context: JobContext) -> str:
    """Train on signed sentences of the train split, watching the dev split; keep the best epoch."""
    training_id = context.job.params["training"]
    with transaction(context.database_url) as db:
        training = acts.read_training(db, context.project_id, training_id)
        project = team.project_by_id(db, context.project_id)
        made_from = acts.made_from_now(db, project.id)
        wanted = texts.all_texts(db, project.id, ("train", "dev"))
        signed = pipeline.gold_by_sentence(db, wanted)
        analyses, vocabulary = texts.analyses_of(wanted, project.language)
        lanes, _ = pipeline.match_evidence(db, project, analyses)
    split: dict[str, list[GoldText]] = {"train": [], "dev": []}
    digest = hashlib.sha256()
    for text, analysis, lane in zip(wanted, analyses, lanes, strict=True):
        if signed[text.id]:
            gold = _gold_text(signed[text.id], analysis, [*lane["lists"], *lane["rules"]])
            split[text.split].append(gold)
            digest.update(repr((text.body, gold.item.sentences, sorted(gold.gold))).encode())
    made_from |= {
        "data": digest.hexdigest(),
        "train_texts": len(split["train"]),
        "train_sentences": sum(len(text.item.sentences or ()) for text in split["train"]),
        "dev_sentences": sum(len(text.item.sentences or ()) for text in split["dev"]),
        "spans": sum(len(text.gold) for text in split["train"]),
    }
    context.progress(0, training.settings.epochs, "epochs", "Texts are analysed; the first epoch runs.")

    def report(progress: Progress) -> None:
        with transaction(context.database_url) as db:
            acts.add_epoch(db, training_id, progress.as_dict())
        context.progress(progress.epoch, progress.epochs, "epochs")

    tagger = train(
        split["train"],
        split["dev"],
        vocabulary,
        list(made_from["type_numbers"]),
        training.settings,
        report,
        _StopLook(context),
    )
    made_from |= tagger.manifest
    with transaction(context.database_url) as db:
        acts.keep_model(db, training_id, tagger.to_bytes(), made_from)
    run, best = tagger.manifest["epochs_run"], tagger.manifest["best_epoch"]
    how = "Stopped" if tagger.manifest["stopped"] else "Ended"
    return f"{how} after {run} {'epoch' if run == 1 else 'epochs'}; epoch {best} was best and is kept."


def _gold_text(
    signed: list[tuple[texts.Sentence, desk.Annotation]], analysis: Analysis, evidence: list[Span]
) -> GoldText:
    gold = [span for _, annotation in signed for span in annotation.spans]
    return GoldText(TaggerInput(analysis, evidence, [s.number for s, _ in signed]), gold)


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
