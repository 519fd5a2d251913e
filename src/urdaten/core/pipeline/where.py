"""Conditions over the text: spans stay only where the words around them are as a pattern asks."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Literal, get_args

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Ints
from urdaten.core.pipeline.reasons import Unmet
from urdaten.core.pipeline.stage import ALONE, Beside, Changes, Trouble, fingerprint
from urdaten.core.rules import CompiledRule, match_rules
from urdaten.core.spans import SpanTable
from urdaten.core.text import Batch

Scope = Literal["sentence", "text", "group"]
SCOPES: tuple[Scope, ...] = get_args(Scope)


@dataclass(frozen=True, eq=False)
class WhereStage:
    """Drops spans of some types unless their sentence, text or group has, or has not, what a pattern finds. A text on which the
    pattern takes too long is left as it is."""

    pattern: CompiledRule
    scope: Scope = "sentence"
    has: bool = True
    # Types of the spans that it is about; none for all.
    types: frozenset[str] = frozenset()
    # Sources of those spans; None for all.
    of: frozenset[str] | None = None
    # What sources are to the pattern: lists, rules or a tagger.
    kinds: Mapping[str, str] = field(default_factory=dict)
    name = "where"
    reads = ()

    @property
    def fingerprint(self) -> str:
        of = None if self.of is None else sorted(self.of)
        about = (self.scope, self.has, sorted(self.types), of, sorted(self.kinds.items()))
        return fingerprint(self.name, [self.pattern.content, *about])

    def apply(self, batch: Batch, spans: SpanTable, beside: Beside = ALONE, /) -> Changes:
        sources = tuple(self.kinds.get(name, name) for name in spans.sources)
        (found,) = match_rules([self.pattern], batch, replace(spans, sources=sources))
        troubles = tuple(Trouble(text, self.name, said) for text, said in found.troubles.items())
        if not len(spans):
            return Changes(SpanTable.empty(), troubles=troubles)
        of_token = self._of_token(batch, beside)
        met = np.zeros(int(of_token.max(initial=-1)) + 1, dtype=bool)
        met[of_token[found.first]] = True
        first, _ = batch.token_ranges(spans.text, spans.start, spans.end)
        goes = (met[of_token[first]] != self.has) & self._meant(spans)
        goes &= ~np.isin(spans.text, list(found.troubles))
        removed = np.flatnonzero(goes)
        why = Unmet(self.scope, self.has)
        return Changes(SpanTable.empty(), removed, lambda: (why,) * len(removed), troubles)

    def _meant(self, spans: SpanTable) -> NDArray[np.bool_]:
        meant = np.array([not self.types or code in self.types for code in spans.types])[spans.type]
        if self.of is not None:
            meant &= np.array([name in self.of for name in spans.sources])[spans.source]
        return np.asarray(meant)

    def _of_token(self, batch: Batch, beside: Beside) -> Ints:
        """Of each token the number of its sentence, text or group."""
        if self.scope == "sentence":
            return batch.sentence
        if self.scope == "text":
            return batch.text
        return group_numbers(beside, len(batch))[batch.text]


def group_numbers(beside: Beside, texts: int) -> Ints:
    """Of each of so many texts the number of its group; int32. A text without one is a group of its own."""
    numbers: dict[object, int] = {}
    groups = beside.groups or [""] * texts
    found = (
        numbers.setdefault(group or ("", k), len(numbers))  # a text's own number, told apart from any name
        for k, group in enumerate(groups)
    )
    return np.fromiter(found, dtype=np.int32, count=texts)
