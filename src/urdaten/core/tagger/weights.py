"""Weights of one layer: dense while it is learnt, sparse rows once it is a tagger."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Floats, Ints
from urdaten.core.spans import Coding
from urdaten.core.tagger.kernels.kinds import Chain, Codes
from urdaten.core.tagger.kernels.scores import REACH, sum_sparse_rows

_PORTION = 4096


@dataclass(frozen=True)
class Moves:
    """Scores of moves between labels, as kernels take them, with the coding's run of labels.

    start (opening,) · dense (closing, opening) · step (n_moves within spans,).
    """

    start: Floats
    dense: Floats
    step: Floats

    @classmethod
    def zeros(cls, coding: Coding, kind: type[np.floating[Any]] = np.float32) -> Moves:
        wide = coding.opening[1] - coding.opening[0]
        tall = coding.closing[1] - coding.closing[0]
        return cls(np.zeros(wide, kind), np.zeros((tall, wide), kind), np.zeros(len(coding.moves), kind))

    def copy(self) -> Moves:
        return Moves(self.start.copy(), self.dense.copy(), self.step.copy())

    @property
    def arrays(self) -> tuple[Floats, Floats, Floats]:
        return self.start, self.dense, self.step

    def between(self, coding: Coding) -> NDArray[np.float64]:
        """All moves as one matrix (L, L); −inf where a move is not allowed."""
        full = np.full((coding.count, coding.count), -np.inf)
        full[slice(*coding.closing), slice(*coding.opening)] = self.dense
        full[coding.moves[:, 0], coding.moves[:, 1]] = self.step
        return full

    def first(self, coding: Coding) -> NDArray[np.float64]:
        """Scores of the first label, (L,); −inf where it may not stand."""
        full = np.full(coding.count, -np.inf)
        full[slice(*coding.opening)] = self.start
        return full


def codes_of(coding: Coding, kind: type[np.floating[Any]] = np.float32) -> Codes:
    """The coding as kernels take it."""
    return Codes(closing_labels(coding, kind), runs(coding), coding.moves)


def chain_of(moves: Moves, coding: Coding, kind: type[np.floating[Any]] = np.float32) -> Chain:
    """Moves and coding as kernels take them."""
    return Chain(*moves.arrays, *codes_of(coding, kind))


def closing_labels(coding: Coding, kind: type[np.floating[Any]] = np.float32) -> Floats:
    """1 for labels that may end a sentence, else 0; shape (L,)."""
    closing = np.zeros(coding.count, kind)
    closing[slice(*coding.closing)] = 1
    return closing


def rows_above(dense: Floats, least: float) -> NDArray[np.bool_]:
    """Flags of rows with any value of more than this size."""
    above = np.zeros(len(dense), dtype=bool)
    for at in range(0, len(dense), _PORTION):
        above[at : at + _PORTION] = (np.abs(dense[at : at + _PORTION]) > least).any(axis=1)
    return above


# Half a float and a narrow column.
_VALUE_BYTES = 4


def least_that_fits(dense: Sequence[Floats], least: float, size: float) -> float:
    """The smallest threshold, not below `least`, above which there are values of so many bytes at most, within a
    twentieth."""
    while True:
        count = sum(
            int((np.abs(array[at : at + _PORTION]) > least).sum())
            for array in dense
            for at in range(0, len(array), _PORTION)
        )
        if count * _VALUE_BYTES <= size:
            return least
        least = max(least * 1.05, 1e-4)


def runs(coding: Coding) -> Ints:
    """First opening label, one past the last, first closing label, one past the last."""
    return np.array([*coding.opening, *coding.closing], dtype=np.int64)


@dataclass(frozen=True)
class Weights:
    """Dense weights: forms (n_attributes, REACH · L), tokens (n_token_features, L), and moves.

    A form's weights for the token that stands j − WINDOW places after it are the columns j · L … (j + 1) · L.
    """

    forms: Floats
    tokens: Floats
    moves: Moves

    @classmethod
    def zeros(
        cls, attributes: int, features: int, coding: Coding, kind: type[np.floating[Any]] = np.float32
    ) -> Weights:
        return cls(
            np.zeros((attributes, REACH * coding.count), kind),
            np.zeros((features, coding.count), kind),
            Moves.zeros(coding, kind),
        )

    def copy(self) -> Weights:
        return Weights(self.forms.copy(), self.tokens.copy(), self.moves.copy())

    @property
    def arrays(self) -> tuple[Floats, Floats, Floats, Floats, Floats]:
        return (self.forms, self.tokens, *self.moves.arrays)


@dataclass(frozen=True)
class SparseRows:
    """A matrix with few values: row r has column[pointer[r]:pointer[r + 1]] and value likewise."""

    pointer: Ints
    column: NDArray[np.integer[Any]]
    value: Floats

    def __post_init__(self) -> None:
        # A tagger read from a file has read-only arrays; kernels are compiled once for that kind.
        for array in (self.pointer, self.column, self.value):
            array.flags.writeable = False

    @classmethod
    def of(cls, dense: Floats, rows: Sequence[int] | Ints, least: float) -> SparseRows:
        """The given rows, without values smaller than `least`."""
        chosen = np.asarray(rows, dtype=np.int64)
        narrow = np.uint16 if dense.shape[1] < 2**16 else np.int32
        counts: list[Ints] = []
        columns: list[NDArray[np.integer[Any]]] = []
        values: list[Floats] = []
        # A part at a time: as a whole, what stands between would be as large as the weights themselves.
        for at in range(0, len(chosen), _PORTION):
            picked = dense[chosen[at : at + _PORTION]]
            held = np.abs(picked) > least
            counts.append(held.sum(axis=1))
            columns.append(np.nonzero(held)[1].astype(narrow))
            # Kept in half precision, which changes scores by less than a thousandth; summed in single.
            values.append(picked[held].astype(np.float16).astype(np.float32))
        pointer = np.zeros(len(chosen) + 1, dtype=np.int64)
        if counts:
            np.cumsum(np.concatenate(counts), out=pointer[1:])
        return cls(
            pointer,
            np.concatenate([np.zeros(0, dtype=narrow), *columns]),
            np.concatenate([np.zeros(0, dtype=np.float32), *values]),
        )

    def row(self, number: int) -> dict[int, float]:
        """Values of one row by column."""
        at = slice(int(self.pointer[number]), int(self.pointer[number + 1]))
        return dict(zip(self.column[at].tolist(), self.value[at].tolist(), strict=True))

    def dense(self, width: int) -> NDArray[np.float32]:
        """The matrix as it would be written out."""
        full = np.zeros((len(self.pointer) - 1, width), dtype=np.float32)
        full[np.repeat(np.arange(len(full)), np.diff(self.pointer)), self.column] = self.value
        return full

    def sums(self, pointer: Ints, column: Ints, rows: Ints, width: int) -> Floats:
        """Sums of rows: out[i] is that of the rows which column[pointer[rows[i]]:…] names."""
        out = np.empty((len(rows), width), dtype=np.float32)
        sum_sparse_rows(pointer, column, self.pointer, self.column, self.value, rows, out)
        return out
