"""Routes of the types place."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from fastapi import APIRouter
from sqlalchemy.orm import Session

from urdaten.places.desk import acts as desk
from urdaten.places.lists import acts as lists
from urdaten.places.records import acts as records
from urdaten.places.rules import acts as rules
from urdaten.places.team.acts import hold_overlap
from urdaten.places.team.wire import OfProject
from urdaten.places.types import acts
from urdaten.places.types.wire import OverlapWish, SchemeShown, TypeShown, TypeWish
from urdaten.platform.web import Db, Lead

router = APIRouter(prefix="/api/projects/{project}/types", tags=["types"])


def _draft(wish: TypeWish) -> acts.TypeDraft:
    values: dict[str, Any] = wish.model_dump()
    return acts.TypeDraft(
        **values | {name: tuple(values[name]) for name in ("counts", "counts_not", "rulings")}
    )


def _shown(made: acts.EntityType, spans: int) -> TypeShown:
    return TypeShown.model_validate(asdict(made) | {"spans": spans})


def used_by(db: Session, project_id: int, made_code: str, type_id: int) -> list[str]:
    """What stands in the way of removing a type, in words."""
    found = []
    spans = desk.span_counts(db, project_id).get(type_id, 0)
    if spans:
        found.append(f"{spans} {'span' if spans == 1 else 'spans'}")
    found += [f"list “{x.name}”" for x in lists.read_lists(db, project_id) if x.type == made_code]
    found += [f"rule “{x.name}”" for x in rules.read_rules(db, project_id) if x.type == made_code]
    for template in records.read_templates(db, project_id):
        if any(made_code in field.types for field in template.template.fields):
            found.append(f"record template “{template.template.name}”")
    return found


@router.get("", operation_id="readScheme")
def read(project: OfProject, db: Db) -> SchemeShown:
    counts = desk.span_counts(db, project.id)
    types = [_shown(t, counts.get(t.id, 0)) for t in acts.list_types(db, project.id)]
    return SchemeShown(version=acts.scheme_version(db, project.id), overlap=project.overlap, types=types)


@router.put("/overlap", status_code=204, operation_id="setOverlap")
def set_overlap(wish: OverlapWish, project: OfProject, me: Lead, db: Db) -> None:
    """Say how spans of one sentence may stand to each other; refused while some sentences break that."""
    hold_overlap(db, project.id, to_change=True)
    breaking = desk.overlapping_sentences(db, project.id, wish.overlap)
    acts.set_overlap(db, project, me.id, wish.overlap, breaking)


@router.post("", status_code=201, operation_id="addType")
def add(wish: TypeWish, project: OfProject, me: Lead, db: Db) -> TypeShown:
    return _shown(acts.add_type(db, project.id, me.id, _draft(wish)), 0)


@router.put("/{type_id}", operation_id="changeType")
def change(type_id: int, wish: TypeWish, project: OfProject, me: Lead, db: Db) -> TypeShown:
    changed = acts.change_type(db, project.id, me.id, type_id, _draft(wish))
    return _shown(changed, desk.span_counts(db, project.id).get(type_id, 0))


@router.delete("/{type_id}", status_code=204, operation_id="removeType")
def remove(type_id: int, project: OfProject, me: Lead, db: Db) -> None:
    code = acts.type_codes(db, project.id).get(type_id, "")
    acts.remove_type(db, project.id, me.id, type_id, used_by(db, project.id, code, type_id))
