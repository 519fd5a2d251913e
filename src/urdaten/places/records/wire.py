"""Wire models of the records place."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from urdaten.places.desk.wire import StaveShown
from urdaten.places.team.wire import Seen, Shown, Wire


class FieldWish(Wire):
    """A field takes at most one span of each of its types."""

    name: str = Field(max_length=40)
    types: list[Annotated[str, Field(max_length=40)]] = Field(max_length=200)
    cues: list[Annotated[str, Field(max_length=200)]] = Field(
        default=[], max_length=200, description="words that, before a span, claim it for this field"
    )
    required: bool = False


class TemplateWish(Wire):
    name: str = Field(max_length=80)
    anchor: str = Field(
        max_length=40, description="the field of which each distinct value in a text makes one record"
    )
    fields: list[FieldWish] = Field(max_length=60)


class ChangedTemplateWish(TemplateWish):
    version: Seen


class TemplateShown(Shown):
    id: int
    version: int
    name: str
    anchor: str
    fields: list[FieldWish]
    records: int
    open: int = Field(description="records that miss a required field")
    stale: bool = Field(description="something has changed since the records were assembled")


class PartShown(Shown):
    value: str
    written: str
    start: int
    end: int
    type: str
    source: str
    why: str


class RivalShown(PartShown):
    field: str


class RecordShown(Shown):
    id: int
    text_id: int
    text_title: str
    values: dict[str, str]
    missing: list[str]


class RecordPage(Shown):
    records: list[RecordShown]
    next: int | None = Field(description="hand this back as `after` for the next page; null at the end")


class RecordDetail(RecordShown):
    parts: dict[str, list[PartShown]]
    rivals: list[RivalShown]
    staves: list[StaveShown] = Field(description="the sentences that its values come from")
