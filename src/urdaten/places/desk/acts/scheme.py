"""What the Desk has to do with a change of the scheme: spans follow their type, and the log says so."""

from __future__ import annotations

from collections.abc import Callable, Collection
from dataclasses import replace
from uuid import uuid4

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from urdaten.core.spans import Span
from urdaten.places.desk.acts.annotation import DRAFT, SIGNED, Annotation, states_of
from urdaten.places.desk.acts.storing import Step, log, store
from urdaten.places.desk.tables import AnnotationRow, LayerRow, SpanRow, TurnedDownRow
from urdaten.places.types import acts as types

MERGE, RETIRE = "merge types", "retire type"
_AT_ONCE = 5000


def touched(db: Session, project_id: int, type_id: int) -> list[types.Touched]:
    """Spans of a type, by layer."""
    query = (
        select(LayerRow.name, func.count())
        .join(AnnotationRow, AnnotationRow.layer_id == LayerRow.id)
        .join(SpanRow, SpanRow.annotation_id == AnnotationRow.id)
        .where(LayerRow.project_id == project_id, SpanRow.type_id == type_id)
        .group_by(LayerRow.id)
        .order_by(LayerRow.kind != "gold", LayerRow.name)
    )
    return [types.Touched(where=name, noun="span", count=count) for name, count in db.execute(query)]


def merge(db: Session, project_id: int, account_id: int | None, type_id: int, into: int) -> None:
    """Every span of the type becomes one of the other; what was signed stays signed, by whom it was."""
    codes = types.type_codes(db, project_id)

    def change(now: Annotation) -> Annotation:
        return replace(
            now,
            spans=_renamed(now.spans, codes[type_id], codes[into]),
            turned_down=_renamed(now.turned_down, codes[type_id], codes[into]),
        )

    _change_all(db, project_id, account_id, type_id, MERGE, change)


def retire(db: Session, project_id: int, account_id: int | None, type_id: int) -> None:
    """Spans of the type are taken out; a sentence that had some is begun, because it is not what was signed."""
    codes = types.type_codes(db, project_id)

    def change(now: Annotation) -> Annotation:
        spans = tuple(s for s in now.spans if s.type != codes[type_id])
        down = tuple(s for s in now.turned_down if s.type != codes[type_id])
        after = replace(now, spans=spans, turned_down=down)
        if now.state == SIGNED and spans != now.spans:
            after = replace(after, state=DRAFT, signed_by=None, signed_at=None)
        return after

    _change_all(db, project_id, account_id, type_id, RETIRE, change)


def _renamed(spans: Collection[Span], code: str, other: str) -> tuple[Span, ...]:
    """One span where both stood on the same words."""
    return tuple(sorted({replace(s, type=other) if s.type == code else s for s in spans}))


def _change_all(
    db: Session,
    project_id: int,
    account_id: int | None,
    type_id: int,
    kind: str,
    change: Callable[[Annotation], Annotation],
) -> None:
    layers = db.scalars(select(LayerRow.id).where(LayerRow.project_id == project_id)).all()
    batch = uuid4()
    for layer in layers:
        of_type = [
            select(AnnotationRow.sentence_id)
            .join(table, table.annotation_id == AnnotationRow.id)
            .where(AnnotationRow.layer_id == layer, table.type_id == type_id)
            for table in (SpanRow, TurnedDownRow)
        ]
        numbers = sorted({number for query in of_type for number in db.scalars(query)})
        for first in range(0, len(numbers), _AT_ONCE):
            now = states_of(db, numbers[first : first + _AT_ONCE], layer)
            steps = {i: Step(before=stands, after=change(stands)) for i, stands in now.items()}
            store(db, project_id, layer, account_id, steps)
            log(db, project_id, layer, account_id, kind, steps, standing="passed", batch=batch)


types.register_user("desk", types.TypeUser(touched=touched, merge=merge, retire=retire))
