"""Word classes: words that stand between like words, learnt from running text without any gold.

Words are counted with the words right before and right after them; the counts are weighed as positive
pointwise mutual information, a truncated singular value decomposition makes short vectors of them, and
k-means on the unit sphere (Dhillon and Modha 2001) makes classes, from few to many.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Floats
from urdaten.core.tagger.corpus import GoldText
from urdaten.core.tagger.features import class_key
from urdaten.core.tagger.neighbours import Neighbours

# Tagging needs none of this, and should not wait for it to be loaded.
if TYPE_CHECKING:
    from scipy import sparse

LEVELS = (16, 64, 256)
DIMENSIONS = 40
# Words met less often say too little about where they stand.
LEAST_COUNT = 3
NEIGHBOURS = 1000
# So many of the commonest words are of a class at all.
MOST_WORDS = 100_000
# So many of the commonest words make the classes; rarer ones join the nearest.
LEADING = 2000
ROUNDS = 10
# Sums may differ in their last bits from run to run; what follows from them must not.
_NOISE = 1e-6
_DIGITS = 6


def learn_classes(neighbours: Neighbours, seed: int) -> dict[str, tuple[int, ...]]:
    """Class key → its class at each level, from coarse to fine. Too small a corpus has no classes.

    Same counts and seed, same classes.
    """
    from scipy import sparse

    before, after = neighbours.tables()
    count = np.asarray(before.sum(axis=1)).ravel()
    words = np.flatnonzero(count >= LEAST_COUNT)
    if len(words) <= LEVELS[0]:
        return {}
    # The commonest alone: the others would fill the file.
    words = np.sort(words[np.argsort(-count[words], kind="stable")[:MOST_WORDS]])
    frequent = np.sort(np.argsort(-count, kind="stable")[:NEIGHBOURS])
    # The last column of each side is the edge of a sentence.
    columns = np.append(frequent, len(neighbours.keys))
    table = sparse.hstack([before[words][:, columns], after[words][:, columns]]).tocsr()
    told = np.sort(np.argsort(-count[words], kind="stable")[:LEADING])
    vectors = _vectors(table, told, seed)
    levels = [_cluster(vectors, told, size, seed) for size in LEVELS if size <= len(told)]
    keys = neighbours.keys.forms
    classes = zip(*(level.tolist() for level in levels), strict=True)
    return {keys[word]: own for word, own in zip(words.tolist(), classes, strict=True)}


@dataclass(frozen=True, kw_only=True)
class WordClass:
    """One class, for reading: its commonest words, and the type that most of its marked words have."""

    number: int
    words: tuple[str, ...]
    # How many different words it holds.
    size: int
    type: str | None


def list_classes(
    classes: Mapping[str, Sequence[int]], texts: Sequence[GoldText], level: int = 1, most: int = 12
) -> list[WordClass]:
    """The classes of one level, those that say most about gold spans first.

    A class names a type when at least half of its occurrences in the texts stand in spans of that type.
    """
    count: Counter[str] = Counter()
    marked: dict[str, Counter[str]] = {}
    for text in texts:
        analysis = text.item.analysis
        keys, column = analysis.vocabulary.image(class_key)
        words = [keys.forms[k] for k in column[analysis.word].tolist()]
        count.update(words)
        for span in text.gold:
            first, last = analysis.token_range(span.start, span.end)
            for word in words[first:last]:
                marked.setdefault(word, Counter())[span.type] += 1
    members: dict[int, list[str]] = {}
    for word, levels in classes.items():
        members.setdefault(levels[min(level, len(levels) - 1)], []).append(word)
    found: list[tuple[float, WordClass]] = []
    for number, held in members.items():
        total = sum(count[word] for word in held)
        types: Counter[str] = sum((marked.get(word, Counter()) for word in held), Counter())
        code, times = types.most_common(1)[0] if types else ("", 0)
        common = sorted(held, key=lambda word: (-count[word], word))[:most]
        named = code if total and times >= total / 2 else None
        found.append((-times, WordClass(number=number, words=tuple(common), size=len(held), type=named)))
    return [one for _, one in sorted(found, key=lambda pair: (pair[0], pair[1].number))]


def _vectors(table: sparse.csr_array, told: NDArray[np.int64], seed: int) -> Floats:
    """Unit vectors of shape (n_words, at most DIMENSIONS), along the axes of the words `told`."""
    from scipy import sparse
    from scipy.sparse.linalg import svds

    total = table.sum()
    by_row = np.asarray(table.sum(axis=1)).ravel()
    # Rare neighbours seem more telling than they are; a power below one tempers that (Levy et al. 2015).
    by_column = np.asarray(table.sum(axis=0)).ravel() ** 0.75
    by_column = by_column / max(by_column.sum(), 1e-12) * total
    pairs = table.tocoo()
    value = np.log(pairs.data * total / (by_row[pairs.row] * by_column[pairs.col]))
    high = value > 0
    weighed = sparse.csr_array(
        (value[high], (pairs.row[high], pairs.col[high])), shape=table.shape, dtype=np.float64
    )
    leading = weighed[told]
    dimensions = min(DIMENSIONS, min(leading.shape) - 1)
    first = np.random.default_rng(seed).normal(size=min(leading.shape))
    _, size, axes = svds(leading, k=dimensions, v0=first)
    # Beyond the rank there is only noise, which would differ from run to run.
    real = size > _NOISE * size.max(initial=0)
    vectors = weighed @ (axes[real].T / np.sqrt(size[real]))
    # The sign of a singular vector is free; fix it, so that the same texts give the same classes.
    largest = np.round(np.abs(vectors), _DIGITS).argmax(axis=0)
    vectors *= np.sign(vectors[largest, np.arange(vectors.shape[1])])
    length = np.linalg.norm(vectors, axis=1, keepdims=True)
    return np.round(np.where(length > _NOISE, vectors / np.maximum(length, _NOISE), 0.0), _DIGITS)


def _apart(vectors: Floats, centre: Floats) -> Floats:
    return np.asarray(np.round(np.maximum(1 - vectors @ centre, 0), _DIGITS))


def _cluster(vectors: Floats, told: NDArray[np.int64], size: int, seed: int) -> NDArray[np.int64]:
    """Class of each vector, 0 … size − 1: that of the nearest centre of the classes of `told`."""
    centres = _centres(vectors[told], size, seed)
    return np.asarray(np.argmax(np.round(vectors @ centres.T, _DIGITS), axis=1))


def _centres(vectors: Floats, size: int, seed: int) -> Floats:
    """Centres (size, dimensions) of classes; the first ones lie far apart (Arthur and Vassilvitskii 2007)."""
    from scipy import sparse

    random = np.random.default_rng(seed)
    centres = np.empty((size, vectors.shape[1]))
    centres[0] = vectors[random.integers(len(vectors))]
    distance = _apart(vectors, centres[0])
    for k in range(1, size):
        total = np.cumsum(distance)
        at = np.searchsorted(total, random.random() * total[-1]) if total[-1] > 0 else k
        centres[k] = vectors[min(int(at), len(vectors) - 1)]
        distance = np.minimum(distance, _apart(vectors, centres[k]))
    home = np.zeros(len(vectors), dtype=np.int64)
    for _ in range(ROUNDS):
        new = np.argmax(np.round(vectors @ centres.T, _DIGITS), axis=1)
        if np.array_equal(new, home):
            break
        home = new
        ones = np.ones(len(home))
        sums = sparse.csr_array((ones, (home, np.arange(len(home)))), shape=(size, len(home))) @ vectors
        length = np.linalg.norm(sums, axis=1, keepdims=True)
        # An empty class keeps its old centre.
        centres = np.where(length > 0, sums / np.maximum(length, 1e-12), centres)
    return centres
