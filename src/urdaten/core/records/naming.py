"""What a name in a text is the name of: a list's entry, another name of the text, or a shortened form of either."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import regex

from urdaten.core.text import fold

# Of a surface and a type: the preferred name of the one entry that is written like this, or None.
Preferred = Callable[[str, str], str | None]
# With more entries than this a type's names are not searched for what a shortened one may stand for.
MOST_NAMES = 50_000
_WORD = regex.compile(r"[^\W_]+(?:['’][^\W_]+)*")
_SMALL = frozenset(("of", "the", "and", "a"))


@dataclass(frozen=True)
class Named:
    """A name, in full, and how it was found: "list", "short" of a list's entry, "text" short of another name, or "" as written."""

    name: str
    how: str = ""


class Names:
    """Names of entities by type, kept as they are found: the same words are looked up once."""

    def __init__(
        self,
        preferred: Preferred = lambda _surface, _type: None,
        entries: Mapping[str, Sequence[str]] | None = None,
    ) -> None:
        self._preferred = preferred
        self._entries = {} if entries is None else entries
        self._found: dict[tuple[str, str], Named] = {}
        self._by_letter: dict[str, dict[str, list[tuple[str, list[str]]]]] = {}

    def named(self, surface: str, type_: str) -> Named:
        """The entity that words of a type name."""
        key = (surface, type_)
        found = self._found.get(key)
        if found is None:
            found = self._found[key] = self._look_up(surface, type_)
        return found

    def _look_up(self, surface: str, type_: str) -> Named:
        plain = " ".join(surface.split())
        name = self._preferred(surface, type_)
        if name is not None:
            return Named(name, "list")
        fitting = {name for name, words in self._like(type_, plain) if is_short(_words(plain), words)}
        return Named(fitting.pop(), "short") if len(fitting) == 1 else Named(plain)

    def _like(self, type_: str, surface: str) -> list[tuple[str, list[str]]]:
        """Entries of a type that begin with the same letter."""
        index = self._by_letter.get(type_)
        if index is None:
            index = self._by_letter[type_] = {}
            names = self._entries.get(type_, ())
            for name in names if len(names) <= MOST_NAMES else ():
                if words := _words(name):
                    index.setdefault(words[0][0], []).append((name, words))
        words = _words(surface)
        return index.get(words[0][0], []) if words else []

    def in_text(self, surfaces: Sequence[str], type_: str) -> list[Named]:
        """As `named`, for the names of one type in a text, in its order: a name that no list has may be short for another one
        of the text; a bare number stands for the one before it with that number."""
        found = [self.named(surface, type_) for surface in surfaces]
        for k, one in enumerate(found):
            if one.how:
                continue
            if one.name.isdigit():
                if (numbered := self._numbered(found[:k], one.name, type_)) is not None:
                    found[k] = numbered
                continue
            words = _words(one.name)
            longer = {
                other.name
                for other in found
                if fold(other.name) != fold(one.name) and is_part(words, _words(other.name))
            }
            if len(longer) == 1:
                found[k] = Named(longer.pop(), "text")
        return found

    def _numbered(self, before: Sequence[Named], number: str, type_: str) -> Named | None:
        for other in reversed(before):
            stem = other.name.rstrip("0123456789")
            if stem != other.name and stem.strip():
                name = self._preferred(stem + number, type_)
                return Named(name, "text") if name is not None else None
        return None


def _words(name: str) -> list[str]:
    return [word for word in _WORD.findall(fold(name)) if word not in _SMALL]


def is_short(short: Sequence[str], full: Sequence[str]) -> bool:
    """Does each word have the letters of its counterpart, in their order, from the first one on? "corrie l", "northn thrift"."""
    if not short or len(short) != len(full) or list(short) == list(full):
        return False
    return all(word[0] == whole[0] and _within(word, whole) for word, whole in zip(short, full, strict=True))


def is_part(part: Sequence[str], full: Sequence[str]) -> bool:
    """Is it a run of the other's words, whole or cut short, or its first letters? "Lindmoor" of "Corrie Lindmoor", "NB"."""
    if not part or len(part) > len(full):
        return False
    if len(part) == 1 and len(full) > 1 and part[0] == "".join(word[0] for word in full):
        return True
    if len(part) == len(full):
        return is_short(part, full)
    for at in range(len(full) - len(part) + 1):
        if all(full[at + k].startswith(word) and len(word) > 2 for k, word in enumerate(part)):
            return True
    return False


def _within(word: str, whole: str) -> bool:
    letters = iter(whole)
    return all(letter in letters for letter in word)
