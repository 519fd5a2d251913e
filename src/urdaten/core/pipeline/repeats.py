"""Names found once with certainty are found elsewhere in the same text, or in texts of its group."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Bools, Ints
from urdaten.core.pipeline.reasons import Repeated
from urdaten.core.pipeline.stage import ALONE, Beside, Changes, fingerprint
from urdaten.core.pipeline.where import group_numbers
from urdaten.core.spans import SpanTable
from urdaten.core.text import Batch, FormColumn, fold_but_case, run_keys

# Longer names are hardly ever written out twice.
LONGEST = 8
_LARGE = FormColumn(
    lambda forms: np.fromiter((form[:1].isupper() for form in forms), dtype=bool, count=len(forms))
)


@dataclass(frozen=True)
class RepeatsStage:
    """Adds spans where the words of a certain one stand again and nothing is marked.

    A span is certain with this probability at least; one without any, where its source is in `sure`, or that is None. Words that
    are certain of several types become the one that is commonest among them, none where two are as common. Letters count in
    their case; names without a capital are not looked for, unless `small`.
    """

    types: frozenset[str] = frozenset()
    least: float = 0.9
    sure: frozenset[str] | None = None
    in_group: bool = False
    small: bool = False
    # So often at least it must have been found with certainty.
    times: int = 1
    name = "repeats"
    reads = ()

    @property
    def fingerprint(self) -> str:
        sure = None if self.sure is None else sorted(self.sure)
        return fingerprint(
            self.name, [sorted(self.types), self.least, sure, self.in_group, self.small, self.times]
        )

    def apply(self, batch: Batch, spans: SpanTable, beside: Beside = ALONE, /) -> Changes:
        if not len(spans):
            return Changes(SpanTable.empty())
        first, last = batch.token_ranges(spans.text, spans.start, spans.end)
        taken = _covered(first, last, len(batch.word))
        rows = np.flatnonzero(self._certain(spans) & (last - first <= LONGEST) & (last > first))
        if not self.small:
            rows = rows[batch.vocabulary.column(_LARGE)[batch.word[first[rows]]]]
        group = group_numbers(beside, len(batch)) if self.in_group else np.arange(len(batch), dtype=np.int32)
        found = [_Found.none()]
        # Longer names first: a part of one is no name of its own there.
        for length in np.unique((last - first)[rows]).tolist()[::-1]:
            own = rows[(last - first)[rows] == length]
            made = self._again(batch, spans, group[batch.text], own, first, length, taken)
            taken |= _covered(made.first, made.first + length, len(taken))
            found.append(made)
        return Changes(self._table(batch, spans, found))

    def _certain(self, spans: SpanTable) -> Bools:
        sure = np.array([self.sure is None or name in self.sure for name in spans.sources])[spans.source]
        wanted = np.array([not self.types or code in self.types for code in spans.types])[spans.type]
        bare = np.isnan(spans.probability)
        return np.asarray(wanted & np.where(bare, sure, np.nan_to_num(spans.probability) >= self.least))

    def _again(
        self,
        batch: Batch,
        spans: SpanTable,
        group: Ints,
        rows: NDArray[np.int64],
        first: Ints,
        length: int,
        taken: Bools,
    ) -> _Found:
        """Where the words of certain spans of one length stand again."""
        key, whole = _keys(batch, group, length)
        # Certain places, each once for each type.
        place = np.unique(first[rows].astype(np.int64) * len(spans.types) + spans.type[rows])
        token, kind = np.divmod(place, len(spans.types))
        names, name = np.unique(key[token], return_inverse=True)
        times = np.zeros((len(names), len(spans.types)), dtype=np.int64)
        np.add.at(times, (name, kind), 1)
        best = times.argmax(axis=1)
        most = times.max(axis=1, initial=0)
        clear = (times == most[:, None]).sum(axis=1) == 1
        clear &= most >= self.times
        free = whole.copy()
        for step in range(length):
            free[: len(free) - step] &= ~taken[step:]
        if not len(names):
            return _Found.none()
        at = np.minimum(np.searchsorted(names, key), len(names) - 1)
        here = np.flatnonzero(free & (names[at] == key))
        here = here[clear[at[here]]]
        # Words that repeat themselves at once would lie over each other.
        apart: list[int] = []
        for one in here.tolist():
            if not apart or one >= apart[-1] + length:
                apart.append(one)
        chosen = np.array(apart, dtype=np.int64)
        of_name = at[chosen] if len(chosen) else chosen
        same_text = np.zeros(len(chosen), dtype=bool)
        if len(chosen):
            pairs = np.unique(batch.text[token].astype(np.int64) * len(names) + name)
            wanted = batch.text[chosen].astype(np.int64) * len(names) + of_name
            same_text = np.isin(wanted, pairs)
        return _Found(chosen, chosen + length, best[of_name], most[of_name], same_text)

    def _table(self, batch: Batch, spans: SpanTable, found: list[_Found]) -> SpanTable:
        first, last, kind, times, in_text = (
            np.concatenate([getattr(one, name) for one in found])
            for name in ("first", "last", "kind", "times", "in_text")
        )
        reasons: dict[Repeated, int] = {}
        numbers = []
        for a, b, of, often, here in zip(
            first.tolist(), last.tolist(), kind.tolist(), times.tolist(), in_text.tolist(), strict=True
        ):
            body = batch.bodies[int(batch.text[a])]
            said = Repeated(
                body[int(batch.start[a]) : int(batch.end[b - 1])], spans.types[of], often, bool(here)
            )
            numbers.append(reasons.setdefault(said, len(reasons)))
        made = SpanTable.of_tokens(
            batch,
            first,
            last,
            kind,
            spans.types,
            source=self.name,
            reason=np.array(numbers, dtype=np.int32),
            reasons=tuple(reasons),
        )
        return made.in_order()


@dataclass(frozen=True, eq=False)
class _Found:
    """Places as columns: first token and one past the last, type, how often it is certain, and whether in the same text."""

    first: NDArray[np.int64]
    last: NDArray[np.int64]
    kind: NDArray[np.int64]
    times: NDArray[np.int64]
    in_text: Bools

    @classmethod
    def none(cls) -> _Found:
        nothing = np.zeros(0, dtype=np.int64)
        return cls(nothing, nothing, nothing, nothing, nothing.astype(bool))


def _covered(first: Ints, last: Ints, tokens: int) -> Bools:
    """Which of so many tokens lie in [first, last) of any."""
    edges = np.zeros(tokens + 1, dtype=np.int64)
    np.add.at(edges, first, 1)
    np.add.at(edges, last, -1)
    return np.asarray(np.cumsum(edges)[:tokens] > 0)


def _keys(batch: Batch, group: Ints, length: int) -> tuple[NDArray[np.uint64], Bools]:
    """By token: a number for its group and the words of this many tokens from it on, and whether they stand in one
    sentence."""
    _, folded = batch.vocabulary.image(fold_but_case)
    whole = np.zeros(len(batch.word), dtype=bool)
    end = max(0, len(whole) - length + 1)
    whole[:end] = batch.sentence[length - 1 :] == batch.sentence[:end]
    return run_keys(folded[batch.word], group, length), whole
