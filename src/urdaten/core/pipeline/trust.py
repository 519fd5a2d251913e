"""Whose word counts: makers are weighed by how often they were right where a person has signed."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from math import inf, sqrt

from urdaten.core.pipeline.resolve import ORDER, Ranks, resolve
from urdaten.core.pipeline.sources import TakenAway
from urdaten.core.spans import Overlap, Span, forbidden_pairs

# Of a normal distribution, so that 95 of 100 intervals hold the true share.
_Z = 1.959964
_HALF = 0.5
# What is less likely than this beside the answer need not be looked at.
_REMOTE = 0.05
_DOUBTFUL = "doubtful"


@dataclass(frozen=True)
class Record:
    """How often a maker's spans were right among those in sentences that a person has signed."""

    right: int
    judged: int

    @property
    def bounds(self) -> tuple[float, float]:
        """Between which shares the maker is right at 95 % confidence (Wilson's score interval, 1927); 0 and 1 without figures."""
        if self.judged == 0:
            return 0.0, 1.0
        share, per = self.right / self.judged, _Z * _Z / self.judged
        middle = share + per / 2
        reach = _Z * sqrt(share * (1 - share) / self.judged + per / (4 * self.judged))
        return max(0.0, (middle - reach) / (1 + per)), min(1.0, (middle + reach) / (1 + per))

    @property
    def has_say(self) -> bool:
        """False only where it is all but sure that fewer than half of its spans are right."""
        return self.bounds[1] >= _HALF

    @property
    def words(self) -> str:
        return f"right {self.right} of {self.judged} times where sentences are signed"


@dataclass(frozen=True)
class Heard:
    """A span of evidence, and what its maker's word is worth."""

    span: Span
    record: Record | None = None
    # It stands against an answer beside which it is improbable: this span of the answer.
    overruled_by: Span | None = None
    # A rule took it away.
    taken: TakenAway | None = None

    @property
    def has_say(self) -> bool:
        return self.record is None or self.record.has_say


def weigh(
    lanes: Mapping[str, Sequence[Span]],
    records: Mapping[tuple[str, str], Record],
    overlap: Overlap = "apart",
    ranks: Ranks | None = None,
    answered: Sequence[Span] | None = None,
) -> tuple[dict[str, list[Heard]], list[Span]]:
    """Each lane's spans as they are heard, and one answer: as `resolve` has it, but makers without a say come last. Where something
    else has `answered`, that is the answer.

    `records` go by source and maker. A span that is not in the answer is overruled where it is right with a probability
    below 1 in 20, of two claims that the scheme's overlap lets exclude each other: its maker taken for as good as its figures allow, what supports
    the answer for as bad. The tagger's spans have their own probability. A maker without figures is neither overruled nor
    does it overrule. A list's span that the tagger has seen and left out is left out of the answer in any case.
    """

    def record(span: Span) -> Record | None:
        return records.get((span.source, span.maker))

    def has_say(span: Span) -> bool:
        known = record(span)
        return known is None or known.has_say

    trusted = {name: [span for span in spans if has_say(span)] for name, spans in lanes.items()}
    seen_by_tagger = ("lists",) if "tagger" in lanes else ()
    rest = [s for name, spans in lanes.items() if name not in seen_by_tagger for s in spans if not has_say(s)]
    answer = (
        resolve(trusted | {_DOUBTFUL: rest}, (*ORDER, _DOUBTFUL), overlap, ranks or {})
        if answered is None
        else list(answered)
    )
    every = [span for spans in lanes.values() for span in spans]
    support = {span: _support((other for other in every if other == span), records) for span in answer}

    def overruled_by(span: Span) -> Span | None:
        if span in support:
            return None
        against = [o for o in answer if span.overlaps(o) and forbidden_pairs([span, o], overlap)]
        strongest = max(against, key=lambda other: support[other], default=None)
        own = _odds(span, records, -1)
        if strongest is None or own == inf or own / (1 + own + support[strongest]) >= _REMOTE:
            return None
        return strongest

    heard = {name: [Heard(s, record(s), overruled_by(s)) for s in spans] for name, spans in lanes.items()}
    return heard, answer


def _odds(span: Span, records: Mapping[tuple[str, str], Record], side: int) -> float:
    """For a span by what is known of its maker: by the lower bound with side 0, by the upper with -1."""
    if span.probability is not None:
        share = span.probability
    elif (known := records.get((span.source, span.maker))) is not None:
        share = known.bounds[side]
    else:
        share = -float(side)
    return share / (1 - share) if share < 1 else inf


def _support(same: Iterable[Span], records: Mapping[tuple[str, str], Record]) -> float:
    """Odds of a span by the best of those who say it: they have seen one another, so that they do not add up."""
    return max((_odds(span, records, 0) for span in same), default=0.0)
