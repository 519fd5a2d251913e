"""Wire models of findings."""

from __future__ import annotations

from datetime import date
from typing import Literal

from pydantic import Field

from urdaten.places.team.wire import Shown
from urdaten.places.texts.wire import FilterWish


class FindingsWish(FilterWish):
    """Whose spans, in which texts."""

    lane: str = Field(
        default="gold",
        max_length=40,
        description="gold of signed sentences, lists, rules, tagger, learned or together",
    )


class ValuesWish(FindingsWish):
    of: str = Field(max_length=40, description="code of a type")
    limit: int = Field(default=100, ge=1, le=1000)


class TimeWish(FindingsWish):
    of: str = Field(default="", max_length=40, description="code of a type; empty for all")
    named: str = Field(default="", max_length=1000, description="a value of it; empty for all")
    step: Literal["day", "week", "month", "year"] = "month"


class TogetherWish(FindingsWish):
    of: str = Field(max_length=40, description="code of the type in the rows")
    beside: str = Field(max_length=40, description="code of the type in the columns")
    scope: Literal["sentence", "text"] = "sentence"
    limit: int = Field(default=12, ge=1, le=40)


class CompareWish(FindingsWish):
    of: str = Field(default="", max_length=40, description="code of a type; empty to compare words")
    by: str = Field(max_length=220, description="split, group, source, month, or meta:NAME of metadata")
    one: str = Field(max_length=2000, description="value of the texts of the first slice")
    other: str = Field(default="", max_length=2000, description="that of the second; empty for all the rest")
    limit: int = Field(default=20, ge=1, le=200)


class ContextWish(FindingsWish):
    words: str = Field(default="", max_length=200, description="words to look for; empty to look for spans")
    of: str = Field(default="", max_length=40, description="code of a type")
    named: str = Field(default="", max_length=1000, description="a value of it; empty for all")
    rule: str = Field(default="", max_length=200, description="name of a rule that set the spans")
    sort: Literal["text", "left", "right", "words"] = "text"


class SentencesWish(FindingsWish):
    of: str = Field(max_length=40, description="code of a type")
    named: str = Field(default="", max_length=1000)
    beside: str = Field(default="", max_length=40, description="code of a type that stands in the same scope")
    beside_named: str = Field(default="", max_length=1000)
    scope: Literal["sentence", "text"] = "sentence"
    text: int | None = Field(default=None, ge=0, le=2**31 - 1, description="in this text alone")
    first: date | None = Field(default=None, description="texts dated from here on")
    last: date | None = Field(default=None, description="texts dated up to here")
    after: int | None = Field(default=None, ge=0, le=2**31 - 1)


class TableWish(FindingsWish):
    after: int | None = Field(default=None, ge=0, le=2**31 - 1)
    limit: int = Field(default=100, ge=1, le=500)


class TableFileWish(FindingsWish):
    format: Literal["csv", "xlsx"] = "csv"


class ValueCountShown(Shown):
    value: str
    spans: int
    sentences: int
    texts: int


class TypeSummaryShown(Shown):
    type: str
    spans: int
    values: int = Field(description="distinct ones")
    texts: int
    examples: list[ValueCountShown]


class SummaryShown(Shown):
    found: int = Field(description="texts that are meant")
    total: int = Field(description="texts of the project")
    looked: int = Field(description="texts that were looked at: a sample where there are many")
    types: list[TypeSummaryShown]


class ValuesShown(Shown):
    values: list[ValueCountShown] = Field(description="those in most spans first")
    total: int = Field(description="distinct values")
    spans: int


class StretchShown(Shown):
    since: date
    until: date
    spans: int


class TimeShown(Shown):
    bins: list[StretchShown]
    undated: int = Field(description="texts without a date, which are left out")


class TogetherShown(Shown):
    rows: list[str]
    columns: list[str]
    counts: list[list[int]]


class ContrastShown(Shown):
    name: str
    one: int
    other: int
    z: float


class CompareShown(Shown):
    one: list[ContrastShown] = Field(description="more frequent in the first slice, the most typical first")
    other: list[ContrastShown] = Field(description="more frequent in the second")
    one_texts: int
    other_texts: int
    most_read: int | None = Field(description="where words are compared: of more texts a sample was read")


class PlaceShown(Shown):
    text: int
    title: str
    sentence: int
    start: int
    before: str
    words: str
    after: str


class ContextShown(Shown):
    places: list[PlaceShown]
    more: bool = Field(description="there are more than are looked at")


class CellShown(Shown):
    type: str
    values: list[str]


class RowShown(Shown):
    id: int
    title: str
    group: str
    dated: date | None
    split: str
    meta: dict[str, str]
    cells: list[CellShown]


class TablePage(Shown):
    types: list[str] = Field(description="those that have a value in any of the texts that are meant")
    meta: list[str]
    rows: list[RowShown]
    next: int | None
