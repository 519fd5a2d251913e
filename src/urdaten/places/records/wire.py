"""Wire models of the records place."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import Field

from urdaten.places.desk.wire import StaveShown
from urdaten.places.team.wire import Seen, Shown, Wire

Kind = Literal["none", "name", "date", "time", "moment", "number", "quantity", "money", "code"]
Word = Annotated[str, Field(max_length=200)]


class FieldWish(Wire):
    """A field takes one value, of each of its types one span, or many."""

    name: str = Field(max_length=40)
    types: list[Annotated[str, Field(max_length=40)]] = Field(max_length=200)
    cues: list[Word] = Field(
        default=[], max_length=200, description="words that, before a span, claim it for this field"
    )
    required: bool = False
    description: str = Field(default="", max_length=1000)
    many: bool = Field(default=False, description="takes all values that belong there")
    shared: bool = Field(default=False, description="one span may fill it in several records")
    kind: Kind = Field(default="none", description="how its values are read")
    unit: str = Field(default="", max_length=40, description="UCUM or ISO 4217 code of a bare number")
    pattern: str = Field(default="", max_length=200, description="a regular expression, of codes")
    allowed: list[Word] = Field(default=[], max_length=1000, description="the only values that it may have")
    least: str = Field(default="", max_length=40)
    most: str = Field(default="", max_length=40)
    default: str = Field(default="", max_length=200, description="what it is when nothing fills it")
    default_from: str = Field(
        default="", max_length=80, description="the metadata that its default stands in"
    )


class TemplateWish(Wire):
    name: str = Field(max_length=80)
    anchor: str = Field(max_length=40, description="the field whose entities open records; empty for none")
    fields: list[FieldWish] = Field(max_length=60)
    description: str = Field(default="", max_length=2000)
    scope: Literal["sentence", "paragraph", "text"] = "text"
    each: Literal["entity", "mention"] = "entity"
    opens: list[Annotated[list[Annotated[str, Field(max_length=40)]], Field(max_length=60)]] = Field(
        default=[], max_length=20, description="groups of fields; a record has a value in one of each"
    )


class ChangedTemplateWish(TemplateWish):
    version: Seen


class SchemaWish(Wire):
    schema_document: dict[str, Any] = Field(description="a JSON Schema document, draft 2020-12")


class TemplateShown(Shown):
    id: int
    version: int
    name: str
    anchor: str
    fields: list[FieldWish]
    description: str
    scope: Literal["sentence", "paragraph", "text"]
    each: Literal["entity", "mention"]
    opens: list[list[str]]
    records: int
    open: int = Field(description="records that miss a required field")
    signed: int = Field(description="records that somebody has signed")
    learnt_records: int = Field(
        description="signed records that linking has learnt from; none of the test split"
    )
    stale: bool = Field(description="something has changed since the records were assembled")


class ValueShown(Shown):
    text: str = Field(description="in its open form: ISO 8601 or EDTF, figure and UCUM code, …")
    kind: str
    how: str = Field(description="how it was read from the words")
    fault: str = Field(description="why it was not, or what is wrong with it")


class SpeaksShown(Shown):
    words: str
    weight: float = Field(description="in log odds against the next best")


class PartShown(Shown):
    value: str
    written: str
    start: int
    end: int
    type: str
    source: str
    why: str
    probability: float | None
    speaks: list[SpeaksShown]
    against: str = Field(description="what it would be next; empty for no record")


class RivalShown(PartShown):
    field: str


class RecordShown(Shown):
    id: int
    text_id: int
    text_title: str
    values: dict[str, str]
    missing: list[str]
    looks: list[str] = Field(description="what there is to look at")
    state: Literal["found", "signed", "refused"]
    probability: float | None


class RecordPage(Shown):
    records: list[RecordShown]
    next: int | None = Field(description="hand this back as `after` for the next page; null at the end")


class RecordDetail(RecordShown):
    read: dict[str, list[ValueShown]] = Field(description="values with how they were read, by field")
    parts: dict[str, list[PartShown]]
    rivals: list[RivalShown]
    differs: dict[str, list[str]] = Field(description="by field what is signed and what would be found now")
    signed_at: datetime | None
    number: int = Field(description="its place among the records of its text, from 1")
    of_text: int = Field(description="how many records its text has")
    staves: list[StaveShown] = Field(description="the sentences that its values come from")


class LookCount(Shown):
    look: str
    words: str
    records: int


class ValueCount(Shown):
    value: str
    records: int


class FieldCounts(Shown):
    field: str
    values: list[ValueCount]


class RecordCounts(Shown):
    """What the records of a template are about."""

    looks: list[LookCount]
    fields: list[FieldCounts]
