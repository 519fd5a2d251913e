"""Changes of a scheme: types are added, changed, merged and retired, an earlier version is brought back."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import asdict, dataclass
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import func, select, update
from sqlalchemy.orm import Session

from urdaten.core.spans import Overlap
from urdaten.errors import BadInput, Clash, StaleWrite
from urdaten.places.team import acts as team
from urdaten.places.types.acts.reading import (
    HUES,
    VALUE_KINDS,
    EntityType,
    TypeDraft,
    list_types,
    own_type,
    type_from,
)
from urdaten.places.types.acts.users import Touched, merge_everywhere, retire_everywhere, touched_by
from urdaten.places.types.acts.versions import Step, hold_scheme, new_version, read_version
from urdaten.places.types.tables import EntityTypeRow

MOST_TYPES = 200


def _check(draft: TypeDraft, own_id: int | None, others: Sequence[EntityType]) -> None:
    if not (
        2 <= len(draft.code) <= 4 and draft.code.isascii() and draft.code.isalpha() and draft.code.isupper()
    ):
        raise BadInput(f"A code is 2 to 4 capital letters A–Z, not {draft.code!r}.", field="code")
    if not draft.name.strip():
        raise BadInput("A type needs a name.", field="name")
    is_key = len(draft.key) == 1 and draft.key.isascii() and draft.key.isalnum()
    if draft.key and not (is_key and draft.key == draft.key.lower()):
        raise BadInput(
            f"A key is one small letter a–z or one figure, or there is none; not {draft.key!r}.", field="key"
        )
    if not 0 <= draft.hue < HUES:
        raise BadInput(f"A hue is a number from 0 to {HUES - 1}, not {draft.hue}.", field="hue")
    if draft.value_kind not in VALUE_KINDS:
        raise BadInput(
            f"A kind of value is one of {', '.join(VALUE_KINDS)}, not {draft.value_kind!r}.",
            field="value_kind",
        )
    for other in others:
        if other.code == draft.code:
            raise Clash(f"The code {draft.code} is taken by “{other.name}”; choose another.", field="code")
        if draft.key and other.key == draft.key:
            raise Clash(f"The key “{draft.key}” is taken by “{other.name}”; choose another.", field="key")
    _check_parent(draft, own_id, others)


def _check_parent(draft: TypeDraft, own_id: int | None, others: Sequence[EntityType]) -> None:
    parents = {other.id: other.parent for other in others}
    if draft.parent is not None and draft.parent not in parents:
        raise BadInput("The parent is no other type of this scheme.", field="parent")
    above, steps = draft.parent, 0
    while above is not None and steps <= len(parents):
        if above == own_id:
            raise BadInput("A type cannot be a kind of itself, by whatever way round.", field="parent")
        above, steps = parents.get(above), steps + 1


def _fill(row: EntityTypeRow, draft: TypeDraft) -> None:
    row.code, row.name, row.key, row.hue = draft.code, draft.name.strip(), draft.key, draft.hue
    row.definition = draft.definition
    row.counts, row.counts_not = list(draft.counts), list(draft.counts_not)
    row.rulings = list(draft.rulings)
    row.parent_id, row.value_kind = draft.parent, draft.value_kind


def _add(db: Session, project_id: int, draft: TypeDraft) -> EntityTypeRow:
    others = list_types(db, project_id)
    _check(draft, None, others)
    if len(others) >= MOST_TYPES:
        raise BadInput(f"A scheme has at most {MOST_TYPES} types.")
    mine = EntityTypeRow.project_id == project_id
    last = db.scalar(select(func.max(EntityTypeRow.position)).where(mine))
    row = EntityTypeRow(project_id=project_id, position=0 if last is None else last + 1, version=1)
    _fill(row, draft)
    db.add(row)
    db.flush()
    return row


def add_type(db: Session, project_id: int, account_id: int | None, draft: TypeDraft) -> EntityType:
    """A new type at the end of the scheme. Raises BadInput or Clash and changes nothing."""
    hold_scheme(db, project_id)
    row = _add(db, project_id, draft)
    new_version(db, project_id, account_id, [Step(what="added", type=row.id)])
    return type_from(row)


def add_more_types(
    db: Session, project_id: int, account_id: int | None, drafts: Sequence[TypeDraft]
) -> list[EntityType]:
    """As `add_type`, of several, as one version."""
    hold_scheme(db, project_id)
    rows = [_add(db, project_id, draft) for draft in drafts]
    new_version(db, project_id, account_id, [Step(what="added", type=row.id) for row in rows])
    return [type_from(row) for row in rows]


def add_types(
    db: Session,
    project: team.Project,
    account_id: int | None,
    overlap: Overlap,
    drafts: Sequence[TypeDraft],
    parents: Mapping[str, str] | None = None,
) -> None:
    """The types of a new project, as one version. parents: code of a type → code of the type that it is a kind of."""
    hold_scheme(db, project.id)
    team.set_overlap(db, project.id, overlap)
    rows = {draft.code: _add(db, project.id, draft) for draft in drafts}
    for code, parent in (parents or {}).items():
        if parent not in rows:
            raise BadInput(f"The parent of {code}, {parent!r}, is no type of this scheme.", field="parent")
        rows[code].parent_id = rows[parent].id
    db.flush()
    everything = list_types(db, project.id)
    for one in everything:
        _check_parent(one, one.id, [other for other in everything if other.id != one.id])
    new_version(db, project.id, account_id, [Step(what="added", type=row.id) for row in rows.values()])


def change_type(
    db: Session, project_id: int, account_id: int | None, type_id: int, draft: TypeDraft, version: int
) -> EntityType:
    """The type with new values; its spans stay its own.

    Raises BadInput or Clash, and StaleWrite when the type is not in the version that was seen; changes nothing then.
    """
    hold_scheme(db, project_id)
    row = own_type(db, project_id, type_id)
    before = type_from(row)
    if version != before.version:
        raise StaleWrite(
            f"“{before.name}” was changed in the meantime; look at both versions and choose.",
            theirs=asdict(before),
            yours=asdict(draft) | {"version": version},
        )
    _check(draft, type_id, [other for other in list_types(db, project_id) if other.id != type_id])
    _fill(row, draft)
    db.flush()
    if type_from(row) != before:
        row.version += 1
        db.flush()
        new_version(db, project_id, account_id, [Step(what="changed", type=type_id)])
    return type_from(row)


def set_overlap(
    db: Session, project: team.Project, account_id: int | None, overlap: Overlap, breaking: int
) -> None:
    """Say how spans of one sentence may stand to each other. Raises Clash while some sentences break that."""
    hold_scheme(db, project.id)
    if overlap == team.project_by_id(db, project.id).overlap:
        return
    if breaking:
        sentences = "1 sentence has" if breaking == 1 else f"{breaking} sentences have"
        raise Clash(
            f"{sentences} spans that this would forbid; change those at the Desk first.", field="overlap"
        )
    team.set_overlap(db, project.id, overlap)
    new_version(db, project.id, account_id, [Step(what="overlap")])


@dataclass(frozen=True, kw_only=True)
class Preview:
    """What a change would touch, and the version of the scheme that it was looked at in."""

    scheme: int
    touched: list[Touched]
    # Why it cannot be made yet; empty where it can.
    bars: list[str]


def _bars(code: str, touched: Collection[Touched]) -> list[str]:
    return [
        f"{one.noun} {', '.join(f'“{name}”' for name in one.names)} still uses {code}"
        if one.count == 1
        else f"{one.count} {one.where} still use {code}: {', '.join(f'“{name}”' for name in one.names)}"
        for one in touched
        if one.bars
    ]


def preview(db: Session, project_id: int, type_id: int, into: int | None = None) -> Preview:
    """What retiring a type, or merging it into another, would touch; nothing is changed. Raises NotFound, BadInput."""
    scheme = hold_scheme(db, project_id)
    row = own_type(db, project_id, type_id)
    if into is not None:
        _check_merge(db, project_id, type_id, into)
    touched = touched_by(db, project_id, type_id)
    return Preview(scheme=scheme, touched=touched, bars=[] if into is not None else _bars(row.code, touched))


def _check_merge(db: Session, project_id: int, type_id: int, into: int) -> EntityTypeRow:
    if into == type_id:
        raise BadInput("A type cannot be merged into itself.", field="into")
    return own_type(db, project_id, into)


def merge_type(
    db: Session, project_id: int, account_id: int | None, type_id: int, into: int, seen: int
) -> EntityType:
    """Make a type part of another: its spans, lists, rules and fields become that type's.

    Spans are changed in the log, sentence by sentence. Raises NotFound, BadInput, and StaleWrite when the scheme is not in
    the version that was looked at.
    """
    # Nobody marks with a type while it goes.
    team.hold_overlap(db, project_id, to_change=True)
    hold_scheme(db, project_id, seen)
    row = own_type(db, project_id, type_id)
    target = _check_merge(db, project_id, type_id, into)
    merge_everywhere(db, project_id, account_id, type_id, into)
    _retire(db, row, into)
    new_version(db, project_id, account_id, [Step(what="merged", type=type_id, into=into)])
    return type_from(target)


def _retire(db: Session, row: EntityTypeRow, into: int | None) -> None:
    row.retired_at, row.merged_into = datetime.now(UTC), into
    row.version += 1
    heir = into if into is not None else row.parent_id
    children = update(EntityTypeRow).where(EntityTypeRow.parent_id == row.id)
    db.execute(children.values(parent_id=None if heir == row.id else heir))
    db.execute(
        update(EntityTypeRow).where(EntityTypeRow.parent_id == EntityTypeRow.id).values(parent_id=None)
    )
    db.flush()


def retire_type(db: Session, project_id: int, account_id: int | None, type_id: int, seen: int) -> None:
    """Take a type out of the scheme. Its spans are taken out too, in the log, sentence by sentence.

    Raises NotFound, Clash while a list, a rule or a template uses it, and StaleWrite when the scheme is not in the version
    that was looked at.
    """
    team.hold_overlap(db, project_id, to_change=True)
    hold_scheme(db, project_id, seen)
    row = own_type(db, project_id, type_id)
    if bars := _bars(row.code, touched_by(db, project_id, type_id)):
        raise Clash(f"{row.code} cannot be retired yet: {'; '.join(bars)}. Change or delete those first.")
    retire_everywhere(db, project_id, account_id, type_id)
    _retire(db, row, None)
    new_version(db, project_id, account_id, [Step(what="retired", type=type_id)])


def restore_version(
    db: Session, project_id: int, account_id: int | None, number: int, seen: int, breaking: int
) -> int:
    """Make the scheme what it was in an earlier version, as a new version; its number.

    Types that came later are retired as `retire_type` does; types that were retired come back, without their spans.
    breaking: in how many sentences spans stand as that version did not let them. Raises NotFound, Clash while there are
    some or while something bars a type from going, StaleWrite.
    """
    team.hold_overlap(db, project_id, to_change=True)
    hold_scheme(db, project_id, seen)
    wanted = read_version(db, project_id, number)
    if breaking:
        raise Clash(
            f"In version {number} spans had to stand otherwise: {breaking} sentences have spans that it forbids. "
            "Change those at the Desk first."
        )
    keep = {one["id"] for one in wanted.types}
    steps: list[Step] = []
    for one in list_types(db, project_id):
        if one.id in keep:
            continue
        row = own_type(db, project_id, one.id)
        if bars := _bars(one.code, touched_by(db, project_id, one.id)):
            raise Clash(
                f"{one.code} was not there in version {number} and cannot be retired yet: {'; '.join(bars)}."
            )
        retire_everywhere(db, project_id, account_id, one.id)
        _retire(db, row, None)
        steps.append(Step(what="retired", type=one.id))
    rows = {
        row.id: row
        for row in db.scalars(
            select(EntityTypeRow).where(EntityTypeRow.project_id == project_id, EntityTypeRow.id.in_(keep))
        )
    }
    # Codes and keys may have changed hands: they are let go of before they are given anew.
    for row in rows.values():
        row.code, row.key = f"#{row.id}", f"#{row.id}"
    db.flush()
    for position, then in enumerate(wanted.types):
        row = rows[then["id"]]
        back = row.retired_at is not None
        row.retired_at, row.merged_into = None, None
        _fill(row, _draft_of(then))
        row.position = position
        row.version += 1
        steps.append(Step(what="restored" if back else "changed", type=row.id))
    db.flush()
    team.set_overlap(db, project_id, wanted.overlap)
    return new_version(db, project_id, account_id, steps)


def _draft_of(one: Mapping[str, Any]) -> TypeDraft:
    lists = {name: tuple(one[name]) for name in ("counts", "counts_not", "rulings")}
    return TypeDraft(
        code=one["code"],
        name=one["name"],
        key=one["key"],
        hue=one["hue"],
        definition=one["definition"],
        parent=one.get("parent"),
        value_kind=one.get("value_kind", "none"),
        **lists,
    )
