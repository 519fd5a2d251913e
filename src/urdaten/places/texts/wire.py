"""Wire models of the texts place."""

from __future__ import annotations

from datetime import date, datetime
from typing import Annotated, Literal

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


class TextCount(Shown):
    total: int = Field(description="texts of the project")
    found: int = Field(description="texts that fit what was asked for")


class FilterWish(Wire):
    """Which texts: everything that is said has to hold, and what is empty says nothing."""

    search: str = Field(
        default="",
        max_length=200,
        description='words of title or body by their beginnings, in any order; "in quotes" letter by letter',
    )
    split: str = Field(default="", max_length=40)
    group: str = Field(default="", max_length=200)
    source: str = Field(default="", max_length=2000, description="file or address that it came from")
    since: date | None = None
    until: date | None = None
    state: str = Field(default="", max_length=40, description="signed, partly signed, not signed or asked")
    type: str = Field(default="", max_length=40, description="code of a type that has a gold span in it")
    value: str = Field(default="", max_length=1000, description="the very words of that span")
    meta: list[Annotated[str, Field(max_length=4400)]] = Field(
        default=[], max_length=20, description="NAME=VALUE of what its source says of it"
    )
    lacks: list[Literal["group", "dated", "source"]] = Field(
        default=[], max_length=3, description="what it does not have"
    )


class FacetValue(Shown):
    value: str = Field(description="empty for texts without one")
    texts: int


class FacetShown(Shown):
    values: list[FacetValue] = Field(description="the most frequent ones first")
    more: bool


class MetaNames(Shown):
    names: list[str]


class SomeTexts(Wire):
    """Texts by their numbers, or all that fit a filter."""

    texts: list[Annotated[int, Field(ge=1, le=2**31 - 1)]] | None = Field(default=None, max_length=100_000)
    filter: FilterWish | None = None
    expected: int | None = Field(
        default=None,
        ge=0,
        le=2**31 - 1,
        description="how many texts you saw that fit; others are answered with 409",
    )


class ChangeTextsWish(SomeTexts):
    """What becomes of each; null leaves a thing as it is."""

    group: str | None = Field(default=None, max_length=200)
    split: str | None = Field(default=None, max_length=40)
    dated: date | None = None
    undated: bool = Field(default=False, description="takes the date away")
    meta: dict[Annotated[str, Field(max_length=200)], Annotated[str, Field(max_length=4000)] | None] = Field(
        default={}, max_length=100, description="by name; null takes it away"
    )


class TextActShown(Shown):
    id: int
    kind: str
    texts: int
    at: datetime
    undone: bool


class LatestTextAct(Shown):
    act: TextActShown | None = Field(description="the last one that can be undone")


class UndoneShown(Shown):
    texts: int = Field(description="those that are as before")
    left: int = Field(description="those that stay, because they have changed or come again since")


class BinnedShown(Shown):
    id: int
    title: str
    sentences: int
    signed: int
    at: datetime
    who: str


class BinShown(Shown):
    texts: list[BinnedShown] = Field(description="the last ones first, no more than 500")
    total: int


class BinWish(Wire):
    texts: list[Annotated[int, Field(ge=1, le=2**31 - 1)]] | None = Field(
        default=None, max_length=100_000, description="all of them unless said"
    )


class DeletedShown(Shown):
    deleted: int


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
    aside_annotated: bool = Field(description="has sentences there, to be annotated like others")
    sentences: int
    signed: int
    spans: int


class AsideWish(Wire):
    annotated: bool = Field(description="what is quoted from others, and signatures, like the rest")


class SentencePage(Shown):
    sentences: list[SentenceState]
    next: int | None = Field(description="hand this back as `after` for the next page; null at the end")
