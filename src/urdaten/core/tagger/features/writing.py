"""How the forms of a vocabulary are written: shapes, outlines and capitals, found once for each form."""

from __future__ import annotations

import unicodedata
from collections.abc import Sequence
from functools import lru_cache

import numpy as np
import regex
from numpy.typing import NDArray

from urdaten.core.arrays import Ints
from urdaten.core.text import FormColumn, Vocabulary, fold

_RUNS = regex.compile(r"(.)\1+", regex.DOTALL)


class _Signs(dict[int, str]):
    """Code point → A, a, 9 or itself, found when first asked for."""

    def __missing__(self, code: int) -> str:
        category = unicodedata.category(chr(code))
        sign = {"Lu": "A", "Lt": "A", "Ll": "a", "Nd": "9"}.get(category, chr(code))
        self[code] = sign
        return sign


_SIGNS = _Signs()


def shape(form: str) -> str:
    """The form with capitals, small letters and figures each written as one sign: B12 → A99."""
    return form.translate(_SIGNS)


@lru_cache(maxsize=50_000)
def drawn_together(drawn: str) -> str:
    """A shape with every run of one sign drawn together: AaaA99 → Aa+A9+."""
    return str(_RUNS.sub(r"\1+", drawn))


def outline(form: str) -> str:
    """The shape of a form drawn together: Lindmoor → Aa+."""
    return drawn_together(shape(form))


def class_key(form: str) -> str:
    """What forms are of one class as: the folded form; of words with figures their outline."""
    return key_of_shape(shape(form)) or fold(form)


def key_of_shape(drawn: str) -> str:
    """The class key of forms of a shape with figures; nothing for shapes without."""
    return fold(drawn_together(drawn)) if any(sign.isdigit() for sign in drawn) else ""


def is_capital(form: str) -> bool:
    return form[:1].isupper()


def is_all_capitals(form: str) -> bool:
    """Is it written in capitals throughout, and longer than one sign?"""
    return len(form) > 1 and form.isupper()


CAPITAL, ALL_CAPITALS, WORD = 1, 2, 4


def _case(forms: Sequence[str]) -> NDArray[np.uint8]:
    first = [form[:1] for form in forms]
    bits = {sign: CAPITAL * is_capital(sign) | WORD * sign.isalpha() for sign in set(first)}
    own = np.fromiter(map(bits.__getitem__, first), dtype=np.uint8, count=len(forms))
    # A form in capitals throughout may begin with a sign that is none.
    upper = [number for number, form in enumerate(forms) if form.isupper() and is_all_capitals(form)]
    own[upper] |= ALL_CAPITALS
    return own


_CASE = FormColumn(_case)


class Writing:
    """The writing of every form that a vocabulary has now; columns of shape (n_forms,).

    folded numbers `folds`; shape numbers `shapes`, and outline numbers `outlines`; case has the bits CAPITAL (it begins with
    one), ALL_CAPITALS and WORD (it begins with a letter).
    """

    def __init__(self, vocabulary: Vocabulary) -> None:
        self.forms = vocabulary.forms
        self.folds, self.folded = vocabulary.image(fold)
        self.shapes, self.shape = vocabulary.image(shape)
        self.outlines, of_shapes = self.shapes.image(drawn_together)
        self.outline: Ints = of_shapes[self.shape]
        self.case: NDArray[np.uint8] = vocabulary.column(_CASE)
