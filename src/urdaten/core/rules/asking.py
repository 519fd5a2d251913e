"""Tests of tokens, answered for whole columns: what a form alone decides, once for each distinct form."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import cast

import numpy as np
import regex
from numpy.typing import NDArray

from urdaten.core.arrays import Bools, Ints
from urdaten.core.rules import tree
from urdaten.core.rules.faults import fail
from urdaten.core.rules.pattern import OutOfSteps, Pattern
from urdaten.core.text import FormColumn, Vocabulary, fold, fold_but_case
from urdaten.errors import BadPattern

# What a regular expression may take on one form: a sensible one takes some ten steps a sign.
STEPS_A_FORM = 2_000_000
STEPS_A_SIGN = 500
# So many forms are asked of at once.
_AT_ONCE = 2000
NO, YES, TOO_LONG = 0, 1, 2
_SHAPES: dict[str, regex.Pattern[str]] = {
    "capital": regex.compile(r"\p{Lu}[\p{M}]*(?:[\p{Ll}\p{M}]|[-'’&]\p{Lu}?)*"),
    "capitals": regex.compile(r"\p{Lu}[\p{Lu}\p{M}'’&-]*[\p{Lu}\p{M}]"),
    "small": regex.compile(r"[\p{Ll}\p{Lo}\p{M}]+(?:[-'’&][\p{Ll}\p{Lo}\p{M}]+)*"),
    "initial": regex.compile(r"\p{Lu}\p{M}*|(?:\p{Lu}\.)+\p{Lu}?"),
    "figure": regex.compile(r"[+-]?\p{Nd}+(?:[.,:'’/]\p{Nd}+)*"),
    "code": regex.compile(r"(?=.*\p{Nd})(?=.*\p{L})[\p{L}\p{Nd}./-]+"),
    "letters": regex.compile(r"[\p{L}\p{M}]+"),
    "sign": regex.compile(r"[^\p{L}\p{Nd}]+"),
}
_BITS = {name: 1 << k for k, name in enumerate(_SHAPES)}


def _shape_bits(form: str) -> int:
    return sum(_BITS[name] for name, pattern in _SHAPES.items() if pattern.fullmatch(form))


def shapes_of(form: str) -> list[tree.Shape]:
    """The shapes that a form has."""
    return [cast("tree.Shape", name) for name, pattern in _SHAPES.items() if pattern.fullmatch(form)]


def _column(value: Callable[[str], int]) -> FormColumn:
    return FormColumn(lambda forms: np.fromiter(map(value, forms), dtype=np.int32, count=len(forms)))


_SHAPE_COLUMN = _column(_shape_bits)
_LENGTH_COLUMN = _column(len)


def of_form(test: tree.Test) -> bool:
    """Does a token's form alone decide?"""
    match test:
        case tree.Within():
            return False
        case tree.Not(inner):
            return of_form(inner)
        case tree.AllOf(tests) | tree.OneOf(tests):
            return all(map(of_form, tests))
        case _:
            return True


@dataclass(frozen=True)
class Guarded:
    """A test as one of the form, and where the token has to lie, or must not, in the spans of sources."""

    form: tree.Test
    within: tuple[tuple[tree.Within, bool], ...]


def guarded(test: tree.Test) -> Guarded | None:
    """None for a test that is not so simple."""
    forms, within = [], []
    for one in test.tests if isinstance(test, tree.AllOf) else (test,):
        match one:
            case tree.Within():
                within.append((one, True))
            case tree.Not(tree.Within() as inner):
                within.append((inner, False))
            case _ if of_form(one):
                forms.append(one)
            case _:
                return None
    return Guarded(tree.AllOf(tuple(forms)) if forms else tree.Any(), tuple(within))


def ask_forms(test: tree.Test, vocabulary: Vocabulary) -> Bools:
    """A test that `of_form` is true of, for each form: shape (n_forms,)."""
    match test:
        case tree.Letters(form, exact):
            folds, number = vocabulary.image(fold_but_case if exact else fold)
            return np.asarray(number == folds.get(fold_but_case(form) if exact else fold(form)))
        case tree.OfShape(shape):
            return (vocabulary.column(_SHAPE_COLUMN) & _BITS[shape]) > 0
        case tree.Length(least, most):
            length = vocabulary.column(_LENGTH_COLUMN)
            return (length >= least) & (length <= most)
        case tree.Like(pattern):
            return np.asarray(vocabulary.column(_like(pattern)) == YES)
        case tree.Any():
            return np.ones(len(vocabulary), dtype=bool)
        case tree.Not(inner):
            return ~ask_forms(inner, vocabulary)
        case tree.AllOf(tests):
            return np.asarray(np.logical_and.reduce([ask_forms(one, vocabulary) for one in tests]))
        case tree.OneOf(tests):
            if alike := _alike(tests):
                return _among(alike, vocabulary)
            return np.asarray(np.logical_or.reduce([ask_forms(one, vocabulary) for one in tests]))
        case _:
            raise AssertionError(f"{test} is decided by more than the form")


