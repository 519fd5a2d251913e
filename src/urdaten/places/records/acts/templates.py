"""Record templates: read, added, changed, removed."""

from __future__ import annotations

from dataclasses import dataclass, fields
from typing import Any

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from urdaten.core.fields import plain
from urdaten.core.records import Assembler, Field, Template, learnt_bytes, learnt_from
from urdaten.errors import BadFile, BadInput, Clash, NotFound
from urdaten.places.records.tables import RecordRow, TemplateRow
from urdaten.places.types import acts as types
from urdaten.platform.revisions import bump
from urdaten.platform.versions import check_seen

PLACE = "records"
REFUSED, FOUND, SIGNED = "refused", "found", "signed"
_LISTS = ("types", "cues", "allowed")
_FIELD = tuple(one.name for one in fields(Field))


@dataclass(frozen=True, kw_only=True)
class StoredTemplate:
    """A template as other places see it."""

    id: int
    version: int
    template: Template
    records: int
    open: int
    signed: int
    learnt_records: int


def _field(held: dict[str, Any], codes: dict[int, str]) -> Field:
    """What is not there was not yet thought of when it was kept."""
    known = {name: held[name] for name in _FIELD if name in held and name != "types"}
    told: dict[str, Any] = {name: tuple(value) if name in _LISTS else value for name, value in known.items()}
    return Field(**told, types=tuple(codes[n] for n in held["types"]))


def template_of(row: TemplateRow, codes: dict[int, str]) -> Template:
    return Template(
        name=row.name,
        anchor=row.anchor,
        fields=tuple(_field(f, codes) for f in row.fields),
        description=row.description,
        scope=row.scope,  # type: ignore[arg-type] # one of them
        each=row.each,  # type: ignore[arg-type] # one of them
        opens=tuple(tuple(group) for group in row.opens),
    )


def read_templates(db: Session, project_id: int) -> list[StoredTemplate]:
    codes = types.type_codes(db, project_id)
    told = RecordRow.state != REFUSED
    query = (
        select(
            TemplateRow,
            func.count(RecordRow.id).filter(told),
            func.count(RecordRow.id).filter(told, func.jsonb_array_length(RecordRow.missing) > 0),
            func.count(RecordRow.id).filter(RecordRow.state == SIGNED),
        )
        .outerjoin(RecordRow, RecordRow.template_id == TemplateRow.id)
        .where(TemplateRow.project_id == project_id)
        .group_by(TemplateRow.id)
        .order_by(TemplateRow.id)
    )
    return [
        StoredTemplate(
            id=row.id,
            version=row.version,
            template=template_of(row, codes),
            records=count,
            open=unfinished,
            signed=signed,
            learnt_records=row.learnt_records,
        )
        for row, count, unfinished, signed in db.execute(query)
    ]


def read_template(db: Session, project_id: int, template_id: int) -> StoredTemplate:
    found = next((t for t in read_templates(db, project_id) if t.id == template_id), None)
    if found is None:
        raise NotFound(f"There is no record template {template_id} in this project.")
    return found


def read_assembler(db: Session, project_id: int, template_id: int) -> Assembler:
    """The assembler of a template: as it has learnt, or by its rules alone where that was for other fields."""
    template = read_template(db, project_id, template_id).template
    row = db.get(TemplateRow, template_id)
    assert row is not None
    if row.learnt is None:
        return Assembler(template=template)
    try:
        return learnt_from(row.learnt, template)
    except BadFile:
        return Assembler(template=template)


def read_learnt(db: Session, project_id: int) -> dict[str, bytes]:
    """What was learnt for templates as they are, by their names."""
    codes = types.type_codes(db, project_id)
    rows = db.scalars(
        select(TemplateRow).where(TemplateRow.project_id == project_id, TemplateRow.learnt.is_not(None))
    )
    found = {}
    for row in rows:
        assert row.learnt is not None
        try:
            learnt_from(row.learnt, template_of(row, codes))
        except BadFile:
            continue
        found[row.name] = row.learnt
    return found


