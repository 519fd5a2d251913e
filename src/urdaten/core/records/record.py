"""Records and what they are made of, as they leave the core."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

from urdaten.core.records.linker import Speaks
from urdaten.core.records.template import Template
from urdaten.core.spans import Span
from urdaten.core.values import Value

Fate = Literal["used", "rival", "open", "out"]


@dataclass(frozen=True, kw_only=True)
class Linked:
    """Why a span is where it is."""

    # How it stands to the anchor, in words of layout; "" for the anchor itself.
    place: str = ""
    # The words of its cue, if one stands before it.
    cue: str = ""
    # What spoke for it against the next best, the largest first; only where it was asked for.
    speaks: tuple[Speaks, ...] = ()
    # What the next best was: a field, and the entity's name; "" for belonging to none.
    against: str = ""


@dataclass(frozen=True, kw_only=True)
class Part:
    """One span's share in a value."""

    span: Span
    written: str
    value: Value
    # Of the link; None for the anchor, and for what follows from rules alone.
    probability: float | None = None
    why: Linked = Linked()


@dataclass
class Record:
    """Values per field, and the spans that they come from. Fields that nothing fills are absent."""

    template: Template
    # Name of the entity that it is of; "" where there is none.
    entity: str = ""
    parts: dict[str, list[Part]] = field(default_factory=dict)
    values: dict[str, list[Value]] = field(default_factory=dict)
    # Spans that would have filled a field that was already filled with another value.
    rivals: list[tuple[str, Part]] = field(default_factory=list)
    # That there is such a record.
    probability: float | None = None
    # Is it here though nothing was found that it could be of?
    anchorless: bool = False

    def value(self, name: str) -> str:
        """A field's value, several with a semicolon between; "" where there is none."""
        return "; ".join(value.text for value in self.values.get(name, ()))

    @property
    def missing(self) -> list[str]:
        return [f.name for f in self.template.fields if f.required and f.name not in self.values]


@dataclass(frozen=True, kw_only=True)
class Settled:
    """What became of a span that a template takes: used in a record, a rival in one, open (no record takes it in), or out of
    what records are about."""

    span: Span
    fate: Fate
    # Place among the text's records, for used and rival.
    record: int | None = None
    field: str = ""


@dataclass
class TextRecords:
    """The records of one text, in the order of their anchors, and what became of each span."""

    records: list[Record] = field(default_factory=list)
    fates: list[Settled] = field(default_factory=list)
