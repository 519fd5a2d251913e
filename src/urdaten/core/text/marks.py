"""Marks of words: small numbers by which texts that cannot hold a name are told from those that may."""

from __future__ import annotations

from collections.abc import Sequence
from hashlib import blake2b
from itertools import pairwise

import numpy as np

from urdaten.core.arrays import Ints
from urdaten.core.text.batch import Batch
from urdaten.core.text.fold import fold, without_accents
from urdaten.core.text.tokens import token_forms
from urdaten.core.text.vocabulary import FormColumn


def _marks(folds: Sequence[str]) -> Ints:
    # Two words may share one: then a text is looked at that need not have been.
    made = b"".join(blake2b(form.encode(errors="surrogatepass"), digest_size=4).digest() for form in folds)
    return np.frombuffer(made, dtype="<i4").astype(np.int32)


# Of each folded form.
_MARK = FormColumn(_marks)


def marks_of_texts(batch: Batch) -> list[list[int]]:
    """Of each text the marks of its words, ascending, each once; of a word with accents that without them, too."""
    folds, folded = batch.vocabulary.image(fold)
    form = folded[batch.word]
    bares, bare = folds.image(without_accents)
    mark, other = folds.column(_MARK)[form], bares.column(_MARK)[bare[form]]
    differs = np.flatnonzero(mark != other)
    text, mark = np.append(batch.text, batch.text[differs]), np.append(mark, other[differs])
    order = np.lexsort((mark, text))
    text, mark = text[order], mark[order]
    new = np.ones(len(mark), dtype=bool)
    new[1:] = (mark[1:] != mark[:-1]) | (text[1:] != text[:-1])
    bounds = np.searchsorted(text[new], np.arange(len(batch) + 1)).tolist()
    marks = mark[new].tolist()
    return [marks[a:b] for a, b in pairwise(bounds)]


def marks_of(words: str) -> list[int]:
    """The marks of a name's words: a text that holds the name, however it is written, has all of them."""
    return sorted(set(_marks([fold(form) for form in token_forms(words)]).tolist()))
