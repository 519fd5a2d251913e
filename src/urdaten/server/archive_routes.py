"""Routes of archives: a project taken out as one file, and brought back."""

from __future__ import annotations

import tempfile
from datetime import UTC, datetime
from typing import IO, Annotated

import anyio.to_thread
from fastapi import APIRouter, Query, Request
from fastapi.responses import FileResponse
from starlette.background import BackgroundTask

from urdaten.errors import TooLarge
from urdaten.places.team import acts as team
from urdaten.places.team.routes import shown
from urdaten.places.team.wire import Lead, OfProject, ProjectShown
from urdaten.platform.database import transaction
from urdaten.platform.settings import Settings
from urdaten.platform.web import Config, Me
from urdaten.server.archive import export_project, import_project

router = APIRouter(prefix="/api", tags=["team"])
MOST_BYTES = 1_000_000_000


@router.get("/projects/{project}/archive", operation_id="downloadArchive", response_class=FileResponse)
def download(project: OfProject, _me: Lead, settings: Config) -> FileResponse:
    """The whole project as one file: docs/formats.md says what stands in it."""
    # Not in memory: it may be large. It goes when it has been sent.
    file = tempfile.NamedTemporaryFile(prefix="urdaten-", suffix=".zip")  # noqa: SIM115
    with transaction(settings.database_url, snapshot=True) as db:
        export_project(db, project, file)
    file.flush()
    name = f"{project.slug}-{datetime.now(UTC):%Y-%m-%d}.urdaten.zip"
    return FileResponse(
        file.name, media_type="application/zip", filename=name, background=BackgroundTask(file.close)
    )


@router.post("/archives/import", status_code=201, operation_id="importArchive")
async def bring_back(
    request: Request, me: Me, settings: Config, with_members: Annotated[bool, Query()] = False
) -> ProjectShown:
    """Send an archive as the body; it becomes a new project that you lead, or nothing is kept and the reason is said.

    with_members: people of the archive who have an account here become members again; for whoever looks after the server.
    """
    with tempfile.TemporaryFile(prefix="urdaten-") as file:
        size = 0
        async for block in request.stream():
            size += len(block)
            if size > MOST_BYTES:
                raise TooLarge(
                    f"An archive that is sent over the web has at most {MOST_BYTES // 1_000_000} MB."
                )
            await anyio.to_thread.run_sync(file.write, block)
        members = with_members and me.keeper
        return await anyio.to_thread.run_sync(_import, settings, file, me.id, members)


def _import(settings: Settings, file: IO[bytes], account_id: int, with_members: bool) -> ProjectShown:
    file.seek(0)
    with transaction(settings.database_url) as db:
        project = import_project(db, file, account_id, with_members=with_members)
        return shown(team.belonging(db, project.slug, account_id))
