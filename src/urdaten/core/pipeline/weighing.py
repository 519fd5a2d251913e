"""Weighing: one calibrated probability for each candidate span, from who says it and what is said around it.

A log-linear model over candidates, which are the distinct spans that any stage has said. What it looks at are counts and log
odds with names; a weight for each is learnt on sentences that a person has signed. It is a logistic regression with a
quadratic penalty, whose probabilities are calibrated where the penalty is small (Cox 1958; Platt 1999 for the log odds of a
model as what another learns from).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Floats
from urdaten.core.pipeline.stage import ALONE, Beside, fingerprint
from urdaten.core.pipeline.where import group_numbers
from urdaten.core.spans import SpanTable
from urdaten.core.text import Batch, fold, run_keys
from urdaten.errors import BadFile

# Log odds of what is surer than this are those of this.
_EDGE = 0.003
_MOST_TOKENS = 4
# A pair of candidates that lie over each other, as the first sees the other.
_RELATIONS = ("in the same place", "longer", "shorter", "across")
_MOST_WEIGHTS = 20_000


@dataclass(frozen=True)
class Part:
    """What speaks for a span, or against it: what was seen, how much of it, and what that adds to its log odds."""

    name: str
    value: float
    adds: float


@dataclass(frozen=True, eq=False)
class Looks:
    """What is seen of candidates: triplets of a candidate, a name and a value, and of each span which candidate it is."""

    candidates: int
    of_span: NDArray[np.int64]
    row: NDArray[np.int64]
    name: NDArray[np.int64]
    value: Floats
    names: tuple[str, ...]
    # Of each candidate a span that says it.
    span: NDArray[np.int64]

    def scores(self, weights: Mapping[str, float]) -> Floats:
        """Log odds of each candidate."""
        each = np.array([weights.get(name, 0.0) for name in self.names])
        score = np.bincount(self.row, each[self.name] * self.value, minlength=self.candidates)
        return score.astype(np.float64)


@dataclass(frozen=True)
class Learnt:
    """Under which names something was learnt that is called otherwise now: of types, and of lists and rules by their stage."""

    types: tuple[tuple[str, str], ...] = ()
    # Stage, name of now, name that was learnt.
    makers: tuple[tuple[str, str, str], ...] = ()


AS_NOW = Learnt()


@dataclass(frozen=True)
class Weigher:
    """Weights by name, and the least probability with which a span is taken, as both were learnt."""

    weights: tuple[tuple[str, float], ...]
    least: float
    learnt: Learnt = AS_NOW

    @cached_property
    def fingerprint(self) -> str:
        return fingerprint("weigher", [self.weights, self.least, self.learnt.types, self.learnt.makers])

    def probabilities(self, batch: Batch, spans: SpanTable, beside: Beside = ALONE, /) -> Floats:
        """Of each row, 0 to 1; the same for rows that say the same."""
        seen = looks(batch, spans, beside, self.learnt)
        return _probability(seen.scores(dict(self.weights)))[seen.of_span]

    def explain(self, batch: Batch, spans: SpanTable, row: int, beside: Beside = ALONE) -> list[Part]:
        """What adds to the log odds of a span, the most first; they are the log odds together."""
        seen = looks(batch, spans, beside, self.learnt)
        weights = dict(self.weights)
        mine = np.flatnonzero(seen.row == seen.of_span[row])
        parts = [
            Part(name, value, weights[name] * value)
            for name, value in zip(
                (seen.names[k] for k in seen.name[mine].tolist()), seen.value[mine].tolist(), strict=True
            )
            if weights.get(name) and value
        ]
        return sorted(parts, key=lambda part: -abs(part.adds))

    def as_dict(self) -> dict[str, Any]:
        """For a file; `from_dict` reads it."""
        return {
            "least": self.least,
            "weights": dict(self.weights),
            "types": dict(self.learnt.types),
            "makers": [list(one) for one in self.learnt.makers],
        }

    @classmethod
    def from_dict(cls, values: object) -> Weigher:
        """Raises BadFile for anything that as_dict has not made."""
        if not isinstance(values, dict) or values.keys() != {"least", "weights", "types", "makers"}:
            raise _damaged()
        least, weights = values["least"], values["weights"]
        if not isinstance(weights, dict) or len(weights) > _MOST_WEIGHTS or not _is_number(least, 0, 1):
            raise _damaged()
        if not all(isinstance(name, str) and _is_number(value, -1e6, 1e6) for name, value in weights.items()):
            raise _damaged()
        types, makers = values["types"], values["makers"]
        if not isinstance(types, dict) or not isinstance(makers, list):
            raise _damaged()
        rows = [*([*pair] for pair in types.items()), *makers]
        if len(rows) > _MOST_WEIGHTS or not all(
            isinstance(row, list) and all(isinstance(name, str) for name in row) for row in rows
        ):
            raise _damaged()
        if any(len(row) != 3 for row in makers):
            raise _damaged()
        learnt = Learnt(tuple(sorted(types.items())), tuple(sorted((a, b, c) for a, b, c in makers)))
        return cls(
            tuple(sorted((name, float(value)) for name, value in weights.items())), float(least), learnt
        )


def _is_number(value: object, least: float, most: float) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool) and least <= value <= most


def _damaged() -> BadFile:
    return BadFile("These are not weights that Urdaten learnt.")


def looks(batch: Batch, spans: SpanTable, beside: Beside = ALONE, learnt: Learnt = AS_NOW) -> Looks:
    """What is seen of the candidates among spans, under the names that were learnt."""
    return _Looking(batch, spans, beside, learnt).looks()


class _Looking:
    """Finds what there is to see, one kind of thing after the other."""

    def __init__(self, batch: Batch, spans: SpanTable, beside: Beside, learnt: Learnt) -> None:
        self._batch, self._spans, self._beside = batch, spans, beside
        types = dict(learnt.types)
        self._types = [types.get(code, code) for code in spans.types]
        self._learnt = {(stage, now): name for stage, now, name in learnt.makers}
        by_code = np.argsort(np.argsort(np.array(spans.types, dtype=np.str_), kind="stable"))
        kind = by_code[spans.type] if len(spans) else spans.type
        columns = np.stack((spans.text, spans.start, spans.end, kind)).astype(np.int64)
        distinct, self._span, self._of_span = np.unique(
            columns, axis=1, return_index=True, return_inverse=True
        )
        self._of_span = self._of_span.reshape(-1)
        self._count = distinct.shape[1]
        self._text, self._start, self._end, _ = distinct
        self._kind = spans.type[self._span]
        self._first, self._last = batch.token_ranges(self._text, self._start, self._end)
        self._parts: list[tuple[NDArray[np.int64], NDArray[np.int64], Floats]] = []
        self._names: dict[str, int] = {}

    def looks(self) -> Looks:
        every = np.arange(self._count)
        self._see(every, np.zeros(self._count, dtype=np.int64), ["any span"])
        self._see(every, self._kind, self._types)
        if self._count:
            self._makers()
            self._lengths()
            self._others()
            self._elsewhere()
        none = np.zeros(0, dtype=np.int64)
        row, name, value = (
            np.concatenate([own, *(part[k] for part in self._parts)])
            for k, own in enumerate((none, none, np.zeros(0)))
        )
        return Looks(self._count, self._of_span, row, name, value, tuple(self._names), self._span)

    def _see(
        self,
        row: NDArray[np.integer],
        which: NDArray[np.integer],
        names: Sequence[str],
        value: Floats | None = None,
    ) -> None:
        """Of these candidates something with one of these names, once unless a value is given."""
        numbers = np.array(
            [self._names.setdefault(name, len(self._names)) for name in names] or [0], dtype=np.int64
        )
        made = np.ones(len(row)) if value is None else value
        self._parts.append((row.astype(np.int64), numbers[which], made))

    def _with_types(self, names: Sequence[str]) -> list[str]:
        return [f"{name}, {code}" for name in names for code in self._types]

    def _makers(self) -> None:
        """Who says it: the stage, its probability, the list or rule; and how many do."""
        spans = self._spans
        sources, types = len(spans.sources), len(spans.types)
        pair = np.unique(self._of_span * sources + spans.source)
        row, source = np.divmod(pair, sources)
        says = [f"said by {name}" for name in spans.sources]
        self._see(row, source, says)
        self._see(row, source * types + self._kind[row], self._with_types(says))
        self._sources = np.bincount(row, minlength=self._count)
        several = np.flatnonzero(self._sources > 1)
        self._see(several, np.minimum(self._sources[several], 3) - 2, ["two say it", "three say it"])

        self._odds = self._best_odds()
        for number in range(sources):
            own = self._odds[number]
            at = np.flatnonzero(~np.isnan(own))
            name = f"log odds of {spans.sources[number]}"
            self._see(at, np.zeros(len(at), dtype=np.int64), [name], own[at])
            self._see(at, self._kind[at], self._with_types([name]), own[at])

        named = np.array([bool(name) for name in spans.makers] or [False])[spans.maker]
        makers = len(spans.makers)
        triple = np.unique(((self._of_span * sources + spans.source) * max(1, makers) + spans.maker)[named])
        rest, maker = np.divmod(triple, max(1, makers))
        row, source = np.divmod(rest, sources)
        names = [
            f"said by {source}, “{self._learnt.get((source, maker), maker)}”"
            for source in spans.sources
            for maker in spans.makers
        ]
        self._see(row, source * makers + maker, names)

    def _best_odds(self) -> list[Floats]:
        """Of each source the log odds of each candidate, NaN where it gives none."""
        spans = self._spans
        found = []
        for number in range(len(spans.sources)):
            best = np.full(self._count, -1.0)
            rows = np.flatnonzero((spans.source == number) & ~np.isnan(spans.probability))
            np.maximum.at(best, self._of_span[rows], spans.probability[rows])
            found.append(np.where(best < 0, np.nan, _log_odds(best)))
        return found

    def _lengths(self) -> None:
        length = np.clip(self._last - self._first, 1, _MOST_TOKENS) - 1
        names = [f"{k + 1} tokens" for k in range(_MOST_TOKENS)]
        types = len(self._spans.types)
        self._see(np.arange(self._count), length, names)
        self._see(np.arange(self._count), length * types + self._kind, self._with_types(names))

    def _others(self) -> None:
        """What lies over it: who says that, and how sure they are."""
        one, other = self._pairs()
        same = (self._start[one] == self._start[other]) & (self._end[one] == self._end[other])
        longer = (self._start[other] <= self._start[one]) & (self._end[one] <= self._end[other])
        shorter = (self._start[one] <= self._start[other]) & (self._end[other] <= self._end[one])
        relation = np.where(same, 0, np.where(longer, 1, np.where(shorter, 2, 3)))
        spans = self._spans
        for number, name in enumerate(spans.sources):
            odds = self._odds[number]
            says = np.zeros(self._count, dtype=bool)
            says[self._of_span[spans.source == number]] = True
            if (~np.isnan(odds)).any():
                # Where nothing that it says lies over it, that counts as the least that there can be.
                best = np.full(self._count, _log_odds(np.zeros(1))[0])
                known = ~np.isnan(odds[other])
                np.maximum.at(best, one[known], odds[other[known]])
                every = np.arange(self._count)
                self._see(every, np.zeros_like(every), [f"log odds of what {name} has over it"], best)
            mine = says[other]
            pair = np.unique(one[mine] * len(_RELATIONS) + relation[mine])
            row, which = np.divmod(pair, len(_RELATIONS))
            self._see(row, which, [f"another of {name}, {how}" for how in _RELATIONS])

    def _pairs(self) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """Candidates of a text that lie over each other, both ways."""
        # Candidates are in order of text and start, so that those that begin within one follow it.
        size = int(self._end.max(initial=0)) + 1
        begin = self._text * size + self._start
        last = np.searchsorted(begin, self._text * size + self._end, side="left")
        count = np.maximum(last - np.arange(self._count) - 1, 0)
        left = np.repeat(np.arange(self._count), count)
        inside = np.arange(int(count.sum())) - np.repeat(np.cumsum(count) - count, count)
        right = left + 1 + inside
        return np.concatenate([left, right]), np.concatenate([right, left])

    def _elsewhere(self) -> None:
        """How often the same words are said to be this, and something else, elsewhere in the group."""
        batch = self._batch
        _, folded = batch.vocabulary.image(fold)
        group = group_numbers(self._beside, len(batch))[batch.text]
        length = self._last - self._first
        key = np.zeros(self._count, dtype=np.uint64)
        for size in np.unique(length[length > 0]).tolist():
            own = np.flatnonzero(length == size)
            key[own] = run_keys(folded[batch.word], group, size)[self._first[own]] ^ np.uint64(size)
        _, name = np.unique(key, return_inverse=True)
        # What is unlikely is not said.
        likely = np.ones(self._count, dtype=bool)
        if self._odds:
            odds = np.stack(self._odds)
            known = ~np.isnan(odds)
            best = np.where(known, odds, -np.inf).max(axis=0, initial=-np.inf)
            bare = self._sources > known.sum(axis=0)
            likely = bare | (best > 0)
        types = len(self._spans.types)
        rows = np.flatnonzero(likely)
        total = np.bincount(name[rows], minlength=int(name.max(initial=-1)) + 1)
        of_type = np.bincount(name[rows] * types + self._kind[rows], minlength=len(total) * types)
        # Those in its own place do not count.
        _, place = np.unique(np.stack((self._text, self._start, self._end)), axis=1, return_inverse=True)
        place = place.reshape(-1)
        here = np.bincount(place[rows], minlength=int(place.max(initial=-1)) + 1)[place]
        same = of_type[name * types + self._kind] - likely
        other = total[name] - here - same
        for counts, said in (
            (same, "the same words are it elsewhere"),
            (other, "the same words are another elsewhere"),
        ):
            at = np.flatnonzero(counts > 0)
            self._see(at, np.zeros(len(at), dtype=np.int64), [said], np.log1p(counts[at]))


def _log_odds(probability: Floats) -> Floats:
    held = np.clip(probability, _EDGE, 1 - _EDGE)
    return np.asarray(np.log(held / (1 - held)))


def _probability(score: Floats) -> Floats:
    return np.asarray(1 / (1 + np.exp(-np.clip(score, -30, 30))))
