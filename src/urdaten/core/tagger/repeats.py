"""How the same words were marked elsewhere in their text or its group, as evidence like that of lists.

A name that one sentence gives away is known in the others. While tagging, what a first pass finds is shown to a second
one; while training, gold of the other places stands in for it, of which a part is hidden, because a first pass does not
find everything either.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Ints
from urdaten.core.tagger.layout import Layout
from urdaten.core.text import run_keys

SOURCE = "repeats"
HIDDEN = 0.5
# Longer names are hardly ever written out twice.
LONGEST = 8


def with_repeats(
    layout: Layout,
    folded: Ints,
    found: tuple[Ints, Ints, Ints],
    kinds: int,
    source: int,
    hidden_by: np.random.Generator | None = None,
) -> Layout:
    """The layout with evidence wherever words stand that were marked elsewhere in the group of their text.

    folded numbers the folded form of each row of the lexicon. found are spans as columns: first token and one past the
    last, counted over all sentences, and type, one of `kinds`; source is the number of SOURCE among the sources of
    evidence. With `hidden_by` a share HIDDEN of the names is left out, a name of a group wholly or not at all.
    """
    first, last, kind = found
    size = last - first
    positions: list[Ints] = []
    what: list[Ints] = []
    for length in np.unique(size[size <= LONGEST]).tolist():
        key, whole = _keys(layout, folded, length)
        own = size == length
        place, type_of = first[own], kind[own]
        names, met, name = np.unique(key[place], return_index=True, return_inverse=True)
        if hidden_by is not None:
            # Drawn in the order in which names are met, so that it does not hang on how words are numbered.
            shown = np.empty(len(names), dtype=bool)
            shown[np.argsort(met)] = hidden_by.random(len(names)) >= HIDDEN
            place, type_of, name = place[shown[name]], type_of[shown[name]], name[shown[name]]
        times = np.zeros((len(names), kinds), dtype=np.int32)
        np.add.at(times, (name, type_of), 1)
        at = np.minimum(np.searchsorted(names, key), len(names) - 1)
        here = np.flatnonzero(whole & (names[at] == key))
        elsewhere = times[at[here]]
        # What a place says of itself is no evidence.
        row = np.searchsorted(here, place)
        np.subtract.at(elsewhere, (row, type_of), 1)
        row, marked = np.nonzero(elsewhere > 0)
        if not len(row):
            continue
        token = here[row][:, None] + np.arange(length)
        positions.append(layout.position[token].ravel())
        part = 2 * (source * kinds + marked[:, None]) + (np.arange(length) > 0)
        what.append(part.ravel())
    if not positions:
        return layout
    width = 2 * (source + 1) * kinds
    position, part = np.divmod(np.unique(np.concatenate(positions) * width + np.concatenate(what)), width)
    return replace(
        layout,
        evidence_position=np.append(layout.evidence_position, position),
        evidence_kind=np.append(layout.evidence_kind, part),
    )


def _keys(layout: Layout, folded: Ints, length: int) -> tuple[NDArray[np.uint64], NDArray[np.bool_]]:
    """By token: a number for its group and the words of this many tokens from it on, and whether they stand in one
    sentence."""
    position = layout.position
    whole = np.zeros(len(position), dtype=bool)
    end = len(position) - length + 1
    whole[:end] = position[length - 1 :] == position[:end] + length - 1
    return run_keys(folded[layout.word[position]], layout.group[layout.text[position]], length), whole
