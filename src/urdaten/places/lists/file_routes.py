"""Routes of files of names: into a list, and out of it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import asdict
from typing import Annotated
from urllib.parse import quote

import anyio.to_thread
from fastapi import APIRouter, Query, Request
from fastapi.responses import StreamingResponse

from urdaten.core.formats import ListedName, NameFormat, write_csv, write_names
from urdaten.errors import TooLarge
from urdaten.places.lists import acts
from urdaten.places.lists.wire import ListImportShown, ListWorkShown, NamesPlanWish
from urdaten.places.team.wire import Id, Lead, OfProject
from urdaten.platform.database import transaction
from urdaten.platform.web import Config, Db

router = APIRouter(prefix="/api/projects/{project}/lists/{list_id}", tags=["lists"])
MOST_MEGABYTES = 100
_KINDS = {
    "csv": "text/csv; charset=utf-8",
    "tsv": "text/tab-separated-values; charset=utf-8",
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    "lines": "text/plain; charset=utf-8",
    "jsonl": "application/jsonl",
    "turtle": "text/turtle",
    "json-ld": "application/ld+json",
}
_ENDINGS = {"lines": "txt", "turtle": "ttl", "json-ld": "jsonld"}


def import_shown(held: acts.ListImport) -> ListImportShown:
    """As it goes over the wire."""
    values = {name: getattr(held, name) for name in ("id", "list_id", "state", "name", "act")}
    return ListImportShown(
        **values,
        plan=NamesPlanWish(**asdict(held.plan)),
        looked=None if held.looked is None else held.looked,  # type: ignore[arg-type] # read by the model
        work=None if held.job is None else ListWorkShown.model_validate(held.job),
    )


@router.post("/imports/file", status_code=201, operation_id="beginListImport")
async def begin(
    list_id: Id,
    project: OfProject,
    me: Lead,
    settings: Config,
    request: Request,
    name: Annotated[str, Query(max_length=300)],
) -> ListImportShown:
    """Send a file of names as the body; it is looked into, and nothing is kept of it yet."""
    data = bytearray()
    async for block in request.stream():
        data += block
        if len(data) > MOST_MEGABYTES << 20:
            raise TooLarge(f"A file of names has at most {MOST_MEGABYTES} MB; split it up.")

    def keep() -> ListImportShown:
        with transaction(settings.database_url) as db:
            return import_shown(acts.begin_import(db, project, list_id, me.id, name, bytes(data)))

    return await anyio.to_thread.run_sync(keep)


@router.get("/imports/{number}", operation_id="readListImport")
def read(list_id: Id, number: Id, project: OfProject, _me: Lead, db: Db) -> ListImportShown:
    return import_shown(acts.read_import(db, project.id, list_id, number))


@router.put("/imports/{number}/plan", operation_id="changeListImport")
def change(
    list_id: Id, number: Id, wish: NamesPlanWish, project: OfProject, me: Lead, db: Db
) -> ListImportShown:
    """Read the file by another plan."""
    plan = acts.NamesPlan(**wish.model_dump())
    return import_shown(acts.change_import(db, project.id, list_id, number, me.id, plan))


@router.post("/imports/{number}/keep", status_code=202, operation_id="keepListImport")
def keep(list_id: Id, number: Id, project: OfProject, me: Lead, db: Db) -> ListImportShown:
    """Take its names into the list: all of them, or none when it is stopped."""
    return import_shown(acts.keep_import(db, project.id, list_id, number, me.id))


@router.delete("/imports/{number}", status_code=204, operation_id="removeListImport")
def remove(list_id: Id, number: Id, project: OfProject, _me: Lead, db: Db) -> None:
    acts.remove_import(db, project.id, list_id, number)


@router.get(
    "/imports/{number}/refused", operation_id="downloadRefusedNames", response_class=StreamingResponse
)
def refused(list_id: Id, number: Id, project: OfProject, _me: Lead, db: Db) -> StreamingResponse:
    """What could not be kept and why, as CSV."""
    held = acts.read_import(db, project.id, list_id, number)
    rows = [] if held.looked is None else held.looked["samples"]["refused"]
    lines = write_csv(
        ("place", "why", "content"), ([one["place"], one["why"], one["content"]] for one in rows)
    )
    headers = {"content-disposition": f'attachment; filename="names-{number}-refused.csv"'}
    return StreamingResponse(lines, media_type=_KINDS["csv"], headers=headers)


@router.get("/export", operation_id="exportList", response_class=StreamingResponse)
def export(
    list_id: Id,
    project: OfProject,
    db: Db,
    settings: Config,
    form: Annotated[NameFormat, Query(alias="as")] = "csv",
) -> StreamingResponse:
    """Every name of a list."""
    named = acts.read_list(db, project.id, list_id)

    def names() -> Iterator[ListedName]:
        with transaction(settings.database_url, snapshot=True) as own:
            for draft in acts.all_entries(own, project.id, list_id):
                yield ListedName(
                    name=draft.preferred,
                    variants=draft.variants,
                    identifier=draft.identifier,
                    note=draft.note,
                    on=draft.on,
                )

    file = quote(f"{named.name}.{_ENDINGS.get(form, form)}")
    headers = {"content-disposition": f"attachment; filename*=UTF-8''{file}"}
    return StreamingResponse(write_names(names(), form), media_type=_KINDS[form], headers=headers)
