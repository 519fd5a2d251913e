"""Reads the noun data of a general lexicon, as Debian's package wordnet-base has it (its format: man 5 wndb)."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from urdaten.core.text import KINDS as KIND_NAMES
from urdaten.errors import BadFile

# Kinds of things, by the number that the data give them: they begin with 3.
KINDS = dict(enumerate(KIND_NAMES, start=3))
# What a wider meaning is to a kind of thing, and to one single thing, such as a city.
_ABOVE, _INSTANCE = "@", "@i"


@dataclass(frozen=True)
class Sense:
    """One meaning, with every way to write it."""

    # What the data call it for good.
    number: int
    # A key of KINDS.
    kind: int
    # Is it one single thing, such as a city, and not a kind of thing?
    is_name: bool
    # The commonest way to write it first.
    words: tuple[str, ...]
    # In words.
    meaning: str
    # Numbers of the wider meanings that it falls under directly.
    above: tuple[int, ...]


@dataclass(frozen=True)
class Noun:
    """One way to write one meaning."""

    words: str
    # A key of KINDS.
    kind: int
    # Is it the name of one single thing?
    is_name: bool


def read_senses(lines: Iterable[str]) -> Iterator[Sense]:
    """Every meaning. Raises BadFile with the number of a line that is amiss."""
    for number, line in enumerate(lines, start=1):
        # The licence stands first, each line behind two spaces.
        if line.startswith("  ") or not line.strip():
            continue
        try:
            data, _, meaning = line.partition(" | ")
            values = data.split()
            kind, count = int(values[1]), int(values[3], 16)
            words = values[4 : 4 + 2 * count : 2]
            pointers = values[5 + 2 * count :]
            # Each is a sign, a number and two more.
            ways = pointers[::4][: int(values[4 + 2 * count])]
            above = tuple(
                int(pointers[4 * place + 1]) for place, way in enumerate(ways) if way in (_ABOVE, _INSTANCE)
            )
            if kind not in KINDS or len(words) != count or not count:
                raise ValueError
            yield Sense(
                number=int(values[0]),
                kind=kind,
                is_name=_INSTANCE in ways,
                words=tuple(word.replace("_", " ") for word in words),
                meaning=meaning.strip(),
                above=above,
            )
        except (ValueError, IndexError) as fault:
            raise BadFile(f"Line {number}: this is no line of noun data.", line=number) from fault


def read_nouns(lines: Iterable[str]) -> Iterator[Noun]:
    """Every way to write every meaning. Raises BadFile with the number of a line that is amiss."""
    for sense in read_senses(lines):
        for words in sense.words:
            yield Noun(words, sense.kind, sense.is_name)
