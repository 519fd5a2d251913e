"""Span: a typed range of code points, and what is done with sets of them."""

from __future__ import annotations

from bisect import bisect_left, insort
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from typing import Literal

from urdaten.errors import BadSpan

# How spans of one sentence may stand to each other: apart, one within another, or anyhow.
Overlap = Literal["apart", "nested", "free"]
OVERLAPS: tuple[Overlap, ...] = ("apart", "nested", "free")


# How the code of a type is written in files, as a pattern: a capital, then capitals, figures and low lines.
TYPE_CODE = r"\p{Lu}[\p{Lu}\p{Nd}_]{0,31}"


@dataclass(frozen=True, order=True)
class Span:
    """Half-open range of code points with an entity type code."""

    start: int
    end: int
    type: str
    # Where the span comes from and, for a tagger's, how probable it is (0 to 1).
    source: str = field(default="", compare=False)
    probability: float | None = field(default=None, compare=False)
    # What a source can say about why it set this span.
    why: str = field(default="", compare=False)
    # The list or rule that set it, by name.
    maker: str = field(default="", compare=False)

    def overlaps(self, other: Span) -> bool:
        return self.start < other.end and other.start < self.end


def check_span(start: int, end: int, body: str, origin: int = 0) -> None:
    """Raise BadSpan unless [start, end) is a stripped, non-empty range of the body, which begins at `origin`."""
    if not origin <= start < end <= origin + len(body):
        raise BadSpan(
            f"A span from {start} to {end} does not lie within the code points {origin} to {origin + len(body)}.",
            start=start,
            end=end,
        )
    if body[start - origin].isspace() or body[end - 1 - origin].isspace():
        raise BadSpan(
            f"The span from {start} to {end} begins or ends with white space.", start=start, end=end
        )


def without_overlaps(spans: Iterable[Span]) -> list[Span]:
    """Keep the longest span of every overlapping group, the earlier one where lengths are equal."""
    return add_apart([], sorted(spans, key=lambda s: (s.start - s.end, s.start, s.type)))


def add_apart(kept: Sequence[Span], more: Iterable[Span]) -> list[Span]:
    """Spans that lie apart, sorted, and those of `more` that overlap none of them nor an earlier one of `more`."""
    spans = list(kept)
    starts = [span.start for span in spans]
    for span in more:
        at = bisect_left(starts, span.end)
        # Of spans that lie apart only the last that begins before this one's end can reach into it.
        if at == 0 or spans[at - 1].end <= span.start:
            starts.insert(at, span.start)
            spans.insert(at, span)
    return spans


def add_fitting(kept: Sequence[Span], more: Iterable[Span], overlap: Overlap) -> list[Span]:
    """Spans that stand as `overlap` lets them, sorted, and those of `more` that may stand with them and with earlier ones
    of `more`. What is there already is not added again."""
    if overlap == "apart":
        return add_apart(kept, more)
    spans = sorted(kept)
    known = set(spans)
    longest = max((span.end - span.start for span in spans), default=0)
    for span in more:
        if span in known:
            continue
        # Whatever overlaps it begins before its end, and no further before it than the longest reaches.
        near = spans[
            bisect_left(spans, span.start - longest, key=_start) : bisect_left(spans, span.end, key=_start)
        ]
        if overlap == "free" or not any(_cross(span, other) for other in near):
            insort(spans, span)
            known.add(span)
            longest = max(longest, span.end - span.start)
    return spans


def _start(span: Span) -> int:
    return span.start


def _cross(one: Span, other: Span) -> bool:
    """Do they overlap, and neither holds the other?"""
    left, right = sorted((one, other))
    return left.start < right.start < left.end < right.end


def overlapping_pairs(spans: Sequence[Span]) -> list[tuple[Span, Span]]:
    """All pairs that share at least one code point."""
    ordered = sorted(spans)
    pairs = []
    for i, left in enumerate(ordered):
        for right in ordered[i + 1 :]:
            if right.start >= left.end:
                break
            pairs.append((left, right))
    return pairs


def forbidden_pairs(spans: Sequence[Span], overlap: Overlap) -> list[tuple[Span, Span]]:
    """Pairs that may not stand together: any that overlap, those that cross without one holding the other, or none."""
    if overlap == "free":
        return []
    pairs = overlapping_pairs(spans)
    if overlap == "apart":
        return pairs
    return [(left, right) for left, right in pairs if left.start < right.start and left.end < right.end]
