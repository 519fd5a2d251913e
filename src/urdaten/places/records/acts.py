"""Acts on record templates and records."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import asdict, dataclass
from typing import Any

from sqlalchemy import ColumnElement, Select, Subquery, delete, func, insert, select, tuple_
from sqlalchemy.orm import InstrumentedAttribute, Session

from urdaten.core.records import Field, Part, Record, Template
from urdaten.errors import BadInput, Clash, NotFound
from urdaten.places.desk import acts as desk
from urdaten.places.pipeline import acts as pipeline
from urdaten.places.records.tables import AssemblyRow, RecordRow, TemplateRow
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types
from urdaten.platform.jobs import JobView, add_job
from urdaten.platform.revisions import bump, revisions
from urdaten.platform.versions import check_seen

PLACE = "records"
# So many records are read at once when all are.
AT_ONCE = 1000
JOB = "assembly"


@dataclass(frozen=True, kw_only=True)
class StoredTemplate:
    """A template as other places see it."""

    id: int
    version: int
    template: Template
    records: int
    open: int


@dataclass(frozen=True, kw_only=True)
class StoredRecord:
    """A record as other places see it."""

    id: int
    text_id: int
    text_title: str
    parts: dict[str, list[dict[str, Any]]]
    rivals: list[dict[str, Any]]
    missing: list[str]

    def value(self, name: str) -> str:
        """A field's value, "" where there is none."""
        return " ".join(part["value"] for part in self.parts.get(name, ()))


def _template(row: TemplateRow, codes: dict[int, str]) -> Template:
    return Template(
        name=row.name,
        anchor=row.anchor,
        fields=tuple(
            Field(
                name=f["name"],
                types=tuple(codes[n] for n in f["types"]),
                cues=tuple(f["cues"]),
                required=f["required"],
            )
            for f in row.fields
        ),
    )


def read_templates(db: Session, project_id: int) -> list[StoredTemplate]:
    codes = types.type_codes(db, project_id)
    open_ones = func.count(RecordRow.id).filter(func.jsonb_array_length(RecordRow.missing) > 0)
    query = (
        select(TemplateRow, func.count(RecordRow.id), open_ones)
        .outerjoin(RecordRow, RecordRow.template_id == TemplateRow.id)
        .where(TemplateRow.project_id == project_id)
        .group_by(TemplateRow.id)
        .order_by(TemplateRow.id)
    )
    return [
        StoredTemplate(
            id=row.id, version=row.version, template=_template(row, codes), records=count, open=unfinished
        )
        for row, count, unfinished in db.execute(query)
    ]


def read_template(db: Session, project_id: int, template_id: int) -> StoredTemplate:
    found = next((t for t in read_templates(db, project_id) if t.id == template_id), None)
    if found is None:
        raise NotFound(f"There is no record template {template_id} in this project.")
    return found


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
    row.fields = [
        {
            "name": f.name,
            "types": [numbers[code] for code in f.types],
            "cues": list(f.cues),
            "required": f.required,
        }
        for f in template.fields
    ]


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
    stands = asdict(now.template) | {"version": now.version}
    check_seen(f"“{now.template.name}”", stands, asdict(template), version)
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


def start_assembly(db: Session, project_id: int, account_id: int) -> JobView:
    """Assemble the records of all templates anew, in the background."""
    if not read_templates(db, project_id):
        raise Clash("There is no record template yet; add one first.")
    return add_job(
        db,
        project_id=project_id,
        account_id=account_id,
        kind=JOB,
        title="Assembling records",
        params={},
        alone="Records are being assembled already.",
    )


def made_from_now(db: Session, project_id: int) -> dict[str, Any]:
    """The versions that an assembly begun now is made from."""
    numbers = revisions(db, project_id)
    version = pipeline.number_of(db, project_id)
    return {
        # As long as nobody has changed it, there is nothing to be said of it.
        **({"pipeline": version} if version else {}),
        "act": desk.latest_act(db, project_id),
        "evidence": list(pipeline.stamp(db, project_id)),
        "texts": numbers.get(texts.PLACE, 0),
        "records": numbers.get(PLACE, 0),
    }


