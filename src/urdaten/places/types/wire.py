"""Wire models of the types place."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field

from urdaten.core.spans import Overlap
from urdaten.places.team.wire import Seen, Shown, Wire

Number = Annotated[int, Field(ge=0, le=2**31 - 1)]
Example = Annotated[str, Field(max_length=2000)]
Examples = Annotated[list[Example], Field(max_length=60)]
ValueKind = Literal["none", "name", "date", "time", "number", "quantity", "money", "code"]


class TypeWish(Wire):
    """What a lead says of an entity type."""

    code: str = Field(max_length=40, description="2 to 4 capital letters")
    name: str = Field(max_length=80)
    key: str = Field(
        max_length=40,
        description="one small letter or figure that marks with this type at the Desk; empty for none",
    )
    hue: Annotated[int, Field(ge=-(2**31), le=2**31 - 1)] = Field(
        description="a place in the fixed palette, 0 to 23"
    )
    definition: str = Field(default="", max_length=4000)
    counts: Examples = Field(default=[])
    counts_not: Examples = Field(default=[])
    rulings: Examples = Field(default=[], description="what was decided about hard cases")
    parent: Number | None = Field(default=None, description="the type that it is a kind of")
    value_kind: ValueKind = Field(default="none", description="how its values are normalised")


class ChangedTypeWish(TypeWish):
    version: Seen


class TypeShown(Shown):
    id: int
    version: int
    code: str
    name: str
    key: str
    hue: int
    definition: str
    counts: list[str]
    counts_not: list[str]
    rulings: list[str]
    parent: int | None
    value_kind: str
    spans: int = Field(description="gold spans of this type in the project")


class OverlapWish(Wire):
    """How spans of one sentence may stand to each other: apart, one within another, or anyhow."""

    overlap: Overlap


class SchemeShown(Shown):
    version: int
    overlap: Overlap
    types: list[TypeShown]


class TouchedShown(Shown):
    where: str = Field(description="the layer, or lists, rules, taggers, templates")
    noun: str
    count: int
    names: list[str]
    bars: bool = Field(description="has to be changed before the type can be retired")


class PreviewShown(Shown):
    """What a change would touch, and the version of the scheme that this was looked at in."""

    scheme: int
    touched: list[TouchedShown]
    bars: list[str] = Field(description="why it cannot be done yet; empty where it can")


class SchemeSeen(Wire):
    """The version of the scheme that you saw; another one is answered with 409."""

    scheme: Number


class MergeWish(SchemeSeen):
    into: Number


class StepShown(Shown):
    what: str = Field(
        description="added, changed, merged, retired, restored, or overlap for the scheme itself"
    )
    code: str | None
    into: str | None


class VersionShown(Shown):
    number: int
    digest: str
    who: str
    at: datetime
    types: int
    step: list[StepShown]


class FieldShown(Shown):
    """What a member of a type was, and what it is."""

    name: str
    was: str | int | list[str] | None
    now: str | int | list[str] | None


class DifferenceShown(Shown):
    code: str
    what: str = Field(description="added, gone or changed")
    fields: list[FieldShown]


class ComparisonShown(Shown):
    before: int
    after: int
    overlap_before: str
    overlap_after: str
    differences: list[DifferenceShown]
