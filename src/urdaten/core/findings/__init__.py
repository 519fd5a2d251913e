"""What was found in many texts, as columns, and what can be counted of it."""

from urdaten.core.findings.comparison import Difference, log_odds
from urdaten.core.findings.found import (
    Found,
    FoundSpan,
    Scope,
    Together,
    ValueCount,
    found_of,
    over_bins,
    stand_together,
    value_counts,
)

__all__ = [
    "Difference",
    "Found",
    "FoundSpan",
    "Scope",
    "Together",
    "ValueCount",
    "found_of",
    "log_odds",
    "over_bins",
    "stand_together",
    "value_counts",
]
