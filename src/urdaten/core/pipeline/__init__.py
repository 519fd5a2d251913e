"""Stages over texts, from lanes of evidence to one answer, and what they say of a sentence's worth to an annotator."""

from urdaten.core.pipeline.resolve import (
    ORDER,
    PRIORITIES,
    Beaten,
    LeftOut,
    PolicyStage,
    Ranks,
    SaidAlready,
    resolve,
)
from urdaten.core.pipeline.sources import (
    LISTS,
    RULES,
    TAGGER,
    ListStage,
    RuleReason,
    RuleStage,
    TaggerStage,
    TakenAway,
)
from urdaten.core.pipeline.stage import Changes, Stage, Step, Trouble, trace
from urdaten.core.pipeline.trust import Heard, Record, weigh
from urdaten.core.pipeline.urgency import disputes, doubt

__all__ = [
    "LISTS",
    "ORDER",
    "PRIORITIES",
    "RULES",
    "TAGGER",
    "Beaten",
    "Changes",
    "Heard",
    "LeftOut",
    "ListStage",
    "PolicyStage",
    "Ranks",
    "Record",
    "RuleReason",
    "RuleStage",
    "SaidAlready",
    "Stage",
    "Step",
    "TaggerStage",
    "TakenAway",
    "Trouble",
    "disputes",
    "doubt",
    "resolve",
    "trace",
    "weigh",
]
