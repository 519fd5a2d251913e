"""What lists are made of, and what a hit of theirs says of itself."""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

from urdaten.core.lists.options import AS_EVER, ListOptions
from urdaten.core.lists.ways import HYPHEN, PLURAL, POSSESSIVE
from urdaten.core.text import fold

# Beside how a way was made from what is written: a word of the text has a slip.
SLIP = 8
_HOW = {
    PLURAL: "in the plural",
    POSSESSIVE: "with another ’s",
    HYPHEN: "with hyphens as spaces",
    SLIP: "with a slip",
}


class Entry(NamedTuple):
    """One name of a list with the other ways it is written."""

    preferred: str
    variants: tuple[str, ...] = ()
    # Whoever keeps entries finds this one by it.
    number: int = 0


@dataclass(frozen=True, kw_only=True)
class NameList:
    """A list as the matcher needs it: its name, the type its names have, how they are looked for, and its entries."""

    name: str
    type: str
    entries: tuple[Entry, ...]
    options: ListOptions = AS_EVER


@dataclass(frozen=True)
class EntryReason:
    """The entry that a hit goes back to, and the way it is written there."""

    list: str
    preferred: str
    written: str
    # In what the text differs from that, in bits: PLURAL, POSSESSIVE, HYPHEN, SLIP.
    how: int = 0
    # Preferred names of the list's other entries that are written like this, in order.
    also: tuple[str, ...] = ()
    # The entry's number.
    entry: int = 0

    @property
    def words(self) -> str:
        said = f"list {self.list}, entry “{self.preferred}”"
        if fold(self.written) != fold(self.preferred):
            said += f", variant “{self.written}”"
        said += "".join(f", {words}" for bit, words in _HOW.items() if self.how & bit)
        return said + (f"; also {', '.join(f'“{name}”' for name in self.also)}" if self.also else "")
