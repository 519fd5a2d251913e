"""Wire models of the lists place."""

from __future__ import annotations

from pydantic import Field

from urdaten.places.team.wire import Shown, Wire


class ListWish(Wire):
    name: str = Field(max_length=80)
    type: str
    on: bool = True


class ListShown(Shown):
    id: int
    name: str
    type: str
    on: bool
    entries: int
    finds: int = Field(description="places where the list finds a name in the project's texts")
    right: int = Field(description="of these, spans that stand in gold just so")
    judged: int = Field(description="finds that lie in signed sentences")


class EntryWish(Wire):
    preferred: str
    variants: list[str] = Field(default=[], max_length=200)
    note: str = Field(default="", max_length=2000)


class EntryShown(Shown):
    id: int
    preferred: str
    variants: list[str]
    note: str


class EntryPage(Shown):
    entries: list[EntryShown]
    next: int | None = Field(description="hand this back as `after` for the next page; null at the end")
