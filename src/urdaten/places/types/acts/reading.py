"""The scheme as it stands, and its types by code and by number."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from sqlalchemy import BindParameter, ColumnElement, ScalarSelect, bindparam, func, select
from sqlalchemy.dialects.postgresql import aggregate_order_by
from sqlalchemy.orm import Session

from urdaten.errors import BadInput, NotFound
from urdaten.places.types.tables import EntityTypeRow, SchemeRow

PLACE = "types"
HUES = 24
VALUE_KINDS = ("none", "name", "date", "time", "number", "quantity", "money", "code")


@dataclass(frozen=True, kw_only=True)
class TypeDraft:
    """What a lead says of an entity type."""

    code: str
    name: str
    key: str
    hue: int
    definition: str = ""
    counts: tuple[str, ...] = ()
    counts_not: tuple[str, ...] = ()
    rulings: tuple[str, ...] = ()
    # Number of the type that it is a kind of.
    parent: int | None = None
    value_kind: str = "none"


@dataclass(frozen=True, kw_only=True)
class EntityType(TypeDraft):
    """An entity type as other places see it."""

    id: int
    version: int


def type_from(row: EntityTypeRow) -> EntityType:
    return EntityType(
        id=row.id,
        code=row.code,
        name=row.name,
        key=row.key,
        hue=row.hue,
        definition=row.definition,
        counts=tuple(row.counts),
        counts_not=tuple(row.counts_not),
        rulings=tuple(row.rulings),
        parent=row.parent_id,
        value_kind=row.value_kind,
        version=row.version,
    )


def list_types(db: Session, project_id: int) -> list[EntityType]:
    """The types of the scheme, in its order."""
    rows = db.scalars(
        select(EntityTypeRow)
        .where(EntityTypeRow.project_id == project_id, EntityTypeRow.retired_at.is_(None))
        .order_by(EntityTypeRow.position, EntityTypeRow.id)
    )
    return [type_from(row) for row in rows]


# Made once, and columns alone: every act asks it.
_CODES = (
    select(EntityTypeRow.id, EntityTypeRow.code)
    .where(EntityTypeRow.project_id == bindparam("project"), EntityTypeRow.retired_at.is_(None))
    .order_by(EntityTypeRow.position, EntityTypeRow.id)
)


def type_codes(db: Session, project_id: int) -> dict[int, str]:
    """Code of each type of the scheme by its number, in the scheme's order."""
    return {number: code for number, code in db.execute(_CODES, {"project": project_id})}


def codes_of(project_id: int | BindParameter[int]) -> ScalarSelect[Any]:
    """For queries: `type_codes` as a JSON array of [number, code]."""
    one = func.jsonb_build_array(EntityTypeRow.id, EntityTypeRow.code)
    ordered = aggregate_order_by(one, EntityTypeRow.position, EntityTypeRow.id)
    return (
        select(func.jsonb_agg(ordered))
        .where(EntityTypeRow.project_id == project_id, EntityTypeRow.retired_at.is_(None))
        .scalar_subquery()
    )


def present_codes(db: Session, project_id: int) -> dict[int, str]:
    """As `type_codes`, and besides the present code of what each merged type became part of."""
    query = select(EntityTypeRow.id, EntityTypeRow.code, EntityTypeRow.retired_at, EntityTypeRow.merged_into)
    rows = {row.id: row for row in db.execute(query.where(EntityTypeRow.project_id == project_id))}

    def code(number: int | None, steps: int) -> str | None:
        row = rows.get(number or 0)
        if row is None or steps > len(rows):
            return None
        return row.code if row.retired_at is None else code(row.merged_into, steps + 1)

    found = {number: code(number, 0) for number in rows}
    return {number: present for number, present in found.items() if present is not None}


def last_codes(db: Session, project_id: int) -> dict[int, str]:
    """Code of each type that there ever was, retired ones under their last."""
    query = select(EntityTypeRow.id, EntityTypeRow.code).where(EntityTypeRow.project_id == project_id)
    return {number: code for number, code in db.execute(query)}


def became(db: Session, project_id: int) -> dict[int, int | None]:
    """Of each type that is not in the scheme any more, the one of the scheme that took its place, if any did."""
    query = select(EntityTypeRow.id, EntityTypeRow.merged_into, EntityTypeRow.retired_at.is_not(None))
    rows = db.execute(query.where(EntityTypeRow.project_id == project_id)).all()
    into = {number: other for number, other, retired in rows if retired}
    found: dict[int, int | None] = {}
    for number in into:
        last: int | None = number
        while last in into:
            last = into[last]
        found[number] = last
    return found


def type_numbers(db: Session, project_id: int, codes: Iterable[str]) -> dict[str, int]:
    """Number of each code of the scheme, and of the named codes if they are former ones of types that are still there.

    Raises BadInput for a code that the scheme never had.
    """
    return numbers_among(db, project_id, type_codes(db, project_id), codes)


def numbers_among(
    db: Session, project_id: int, present: Mapping[int, str], codes: Iterable[str]
) -> dict[str, int]:
    """As `type_numbers`, for whoever has the scheme's `type_codes` at hand."""
    known = {code: number for number, code in present.items()}
    unknown = [code for code in codes if code not in known]
    if unknown:
        former = _former_numbers(db, project_id)
        for code in unknown:
            if code not in former:
                raise BadInput(
                    f"The scheme has no type {code!r}; its types are {', '.join(known) or 'none yet'}.",
                    field="type",
                )
            known[code] = former[code]
    return known


def _former_numbers(db: Session, project_id: int) -> dict[str, int]:
    """What earlier versions of the scheme called types that are there, or what those became part of."""
    present = present_codes(db, project_id)
    numbers = {code: number for number, code in type_codes(db, project_id).items()}
    former: dict[str, int] = {}
    query = select(SchemeRow.types).where(SchemeRow.project_id == project_id)
    for snapshot in db.scalars(query.order_by(SchemeRow.number)):
        for one in snapshot:
            if one["id"] in present:
                former[one["code"]] = numbers[present[one["id"]]]
    return former


def version_of(project_id: int | BindParameter[int]) -> ColumnElement[int]:
    """For queries: number of a scheme's present version, 0 before the first type."""
    newest = select(func.max(SchemeRow.number)).where(SchemeRow.project_id == project_id)
    return func.coalesce(newest.scalar_subquery(), 0)


def scheme_version(db: Session, project_id: int) -> int:
    """Number of the scheme's present version, 0 before the first type."""
    return db.scalar(select(version_of(project_id))) or 0


def own_type(db: Session, project_id: int, type_id: int) -> EntityTypeRow:
    """The row, held for a change. Raises NotFound for a type that is not in the scheme."""
    row = db.get(EntityTypeRow, type_id, with_for_update=True, populate_existing=True)
    if row is None or row.project_id != project_id or row.retired_at is not None:
        raise NotFound(f"There is no type {type_id} in this scheme; it may have been retired.")
    return row
