"""Reads the noun data of a general lexicon, as Debian's package wordnet-base has it (its format: man 5 wndb)."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from urdaten.errors import BadFile

# Kinds of things, by the number that the data give them.
KINDS = {
    3: "top",
    4: "act",
    5: "animal",
    6: "artefact",
    7: "quality",
    8: "body",
    9: "thought",
    10: "message",
    11: "event",
    12: "feeling",
    13: "food",
    14: "group",
    15: "place",
    16: "motive",
    17: "object",
    18: "person",
    19: "phenomenon",
    20: "plant",
    21: "possession",
    22: "process",
    23: "quantity",
    24: "relation",
    25: "shape",
    26: "state",
    27: "substance",
    28: "time",
}
# Says of a meaning that it is one single thing, such as a city, and not a kind of thing.
_INSTANCE = "@i"


@dataclass(frozen=True)
class Noun:
    """One way to write one meaning."""

    words: str
    # A key of KINDS.
    kind: int
    # Is it the name of one single thing?
    is_name: bool


def read_nouns(lines: Iterable[str]) -> Iterator[Noun]:
    """Every way to write every meaning. Raises BadFile with the number of a line that is amiss."""
    for number, line in enumerate(lines, start=1):
        # The licence stands first, each line behind two spaces.
        if line.startswith("  ") or not line.strip():
            continue
        try:
            values = line.split(" | ", 1)[0].split()
            kind, count = int(values[1]), int(values[3], 16)
            words = values[4 : 4 + 2 * count : 2]
            pointers = values[5 + 2 * count :: 4][: int(values[4 + 2 * count])]
            if kind not in KINDS or len(words) != count or not count:
                raise ValueError
        except (ValueError, IndexError) as fault:
            raise BadFile(f"Line {number}: this is no line of noun data.", line=number) from fault
        for word in words:
            yield Noun(word.replace("_", " "), kind, _INSTANCE in pointers)
