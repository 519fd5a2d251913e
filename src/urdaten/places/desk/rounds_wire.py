"""Wire models of rounds."""

from __future__ import annotations

from pydantic import Field

from urdaten.places.team.wire import Shown, Wire


class RoundWish(Wire):
    """A round as it shall be."""

    name: str
    note: str = ""
    priority: int = 1
    suggestions: bool = True
    open: bool = True
    people: list[int] = Field(
        default=[], max_length=1000, description="accounts that are asked; none for all"
    )
    texts: list[int] = Field(default=[], max_length=100_000, description="texts to be put into it")
    keep_texts: bool = Field(default=True, description="the texts that it has stay in it")


class AskedShown(Shown):
    """Somebody who can be asked to work in a round."""

    id: int
    name: str


class RoundShown(Shown):
    id: int
    name: str
    note: str
    priority: int = Field(description="smaller numbers come first")
    suggestions: bool
    open: bool
    people: list[AskedShown] = Field(description="who is asked, by name; empty for everybody")
    texts: int
    sentences: int
    signed: int
    empty: int
    asked: int = Field(description="sentences with a question that has no answer yet")


class RoundsShown(Shown):
    rounds: list[RoundShown] = Field(description="open ones first, by priority")
    people: list[AskedShown] = Field(description="everybody who can be asked")
