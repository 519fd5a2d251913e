"""One label a token: spans coded as BIO or BILOU labels with their types written out, and back."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterable, Sequence

from urdaten.core.formats.corpus import Bounds, checked_label
from urdaten.core.spans import CodingKind, Span
from urdaten.errors import BadFile, BadSpan

OUTSIDE = "O"
# What other files call last and only: E and S.
_OPENS, _CLOSES = "BUS", "LEUS"
_ROLES = "BILUES"


def layers_of(spans: Iterable[Span]) -> list[list[Span]]:
    """The spans in as few layers as a greedy choice needs, none with spans that overlap: the longest come first."""
    layers: list[list[Span]] = []
    for span in sorted(spans, key=lambda s: (s.start - s.end, s.start, s.type)):
        for layer in layers:
            if all(span.end <= other.start or other.end <= span.start for other in layer):
                layer.append(span)
                break
        else:
            layers.append([span])
    return [sorted(layer) for layer in layers]


def labels_of(spans: Iterable[Span], tokens: Sequence[Bounds], kind: CodingKind) -> list[str]:
    """A label for each token. Raises BadSpan for a span that does not begin and end with tokens."""
    labels = [OUTSIDE] * len(tokens)
    starts = [start for start, _ in tokens]
    ends = [end for _, end in tokens]
    for span in spans:
        first, last = bisect_left(starts, span.start), bisect_left(ends, span.end)
        if last >= len(tokens) or (starts[first], ends[last]) != (span.start, span.end):
            raise BadSpan(
                f"The {span.type} {span.start}–{span.end} begins or ends within a token.",
                start=span.start,
                end=span.end,
            )
        roles = _roles(last - first, kind)
        labels[first : last + 1] = [f"{role}-{span.type}" for role in roles]
    return labels


def _roles(more: int, kind: CodingKind) -> str:
    """Of a token and so many more."""
    if kind == "BIO":
        return "B" + "I" * more
    return "B" + "I" * (more - 1) + "L" if more else "U"


def spans_of(labels: Iterable[str], tokens: Iterable[Bounds]) -> list[Span]:
    """The spans of a column of labels. A label that goes on with what is not open begins it.

    Raises BadFile for a label that is neither O nor a role and a type.
    """
    spans: list[Span] = []
    open_type = ""
    for label, (start, end) in zip(labels, tokens, strict=True):
        if label == OUTSIDE:
            open_type = ""
            continue
        role, dash, type_ = label.partition("-")
        if len(role) != 1 or role not in _ROLES or not dash:
            raise BadFile(f"a label is O, or B-, I-, L- or U- with a type, not {label!r}.")
        checked_label(type_)
        if role not in _OPENS and type_ == open_type:
            spans[-1] = Span(spans[-1].start, end, type_)
        else:
            spans.append(Span(start, end, type_))
        open_type = "" if role in _CLOSES else type_
    return spans