def out_of_date(db: Session, project_id: int) -> bool:
    """Has anything changed that the records were assembled from?"""
    row = db.get(AssemblyRow, project_id)
    return row is not None and row.made_from != made_from_now(db, project_id)


def _part(part: Part) -> dict[str, Any]:
    return {
        "value": part.value,
        "written": part.written,
        "start": part.span.start,
        "end": part.span.end,
        "type": part.span.type,
        "source": part.span.source,
        "why": part.why,
    }


def replace_records(
    db: Session,
    project_id: int,
    made: Iterable[tuple[int, int, Sequence[Record]]],
    made_from: dict[str, Any],
) -> int:
    """Put (template, text, records) in the place of all records of the project; how many there are."""
    rows = [
        {
            "template_id": template_id,
            "text_id": text_id,
            "position": position,
            "parts": {name: [_part(p) for p in parts] for name, parts in record.parts.items()},
            "rivals": [{"field": name} | _part(p) for name, p in record.rivals],
            "missing": record.missing,
        }
        for template_id, text_id, records in made
        for position, record in enumerate(records)
    ]
    templates = select(TemplateRow.id).where(TemplateRow.project_id == project_id)
    db.execute(delete(RecordRow).where(RecordRow.template_id.in_(templates)))
    if rows:
        db.execute(insert(RecordRow), rows)
    bump(db, project_id, PLACE)
    # The bump above is our own doing: records are as new as what they were made from.
    stamp = made_from | {"records": revisions(db, project_id)[PLACE]}
    db.merge(AssemblyRow(project_id=project_id, made_from=stamp))
    db.flush()
    return len(rows)


def page_of_records(
    db: Session, project_id: int, template_id: int, *, after: int | None, limit: int, only_open: bool = False
) -> list[StoredRecord]:
    """Records in reading order, those after the record with this number; at most `limit`."""
    index, place, query = _in_order(db, project_id, template_id)
    if only_open:
        query = query.where(func.jsonb_array_length(RecordRow.missing) > 0)
    if after is not None:
        last = select(*place).join(index, index.c.id == RecordRow.text_id).where(RecordRow.id == after)
        found = db.execute(last).first()
        if found is None:
            raise NotFound("These records have been assembled anew; begin at the first page.")
        query = query.where(tuple_(*place) > tuple(found))
    return [_record(row, title) for row, title in db.execute(query.limit(limit))]


def all_records(db: Session, project_id: int, template_id: int) -> Iterator[StoredRecord]:
    """Every record in reading order, some at a time."""
    _, _, query = _in_order(db, project_id, template_id)
    for row, title in db.execute(query.execution_options(yield_per=AT_ONCE)):
        yield _record(row, title)


def _in_order(
    db: Session, project_id: int, template_id: int
) -> tuple[Subquery, tuple[ColumnElement[Any] | InstrumentedAttribute[int], ...], Select[*tuple[Any, ...]]]:
    """The project's texts, what records are ordered by, and a query of records with the titles of their texts."""
    read_template(db, project_id, template_id)
    index = texts.text_index(project_id)
    place = (index.c.position, RecordRow.text_id, RecordRow.position)
    query = select(RecordRow, index.c.title).join(index, index.c.id == RecordRow.text_id)
    return index, place, query.where(RecordRow.template_id == template_id).order_by(*place)


def _record(row: RecordRow, title: str) -> StoredRecord:
    return StoredRecord(
        id=row.id,
        text_id=row.text_id,
        text_title=title,
        parts=row.parts,
        rivals=row.rivals,
        missing=row.missing,
    )


def read_record(db: Session, project_id: int, record_id: int) -> tuple[StoredTemplate, StoredRecord]:
    row = db.get(RecordRow, record_id)
    if row is None:
        raise NotFound("This record is gone: the records have been assembled anew. Choose it again.")
    template = read_template(db, project_id, row.template_id)
    return template, _record(row, texts.read_text(db, project_id, row.text_id).title)


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
