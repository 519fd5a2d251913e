"""A step of a trace as people read it: what became of each span of a text, and why."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from urdaten.core.pipeline.reasons import Became
from urdaten.core.pipeline.stage import Step
from urdaten.core.spans import Span, SpanTable

What = Literal["added", "changed", "dropped", "refused"]


@dataclass(frozen=True)
class Told:
    """What became of a span: it was added, has another type from here on, was dropped, or was not added because of others."""

    what: What
    span: Span
    why: str


def told(step: Step, text: int) -> list[Told]:
    """What a step did in one text of its batch, in the order of the text."""
    changes = step.changes
    found = [
        Told("added", span, span.why) for span in _of(changes.added, text) if not _turned(step, text, span)
    ]
    gone = step.before.at(changes.removed)
    for row, span in _rows(gone, text):
        why = changes.why_removed[row]
        found.append(Told("changed" if isinstance(why, Became) else "dropped", span, why.words))
    for row, span in _rows(changes.refused, text):
        found.append(Told("refused", span, changes.why_refused[row].words))
    return sorted(found, key=lambda one: (one.span, one.what))


def _rows(table: SpanTable, text: int) -> list[tuple[int, Span]]:
    rows = np.flatnonzero(table.text == text)
    return list(zip(rows.tolist(), table.at(rows).spans_in_order(), strict=True))


def _of(table: SpanTable, text: int) -> list[Span]:
    return [span for _, span in _rows(table, text)]


def _turned(step: Step, text: int, span: Span) -> bool:
    """Was it there before, with another type?"""
    gone = step.before.at(step.changes.removed)
    return any(
        isinstance(step.changes.why_removed[row], Became) and (old.start, old.end) == (span.start, span.end)
        for row, old in _rows(gone, text)
    )
