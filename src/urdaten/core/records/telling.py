"""Why a span is where it is, in words."""

from __future__ import annotations

from urdaten.core.records.record import Linked


def why_words(why: Linked, anchor: str) -> str:
    """How a span came to its field and its record, or "" for the anchor itself."""
    said = []
    if why.cue:
        said.append(f"behind “{why.cue}”")
    if why.place:
        said.append(f"{anchor or 'anchor'} {why.place}")
    return "; ".join(said)
