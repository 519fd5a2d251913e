"""Types for what an annotated corpus calls its labels."""

from __future__ import annotations

import string
import unicodedata
from collections.abc import Collection, Iterator, Sequence
from itertools import chain, combinations, product

from urdaten.places.types.acts.reading import HUES, EntityType, TypeDraft

_LONGEST_NAME = 80
_KEYS = string.ascii_lowercase + string.digits


def drafts_for(labels: Sequence[str], present: Sequence[EntityType]) -> list[TypeDraft]:
    """A type for each label, named as it is: with a free code made of its letters, a free key while there are any, and the hue
    that is farthest from those in use."""
    codes, keys = {one.code for one in present}, {one.key for one in present}
    hues = [one.hue for one in present]
    made = []
    for label in labels:
        letters = _letters(label)
        code = next(code for code in _codes(letters) if code not in codes)
        key = next((key for key in chain(letters.lower(), _KEYS) if key not in keys), "")
        hue = max(range(HUES), key=lambda one: (_distance(one, hues), -hues.count(one), -one))
        name = " ".join(label.replace("_", " ").split()) or label
        made.append(TypeDraft(code=code, name=name[:_LONGEST_NAME], key=key, hue=hue))
        codes.add(code)
        keys.add(key)
        hues.append(hue)
    return made


def _letters(label: str) -> str:
    """Its letters from A to Z, as capitals, without their accents."""
    return "".join(
        sign for sign in unicodedata.normalize("NFKD", label).upper() if sign in string.ascii_uppercase
    )


def _codes(letters: str) -> Iterator[str]:
    """Codes, those nearest to the letters first; never without end, and more than a scheme has types."""
    if 2 <= len(letters) <= 4:
        yield letters
    yield from (letters[0] + "".join(rest) for rest in combinations(letters[1:12], 2) if letters)
    for first in chain(letters[:1], string.ascii_uppercase):
        yield from (first + "".join(rest) for rest in product(string.ascii_uppercase, repeat=2))


def _distance(hue: int, used: Collection[int]) -> int:
    return min((min(abs(hue - other), HUES - abs(hue - other)) for other in used), default=HUES)
