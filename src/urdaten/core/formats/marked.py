"""Marked text: a body with its spans written inline, for people to edit.

A span is written `[CODE words of the span]` and spans may nest; a literal bracket or backslash is
written with a backslash before it.
"""

from __future__ import annotations

from collections.abc import Sequence

import regex

from urdaten.core.spans import TYPE_CODE, Span
from urdaten.errors import BadFile

_OPENING = regex.compile(rf"\[({TYPE_CODE}) ")


def read_marked(source: str) -> tuple[str, list[Span]]:
    """Body and spans of a marked text. Raises BadFile with the line of the fault."""
    body: list[str] = []
    open_spans: list[tuple[int, str, int]] = []
    spans: list[Span] = []
    i = 0
    while i < len(source):
        sign = source[i]
        if sign == "\\" and i + 1 < len(source) and source[i + 1] in "[]\\":
            body.append(source[i + 1])
            i += 2
        elif sign == "[":
            opening = _OPENING.match(source, i)
            if not opening:
                raise _fault(source, i, "“[” is not followed by a type code and a space")
            open_spans.append((len(body), opening[1], i))
            i = opening.end()
        elif sign == "]":
            if not open_spans:
                raise _fault(source, i, "“]” closes nothing")
            start, code, _ = open_spans.pop()
            if start == len(body):
                raise _fault(source, i, f"the span of type {code} is empty")
            spans.append(Span(start, len(body), code))
            i += 1
        else:
            body.append(sign)
            i += 1
    if open_spans:
        raise _fault(source, open_spans[-1][2], "“[” is never closed")
    return "".join(body), sorted(spans)


def write_marked(body: str, spans: Sequence[Span]) -> str:
    """The inverse of read_marked for spans that nest but do not cross."""
    opens: dict[int, list[Span]] = {}
    closes: dict[int, int] = {}
    for span in sorted(spans, key=lambda s: (s.start, -s.end)):
        opens.setdefault(span.start, []).append(span)
        closes[span.end] = closes.get(span.end, 0) + 1
    out: list[str] = []
    for i, sign in enumerate(body + "\0"):
        out.append("]" * closes.get(i, 0))
        out.extend(f"[{span.type} " for span in opens.get(i, ()))
        out.append("\\" + sign if sign in "[]\\" else sign)
    return "".join(out)[:-1]


def _fault(source: str, at: int, what: str) -> BadFile:
    line = source.count("\n", 0, at) + 1
    column = at - (source.rfind("\n", 0, at) + 1) + 1
    return BadFile(f"Line {line}, character {column}: {what}.", line=line, column=column)
