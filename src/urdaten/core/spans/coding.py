"""Codings: spans as one label per token, and back.

BIO marks every beginning (Ramshaw and Marcus 1995, in the variant with a label for each beginning); BILOU
marks ends and spans of one token too. Labels are numbered so that those which may follow a finished span
("opening") and those which finish one ("closing") are two runs: inference then needs one dense product
and a short list of moves within spans, whatever the coding.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise
from typing import Literal, get_args

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Ints
from urdaten.core.spans.span import Span
from urdaten.core.text import Analysis

CodingKind = Literal["BIO", "BILOU"]
CODINGS: tuple[CodingKind, ...] = get_args(CodingKind)


@dataclass(frozen=True)
class Coding:
    """The labels of an ordered list of types. T = number of types.

    BIO: outside, T begin, T inside. BILOU: T begin, outside, T only, T last, T inside.
    """

    kind: CodingKind
    types: tuple[str, ...]

    @property
    def count(self) -> int:
        """Number of labels."""
        return len(self.types) * (2 if self.kind == "BIO" else 4) + 1

    @property
    def outside(self) -> int:
        return 0 if self.kind == "BIO" else len(self.types)

    @property
    def opening(self) -> tuple[int, int]:
        """Half-open run of the labels that may follow a finished span, "outside" among them."""
        return 0, len(self.types) * (1 if self.kind == "BIO" else 2) + 1

    @property
    def closing(self) -> tuple[int, int]:
        """Half-open run of the labels after which a span is finished or may be."""
        return (0, self.count) if self.kind == "BIO" else (len(self.types), 3 * len(self.types) + 1)

    def label(self, role: str, kind: int) -> int:
        """The label of type number `kind` in a role: begin, inside, last or only."""
        size = len(self.types)
        if self.kind == "BIO":
            return 1 + kind if role in ("begin", "only") else 1 + size + kind
        return {"begin": 0, "only": size + 1, "last": 2 * size + 1, "inside": 3 * size + 1}[role] + kind

    def labels_of(self, kind: int, length: int) -> list[int]:
        """The labels of a span of this many tokens."""
        if length == 1:
            return [self.label("only", kind)]
        inner = [self.label("inside", kind)] * (length - 2)
        return [self.label("begin", kind), *inner, self.label("last", kind)]

    @cached_property
    def moves(self) -> Ints:
        """Moves within spans, shape (n, 2): label before, label after."""
        pairs = set()
        for kind in range(len(self.types)):
            for before in ("begin", "inside"):
                for after in ("inside", "last"):
                    pairs.add((self.label(before, kind), self.label(after, kind)))
        return np.array(sorted(pairs), dtype=np.int32).reshape(-1, 2)

    @cached_property
    def roles(self) -> Ints:
        """Labels begin, inside, last and only of each type, shape (n_types, 4)."""
        names = ("begin", "inside", "last", "only")
        rows = [[self.label(role, kind) for role in names] for kind in range(len(self.types))]
        return np.array(rows, dtype=np.int32).reshape(-1, 4)

    @cached_property
    def steps(self) -> Ints:
        """Numbers among `moves` of begin → inside, begin → last, inside → inside and inside → last, (n_types, 4)."""
        number = {tuple(move): k for k, move in enumerate(self.moves.tolist())}
        pairs = ((0, 1), (0, 2), (1, 1), (1, 2))
        rows = [[number[(row[a], row[b])] for a, b in pairs] for row in self.roles.tolist()]
        return np.array(rows, dtype=np.int32).reshape(-1, 4)

    @cached_property
    def allowed(self) -> NDArray[np.bool_]:
        """May label j follow label i? Shape (count, count)."""
        allowed = np.zeros((self.count, self.count), dtype=bool)
        allowed[slice(*self.closing), slice(*self.opening)] = True
        allowed[self.moves[:, 0], self.moves[:, 1]] = True
        return allowed

    @cached_property
    def _kind(self) -> Ints:
        """Type number of each label, -1 for outside."""
        kind = np.full(self.count, -1, dtype=np.int32)
        kind[self.roles] = np.arange(len(self.types), dtype=np.int32)[:, None]
        return kind

    def name(self, label: int) -> str:
        """A label in words: "VES begins"."""
        kind = int(self._kind[label])
        if kind < 0:
            return "outside"
        words = {"begin": "begins", "inside": "inside"}
        if self.kind == "BILOU":
            words |= {"last": "ends", "only": "alone"}
        return next(
            f"{self.types[kind]} {word}" for role, word in words.items() if self.label(role, kind) == label
        )

    def encode(self, first: Ints, last: Ints, kind: Ints, count: int) -> Ints:
        """Labels of shape (count,) for spans of tokens [first, last) that do not overlap."""
        labels = np.full(count, self.outside, dtype=np.int32)
        lengths = (last - first).astype(np.int64)
        total = int(lengths.sum())
        at = np.arange(total) + np.repeat(first - (np.cumsum(lengths) - lengths), lengths)
        labels[at] = np.repeat(kind, lengths) + self.label("inside", 0)
        labels[last - 1] = kind + self.label("last", 0)
        labels[first] = kind + self.label("begin", 0)
        single = lengths == 1
        labels[first[single]] = kind[single] + self.label("only", 0)
        return labels

    def decode(self, labels: NDArray[np.integer], starts: NDArray[np.bool_]) -> tuple[Ints, Ints, Ints]:
        """Spans (first, one past last, type number) of labels, both of shape (n_tokens,).

        `starts` flags tokens that begin a sentence. Any sequence is read: an inside label that does not
        continue a span of its type begins one.
        """
        kind = self._kind[labels]
        held = kind >= 0
        size = len(self.types)
        opens = (labels > 0) & (labels <= size) if self.kind == "BIO" else labels <= 2 * size
        before = np.roll(kind, 1)
        ended = np.zeros(len(labels), dtype=bool)
        if self.kind == "BILOU":
            ended = np.roll((labels > size) & (labels <= 3 * size), 1)
        begins = held & (opens | starts | (before != kind) | ended)
        first = np.flatnonzero(begins)
        stops = np.append(np.flatnonzero(~held | begins), len(labels))
        last = stops[np.searchsorted(stops, first, side="right")] if len(first) else first
        return first.astype(np.int32), last.astype(np.int32), kind[first]


def span_ranges(
    spans: Sequence[Span], analysis: Analysis, types: Sequence[str]
) -> list[tuple[int, int, int]]:
    """Token ranges (first, one past last, type number) of spans, in order and without overlaps.

    Spans of other types and spans without a token are left out; of overlapping spans the longer one
    stays, the earlier one where lengths are equal.
    """
    number = {code: k for k, code in enumerate(types)}
    wanted = [span for span in spans if span.type in number]
    first, last = analysis.token_ranges([s.start for s in wanted], [s.end for s in wanted])
    found = zip(wanted, first.tolist(), last.tolist(), strict=True)
    ranges = sorted((a, b, span.start, span.end, span.type) for span, a, b in found if b > a)
    if any(one[1] > other[0] for one, other in pairwise(ranges)):
        ranges = _apart(ranges)
    return [(a, b, number[code]) for a, b, _, _, code in ranges]


def _apart(ranges: list[tuple[int, int, int, int, str]]) -> list[tuple[int, int, int, int, str]]:
    """The ranges (first token, one past the last, start, end, type) that are left when longer ones go first."""
    taken: set[int] = set()
    kept = []
    for one in sorted(ranges, key=lambda r: (r[2] - r[3], r[2], r[4])):
        tokens = range(one[0], one[1])
        if taken.isdisjoint(tokens):
            taken.update(tokens)
            kept.append(one)
    return sorted(kept)
