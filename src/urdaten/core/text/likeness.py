"""Texts that are nearly the same: by the shares of their runs of words, found without comparing every two.

Runs are reduced to sketches of minima, and texts whose sketches agree in a whole band are compared in full (Broder 1997, "On the
resemblance and containment of documents"; banding as in Leskovec, Rajaraman and Ullman, "Mining of Massive Datasets", chapter 3).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Ints
from urdaten.core.text.batch import batch_of
from urdaten.core.text.fold import fold

# Words in a run.
RUN = 3
# A pair with a likeness of 0.8 is missed once in five thousand, one of 0.9 never to speak of.
BANDS, IN_BAND = 16, 4
# Of those whose band is the same, each is compared with so many of the first and with the one before it.
_COMPARED = 5
_SEED = 20_260_706


@dataclass(frozen=True)
class Like:
    """A text, the earlier one that it is most like, and how much: the share of runs that both have among all that either has."""

    text: int
    earlier: int
    share: float


def like_earlier(bodies: Sequence[str], *, least: float = 0.8, since: int = 0) -> list[Like]:
    """Texts from number `since` on that share at least so much with an earlier one, in their order.

    Runs are of folded words, so that capitals and spaces do not count. A body without words is like none.
    """
    runs, bounds = _runs(bodies)
    if not len(runs):
        return []
    best: dict[int, Like] = {}
    for earlier, text in _candidates(_sketches(runs, bounds), bounds):
        if text < since:
            continue
        share = _share(runs[bounds[earlier] : bounds[earlier + 1]], runs[bounds[text] : bounds[text + 1]])
        held = best.get(text)
        if share >= least and (held is None or (share, -earlier) > (held.share, -held.earlier)):
            best[text] = Like(text, earlier, share)
    return [best[text] for text in sorted(best)]


def _runs(bodies: Sequence[str]) -> tuple[NDArray[np.uint64], Ints]:
    """Each text's distinct runs as hashes, in order; and the bounds of each text's, of shape (n_texts + 1,)."""
    batch = batch_of(bodies)
    _, image = batch.vocabulary.image(fold)
    # Numbers of words depend on what was met first; what is made of them compares within one call alone.
    words = image[batch.word].astype(np.uint64) + np.uint64(1)
    last = batch.first[1:][batch.text] - 1
    at = np.arange(len(words))
    mixed = np.zeros(len(words), dtype=np.uint64)
    for step in range(RUN):
        there = at + step
        # Past the end of a text there is no word.
        word = (
            np.where(there <= last, words[np.minimum(there, len(words) - 1)], np.uint64(0))
            if len(words)
            else words
        )
        mixed = _mix(mixed * np.uint64(0x9E3779B97F4A7C15) + word)
    sizes = np.diff(batch.first)
    # A text shorter than a run has one all the same.
    whole = (last - at >= RUN - 1) | ((at == batch.first[:-1][batch.text]) & (sizes[batch.text] < RUN))
    text, mixed = batch.text[whole], mixed[whole]
    order = np.lexsort((mixed, text))
    text, mixed = text[order], mixed[order]
    new = np.ones(len(text), dtype=bool)
    new[1:] = (text[1:] != text[:-1]) | (mixed[1:] != mixed[:-1])
    return mixed[new], np.searchsorted(text[new], np.arange(len(bodies) + 1))


def _mix(values: NDArray[np.uint64]) -> NDArray[np.uint64]:
    """Every bit of the result depends on every bit of the value (finaliser of a 64-bit hash, Steele et al. 2014)."""
    values = (values ^ (values >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
    values = (values ^ (values >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
    return values ^ (values >> np.uint64(31))


def _sketches(runs: NDArray[np.uint64], bounds: Ints) -> NDArray[np.uint64]:
    """Of each text that has runs, the smallest hash under each of so many orders; of shape (n_texts, BANDS * IN_BAND)."""
    # Runs are mixed well already: multiplying by an odd number puts them into another order.
    salts = np.random.default_rng(_SEED).integers(0, 2**63, BANDS * IN_BAND, dtype=np.uint64) * np.uint64(
        2
    ) + np.uint64(1)
    filled = np.flatnonzero(np.diff(bounds))
    sketches = np.zeros((len(bounds) - 1, len(salts)), dtype=np.uint64)
    for number, salt in enumerate(salts):
        sketches[filled, number] = np.minimum.reduceat(runs * salt, bounds[:-1][filled])
    return sketches


def _candidates(sketches: NDArray[np.uint64], bounds: Ints) -> list[tuple[int, int]]:
    """Pairs of texts that agree in a band, the earlier first, each pair once."""
    filled = np.flatnonzero(np.diff(bounds))
    pairs: list[NDArray[Any]] = []
    for band in range(BANDS):
        part = sketches[filled, band * IN_BAND : (band + 1) * IN_BAND]
        key = np.zeros(len(filled), dtype=np.uint64)
        for column in range(IN_BAND):
            key = _mix(key + part[:, column])
        order = np.argsort(key, kind="stable")
        key, text = key[order], filled[order]
        begins = (
            np.flatnonzero(np.append(True, key[1:] != key[:-1])) if len(key) else np.zeros(0, dtype=np.int64)
        )
        own = np.repeat(begins, np.diff(np.append(begins, len(key))))
        at = np.arange(len(key))
        for back in (np.full(len(key), -1), *(own + n for n in range(_COMPARED))):
            other = np.where(back < 0, at - 1, back)
            good = (other >= own) & (other < at)
            pairs.append(np.stack((text[other[good]], text[good]), axis=1))
    found = np.unique(np.concatenate(pairs), axis=0)
    return [(int(a), int(b)) for a, b in found]


def _share(one: NDArray[np.uint64], other: NDArray[np.uint64]) -> float:
    both = len(np.intersect1d(one, other, assume_unique=True))
    return both / (len(one) + len(other) - both)
