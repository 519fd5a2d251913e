"""Names that may be of one thing: shortened, in initials, written another way."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

from urdaten.core.lists.slips import may_slip, one_slip
from urdaten.core.text import fold, token_forms, without_accents

# The nearest first: nothing but signs, case or accents differs; one slip; words in initials; words shortened; some words left
# out; the first letters of its words.
Kind = Literal["signs", "slip", "initials", "short words", "fewer words", "first letters"]
KINDS: tuple[Kind, ...] = ("signs", "slip", "initials", "short words", "fewer words", "first letters")
_SHORTEST_PART = 3
# Words that say nothing of which thing it is.
_LINKS = frozenset("and of the de la le von van for at on in".split())


@dataclass(frozen=True)
class Kin:
    """A name that may be of the same thing, by its place, and what speaks for it."""

    place: int
    kind: Kind


@lru_cache(maxsize=200_000)
def _words(name: str) -> tuple[str, ...]:
    """Its words, folded, without accents and signs."""
    found = (without_accents(fold(form)) for form in token_forms(name.replace("-", " ")))
    bare = ("".join(filter(str.isalnum, word)) for word in found if word not in ("'s", "s"))
    return tuple(word for word in bare if word)


def kinship(one: str, other: str) -> Kind | None:
    """What speaks for two names being of one thing, either of which may be the shorter; None for nothing."""
    short, long = sorted((_words(one), _words(other)), key=lambda words: (len("".join(words)), len(words)))
    if not short:
        return None
    if "".join(short) == "".join(long):
        return "signs"
    if _alike_but_slips(short, long):
        return "slip"
    if len(short) == len(long):
        if kind := _word_by_word(short, long):
            return kind
    elif _is_part(short, long):
        return "fewer words"
    return "first letters" if _are_first_letters(short, long) else None


def _alike_but_slips(one: Sequence[str], other: Sequence[str]) -> bool:
    if len(one) != len(other):
        return False
    differing = [(a, b) for a, b in zip(one, other, strict=True) if a != b]
    return len(differing) == 1 and all(
        may_slip(max(a, b, key=len)) and a.isalpha() and b.isalpha() and one_slip(a, b) for a, b in differing
    )


def _word_by_word(short: Sequence[str], long: Sequence[str]) -> Kind | None:
    """One word at least is the same; each other is an initial of its counterpart, or a shortening."""
    kinds: set[Kind] = set()
    same = 0
    for a, b in zip(short, long, strict=True):
        shorter, longer = sorted((a, b), key=len)
        if a == b:
            same += len(a) > 1
        elif len(shorter) == 1 and longer[0] == shorter:
            kinds.add("initials")
        elif len(shorter) >= 2 and _is_shortening(shorter, longer):
            kinds.add("short words")
        else:
            return None
    if not same or not kinds:
        return None
    return "short words" if "short words" in kinds else "initials"


def _is_shortening(short: str, long: str) -> bool:
    """The same first letter, and its letters in their order among those of the other, as bros of brothers."""
    if short[0] != long[0] or not short.isalpha() or len(short) >= len(long):
        return False
    letters = iter(long)
    return all(letter in letters for letter in short)


def _is_part(short: Sequence[str], long: Sequence[str]) -> bool:
    """Are its words the first or the last ones of the other, and more than links?"""
    if not any(len(word) >= _SHORTEST_PART and word not in _LINKS for word in short):
        return False
    return tuple(long[: len(short)]) == tuple(short) or tuple(long[-len(short) :]) == tuple(short)


def _are_first_letters(short: Sequence[str], long: Sequence[str]) -> bool:
    if len(short) > 1 and any(len(word) > 1 for word in short):
        return False
    letters = "".join(short)
    telling = [word for word in long if word not in _LINKS]
    return len(letters) >= 2 and letters in {"".join(w[0] for w in words) for words in (telling, long)}


class Kindred:
    """Names among which kin is looked for."""

    def __init__(self, names: Iterable[str]) -> None:
        self._names = tuple(names)
        self._by_word: dict[str, list[int]] = {}
        self._by_letters: dict[str, list[int]] = {}
        for place, name in enumerate(self._names):
            words = _words(name)
            for word in {*words, "".join(words), *_ends(words)}:
                self._by_word.setdefault(word, []).append(place)
            telling = [word for word in words if word not in _LINKS]
            for chosen in {"".join(w[0] for w in some) for some in (telling, words)}:
                self._by_letters.setdefault(chosen, []).append(place)

    def of(self, name: str, most: int = 5) -> list[Kin]:
        """The nearest kin of a name, at most so many; of one kind in the order of the names."""
        words = _words(name)
        asked = {*words, "".join(words), *_ends(words)}
        places = {place for word in asked for place in self._by_word.get(word, ())}
        places.update(self._by_letters.get("".join(words), ()))
        telling = [word for word in words if word not in _LINKS]
        for chosen in {"".join(w[0] for w in some) for some in (telling, words) if some}:
            places.update(self._by_word.get(chosen, ()))
        found = [
            Kin(place, kind)
            for place in sorted(places)
            if (kind := kinship(name, self._names[place])) is not None
        ]
        return sorted(found, key=lambda kin: KINDS.index(kin.kind))[:most]


def _ends(words: Iterable[str]) -> set[str]:
    """Of words long enough to have a slip, marks of their two first and two last letters, of which a slip leaves one as it is; no
    word looks like them."""
    return {mark for word in words if may_slip(word) for mark in (f"\0{word[:2]}", f"\1{word[-2:]}")}
