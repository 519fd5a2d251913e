"""Wire models of rounds."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from urdaten.places.team.wire import Seen, Shown, Wire

MOST_NUMBER = 2**31 - 1
Number = Annotated[int, Field(ge=0, le=MOST_NUMBER)]


class RoundWish(Wire):
    """A round as it is to be."""

    name: str = Field(max_length=400)
    note: str = Field(default="", max_length=8000)
    priority: int = Field(default=1, ge=-MOST_NUMBER, le=MOST_NUMBER)
    suggestions: bool = True
    open: bool = True
    people: list[Number] = Field(
        default=[], max_length=1000, description="accounts that are asked; none for all"
    )
    texts: list[Number] = Field(default=[], max_length=100_000, description="texts to be put into it")
    keep_texts: bool = Field(default=True, description="the texts that it has stay in it")


class ChangedRoundWish(RoundWish):
    version: Seen


class AskedShown(Shown):
    """Somebody who can be asked to work in a round."""

    id: int
    name: str


class RoundShown(Shown):
    id: int
    version: int
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
