"""What lists are made of, and what a hit of theirs says of itself."""

from __future__ import annotations

from dataclasses import dataclass

from urdaten.core.text import fold


@dataclass(frozen=True, kw_only=True)
class Entry:
    """One name of a list with the other ways it is written."""

    preferred: str
    variants: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class NameList:
    """A list as the matcher needs it: its name, the type its names have, and its entries."""

    name: str
    type: str
    entries: tuple[Entry, ...]


@dataclass(frozen=True)
class EntryReason:
    """The entry that a hit goes back to, and the way it is written there."""

    list: str
    preferred: str
    written: str

    @property
    def words(self) -> str:
        said = f"list {self.list}, entry “{self.preferred}”"
        return said if fold(self.written) == fold(self.preferred) else f"{said}, variant “{self.written}”"
