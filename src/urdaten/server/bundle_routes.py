"""Routes of bundles: the pipeline of a project in one file."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Path, Response

from urdaten.core.bundle import to_bytes
from urdaten.errors import NotFound
from urdaten.places.pipeline import acts as pipeline
from urdaten.places.team.acts import Project
from urdaten.places.team.wire import Lead, OfProject
from urdaten.platform.web import Db
from urdaten.server.bundles import bundle_of_version

router = APIRouter(prefix="/api/projects/{project}/pipeline", tags=["pipeline"])
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


def _file(project: Project, number: int, data: bytes) -> Response:
    headers = {"Content-Disposition": f'attachment; filename="{project.slug}-{number}.bundle"'}
    return Response(data, media_type="application/octet-stream", headers=headers)
