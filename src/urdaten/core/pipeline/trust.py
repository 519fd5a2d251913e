"""Whose word counts: a maker that has mostly been wrong disputes nothing that others agree on."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import sqrt

from urdaten.core.pipeline.resolve import ORDER, resolve
from urdaten.core.spans import Overlap, Span

# Of a normal distribution, so that 95 of 100 intervals hold the true share.
_Z = 1.959964
_LEAST_SHARE = 0.5
_DOUBTFUL = "doubtful"


@dataclass(frozen=True)
class Record:
    """How often a maker's spans were right among those in sentences that a person has signed."""

    right: int
    judged: int

    @property
    def deserves_say(self) -> bool:
        """False only where it is all but sure that fewer than half of its spans are right (Wilson's interval, 1927)."""
        if self.judged == 0:
            return True
        share, per = self.right / self.judged, _Z * _Z / self.judged
        middle = share + per / 2
        reach = _Z * sqrt(share * (1 - share) / self.judged + per / (4 * self.judged))
        return (middle + reach) / (1 + per) >= _LEAST_SHARE

    @property
    def words(self) -> str:
        return f"right {self.right} of {self.judged} times where sentences are signed"


@dataclass(frozen=True)
class Heard:
    """A span of evidence, and what its maker's word is worth."""

    span: Span
    # Why its maker has no say; None where it has.
    doubt: Record | None = None
    # It stands against an answer that makers who have a say agree on.
    overruled: bool = False


def weigh(
    lanes: Mapping[str, Sequence[Span]],
    records: Mapping[tuple[str, str], Record],
    overlap: Overlap = "apart",
) -> tuple[dict[str, list[Heard]], list[Span]]:
    """Each lane's spans as they are heard, and one answer: as `resolve` has it, but makers without a say come last.

    `records` go by source and maker; a maker without one has a say. A list's span that the tagger has seen and left out
    is left out of the answer, whatever the list's record.
    """
    doubts = {key: record for key, record in records.items() if not record.deserves_say}

    def doubt(span: Span) -> Record | None:
        return doubts.get((span.source, span.maker))

    trusted = {name: [span for span in spans if not doubt(span)] for name, spans in lanes.items()}
    rest = [
        span
        for name, spans in lanes.items()
        if not (name == "lists" and "tagger" in lanes)
        for span in spans
        if doubt(span)
    ]
    answer = resolve(trusted | {_DOUBTFUL: rest}, (*ORDER, _DOUBTFUL), overlap)
    agreed = [span for span in answer if any(span in spans for spans in trusted.values())]

    def heard(span: Span) -> Heard:
        record = doubt(span)
        against = record is not None and span not in agreed and any(span.overlaps(other) for other in agreed)
        return Heard(span, record, against)

    return {name: [heard(span) for span in spans] for name, spans in lanes.items()}, answer
