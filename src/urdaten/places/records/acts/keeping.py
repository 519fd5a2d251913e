"""How records are kept: values, parts, and what there is to look at in them, as plain values."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

from urdaten.core.records import Part, Record, why_words
from urdaten.core.text import fold
from urdaten.core.values import Value, fault_words, value_words_of

# What there is to look at in a record, and what it is called.
LOOKS = {
    "missing": "lack a field that they need",
    "no anchor": "are of nothing that was found",
    "two values": "have two values for one field",
    "unread": "have words that could not be read",
    "out of range": "have a value out of range",
    "not allowed": "have a value that is not allowed",
    "unsure": "are unsure",
    "differs": "would be found otherwise now",
    "new": "were found where all was signed",
}
# A link or a record that is less probable is to be looked at.
_SURE = 0.6
# So many things that spoke for a link are kept.
_TOLD = 6
_BOUNDS = ("out of range", "not allowed")


def value_kept(value: Value) -> dict[str, Any]:
    """A value as it is kept: what it is, how it was read, and by what it is sorted."""
    return {
        "text": value.text,
        "kind": value.kind,
        "how": value_words_of(value),
        "fault": fault_words(value.fault) if value.fault else "",
        "sort": _sort_key(value),
    }


def _sort_key(value: Value) -> str:
    """Text that lies in the order of values: numbers by size, others by their folded text."""
    number = value.low if value.low is not None else value.high
    if number is None or value.kind not in ("number", "quantity", "money"):
        return fold(value.text)
    # Ten figures before the point are more than anybody weighs; what is below nought comes before.
    shifted = number + Decimal(10) ** 15
    return f"{value.unit} {shifted:025.6f}" if value.unit else f"{shifted:025.6f}"


def part_kept(part: Part, anchor: str) -> dict[str, Any]:
    return {
        "value": part.value.text,
        "written": part.written,
        "start": part.span.start,
        "end": part.span.end,
        "type": part.span.type,
        "source": part.span.source,
        "why": why_words(part.why, anchor),
        "probability": part.probability,
        "speaks": [{"words": one.words(), "weight": round(one.weight, 3)} for one in part.why.speaks[:_TOLD]],
        "against": part.why.against,
    }


def looks_of(record: Record) -> list[str]:
    """Names of LOOKS."""
    faults = {value.fault for values in record.values.values() for value in values if value.fault}
    chances = [p.probability for parts in record.parts.values() for p in parts if p.probability is not None]
    chances += [record.probability] if record.probability is not None and not record.anchorless else []
    found = {
        "missing": bool(record.missing) and not record.anchorless,
        "no anchor": record.anchorless,
        "two values": bool(record.rivals),
        "unread": bool(faults - set(_BOUNDS)),
        "out of range": "out of range" in faults,
        "not allowed": "not allowed" in faults,
        "unsure": any(chance < _SURE for chance in chances),
    }
    return [name for name, so in found.items() if so]


def record_kept(record: Record) -> dict[str, Any]:
    """The columns of a record that was found."""
    anchor = record.template.anchor
    starts = [part.span.start for parts in record.parts.values() for part in parts]
    own = [part.span.start for part in record.parts.get(anchor, ())]
    return {
        "position": (own or [min(starts, default=0)])[0],
        "entity": fold(record.entity),
        "values": {name: [value_kept(value) for value in values] for name, values in record.values.items()},
        "parts": {name: [part_kept(part, anchor) for part in parts] for name, parts in record.parts.items()},
        "rivals": [{"field": name} | part_kept(part, anchor) for name, part in record.rivals],
        "missing": record.missing,
        "looks": looks_of(record),
        "probability": record.probability,
    }


def told_values(values: dict[str, list[dict[str, Any]]]) -> dict[str, str]:
    """Each field's value in its open form, several with a semicolon between."""
    return {name: "; ".join(one["text"] for one in own) for name, own in values.items()}
