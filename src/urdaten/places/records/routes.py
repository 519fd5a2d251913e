"""Routes of the records place."""

from __future__ import annotations

import tempfile
from collections.abc import Iterable, Sequence
from typing import Annotated, Any

from fastapi import APIRouter, Query
from fastapi.responses import FileResponse
from sqlalchemy.orm import Session
from starlette.background import BackgroundTask

from urdaten.core.fields import plain
from urdaten.core.formats import write_csv, write_json_lines
from urdaten.core.records import Field, Template, schema_of, template_of
from urdaten.core.spans import Span
from urdaten.places.desk import acts as desk
from urdaten.places.desk.wire import StaveShown
from urdaten.places.pipeline import acts as pipeline
from urdaten.places.pipeline.wire import make_stave
from urdaten.places.records import acts
from urdaten.places.records.wire import (
    ChangedTemplateWish,
    FieldCounts,
    FieldWish,
    LookCount,
    RecordCounts,
    RecordDetail,
    RecordPage,
    RecordShown,
    SchemaWish,
    TemplateShown,
    TemplateWish,
    ValueCount,
)
from urdaten.places.tagger.wire import JobShown
from urdaten.places.team.acts import Project
from urdaten.places.team.wire import Annotator, Id, Lead, OfProject
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types
from urdaten.platform.web import Db

router = APIRouter(prefix="/api/projects/{project}/records", tags=["records"])


def _template(wish: TemplateWish) -> Template:
    fields = tuple(
        Field(
            **wished.model_dump(exclude={"types", "cues", "allowed"}),
            types=tuple(wished.types),
            cues=tuple(cue for cue in wished.cues if cue),
            allowed=tuple(one for one in wished.allowed if one),
        )
        for wished in wish.fields
    )
    return Template(
        name=wish.name,
        anchor=wish.anchor,
        fields=fields,
        description=wish.description,
        scope=wish.scope,
        each=wish.each,
        opens=tuple(tuple(group) for group in wish.opens),
    )


def _shown(db: Session, project_id: int, stored: acts.StoredTemplate) -> TemplateShown:
    template = stored.template
    return TemplateShown(
        id=stored.id,
        version=stored.version,
        name=template.name,
        anchor=template.anchor,
        fields=[FieldWish.model_validate(plain(f)) for f in template.fields],
        description=template.description,
        scope=template.scope,
        each=template.each,
        opens=[list(group) for group in template.opens],
        records=stored.records,
        open=stored.open,
        signed=stored.signed,
        learnt_records=stored.learnt_records,
        stale=acts.out_of_date(db, project_id),
    )


def _record(record: acts.StoredRecord) -> dict[str, Any]:
    return vars(record) | {"values": record.told, "read": record.values}


@router.get("/templates", operation_id="listTemplates")
def read_templates(project: OfProject, db: Db) -> list[TemplateShown]:
    return [_shown(db, project.id, t) for t in acts.read_templates(db, project.id)]


@router.post("/templates", status_code=201, operation_id="addTemplate")
def add_template(wish: TemplateWish, project: OfProject, _me: Lead, db: Db) -> TemplateShown:
    return _shown(db, project.id, acts.add_template(db, project.id, _template(wish)))


@router.put("/templates/{template_id}", operation_id="changeTemplate")
def change_template(
    template_id: Id, wish: ChangedTemplateWish, project: OfProject, _me: Lead, db: Db
) -> TemplateShown:
    return _shown(
        db, project.id, acts.change_template(db, project.id, template_id, _template(wish), wish.version)
    )


@router.delete("/templates/{template_id}", status_code=204, operation_id="removeTemplate")
def remove_template(template_id: Id, project: OfProject, _me: Lead, db: Db) -> None:
    acts.remove_template(db, project.id, template_id)


@router.get("/templates/{template_id}/schema", operation_id="readTemplateSchema")
def read_schema(template_id: Id, project: OfProject, db: Db) -> dict[str, Any]:
    """The template as a JSON Schema document."""
    return schema_of(acts.read_template(db, project.id, template_id).template)


@router.post("/templates/schema", status_code=201, operation_id="addTemplateFromSchema")
def add_template_from_schema(wish: SchemaWish, project: OfProject, _me: Lead, db: Db) -> TemplateShown:
    """A template from a JSON Schema document; properties without our annotations take the type that is called like them."""
    names = {one.code: one.name for one in types.list_types(db, project.id)}
    template = template_of(wish.schema_document, names)
    return _shown(db, project.id, acts.add_template(db, project.id, template))


