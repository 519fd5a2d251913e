"""Stages: each looks at texts and at the spans that earlier ones left, and says what it changes and why."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from hashlib import blake2b
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Floats
from urdaten.core.spans import Reason, SpanTable
from urdaten.core.text import Batch

Reasons = tuple[Reason, ...]


@dataclass(frozen=True)
class Trouble:
    """What a maker could not be held against: the text's number in the batch, and what was said."""

    text: int
    maker: str
    said: str


@dataclass(frozen=True, eq=False)
class Beside:
    """What comes with the texts of a batch beside their bodies."""

    # Of each text; texts of one group belong together, those of "" stand each for itself. None at all: so do all.
    groups: Sequence[str] = ()
    # Spans from elsewhere; their source says where from.
    given: SpanTable = field(default_factory=SpanTable.empty)


ALONE = Beside()


def _none() -> NDArray[np.int64]:
    return np.zeros(0, dtype=np.int64)


@dataclass(frozen=True, eq=False)
class Changes:
    """What a stage does to the spans that it sees. Why it does so is put into words when somebody asks."""

    added: SpanTable
    # Rows of the spans that it saw, ascending, and what says of each why it goes.
    removed: NDArray[np.int64] = field(default_factory=_none)
    why: Callable[[], Reasons] = tuple
    troubles: tuple[Trouble, ...] = ()
    # What it would have added, and what says of each why it did not.
    refused: SpanTable = field(default_factory=SpanTable.empty)
    refusals: Callable[[], Reasons] = tuple
    # Of the spans that it saw the probabilities that they have from now on, float32; None where none changes.
    probability: Floats | None = None

    @cached_property
    def why_removed(self) -> Reasons:
        """Of each row that goes."""
        return self.why()

    @cached_property
    def why_refused(self) -> Reasons:
        """Of each span that was not added."""
        return self.refusals()

    def to(self, spans: SpanTable) -> SpanTable:
        """What comes of the spans that it saw."""
        if self.probability is not None:
            spans = replace(spans, probability=self.probability)
        if len(self.removed):
            kept = np.ones(len(spans), dtype=bool)
            kept[self.removed] = False
            spans = spans.at(kept)
        if not len(self.added):
            return spans
        return SpanTable.joined([spans, self.added]) if len(spans) else self.added


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

    def apply(self, batch: Batch, spans: SpanTable, beside: Beside = ALONE, /) -> Changes:
        """What it does to these spans of the batch's texts."""


@dataclass(frozen=True, eq=False)
class Step:
    """One line of a trace: a stage, the spans that it saw, what it changed, and the spans after it."""

    stage: Stage
    before: SpanTable
    changes: Changes
    after: SpanTable


def steps(stages: Iterable[Stage], batch: Batch, beside: Beside = ALONE) -> Iterator[Step]:
    """The stages in their order over the texts, from no spans at all; each is done when it is asked for."""
    spans = SpanTable.empty()
    for stage in stages:
        changes = stage.apply(batch, spans, beside)
        after = changes.to(spans)
        yield Step(stage, spans, changes, after)
        spans = after


def trace(stages: Iterable[Stage], batch: Batch, beside: Beside = ALONE) -> list[Step]:
    """As `steps`, all of them."""
    return list(steps(stages, batch, beside))


def fingerprint(kind: str, parts: Iterable[object]) -> str:
    """Of what a stage is made of; the parts are told apart by their representation."""
    digest = blake2b(kind.encode(), digest_size=16)
    for part in parts:
        digest.update(repr(part).encode())
        digest.update(b"\0")
    return digest.hexdigest()
