"""Acts on evidence: what other places may ask of it."""

from urdaten.places.pipeline.acts.answers import check_runs
from urdaten.places.pipeline.acts.bundling import bundle_of
from urdaten.places.pipeline.acts.catching_up import COUNTED, JOB, STAMP, Standing, begin, counted, standing
from urdaten.places.pipeline.acts.choosing import Choices, choices, fault
from urdaten.places.pipeline.acts.finds import (
    MISSED,
    OUTCOMES,
    Figures,
    Finds,
    ToCount,
    count,
    figures,
    keep_counted,
    missed,
    texts_with,
    texts_with_entry,
    to_count,
    track_records,
)
from urdaten.places.pipeline.acts.gold import gold_by_sentence
from urdaten.places.pipeline.acts.groups import reading_groups, units_of
from urdaten.places.pipeline.acts.lanes import (
    CatchUp,
    Evidence,
    entry_matches,
    evidence,
    finds_of,
    marked_by_rules,
    matches,
    why_tagged,
)
from urdaten.places.pipeline.acts.looking import Against, Differing, Effect, Look, look
from urdaten.places.pipeline.acts.makers import Makers, read_makers, stamp
from urdaten.places.pipeline.acts.offered import Offered, offered
from urdaten.places.pipeline.acts.ruled import RuleWhy, why_ruled
from urdaten.places.pipeline.acts.slots import Slots, slots
from urdaten.places.pipeline.acts.store import get_hold, unheard
from urdaten.places.pipeline.acts.tracing import Trace, TraceStep, cut_down, trace_text, trace_words
from urdaten.places.pipeline.acts.trial import Count, Hit, count_rule
from urdaten.places.pipeline.acts.trial_of_all import (
    TRIAL_JOB,
    TrialOfAll,
    begin_trial,
    read_trial,
    texts_to_try,
    told_of,
    trial_of,
)
from urdaten.places.pipeline.acts.versions import (
    PLACE,
    Version,
    go_back,
    keep,
    number_of,
    present,
    read_version,
    read_versions,
    stages_on,
)
from urdaten.places.pipeline.acts.worth import entry_worths, gold_of_type, scores

__all__ = [
    "COUNTED",
    "JOB",
    "MISSED",
    "OUTCOMES",
    "PLACE",
    "STAMP",
    "TRIAL_JOB",
    "Against",
    "CatchUp",
    "Choices",
    "Count",
    "Differing",
    "Effect",
    "Evidence",
    "Figures",
    "Finds",
    "Hit",
    "Look",
    "Makers",
    "Offered",
    "RuleWhy",
    "Slots",
    "Standing",
    "ToCount",
    "Trace",
    "TraceStep",
    "TrialOfAll",
    "Version",
    "begin",
    "begin_trial",
    "bundle_of",
    "check_runs",
    "choices",
    "count",
    "count_rule",
    "counted",
    "cut_down",
    "entry_matches",
    "entry_worths",
    "evidence",
    "fault",
    "figures",
    "finds_of",
    "get_hold",
    "go_back",
    "gold_by_sentence",
    "gold_of_type",
    "keep",
    "keep_counted",
    "look",
    "marked_by_rules",
    "matches",
    "missed",
    "number_of",
    "offered",
    "present",
    "read_makers",
    "read_trial",
    "read_version",
    "read_versions",
    "reading_groups",
    "scores",
    "slots",
    "stages_on",
    "stamp",
    "standing",
    "texts_to_try",
    "texts_with",
    "texts_with_entry",
    "to_count",
    "told_of",
    "trace_text",
    "trace_words",
    "track_records",
    "trial_of",
    "unheard",
    "units_of",
    "why_ruled",
    "why_tagged",
]