@router.post("/assembly", status_code=202, operation_id="startAssembly")
def start_assembly(project: OfProject, me: Lead, db: Db) -> JobShown:
    return JobShown.model_validate(acts.start_assembly(db, project.id, me.id))


@router.post("/learning", status_code=202, operation_id="startRecordLearning")
def start_learning(project: OfProject, me: Lead, db: Db) -> JobShown:
    """Learn linking and opening from the texts whose records are all signed, and assemble anew."""
    return JobShown.model_validate(acts.start_learning(db, project.id, me.id))


@router.get("/templates/{template_id}/records", operation_id="listRecords")
def read_records(
    template_id: Id,
    project: OfProject,
    db: Db,
    after: Annotated[int | None, Query(ge=0, le=2**31 - 1)] = None,
    limit: Annotated[int, Query(ge=1, le=1000)] = 200,
    look: Annotated[str, Query(max_length=40)] = "",
    field: Annotated[str, Query(max_length=40)] = "",
    value: Annotated[str, Query(max_length=2000)] = "",
    unsigned: bool = False,
    sort: Annotated[str, Query(max_length=40)] = "",
    down: bool = False,
) -> RecordPage:
    wanted = acts.Wanted(look=look, field=field, value=value, unsigned=unsigned, sort=sort, down=down)
    records = acts.page_of_records(db, project.id, template_id, after=after, limit=limit + 1, wanted=wanted)
    more, records = len(records) > limit, records[:limit]
    shown = [RecordShown.model_validate(_record(record)) for record in records]
    return RecordPage(records=shown, next=records[-1].id if more else None)


@router.get("/templates/{template_id}/counts", operation_id="countRecords")
def read_counts(template_id: Id, project: OfProject, db: Db) -> RecordCounts:
    """What there is to look at, and the values that fields have most often; of fields with names or words only."""
    template = acts.read_template(db, project.id, template_id).template
    looks = acts.count_looks(db, template_id)
    return RecordCounts(
        looks=[LookCount(look=name, words=acts.LOOKS[name], records=n) for name, n in looks.items()],
        fields=[
            FieldCounts(
                field=f.name,
                values=[
                    ValueCount(value=v, records=n) for v, n in acts.count_values(db, template_id, f.name)
                ],
            )
            for f in template.fields
            if f.kind in ("none", "name", "code") and f.name != template.anchor
        ],
    )


@router.get("/{record_id}", operation_id="readRecord")
def read_record(record_id: Id, project: OfProject, db: Db) -> RecordDetail:
    stored, record = acts.read_record(db, project.id, record_id)
    return _detail(db, project, stored, record)


@router.post("/{record_id}/sign", operation_id="signRecord")
def sign_record(record_id: Id, project: OfProject, me: Annotator, db: Db) -> RecordDetail:
    acts.sign_record(db, project.id, record_id, me.id)
    return _detail(db, project, *acts.read_record(db, project.id, record_id))


@router.post("/{record_id}/refuse", operation_id="refuseRecord")
def refuse_record(record_id: Id, project: OfProject, me: Annotator, db: Db) -> RecordDetail:
    """Turn it down: there is no such record."""
    acts.refuse_record(db, project.id, record_id, me.id)
    return _detail(db, project, *acts.read_record(db, project.id, record_id))


@router.post("/{record_id}/reopen", operation_id="reopenRecord")
def reopen_record(record_id: Id, project: OfProject, me: Annotator, db: Db) -> RecordDetail:
    """Take back that it was signed or turned down."""
    acts.reopen_record(db, project.id, record_id, me.id)
    return _detail(db, project, *acts.read_record(db, project.id, record_id))


def _detail(
    db: Session, project: Project, stored: acts.StoredTemplate, record: acts.StoredRecord
) -> RecordDetail:
    others = acts.records_of_text(db, stored.id, record.text_id)
    numbers = {one.id: k for k, one in enumerate(others, start=1)}
    shown = _record(record) | {
        "staves": _staves(db, project, record, others),
        "number": numbers.get(record.id, 0) or 1,
        "of_text": len(others),
    }
    return RecordDetail.model_validate(shown)


