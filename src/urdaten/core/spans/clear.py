"""What several sources of names leave no doubt about."""

from __future__ import annotations

from collections.abc import Iterable

from urdaten.core.spans.span import Span


def clear_spans(spans: Iterable[Span]) -> tuple[list[Span], list[Span]]:
    """Spans that are clear, and those that are not, both sorted; what stands twice counts once.

    A span within a longer one gives way to it and is in neither. Two that stand on the same words with different types, or
    that overlap without one lying within the other, are both unclear.
    """
    types: dict[tuple[int, int], dict[str, Span]] = {}
    for span in spans:
        types.setdefault((span.start, span.end), {}).setdefault(span.type, span)
    longest: list[tuple[int, int]] = []
    for start, end in sorted(types, key=lambda at: (at[0], -at[1])):
        if not longest or longest[-1][1] < end:
            longest.append((start, end))
    clear: list[Span] = []
    unclear: list[Span] = []
    # Of spans none of which lies within another both ends rise, so only neighbours can overlap.
    for k, (start, end) in enumerate(longest):
        overlaps = (k > 0 and longest[k - 1][1] > start) or (k + 1 < len(longest) and longest[k + 1][0] < end)
        here = sorted(types[start, end].values())
        (unclear if overlaps or len(here) > 1 else clear).extend(here)
    return clear, unclear
