"""Acts of the Desk."""

from urdaten.places.desk.acts.annotation import (
    DRAFT,
    SIGNED,
    UNTOUCHED,
    Annotation,
    annotation_of,
    signed_versions,
    states_of,
)
from urdaten.places.desk.acts.batches import ALIKE, CORRECT, MOST_AT_ONCE, change_many, sign_many
from urdaten.places.desk.acts.changing import KINDS, Change, Verdict, annotate
from urdaten.places.desk.acts.figures import (
    Acceptance,
    Progress,
    Tally,
    acceptance,
    latest_act,
    overlapping_sentences,
    pace,
    progress,
    sentences_changed_since,
    span_counts,
    tallies,
    untouched_texts,
)
from urdaten.places.desk.acts.history import Act, history
from urdaten.places.desk.acts.storing import PLACE, Step
from urdaten.places.desk.acts.travelling import Travelled, redo, undo

__all__ = [
    "ALIKE",
    "CORRECT",
    "DRAFT",
    "KINDS",
    "MOST_AT_ONCE",
    "PLACE",
    "SIGNED",
    "UNTOUCHED",
    "Acceptance",
    "Act",
    "Annotation",
    "Change",
    "Progress",
    "Step",
    "Tally",
    "Travelled",
    "Verdict",
    "acceptance",
    "annotate",
    "annotation_of",
    "change_many",
    "history",
    "latest_act",
    "overlapping_sentences",
    "pace",
    "progress",
    "redo",
    "sentences_changed_since",
    "sign_many",
    "signed_versions",
    "span_counts",
    "states_of",
    "tallies",
    "undo",
    "untouched_texts",
]
