"""Stages over texts, from lanes of evidence to one answer, and what they say of a sentence's worth to an annotator."""

from urdaten.core.pipeline.resolve import ORDER, Beaten, LeftOut, PolicyStage, SaidAlready, resolve
from urdaten.core.pipeline.sources import LISTS, RULES, TAGGER, ListStage, RuleReason, RuleStage, TaggerStage
from urdaten.core.pipeline.stage import Changes, Stage, Step, Trouble, trace
from urdaten.core.pipeline.trust import Heard, Record, weigh
from urdaten.core.pipeline.urgency import disputes, doubt

__all__ = [
    "LISTS",
    "ORDER",
    "RULES",
    "TAGGER",
    "Beaten",
    "Changes",
    "Heard",
    "LeftOut",
    "ListStage",
    "PolicyStage",
    "Record",
    "RuleReason",
    "RuleStage",
    "SaidAlready",
    "Stage",
    "Step",
    "TaggerStage",
    "Trouble",
    "disputes",
    "doubt",
    "resolve",
    "trace",
    "weigh",
]
