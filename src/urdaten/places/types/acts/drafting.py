"""Types for what an annotated corpus calls its labels."""

from __future__ import annotations

import string
from collections.abc import Collection, Sequence
from itertools import chain

from urdaten.core.formats import free_code, letters_of
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
        letters = letters_of(label)
        code = free_code(label, codes)
        key = next((key for key in chain(letters.lower(), _KEYS) if key not in keys), "")
        hue = max(range(HUES), key=lambda one: (_distance(one, hues), -hues.count(one), -one))
        name = " ".join(label.replace("_", " ").split()) or label
        made.append(TypeDraft(code=code, name=name[:_LONGEST_NAME], key=key, hue=hue))
        codes.add(code)
        keys.add(key)
        hues.append(hue)
    return made


def _distance(hue: int, used: Collection[int]) -> int:
    return min((min(abs(hue - other), HUES - abs(hue - other)) for other in used), default=HUES)
