"""Acts on the scheme: entity types are added, changed and removed, each change kept."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import asdict, dataclass

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from urdaten.core.spans import Overlap
from urdaten.errors import BadInput, Clash, NotFound
from urdaten.places.team import acts as team
from urdaten.places.types.tables import EntityTypeRow, SchemeChangeRow
from urdaten.platform.revisions import bump, revisions

HUES = 24
PLACE = "types"


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


@dataclass(frozen=True, kw_only=True)
class EntityType(TypeDraft):
    """An entity type as other places see it."""

    id: int


def _type(row: EntityTypeRow) -> EntityType:
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
    )


def list_types(db: Session, project_id: int) -> list[EntityType]:
    rows = db.scalars(
        select(EntityTypeRow)
        .where(EntityTypeRow.project_id == project_id)
        .order_by(EntityTypeRow.position, EntityTypeRow.id)
    )
    return [_type(row) for row in rows]


def type_codes(db: Session, project_id: int) -> dict[int, str]:
    """Code of each type by its number, in the scheme's order."""
    return {t.id: t.code for t in list_types(db, project_id)}


def type_numbers(db: Session, project_id: int, codes: Iterable[str]) -> dict[str, int]:
    """Number of each named code. Raises BadInput for a code the scheme does not have."""
    known = {code: number for number, code in type_codes(db, project_id).items()}
    for code in codes:
        if code not in known:
            raise BadInput(
                f"The scheme has no type {code!r}; its types are {', '.join(known) or 'none yet'}.",
                field="type",
            )
    return known


def scheme_version(db: Session, project_id: int) -> int:
    return revisions(db, project_id).get(PLACE, 0)


def _check(db: Session, project_id: int, draft: TypeDraft, own_id: int | None) -> None:
    if not (
        2 <= len(draft.code) <= 4 and draft.code.isascii() and draft.code.isalpha() and draft.code.isupper()
    ):
        raise BadInput(f"A code is 2 to 4 capital letters A–Z, not {draft.code!r}.", field="code")
    if not draft.name.strip():
        raise BadInput("A type needs a name.", field="name")
    if not (
        len(draft.key) == 1 and draft.key.isascii() and draft.key.isalnum() and draft.key == draft.key.lower()
    ):
        raise BadInput(f"A key is one small letter a–z or one figure, not {draft.key!r}.", field="key")
    if not 0 <= draft.hue < HUES:
        raise BadInput(f"A hue is a number from 0 to {HUES - 1}, not {draft.hue}.", field="hue")
    others = [t for t in list_types(db, project_id) if t.id != own_id]
    for other in others:
        if other.code == draft.code:
            raise Clash(f"The code {draft.code} is taken by “{other.name}”; choose another.", field="code")
        if other.key == draft.key:
            raise Clash(f"The key “{draft.key}” is taken by “{other.name}”; choose another.", field="key")


def _log(
    db: Session,
    project_id: int,
    account_id: int | None,
    kind: str,
    before: EntityType | None,
    after: EntityType | None,
) -> None:
    db.add(
        SchemeChangeRow(
            project_id=project_id,
            account_id=account_id,
            kind=kind,
            before=asdict(before) if before else None,
            after=asdict(after) if after else None,
        )
    )
    bump(db, project_id, PLACE)


def _fill(row: EntityTypeRow, draft: TypeDraft) -> None:
    row.code, row.name, row.key, row.hue = draft.code, draft.name.strip(), draft.key, draft.hue
    row.definition = draft.definition
    row.counts, row.counts_not = list(draft.counts), list(draft.counts_not)
    row.rulings = list(draft.rulings)


def set_overlap(
    db: Session, project: team.Project, account_id: int | None, overlap: Overlap, breaking: int
) -> None:
    """Say how spans of one sentence may stand to each other. Raises Clash while some sentences break that."""
    if overlap == project.overlap:
        return
    if breaking:
        sentences = "1 sentence has" if breaking == 1 else f"{breaking} sentences have"
        raise Clash(
            f"{sentences} spans that this would forbid; change those at the Desk first.", field="overlap"
        )
    team.set_overlap(db, project.id, overlap)
    db.add(
        SchemeChangeRow(
            project_id=project.id,
            account_id=account_id,
            kind="overlap",
            before={"overlap": project.overlap},
            after={"overlap": overlap},
        )
    )
    bump(db, project.id, PLACE)


def add_type(db: Session, project_id: int, account_id: int | None, draft: TypeDraft) -> EntityType:
    """A new type at the end of the scheme. Raises BadInput or Clash and changes nothing."""
    _check(db, project_id, draft, None)
    last = db.scalar(select(func.max(EntityTypeRow.position)).where(EntityTypeRow.project_id == project_id))
    row = EntityTypeRow(project_id=project_id, position=0 if last is None else last + 1)
    _fill(row, draft)
    db.add(row)
    db.flush()
    made = _type(row)
    _log(db, project_id, account_id, "add", None, made)
    return made


def _own(db: Session, project_id: int, type_id: int) -> EntityTypeRow:
    row = db.get(EntityTypeRow, type_id, with_for_update=True)
    if row is None or row.project_id != project_id:
        raise NotFound(f"There is no type {type_id} in this project; it may have been removed.")
    return row


def change_type(
    db: Session, project_id: int, account_id: int | None, type_id: int, draft: TypeDraft
) -> EntityType:
    """The type with new values; its spans stay its own. Raises BadInput or Clash, changing nothing."""
    row = _own(db, project_id, type_id)
    before = _type(row)
    _check(db, project_id, draft, type_id)
    _fill(row, draft)
    db.flush()
    after = _type(row)
    if after != before:
        _log(db, project_id, account_id, "change", before, after)
    return after


def remove_type(
    db: Session, project_id: int, account_id: int | None, type_id: int, used_by: list[str]
) -> None:
    """Remove a type that nothing uses. Raises Clash that names what uses it."""
    row = _own(db, project_id, type_id)
    if used_by:
        raise Clash(f"{row.code} cannot be removed: it is used by {', '.join(used_by)}. Change those first.")
    before = _type(row)
    db.delete(row)
    db.flush()
    _log(db, project_id, account_id, "remove", before, None)