def keep_learnt(db: Session, project_id: int, template_id: int, assembler: Assembler) -> None:
    """Keep what was learnt; records stand as they are until the next assembly."""
    read_template(db, project_id, template_id)
    row = db.get(TemplateRow, template_id, with_for_update=True)
    assert row is not None
    row.learnt = learnt_bytes(assembler) if assembler.linker.weights else None
    row.learnt_records = assembler.linker.records
    db.flush()
    bump(db, project_id, PLACE)


def _fill(db: Session, project_id: int, row: TemplateRow, template: Template) -> None:
    if not template.name.strip():
        raise BadInput("A record template needs a name.", field="name")
    name = template.name.strip()
    taken = select(TemplateRow.id).where(TemplateRow.project_id == project_id, TemplateRow.name == name)
    if db.scalar(taken) not in (None, row.id):
        raise Clash(f"There is already a record template “{name}”; choose another name.", field="name")
    if any(not f.name.strip() for f in template.fields):
        raise BadInput("Every field needs a name.", field="fields")
    numbers = types.type_numbers(db, project_id, {code for f in template.fields for code in f.types})
    row.name, row.anchor = name, template.anchor
    row.description, row.scope, row.each = template.description, template.scope, template.each
    row.opens = [list(group) for group in template.opens]
    row.fields = [plain(f) | {"types": [numbers[code] for code in f.types]} for f in template.fields]


def add_template(db: Session, project_id: int, template: Template) -> StoredTemplate:
    row = TemplateRow(project_id=project_id)
    with db.no_autoflush:
        _fill(db, project_id, row, template)
    db.add(row)
    db.flush()
    bump(db, project_id, PLACE)
    return read_template(db, project_id, row.id)


def change_template(
    db: Session, project_id: int, template_id: int, template: Template, version: int
) -> StoredTemplate:
    """The template with new fields; its records stand as they are until the next assembly.

    Raises StaleWrite when it is not in the version that was seen.
    """
    row = db.get(TemplateRow, template_id, with_for_update=True)
    now = read_template(db, project_id, template_id)
    assert row is not None
    stands = plain(now.template) | {"version": now.version}
    check_seen(f"“{now.template.name}”", stands, plain(template), version)
    row.version += 1
    with db.no_autoflush:
        _fill(db, project_id, row, template)
    db.flush()
    bump(db, project_id, PLACE)
    return read_template(db, project_id, template_id)


def remove_template(db: Session, project_id: int, template_id: int) -> None:
    """Remove a template with its records."""
    read_template(db, project_id, template_id)
    db.execute(delete(TemplateRow).where(TemplateRow.id == template_id))
    bump(db, project_id, PLACE)


def count_records(db: Session, project_id: int) -> tuple[int, int]:
    """(records, those that miss a required field)."""
    templates = read_templates(db, project_id)
    return sum(t.records for t in templates), sum(t.open for t in templates)


def _touched(db: Session, project_id: int, type_id: int) -> list[types.Touched]:
    rows = db.scalars(
        select(TemplateRow).where(TemplateRow.project_id == project_id).order_by(TemplateRow.id)
    )
    names = tuple(row.name for row in rows if any(type_id in field["types"] for field in row.fields))
    return [types.Touched(where="templates", noun="template", count=len(names), names=names, bars=True)]


def _merge(db: Session, project_id: int, _account_id: int | None, type_id: int, into: int) -> None:
    changed = False
    for row in db.scalars(select(TemplateRow).where(TemplateRow.project_id == project_id).with_for_update()):
        if any(type_id in field["types"] for field in row.fields):
            row.fields = [
                field | {"types": list(dict.fromkeys(into if n == type_id else n for n in field["types"]))}
                for field in row.fields
            ]
            row.version += 1
            changed = True
    db.flush()
    if changed:
        bump(db, project_id, PLACE)


types.register_user("records", types.TypeUser(touched=_touched, merge=_merge, retire=lambda *_: None))
