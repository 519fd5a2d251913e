"""Stages: each looks at texts and at the spans that earlier ones left, and says what it changes and why."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from hashlib import blake2b
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from urdaten.core.spans import Reason, SpanTable
from urdaten.core.text import Batch


@dataclass(frozen=True)
class Trouble:
    """What a maker could not be held against: the text's number in the batch, and what was said."""

    text: int
    maker: str
    said: str


def _none() -> NDArray[np.int64]:
    return np.zeros(0, dtype=np.int64)


@dataclass(frozen=True, eq=False)
class Changes:
    """What a stage does to the spans that it sees."""

    added: SpanTable
    # Rows of the spans that it saw, ascending, and why each goes.
    removed: NDArray[np.int64] = field(default_factory=_none)
    why_removed: tuple[Reason, ...] = ()
    troubles: tuple[Trouble, ...] = ()

    def to(self, spans: SpanTable) -> SpanTable:
        """What comes of the spans that it saw."""
        kept = np.ones(len(spans), dtype=bool)
        kept[self.removed] = False
        return SpanTable.joined([spans.at(kept), self.added])


class Stage(Protocol):
    """A source of spans, or a policy over them."""

    @property
    def name(self) -> str:
        """The source of the spans that it adds; of a policy what it is called."""

    @property
    def fingerprint(self) -> str:
        """Equal only where the same spans are added and removed, whatever the texts: of the content, never of row numbers."""

    @property
    def reads(self) -> tuple[str, ...]:
        """The sources of the spans that it looks at."""

    def apply(self, batch: Batch, spans: SpanTable, /) -> Changes:
        """What it does to these spans of the batch's texts."""


@dataclass(frozen=True, eq=False)
class Step:
    """One line of a trace: a stage, what it changed, and the spans after it."""

    stage: Stage
    changes: Changes
    after: SpanTable


def trace(stages: Sequence[Stage], batch: Batch) -> list[Step]:
    """The stages in their order over the texts, from no spans at all."""
    spans = SpanTable.empty()
    steps = []
    for stage in stages:
        changes = stage.apply(batch, spans)
        spans = changes.to(spans)
        steps.append(Step(stage, changes, spans))
    return steps


def fingerprint(kind: str, parts: Iterable[object]) -> str:
    """Of what a stage is made of; the parts are told apart by their representation."""
    digest = blake2b(kind.encode(), digest_size=16)
    for part in parts:
        digest.update(repr(part).encode())
        digest.update(b"\0")
    return digest.hexdigest()