def _staves(
    db: Session, project: Project, record: acts.StoredRecord, others: Sequence[acts.StoredRecord]
) -> list[StaveShown]:
    """Sentences that the record's values come from: all spans in use there, and a lane for each record that has some there."""
    text = texts.read_text(db, project.id, record.text_id)
    quiet = desk.quiet_reason(db, project, text) is not None
    (found,) = pipeline.evidence(db, project, [text])
    sentences = texts.sentences_of(db, [text.id])[text.id]
    states = desk.states_of(db, [s.id for s in sentences])
    shown = list(others) if any(one.id == record.id for one in others) else [record, *others]
    mine = _spans_of(record)
    lanes_of = {f"record {k}": _spans_of(one) for k, one in enumerate(shown, start=1)}
    staves = []
    for sentence in sentences:
        if not _within(mine, sentence):
            continue
        annotation = states.get(sentence.id, desk.Annotation())
        signed = annotation.state == desk.SIGNED
        if quiet and not signed:
            # Whoever annotates this sentence is to read it without suggestions.
            continue
        lanes = {"gold" if signed else "resolved": annotation.spans if signed else found.resolved}
        lanes |= {name: own for name, spans in lanes_of.items() if (own := _within(spans, sentence))}
        staves.append(make_stave(project, text, sentence, signed, lanes))
    return staves


def _spans_of(record: acts.StoredRecord) -> list[Span]:
    parts = [part for group in record.parts.values() for part in group]
    return [Span(p["start"], p["end"], p["type"], p["source"], p["probability"], p["why"]) for p in parts]


def _within(spans: Sequence[Span], sentence: texts.Sentence) -> list[Span]:
    return [s for s in spans if sentence.start <= s.start and s.end <= sentence.end]


def _as_json(template: Template, record: acts.StoredRecord) -> dict[str, Any]:
    """What the template's JSON Schema describes: values by field, lists where a field takes many."""
    made: dict[str, Any] = {}
    for f in template.fields:
        values = [_plain(one) for one in record.values.get(f.name, ())]
        if values:
            made[f.name] = values if f.many else values[0]
    return made


def _plain(value: dict[str, Any]) -> str | float:
    if value["kind"] == "number" and not value["fault"]:
        try:
            return float(value["text"])
        except ValueError:
            return str(value["text"])
    return str(value["text"])


def _download(lines: Iterable[str], name: str, kind: str) -> FileResponse:
    """Lines as a file on the disk, which goes when it has been sent: whoever reads slowly holds no connection for it."""
    file = tempfile.NamedTemporaryFile("w", prefix="urdaten-", encoding="utf-8", newline="")  # noqa: SIM115
    file.writelines(lines)
    file.flush()
    return FileResponse(file.name, media_type=kind, filename=name, background=BackgroundTask(file.close))


def _file_name(template: Template, ending: str) -> str:
    plain = "".join(sign if sign.isascii() and sign.isalnum() else "-" for sign in template.name.lower())
    return f"{plain.strip('-') or 'records'}.{ending}"


@router.get("/templates/{template_id}/csv", operation_id="downloadCsv", response_class=FileResponse)
def download_csv(template_id: Id, project: OfProject, db: Db) -> FileResponse:
    template = acts.read_template(db, project.id, template_id).template
    names = [f.name for f in template.fields]
    rows = (
        [r.text_title, *(r.told.get(n, "") for n in names)]
        for r in acts.all_records(db, project.id, template_id)
    )
    lines = write_csv(["text", *names], rows)
    return _download(lines, _file_name(template, "csv"), "text/csv; charset=utf-8")


@router.get("/templates/{template_id}/jsonl", operation_id="downloadJsonLines", response_class=FileResponse)
def download_json_lines(template_id: Id, project: OfProject, db: Db) -> FileResponse:
    template = acts.read_template(db, project.id, template_id).template
    rows = (
        {"text": r.text_title, "text_id": r.text_id}
        | {"record": _as_json(template, r), "state": r.state, "missing": r.missing}
        | {"parts": {f.name: r.parts[f.name] for f in template.fields if f.name in r.parts}}
        for r in acts.all_records(db, project.id, template_id)
    )
    lines = write_json_lines(rows)
    return _download(lines, _file_name(template, "jsonl"), "application/jsonl; charset=utf-8")
