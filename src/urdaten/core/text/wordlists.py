"""Which words stand in which text, whatever their case and order: what an index of texts is made of."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import regex

from urdaten.core.arrays import Ints
from urdaten.core.text.batch import Batch, batch_of
from urdaten.core.text.fold import fold

_PIECES = regex.compile(r"[\p{L}\p{M}\p{N}]+")


def word_lists(batch: Batch) -> tuple[Sequence[str], list[Ints]]:
    """Distinct folded forms of a batch, and of each text the ascending numbers of those that stand in it."""
    names, image = batch.vocabulary.image(fold)
    size = max(1, len(names))
    pairs = np.unique(batch.text.astype(np.int64) * size + image[batch.word])
    bounds = np.searchsorted(pairs, np.arange(len(batch) + 1, dtype=np.int64) * size)
    numbers = (pairs % size).astype(np.int32)
    return names.forms, [numbers[bounds[k] : bounds[k + 1]] for k in range(len(batch))]


def word_counts(batch: Batch) -> dict[str, int]:
    """How often each folded form with letters or digits in it stands in a batch."""
    names, image = batch.vocabulary.image(fold)
    counts = np.bincount(image[batch.word], minlength=len(names))
    return {
        form: count
        for form, count in zip(names.forms, counts.tolist(), strict=True)
        if count and index_words(form)
    }


def index_words(form: str) -> list[str]:
    """As what a folded form is found: as itself, and by the runs of letters and digits in it; as nothing if it has none."""
    pieces = _PIECES.findall(form)
    return pieces if not pieces or pieces[0] == form else [form, *pieces]


def searched_word(typed: str) -> str | None:
    """The one folded form that somebody typed; None where it is several, or has no letters and digits."""
    forms, _ = word_lists(batch_of([typed]))
    return forms[0] if len(forms) == 1 and index_words(forms[0]) else None
