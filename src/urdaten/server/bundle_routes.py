"""Routes of bundles: the pipeline of a project in one file."""

from __future__ import annotations

from fastapi import APIRouter, Response

from urdaten.core.bundle import to_bytes
from urdaten.places.pipeline import acts as pipeline
from urdaten.places.records import acts as records
from urdaten.places.team.wire import Lead, OfProject
from urdaten.platform.web import Db
from urdaten.server.projects import scheme_of

router = APIRouter(prefix="/api/projects/{project}/pipeline", tags=["pipeline"])


@router.get("/bundle", response_class=Response, operation_id="exportBundle")
def export(project: OfProject, _me: Lead, db: Db) -> Response:
    """The pipeline of now with everything that it needs; `urdaten run` reads it."""
    version = pipeline.present(db, project.id)
    templates = [one.template for one in records.read_templates(db, project.id)]
    bundle = pipeline.bundle_of(db, project, version.plan, scheme_of(db, project), templates)
    name = f"{project.slug}-{version.number}.bundle"
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(to_bytes(bundle), media_type="application/octet-stream", headers=headers)
