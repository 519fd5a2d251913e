"""Wire models of the texts place."""

from __future__ import annotations

from datetime import date
from typing import Annotated

from pydantic import Field

from urdaten.places.team.wire import Seen, Shown, Wire


class TextWish(Wire):
    """What is said of a text besides its body."""

    title: str = Field(max_length=200)
    group: str = Field(default="", max_length=200)
    dated: date | None = None
    split: str = Field(default="none", max_length=40)


class ChangedTextWish(TextWish):
    version: Seen


class NewTextWish(TextWish):
    # The body is kept to the letter: white space is part of it.
    body: str = Field(max_length=4_000_000, json_schema_extra={"maxLength": 1_000_000})


class AbbreviationsWish(Wire):
    words: list[Annotated[str, Field(max_length=100)]] = Field(
        max_length=5000, description="with or without their stop; all that the project has then"
    )


class AbbreviationsShown(Shown):
    own: list[str]
    suggested: list[str] = Field(description="found in the texts by how they stand, the surest first")
    split_anew: int = Field(description="texts whose sentences changed by this act")


class TextHead(Shown):
    id: int
    title: str
    group: str
    dated: date | None
    split: str
    opening: str = Field(description="the first line, shortened")
    sentences: int
    signed: int
    spans: int


class TextPage(Shown):
    texts: list[TextHead]
    next: int | None = Field(description="hand this back as `after` for the next page; null at the end")
    total: int


class SentenceState(Shown):
    id: int
    number: int
    start: int
    end: int
    state: str
    spans: int


class AsideShown(Shown):
    """Half-open bounds of what is not its writer's own."""

    start: int
    end: int


class TextShown(Shown):
    id: int
    title: str
    group: str
    dated: date | None
    split: str
    body: str
    version: int
    meta: dict[str, str] = Field(description="what its source said of it besides")
    source: str = Field(description="the file or address that it came from; empty for what was pasted")
    place: str = Field(description="where in it")
    aside: list[AsideShown] = Field(description="what is quoted from others, and signatures")
    sentences: int
    signed: int
    spans: int


class SentencePage(Shown):
    sentences: list[SentenceState]
    next: int | None = Field(description="hand this back as `after` for the next page; null at the end")
