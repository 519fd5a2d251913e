"""Stages that look at spans alone: they keep, rename and drop types, or bring in what comes from elsewhere."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

import numpy as np

from urdaten.core.pipeline.reasons import Became, NotWanted
from urdaten.core.pipeline.stage import ALONE, Beside, Changes, Reasons, fingerprint
from urdaten.core.spans import Reason, SpanTable
from urdaten.core.text import Batch


@dataclass(frozen=True)
class TypesStage:
    """Keeps some types of spans and drops the others, or gives spans of a type another."""

    # Types that stay, as they are before renaming; None for all.
    keep: frozenset[str] | None = None
    drop: frozenset[str] = frozenset()
    rename: Mapping[str, str] = field(default_factory=dict)
    # Sources whose spans are meant; None for all.
    of: frozenset[str] | None = None
    name = "types"
    reads = ()

    @property
    def fingerprint(self) -> str:
        kept = None if self.keep is None else sorted(self.keep)
        of = None if self.of is None else sorted(self.of)
        return fingerprint(self.name, [kept, sorted(self.drop), sorted(self.rename.items()), of])

    def apply(self, _batch: Batch, spans: SpanTable, _beside: Beside = ALONE, /) -> Changes:
        if not len(spans):
            return Changes(SpanTable.empty())
        goes = np.array([self._goes(code) for code in spans.types])[spans.type]
        turns = np.array([code in self.rename and not self._goes(code) for code in spans.types])[spans.type]
        if self.of is not None:
            meant = np.array([name in self.of for name in spans.sources])[spans.source]
            goes, turns = goes & meant, turns & meant
        removed = np.flatnonzero(goes | turns)
        turned = spans.at(np.flatnonzero(turns))
        turned = replace(turned, types=tuple(self.rename.get(code, code) for code in spans.types))

        def why() -> Reasons:
            codes = [spans.types[k] for k in spans.type[removed].tolist()]
            found: list[Reason] = [
                Became(self.rename[code]) if turn else NotWanted(code)
                for code, turn in zip(codes, turns[removed].tolist(), strict=True)
            ]
            return tuple(found)

        return Changes(turned, removed, why)

    def _goes(self, code: str) -> bool:
        return code in self.drop or (self.keep is not None and code not in self.keep)


@dataclass(frozen=True)
class GivenStage:
    """Spans that came with the texts from elsewhere, under a name."""

    source: str
    # Of their types those of ours; None: as they came.
    types: tuple[tuple[str, str], ...] | None = None
    name = "given"
    reads = ()

    @property
    def fingerprint(self) -> str:
        return fingerprint(self.name, [self.source, self.types])

    def apply(self, _batch: Batch, _spans: SpanTable, beside: Beside = ALONE, /) -> Changes:
        found = beside.given.of_sources((self.source,))
        if self.types is None or not len(found):
            return Changes(found)
        ours = dict(self.types)
        held = np.array([code in ours for code in found.types])[found.type]
        found = found.at(np.flatnonzero(held))
        return Changes(replace(found, types=tuple(ours.get(code, code) for code in found.types)))
