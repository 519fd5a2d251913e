"""The general lexicon as a store of names: meanings, what falls under each, and every way to write it."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Ints
from urdaten.core.lexicon.reading import KINDS, Sense
from urdaten.core.text import fold
from urdaten.errors import BadFile

_BETWEEN, _WITHIN = "\0", "\1"
_KINDS = tuple(KINDS)
# Which of the meanings: single things that have names, kinds of things, or both.
SORTS = ("names", "words", "both")


@dataclass(frozen=True, kw_only=True)
class Narrower:
    """A meaning under which some of those in hand fall."""

    row: int
    # Of those in hand.
    count: int


class Senses:
    """Meanings by row, in the order of their numbers; each falls under wider ones.

    number (n,) int32; kind (n,) uint8, place in KINDS; is_name (n,) bool; the rows above row k are
    above[above_at[k]:above_at[k + 1]].
    """

    def __init__(
        self,
        number: Ints,
        kind: NDArray[np.uint8],
        is_name: NDArray[np.bool_],
        above: Ints,
        above_at: Ints,
        words: Sequence[str],
        meanings: Sequence[str],
    ) -> None:
        self.number, self.kind, self.is_name = number, kind, is_name
        self._above, self._above_at = above, above_at
        self._words, self._meanings = words, meanings

    @classmethod
    def of(cls, senses: Iterable[Sense]) -> Senses:
        """Of what `read_senses` gives; a wider meaning that is not among them is left out."""
        held = sorted(senses, key=lambda sense: sense.number)
        row = {sense.number: k for k, sense in enumerate(held)}
        above = [[row[number] for number in sense.above if number in row] for sense in held]
        return cls(
            np.array([sense.number for sense in held], dtype=np.int32),
            np.array([_KINDS.index(sense.kind) for sense in held], dtype=np.uint8),
            np.array([sense.is_name for sense in held], dtype=bool),
            np.array([k for rows in above for k in rows], dtype=np.int32),
            np.cumsum([0, *map(len, above)]).astype(np.int32),
            [_WITHIN.join(sense.words) for sense in held],
            [sense.meaning for sense in held],
        )

    def __len__(self) -> int:
        return len(self.number)

    def words(self, row: int) -> tuple[str, ...]:
        """Every way to write it, the commonest first."""
        return tuple(self._words[row].split(_WITHIN))

    def meaning(self, row: int) -> str:
        return self._meanings[row]

    def row_of(self, number: int) -> int | None:
        """None for a number that no meaning has."""
        row = int(np.searchsorted(self.number, number))
        return row if row < len(self) and self.number[row] == number else None

    def of_kind(self, place: int, sort: str) -> Ints:
        """Rows of a kind, by its place in KINDS."""
        return np.flatnonzero((self.kind == place) & self._is(sort)).astype(np.int32)

    def beneath(self, row: int, sort: str) -> Ints:
        """Rows of all that falls under a meaning, by whatever steps."""
        reached = np.zeros(len(self), dtype=bool)
        at = np.array([row], dtype=np.int32)
        while len(at):
            lengths = self._below_at[at + 1] - self._below_at[at]
            first = np.repeat(self._below_at[at], lengths)
            step = np.arange(len(first)) - np.repeat(np.cumsum(lengths) - lengths, lengths)
            below = np.unique(self._below[first + step])
            at = below[~reached[below]]
            reached[at] = True
        return np.flatnonzero(reached & self._is(sort)).astype(np.int32)

    def narrower(self, rows: Sequence[int] | Ints, most: int) -> list[Narrower]:
        """The meanings under which most of these fall directly, the largest first."""
        own = np.asarray(rows, dtype=np.int32)
        lengths = self._above_at[own + 1] - self._above_at[own]
        first = np.repeat(self._above_at[own], lengths)
        step = np.arange(len(first)) - np.repeat(np.cumsum(lengths) - lengths, lengths)
        count = np.bincount(self._above[first + step], minlength=len(self))
        largest = np.argsort(-count, kind="stable")[:most]
        return [Narrower(row=int(k), count=int(count[k])) for k in largest if count[k]]

    def search(self, words: str, most: int) -> list[int]:
        """Meanings that something falls under and that are written so: in just these words first, then those that begin so."""
        wanted = fold(" ".join(words.split()))
        if not wanted:
            return []
        has_below = np.diff(self._below_at)
        found = []
        for row, folded in self._folded:
            if wanted not in folded:
                continue
            ways = folded.split(_WITHIN)
            rank = 0 if wanted in ways else 1 if any(f" {wanted}" in f" {way}" for way in ways) else None
            if rank is not None:
                found.append((rank, -int(has_below[row]), row))
        return [row for *_, row in sorted(found)[:most]]

    def containing(self, rows: Ints, words: str) -> Ints:
        """Those of these rows that are written with these words somewhere."""
        wanted = fold(" ".join(words.split()))
        if not wanted:
            return rows
        return np.array([k for k in rows.tolist() if wanted in fold(self._words[k])], dtype=np.int32)

    def _is(self, sort: str) -> NDArray[np.bool_]:
        if sort == "both":
            return np.ones(len(self), dtype=bool)
        return self.is_name if sort == "names" else ~self.is_name

    @cached_property
    def _below_at(self) -> Ints:
        counts = np.bincount(self._above, minlength=len(self))
        return np.concatenate([[0], np.cumsum(counts)]).astype(np.int32)

    @cached_property
    def _below(self) -> Ints:
        below = np.repeat(np.arange(len(self), dtype=np.int32), np.diff(self._above_at))
        return below[np.argsort(self._above, kind="stable")]

    @cached_property
    def _folded(self) -> list[tuple[int, str]]:
        """Of every meaning that something falls under, how it is written."""
        rows = np.flatnonzero(np.diff(self._below_at)).tolist()
        return [(row, fold(self._words[row])) for row in rows]

    def to_bytes(self) -> bytes:
        """A zip archive of NumPy arrays."""
        made = io.BytesIO()
        arrays: dict[str, Any] = {
            "number": self.number,
            "kind": self.kind,
            "is_name": self.is_name,
            "above": self._above,
            "above_at": self._above_at,
            "words": _blob(self._words),
            "meanings": _blob(self._meanings),
        }
        np.savez_compressed(made, allow_pickle=False, **arrays)
        return made.getvalue()

    @classmethod
    def from_bytes(cls, data: bytes) -> Senses:
        """Read what to_bytes wrote, on this machine. Raises BadFile for what is no such file."""
        try:
            with np.load(io.BytesIO(data), allow_pickle=False) as held:
                arrays = {name: held[name] for name in held.files}
            return cls(
                arrays["number"],
                arrays["kind"],
                arrays["is_name"],
                arrays["above"],
                arrays["above_at"],
                _parts(arrays["words"]),
                _parts(arrays["meanings"]),
            )
        except (KeyError, ValueError, OSError, EOFError, zipfile.BadZipFile) as fault:
            raise BadFile(
                "These are no meanings that Urdaten wrote; install the general lexicon again."
            ) from fault


def _blob(parts: Sequence[str]) -> NDArray[np.uint8]:
    return np.frombuffer(_BETWEEN.join(parts).encode(), dtype=np.uint8)


def _parts(blob: NDArray[np.uint8]) -> list[str]:
    return blob.tobytes().decode().split(_BETWEEN)
