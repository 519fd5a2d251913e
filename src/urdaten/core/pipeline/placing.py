"""A stage in its place among others: what it sees of them, what of them binds it, and what happens where it fails."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from urdaten.core.pipeline.policy import bound
from urdaten.core.pipeline.reasons import Bound
from urdaten.core.pipeline.sources import LISTS, RULES, TAGGER
from urdaten.core.pipeline.stage import ALONE, Beside, Changes, Reasons, Stage, Trouble, fingerprint
from urdaten.core.spans import Overlap, Reason, Span, SpanTable
from urdaten.core.text import Batch
from urdaten.errors import BadInput, UrdatenError

_BY_KIND = (RULES, TAGGER)


@dataclass(frozen=True, eq=False)
class PlacedStage:
    """A stage in its place: it sees earlier spans by the kinds of their stages, and its own go by its name."""

    name: str
    kind: str
    stage: Stage
    # By the name of each earlier stage its kind.
    kinds: Mapping[str, str]
    overlap: Overlap = "apart"
    # Earlier stages whose spans stand.
    binding: frozenset[str] = frozenset()
    stops: bool = False

    @property
    def reads(self) -> tuple[str, ...]:
        return self.stage.reads

    @cached_property
    def fingerprint(self) -> str:
        own = (self.stage.fingerprint, self.name, sorted(self.kinds.items()))
        return fingerprint(self.kind, [*own, self.overlap, sorted(self.binding), self.stops])

    def apply(self, batch: Batch, spans: SpanTable, beside: Beside = ALONE, /) -> Changes:
        changes = self._guarded(batch, self._seen(spans), beside)
        for trouble in changes.troubles if self.stops else ():
            raise BadInput(
                f"The stage “{self.name}” stopped at text {trouble.text + 1}: {trouble.said}",
                stage=self.name,
                text=trouble.text,
            )
        changes = replace(changes, added=self._named(changes.added), refused=self._named(changes.refused))
        return self._bound(changes, changes.to(spans)) if self.binding and len(changes.added) else changes

    def _seen(self, spans: SpanTable) -> SpanTable:
        """Rules and taggers know lists and rules as such, whatever their stages are called; to rules whatever is no list's is
        as good as a rule's."""
        if self.kind not in _BY_KIND:
            return spans
        kinds = [self.kinds.get(source, source) for source in spans.sources]
        if self.kind == RULES:
            kinds = [kind if kind == LISTS else RULES for kind in kinds]
        return replace(spans, sources=tuple(kinds))

    def _named(self, own: SpanTable) -> SpanTable:
        # Spans that have got another type are still of those who said them.
        return own if self.kind == "types" else replace(own, sources=(self.name,) * len(own.sources))

    def _bound(self, changes: Changes, after: SpanTable) -> Changes:
        standing = after.at(np.flatnonzero(np.isin(after.source, _numbers(after.sources, self.binding))))
        own = changes.added
        allowed, by = bound(standing, own, self.overlap)
        if allowed.all():
            return changes
        against = by[~allowed]

        def refusals() -> Reasons:
            found: list[Reason] = []
            for row in against.tolist():
                kind, source = standing.types[standing.type[row]], standing.sources[standing.source[row]]
                found.append(Bound(Span(int(standing.start[row]), int(standing.end[row]), kind), source))
            return (*changes.why_refused, *found)

        refused = [changes.refused, own.at(np.flatnonzero(~allowed))]
        return replace(
            changes,
            added=own.at(np.flatnonzero(allowed)),
            refused=SpanTable.joined(refused),
            refusals=refusals,
        )

    def _guarded(self, batch: Batch, spans: SpanTable, beside: Beside) -> Changes:
        """What the stage does; where it fails, without the texts on which it does."""
        try:
            return self.stage.apply(batch, spans, beside)
        except Exception as fault:  # whatever it is, the other texts are none the worse for it
            if len(batch) == 1:
                return Changes(SpanTable.empty(), troubles=(Trouble(0, self.name, _said(fault)),))
        bad: dict[int, str] = {}
        for k in range(len(batch)):
            try:
                self.stage.apply(*_only(batch, spans, beside, [k])[0])
            except Exception as fault:
                bad[k] = _said(fault)
        good = [k for k in range(len(batch)) if k not in bad]
        troubles = tuple(Trouble(k, self.name, said) for k, said in bad.items())
        if not good:
            return Changes(SpanTable.empty(), troubles=troubles)
        (own, rows) = _only(batch, spans, beside, good)
        try:
            changes = self.stage.apply(*own)
        except Exception as fault:
            everything = tuple(Trouble(k, self.name, _said(fault)) for k in range(len(batch)))
            return Changes(SpanTable.empty(), troubles=everything)
        number = np.array(good, dtype=np.int32)
        return replace(
            changes,
            added=replace(changes.added, text=number[changes.added.text]),
            removed=rows[changes.removed],
            refused=replace(changes.refused, text=number[changes.refused.text]),
            troubles=(*(replace(t, text=good[t.text]) for t in changes.troubles), *troubles),
            probability=None,
        )


def _said(fault: Exception) -> str:
    return fault.message if isinstance(fault, UrdatenError) else f"{type(fault).__name__}: {fault}"


def _only(
    batch: Batch, spans: SpanTable, beside: Beside, texts: Sequence[int]
) -> tuple[tuple[Batch, SpanTable, Beside], NDArray[np.int64]]:
    """Some texts with their spans, and the rows that these are."""
    number = np.full(len(batch), -1, dtype=np.int32)
    number[list(texts)] = np.arange(len(texts))

    def own(table: SpanTable) -> tuple[SpanTable, NDArray[np.int64]]:
        rows = np.flatnonzero(number[table.text] >= 0)
        held = table.at(rows)
        return replace(held, text=number[held.text]), rows

    held, rows = own(spans)
    groups = [beside.groups[k] for k in texts] if beside.groups else ()
    return (batch.only(texts), held, Beside(groups, own(beside.given)[0])), rows


def _numbers(names: Sequence[str], wanted: frozenset[str]) -> list[int]:
    return [k for k, name in enumerate(names) if name in wanted]
