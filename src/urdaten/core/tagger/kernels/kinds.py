"""What kernels are handed: kinds of arrays, and columns that go together."""

from __future__ import annotations

from typing import NamedTuple

from urdaten.core.arrays import Bools, Floats, Ints


class Tokens(NamedTuple):
    """Sentences as a layout has them, and the features that tokens have of their own, by position.

    word (P,) · first and length (S,) · pointer (P + 1,) · column: position p has the features column[pointer[p]:pointer[p + 1]].
    """

    word: Ints
    first: Ints
    length: Ints
    pointer: Ints
    column: Ints


class Chain(NamedTuple):
    """Moves between labels as log scores, and the coding that says which there are.

    start (opening,) · dense (closing, opening) · step (n_moves within spans,) · closing (L,): 1 for labels that may end a
    sentence, else 0 · runs: first opening label, one past the last, first closing label, one past the last · moves
    (n_moves, 2): label before and after.
    """

    start: Floats
    dense: Floats
    step: Floats
    closing: Floats
    runs: Ints
    moves: Ints


class Slopes(NamedTuple):
    """Derivatives by the scores of moves, of the same shapes."""

    start: Floats
    dense: Floats
    step: Floats


class Columns(NamedTuple):
    """What is learnt from: words by position, sentences, labels as in corpus.Labels, and what words and tokens have."""

    word: Ints
    first: Ints
    length: Ints
    gold: Ints
    weight: Floats
    masks: Bools
    form_pointer: Ints
    form_column: Ints
    token_pointer: Ints
    token_column: Ints


class Codes(NamedTuple):
    """The coding as kernels take it; see kinds.Chain."""

    closing: Floats
    runs: Ints
    moves: Ints
