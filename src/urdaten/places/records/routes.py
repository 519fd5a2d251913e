"""Routes of the records place."""

from __future__ import annotations

import tempfile
from collections.abc import Iterable
from typing import Annotated, Any

from fastapi import APIRouter, Query
from fastapi.responses import FileResponse
from sqlalchemy.orm import Session
from starlette.background import BackgroundTask

from urdaten.core.formats import write_csv, write_json_lines
from urdaten.core.records import Field, Template
from urdaten.core.spans import Span
from urdaten.places.desk import acts as desk
from urdaten.places.desk.wire import StaveShown
from urdaten.places.pipeline import acts as pipeline
from urdaten.places.pipeline.wire import make_stave
from urdaten.places.records import acts
from urdaten.places.records.wire import (
    ChangedTemplateWish,
    FieldWish,
    RecordDetail,
    RecordPage,
    RecordShown,
    TemplateShown,
    TemplateWish,
)
from urdaten.places.tagger.wire import JobShown
from urdaten.places.team.acts import Project
from urdaten.places.team.wire import Id, Lead, OfProject
from urdaten.places.texts import acts as texts
from urdaten.platform.web import Db

router = APIRouter(prefix="/api/projects/{project}/records", tags=["records"])


def _template(wish: TemplateWish) -> Template:
    fields = tuple(
        Field(name=f.name, types=tuple(f.types), cues=tuple(c for c in f.cues if c), required=f.required)
        for f in wish.fields
    )
    return Template(name=wish.name, anchor=wish.anchor, fields=fields)


def _shown(db: Session, project_id: int, stored: acts.StoredTemplate) -> TemplateShown:
    fields = [
        FieldWish(name=f.name, types=list(f.types), cues=list(f.cues), required=f.required)
        for f in stored.template.fields
    ]
    return TemplateShown(
        id=stored.id,
        version=stored.version,
        name=stored.template.name,
        anchor=stored.template.anchor,
        fields=fields,
        records=stored.records,
        open=stored.open,
        stale=acts.out_of_date(db, project_id),
    )


def _record(template: Template, record: acts.StoredRecord) -> dict[str, Any]:
    values = {f.name: record.value(f.name) for f in template.fields}
    return vars(record) | {"values": values}


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


@router.post("/assembly", status_code=202, operation_id="startAssembly")
def start_assembly(project: OfProject, me: Lead, db: Db) -> JobShown:
    return JobShown.model_validate(acts.start_assembly(db, project.id, me.id))


@router.get("/templates/{template_id}/records", operation_id="listRecords")
def read_records(
    template_id: Id,
    project: OfProject,
    db: Db,
    after: Annotated[int | None, Query(ge=0, le=2**31 - 1)] = None,
    limit: Annotated[int, Query(ge=1, le=1000)] = 200,
    only_open: bool = False,
) -> RecordPage:
    template = acts.read_template(db, project.id, template_id).template
    records = acts.page_of_records(
        db, project.id, template_id, after=after, limit=limit + 1, only_open=only_open
    )
    more, records = len(records) > limit, records[:limit]
    shown = [RecordShown.model_validate(_record(template, record)) for record in records]
    return RecordPage(records=shown, next=records[-1].id if more else None)


@router.get("/{record_id}", operation_id="readRecord")
def read_record(record_id: Id, project: OfProject, db: Db) -> RecordDetail:
    stored, record = acts.read_record(db, project.id, record_id)
    staves = _staves(db, project, record)
    return RecordDetail.model_validate(_record(stored.template, record) | {"staves": staves})


def _staves(db: Session, project: Project, record: acts.StoredRecord) -> list[StaveShown]:
    """Sentences that the record's values come from: all spans in use there, and the record's own."""
    text = texts.read_text(db, project.id, record.text_id)
    quiet = desk.quiet_reason(db, project, text) is not None
    (found,) = pipeline.evidence(db, project, [text])
    sentences = texts.sentences_of(db, [text.id])[text.id]
    states = desk.states_of(db, [s.id for s in sentences])
    parts = [part for group in record.parts.values() for part in group]
    mine = [Span(p["start"], p["end"], p["type"], p["source"], None, p["why"]) for p in parts]
    staves = []
    for sentence in sentences:
        here = [s for s in mine if sentence.start <= s.start and s.end <= sentence.end]
        if here:
            annotation = states.get(sentence.id, desk.Annotation())
            signed = annotation.state == desk.SIGNED
            if quiet and not signed:
                # Whoever annotates this sentence is to read it without suggestions.
                continue
            lanes = {"gold" if signed else "resolved": annotation.spans if signed else found.resolved}
            staves.append(make_stave(project, text, sentence, signed, lanes | {"record": here}))
    return staves


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
        [r.text_title, *(r.value(n) for n in names)] for r in acts.all_records(db, project.id, template_id)
    )
    lines = write_csv(["text", *names], rows)
    return _download(lines, _file_name(template, "csv"), "text/csv; charset=utf-8")


@router.get("/templates/{template_id}/jsonl", operation_id="downloadJsonLines", response_class=FileResponse)
def download_json_lines(template_id: Id, project: OfProject, db: Db) -> FileResponse:
    template = acts.read_template(db, project.id, template_id).template
    rows = (
        {"text": r.text_title, "text_id": r.text_id}
        | {"fields": {f.name: r.parts[f.name] for f in template.fields if f.name in r.parts}}
        | {"missing": r.missing}
        for r in acts.all_records(db, project.id, template_id)
    )
    lines = write_json_lines(rows)
    return _download(lines, _file_name(template, "jsonl"), "application/jsonl; charset=utf-8")
