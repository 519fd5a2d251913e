"""Routes of bundles: the pipeline of a project in one file."""

from __future__ import annotations

import asyncio
from typing import Annotated

from fastapi import APIRouter, Path, Query, Request, Response

from urdaten.core.bundle import to_bytes
from urdaten.errors import BadInput, NotFound, TooLarge
from urdaten.places.pipeline import acts as pipeline
from urdaten.places.pipeline.plan_wire import IncomingShown, incoming_shown
from urdaten.places.team.acts import Project
from urdaten.places.team.wire import Id, Lead, OfProject
from urdaten.platform.database import transaction
from urdaten.platform.web import Config, Db
from urdaten.server.bundles import bundle_of_version

router = APIRouter(prefix="/api/projects/{project}/pipeline", tags=["pipeline"])
MOST_BYTES = 200 << 20
Number = Annotated[int, Path(ge=0, le=2**31 - 1)]


@router.get("/bundle", response_class=Response, operation_id="exportBundle")
def export(project: OfProject, _me: Lead, db: Db) -> Response:
    """The pipeline of now with everything that it needs; `urdaten run` reads it."""
    version = pipeline.present(db, project.id)
    return _file(project, version.number, to_bytes(bundle_of_version(db, project, version)))


@router.get("/published", response_class=Response, operation_id="readPublishedBundle")
def published(project: OfProject, db: Db) -> Response:
    """The version that is published, as it was then, for every member of the project."""
    number = pipeline.published_number(db, project.id)
    if number is None:
        raise NotFound("No version of this pipeline is published.")
    return _file(project, number, pipeline.read_bundle(db, project.id, number))


@router.get("/versions/{number}/bundle", response_class=Response, operation_id="readBundleOfVersion")
def of_version(number: Number, project: OfProject, _me: Lead, db: Db) -> Response:
    """A version that was published, as it was then."""
    return _file(project, number, pipeline.read_bundle(db, project.id, number))


@router.post("/incoming/file", status_code=202, operation_id="sendBundle")
async def send(
    project: OfProject,
    me: Lead,
    settings: Config,
    request: Request,
    name: Annotated[str, Query(max_length=200)] = "bundle",
) -> IncomingShown:
    """Send a bundle as the body, as it is; it is looked through in the background, and nothing is kept of it yet."""
    blocks = []
    size = 0
    async for block in request.stream():
        size += len(block)
        if size > MOST_BYTES:
            raise TooLarge(f"A bundle that is brought in has at most {MOST_BYTES >> 20} MB.")
        blocks.append(block)

    def keep() -> IncomingShown:
        with transaction(settings.database_url) as db:
            job = pipeline.start_looking(db, project.id, me.id, name, b"".join(blocks))
            return incoming_shown(pipeline.read_incoming(db, project.id, job.id))

    if not size:
        raise BadInput("This file is empty.", field="file")
    return await asyncio.to_thread(keep)


@router.get("/incoming/{job_id}", operation_id="readIncomingBundle")
def incoming(job_id: Id, project: OfProject, _me: Lead, db: Db) -> IncomingShown:
    return incoming_shown(pipeline.read_incoming(db, project.id, job_id))


@router.post("/incoming/{job_id}/keep", status_code=202, operation_id="bringBundleIn")
def keep(job_id: Id, project: OfProject, me: Lead, db: Db) -> IncomingShown:
    """Bring in what was looked through: all of it or nothing. Its stages wait for somebody to look at them and save them."""
    job = pipeline.start_bringing(db, project.id, me.id, job_id)
    return incoming_shown(pipeline.read_incoming(db, project.id, job.id))


def _file(project: Project, number: int, data: bytes) -> Response:
    headers = {"Content-Disposition": f'attachment; filename="{project.slug}-{number}.bundle"'}
    return Response(data, media_type="application/octet-stream", headers=headers)
