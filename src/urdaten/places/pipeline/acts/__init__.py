"""Acts on evidence: what other places may ask of it."""

from urdaten.places.pipeline.acts.catching_up import COUNTED, JOB, STAMP, Standing, begin, counted, standing
from urdaten.places.pipeline.acts.finds import (
    OUTCOMES,
    Figures,
    Finds,
    ToCount,
    count,
    figures,
    keep_counted,
    texts_with,
    texts_with_entry,
    to_count,
    track_records,
)
from urdaten.places.pipeline.acts.gold import gold_by_sentence
from urdaten.places.pipeline.acts.lanes import (
    CatchUp,
    Evidence,
    entry_matches,
    evidence,
    matches,
    reading_groups,
    units_of,
    why_tagged,
)
from urdaten.places.pipeline.acts.makers import Makers, read_makers, stamp
from urdaten.places.pipeline.acts.offered import Offered, offered
from urdaten.places.pipeline.acts.slots import Slots, slots
from urdaten.places.pipeline.acts.store import get_hold, unheard
from urdaten.places.pipeline.acts.trial import Count, Hit, count_rule
from urdaten.places.pipeline.acts.worth import entry_worths, gold_of_type, scores

__all__ = [
    "COUNTED",
    "JOB",
    "OUTCOMES",
    "STAMP",
    "CatchUp",
    "Count",
    "Evidence",
    "Figures",
    "Finds",
    "Hit",
    "Makers",
    "Offered",
    "Slots",
    "Standing",
    "ToCount",
    "begin",
    "count",
    "count_rule",
    "counted",
    "entry_matches",
    "entry_worths",
    "evidence",
    "figures",
    "get_hold",
    "gold_by_sentence",
    "gold_of_type",
    "keep_counted",
    "matches",
    "offered",
    "read_makers",
    "reading_groups",
    "scores",
    "slots",
    "stamp",
    "standing",
    "texts_with",
    "texts_with_entry",
    "to_count",
    "track_records",
    "unheard",
    "units_of",
    "why_tagged",
]
