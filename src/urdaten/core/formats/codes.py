"""Codes of entity types, made of the words that they are called by."""

from __future__ import annotations

import string
import unicodedata
from collections.abc import Collection, Iterator
from itertools import chain, combinations, product


def free_code(words: str, taken: Collection[str]) -> str:
    """A code of 2 to 4 capital letters that is not taken: of the letters of these words, the nearest to their beginning."""
    return next(code for code in _codes(letters_of(words)) if code not in taken)


def letters_of(words: str) -> str:
    """Its letters from A to Z, as capitals, without their accents."""
    return "".join(
        sign for sign in unicodedata.normalize("NFKD", words).upper() if sign in string.ascii_uppercase
    )


def _codes(letters: str) -> Iterator[str]:
    """More than a scheme has types."""
    if 2 <= len(letters) <= 4:
        yield letters
    yield from (letters[0] + "".join(rest) for rest in combinations(letters[1:12], 2))
    for first in chain(letters[:1], string.ascii_uppercase):
        yield from (first + "".join(rest) for rest in product(string.ascii_uppercase, repeat=2))
