"""Wire models of the lists place."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from urdaten.places.team.wire import Seen, Shown, Wire

Code = Annotated[str, Field(max_length=40, description="code of a type")]
Written = Annotated[str, Field(max_length=2000)]


class ListWish(Wire):
    name: str = Field(max_length=80)
    type: Code
    on: bool = True


class ChangedListWish(ListWish):
    version: Seen


class ListShown(Shown):
    id: int
    version: int
    name: str
    type: str
    on: bool
    entries: int
    finds: int = Field(description="places where the list finds a name in the project's texts")
    right: int = Field(description="of these, spans that stand in gold just so")
    judged: int = Field(description="finds that lie in signed sentences")


class EntryWish(Wire):
    preferred: Written
    variants: list[Written] = Field(default=[], max_length=200)
    note: str = Field(default="", max_length=2000)


class ChangedEntryWish(EntryWish):
    version: Seen


class EntryShown(Shown):
    id: int
    version: int
    preferred: str
    variants: list[str]
    note: str


class EntryPage(Shown):
    entries: list[EntryShown]
    next: int | None = Field(description="hand this back as `after` for the next page; null at the end")