def _alike(tests: Sequence[tree.Test]) -> list[str] | None:
    """The words, where all that is asked is whether it is one of some in any case."""
    words = [test.form for test in tests if isinstance(test, tree.Letters) and not test.exact]
    return words if len(words) == len(tests) else None


def _among(words: Sequence[str], vocabulary: Vocabulary) -> Bools:
    folds, number = vocabulary.image(fold)
    return np.isin(number, folds.find([fold(word) for word in words]))


@lru_cache(maxsize=512)
def _like(pattern: str) -> FormColumn:
    return FormColumn(lambda forms: _held(pattern_of_token(pattern, tree.NOWHERE), forms))


@lru_cache(maxsize=512)
def pattern_of_token(pattern: str, at: tree.At) -> Pattern:
    """Matches forms from end to end. Raises BadPattern, told of by the place of the expression in the rule."""
    return compiled(f"^(?:{pattern})$", at, shift=4)


def compiled(pattern: str, at: tree.At, shift: int = 0) -> Pattern:
    """A regular expression within a rule. Raises BadPattern with the place of the fault."""
    try:
        return Pattern(pattern, "")
    except BadPattern as fault:
        # The expression begins behind its stroke; what was put around it is not the writer's.
        offset = max(0, int(fault.detail.get("offset") or 0) - shift)
        place = tree.At(at.line, at.column + 1 + offset, at.start + 1 + offset, at.end)
        said = fault.message.removeprefix("The pattern of “” ").rsplit(", at character", 1)[0]
        fail(f"the regular expression {said}", place)


def _held(pattern: Pattern, forms: Sequence[str]) -> NDArray[np.uint8]:
    found = np.zeros(len(forms), dtype=np.uint8)
    for a in range(0, len(forms), _AT_ONCE):
        _hold(pattern, forms, a, min(len(forms), a + _AT_ONCE), found)
    return found


def _hold(pattern: Pattern, forms: Sequence[str], a: int, b: int, found: NDArray[np.uint8]) -> None:
    text = "\n".join(forms[a:b])
    # No form is worth more than it is worth alone, however many are asked of together.
    limit = STEPS_A_FORM + (STEPS_A_SIGN * len(text) if b - a == 1 else 0)
    try:
        marked = pattern.marked(text, limit)[0]
    except OutOfSteps:
        if b - a == 1:
            found[a] = TOO_LONG
            return
        half = (a + b) // 2
        _hold(pattern, forms, a, half, found)
        _hold(pattern, forms, half, b, found)
        return
    begins = np.cumsum([0, *(len(form) + 1 for form in forms[a:b])])[:-1]
    hit = np.isin(begins, marked[:, 0])
    found[a:b] = hit


def too_long(tests: Iterable[tree.Test], vocabulary: Vocabulary) -> Bools:
    """Forms that a regular expression of these tests took too long on: shape (n_forms,)."""
    found = np.zeros(len(vocabulary), dtype=bool)
    for test in tests:
        for pattern in _expressions(test):
            found |= vocabulary.column(_like(pattern)) == TOO_LONG
    return found


def _expressions(test: tree.Test) -> Iterator[str]:
    for part in parts_of(test):
        if isinstance(part, tree.Like):
            yield part.pattern


def parts_of(test: tree.Test) -> Iterator[tree.Test]:
    """A test and those that it is made of."""
    yield test
    match test:
        case tree.Not(inner):
            yield from parts_of(inner)
        case tree.AllOf(tests) | tree.OneOf(tests):
            for one in tests:
                yield from parts_of(one)
        case _:
            pass


def ask_tokens(
    test: tree.Test, word: Ints, vocabulary: Vocabulary, within: Callable[[tree.Within], Bools]
) -> Bools:
    """A test for each token of a column of words; `within` tells which of them are where in the spans of a source."""
    if of_form(test):
        return ask_forms(test, vocabulary)[word]
    match test:
        case tree.Within():
            return within(test)
        case tree.Not(inner):
            return ~ask_tokens(inner, word, vocabulary, within)
        case tree.AllOf(tests):
            return np.asarray(
                np.logical_and.reduce([ask_tokens(one, word, vocabulary, within) for one in tests])
            )
        case tree.OneOf(tests):
            return np.asarray(
                np.logical_or.reduce([ask_tokens(one, word, vocabulary, within) for one in tests])
            )
        case _:
            raise AssertionError(f"{test} is decided by its form")
