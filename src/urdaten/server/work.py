"""Every kind of background work, registered with the job queue by being imported."""

from urdaten.places.desk import jobs as desk
from urdaten.places.intake import jobs as intake
from urdaten.places.lists import jobs as lists
from urdaten.places.pipeline import jobs as evidence
from urdaten.places.pipeline import plan_jobs as plans
from urdaten.places.records import jobs as records
from urdaten.places.scores import jobs as scores
from urdaten.places.tagger import jobs as tagger
from urdaten.places.texts import jobs as texts
from urdaten.server import bringing, bundles

KINDS = (
    desk.run,
    intake.look,
    intake.keep,
    lists.run,
    lists.look,
    lists.keep,
    evidence.run,
    plans.learn_weights,
    plans.compare_stages,
    bundles.publish,
    bringing.bring,
    tagger.run_training,
    scores.run_scoring,
    records.run_assembly,
    records.run_learning,
    texts.run,
)

__all__ = [
    "KINDS",
    "bringing",
    "bundles",
    "desk",
    "evidence",
    "intake",
    "lists",
    "plans",
    "records",
    "scores",
    "tagger",
    "texts",
]
