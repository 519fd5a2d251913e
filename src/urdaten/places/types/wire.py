"""Wire models of the types place."""

from __future__ import annotations

from pydantic import Field

from urdaten.core.spans import Overlap
from urdaten.places.team.wire import Shown, Wire


class TypeWish(Wire):
    """What a lead says of an entity type."""

    code: str = Field(description="2 to 4 capital letters")
    name: str = Field(max_length=80)
    key: str = Field(description="one small letter or figure that marks with this type at the Desk")
    hue: int = Field(description="a place in the fixed palette, 0 to 23")
    definition: str = Field(default="", max_length=4000)
    counts: list[str] = Field(default=[], max_length=60)
    counts_not: list[str] = Field(default=[], max_length=60)
    rulings: list[str] = Field(default=[], max_length=60, description="what was decided about hard cases")


class TypeShown(Shown):
    id: int
    code: str
    name: str
    key: str
    hue: int
    definition: str
    counts: list[str]
    counts_not: list[str]
    rulings: list[str]
    spans: int = Field(description="gold spans of this type in the project")


class OverlapWish(Wire):
    """How spans of one sentence may stand to each other: apart, one within another, or anyhow."""

    overlap: Overlap


class SchemeShown(Shown):
    version: int
    overlap: Overlap
    types: list[TypeShown]
