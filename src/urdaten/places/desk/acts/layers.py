"""Layers: whose annotation of a project's sentences. Every project has one of gold."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import ColumnElement, ScalarSelect, bindparam, delete, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from urdaten.errors import BadInput, Clash, NotFound
from urdaten.places.desk.tables import AnnotationRow, LayerRow

GOLD_NAME = "gold"
# What no person has annotated.
PROPOSED = "proposed"
LONGEST_LAYER_NAME = 80


@dataclass(frozen=True, kw_only=True)
class Layer:
    """A layer as other modules see it."""

    id: int
    kind: str
    name: str
    account: int | None


def _layer(row: LayerRow) -> Layer:
    return Layer(id=row.id, kind=row.kind, name=row.name, account=row.account_id)


def gold_of(project_id: int) -> ScalarSelect[int]:
    """For queries: the number of a project's layer of gold."""
    return (
        select(LayerRow.id)
        .where(LayerRow.project_id == project_id, LayerRow.kind == "gold")
        .scalar_subquery()
    )


def in_layer(layer: int | None) -> ColumnElement[bool]:
    """For queries: annotation of this layer, or of any project's gold."""
    if layer is not None:
        return AnnotationRow.layer_id == layer
    return AnnotationRow.layer_id.in_(select(LayerRow.id).where(LayerRow.kind == "gold"))


def gold_layer(db: Session, project_id: int) -> int:
    """Number of a project's layer of gold, which is made when it is first asked for."""
    asked = {"project": project_id}
    found = db.scalar(_GOLD, asked)
    if found is None:
        made = insert(LayerRow).values(project_id=project_id, kind="gold", name=GOLD_NAME)
        db.execute(made.on_conflict_do_nothing())
        found = db.scalars(_GOLD, asked).one()
    return found


# Made once: every act asks it.
_GOLD = select(LayerRow.id).where(LayerRow.project_id == bindparam("project"), LayerRow.kind == "gold")


def read_layers(db: Session, project_id: int) -> list[Layer]:
    """Every layer, gold first, then by name."""
    rows = db.scalars(select(LayerRow).where(LayerRow.project_id == project_id))
    return sorted(map(_layer, rows), key=lambda layer: (layer.kind != "gold", layer.name))


def read_layer(db: Session, project_id: int, layer_id: int) -> Layer:
    """Raises NotFound."""
    row = db.get(LayerRow, layer_id)
    if row is None or row.project_id != project_id:
        raise NotFound(f"There is no layer {layer_id} in this project.")
    return _layer(row)


def add_layer(
    db: Session, project_id: int, name: str, *, kind: str = "annotator", account: int | None = None
) -> Layer:
    """A layer besides gold. Raises BadInput, and Clash for a name that is taken."""
    name = name.strip()
    if not 1 <= len(name) <= LONGEST_LAYER_NAME:
        raise BadInput(f"A layer needs a name of 1 to {LONGEST_LAYER_NAME} characters.", field="name")
    taken = select(LayerRow.id).where(LayerRow.project_id == project_id, LayerRow.name == name)
    if name == GOLD_NAME or db.scalar(taken) is not None:
        raise Clash(f"There is already a layer “{name}”.", field="name")
    row = LayerRow(project_id=project_id, kind=kind, name=name, account_id=account)
    db.add(row)
    db.flush()
    return _layer(row)


def proposed_layer(db: Session, project_id: int, name: str) -> Layer:
    """An empty layer of what is proposed, in place of one of that name. Raises BadInput, and Clash where a layer that is somebody's
    annotation has the name."""
    row = db.scalar(
        select(LayerRow).where(
            LayerRow.project_id == project_id, LayerRow.name == name.strip(), LayerRow.kind == PROPOSED
        )
    )
    if row is None:
        return add_layer(db, project_id, name, kind=PROPOSED)
    db.execute(delete(AnnotationRow).where(AnnotationRow.layer_id == row.id))
    return _layer(row)


def remove_layer(db: Session, project_id: int, layer_id: int) -> None:
    """Delete a layer of what is proposed. Raises NotFound, and Clash for one that is somebody's annotation."""
    layer = read_layer(db, project_id, layer_id)
    if layer.kind != PROPOSED:
        raise Clash(
            f"The layer “{layer.name}” is somebody's annotation; only what was proposed can be deleted."
        )
    db.delete(db.get_one(LayerRow, layer_id))
    db.flush()
