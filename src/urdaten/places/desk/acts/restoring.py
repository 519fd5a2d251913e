"""Texts that come back from the bin: what is marked in them is brought into line with the scheme as it is by then."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from typing import Any

from sqlalchemy.orm import Session

from urdaten.errors import Clash
from urdaten.places.desk.acts.annotation import DRAFT, SIGNED
from urdaten.places.desk.acts.figures import overlapping_sentences
from urdaten.places.desk.acts.tallying import tally_anew
from urdaten.places.team import acts as team
from urdaten.places.types import acts as types

Row = Mapping[str, Any]
Held = Mapping[str, Sequence[Row]]


def mending(db: Session, project_id: int) -> Callable[[Held], Held]:
    """What to do with everything that belongs to a text before it is put back.

    Marks of a type that was merged into another follow it. Spans of a retired one fall away, and a sentence that had some is
    begun, because it is not what was signed.
    """
    became = types.became(db, project_id)
    return lambda held: mended(held, became)


def mended(held: Held, became: Mapping[int, int | None]) -> Held:
    """became: of each type that is not in the scheme any more, the one that took its place, if any did."""
    spans = held.get("span", ())
    touched = {row["annotation_id"] for row in spans if became.get(row["type_id"], 0) is None}
    made = dict(held)
    for table in ("span", "turned_down"):
        made[table] = list(_followed(held.get(table, ()), became))
    made["annotation"] = [
        dict(row) | {"state": DRAFT, "signed_by": None, "signed_at": None}
        if row["id"] in touched and row["state"] == SIGNED
        else row
        for row in held.get("annotation", ())
    ]
    return made


def _followed(rows: Iterable[Row], became: Mapping[int, int | None]) -> Iterable[Row]:
    """One mark where two come to stand on the same words."""
    seen: set[tuple[int, ...]] = set()
    for row in rows:
        type_id = became.get(row["type_id"], row["type_id"])
        if type_id is None:
            continue
        key = (row["annotation_id"], row["start"], row["end"], type_id)
        if key not in seen:
            seen.add(key)
            yield dict(row) | {"type_id": type_id}


def after_restoring(db: Session, project_id: int) -> None:
    """Count gold anew where types have changed. Raises Clash where spans overlap as the scheme does not let them any more."""
    overlap = team.project_by_id(db, project_id).overlap
    if count := overlapping_sentences(db, project_id, overlap):
        raise Clash(
            f"In {count} {'sentence' if count == 1 else 'sentences'} of these texts spans overlap as the scheme does not let "
            "them any more; nothing was put back. Change how spans may stand to each other under Types, and put them back then."
        )
    if types.became(db, project_id):
        tally_anew(db, project_id)
