"""The training job."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from typing import Any

from urdaten.core.scoring import score_spans
from urdaten.core.tagger import Progress, Tagger, list_classes, to_bytes
from urdaten.places.pipeline import acts as pipeline
from urdaten.places.tagger import acts
from urdaten.places.team import acts as team
from urdaten.platform.database import transaction
from urdaten.platform.jobs import JobContext, StopLook, handles

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
        examples = pipeline.read_examples(db, project, training.settings)
    made_from |= examples.told()
    context.progress(0, training.settings.epochs, "epochs", "Texts are analysed; the first epoch runs.")

    def report(progress: Progress) -> None:
        with transaction(context.database_url) as db:
            acts.add_epoch(db, training_id, progress.as_dict())
        context.progress(progress.epoch, progress.epochs, "epochs")

    codes = list(made_from["type_numbers"])
    tagger = examples.learnt(codes, training.settings, report, StopLook(context))
    made_from |= tagger.manifest | {
        "unsigned_texts": len(examples.unsigned),
        "by_type": _by_type(tagger, examples),
        "word_classes": [
            {"number": c.number, "words": list(c.words), "size": c.size, "type": c.type}
            for c in list_classes(tagger.table.classes, [*examples.train.values(), *examples.dev])[
                :CLASSES_KEPT
            ]
        ],
    }
    run, best = tagger.manifest["epochs_run"], tagger.manifest["best_epoch"]
    how = "Stopped" if tagger.manifest["stopped"] else "Ended"
    said = f"{how} after {run} {'epoch' if run == 1 else 'epochs'}; epoch {best} was best and is kept."
    with transaction(context.database_url) as db:
        acts.keep_model(db, training_id, to_bytes(tagger), made_from)
        context.conclude(db, said)
    return said


def _by_type(tagger: Tagger, examples: pipeline.Examples) -> list[dict[str, Any]]:
    """Spans of each type learnt from and watched, and its dev F1."""
    learnt = Counter(span.type for text in examples.train.values() for span in text.gold)
    found = tagger.tag([text.item for text in examples.dev], examples.vocabulary)
    pairs = [(text.gold, spans) for text, spans in zip(examples.dev, found, strict=True)]
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
