"""Routes of archives: a project taken out as one file, and brought back."""

from __future__ import annotations

import asyncio
import tempfile
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import IO, Annotated
from uuid import UUID, uuid4

import anyio.to_thread
from fastapi import APIRouter, Query, Request
from fastapi.responses import FileResponse
from pydantic import Field
from starlette.background import BackgroundTask

from urdaten.errors import Clash, NotFound, Stopped, TooLarge
from urdaten.places.team import acts as team
from urdaten.places.team.routes import shown
from urdaten.places.team.wire import Lead, OfProject, ProjectShown, Shown
from urdaten.platform.database import transaction
from urdaten.platform.settings import Settings
from urdaten.platform.web import Config, Me
from urdaten.server.archive import export_project, import_project

router = APIRouter(prefix="/api", tags=["team"])
MOST_BYTES = 1_000_000_000
# How often it is looked whether whoever sent an archive is still there, in seconds.
LOOK_S = 0.5


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


class ArrivalShown(Shown):
    """How far an archive is on its way in, once it has been sent."""

    done: int = Field(description="bytes of its files that have been read")
    total: int


@dataclass
class _Arrival:
    account: int
    done: int = 0
    total: int = 0
    # Whoever sent it has gone away.
    unwanted: bool = False

    def report(self, done: int, total: int) -> None:
        """Called by the thread that brings it in."""
        self.done, self.total = done, total
        if self.unwanted:
            raise Stopped("It was stopped; nothing was kept.")


def _arrivals(request: Request) -> dict[UUID, _Arrival]:
    state = request.app.state
    if not hasattr(state, "arrivals"):
        state.arrivals = {}
    arrivals: dict[UUID, _Arrival] = state.arrivals
    return arrivals


@router.get("/archives/import/{arrival}", operation_id="readArrival")
async def how_far(arrival: UUID, me: Me, request: Request) -> ArrivalShown:
    """How far an archive is that you are bringing in under this name."""
    found = _arrivals(request).get(arrival)
    if found is None or found.account != me.id:
        raise NotFound("No such archive is on its way in.")
    return ArrivalShown(done=found.done, total=found.total)


@router.post("/archives/import", status_code=201, operation_id="importArchive")
async def bring_back(
    request: Request,
    me: Me,
    settings: Config,
    with_members: Annotated[bool, Query()] = False,
    arrival: Annotated[UUID | None, Query(description="a name of your own, to ask how far it is")] = None,
) -> ProjectShown:
    """Send an archive as the body; it becomes a new project that you lead, or nothing is kept and the reason is said.

    with_members: people of the archive who have an account here become members again; for whoever looks after the server.
    Whoever closes the connection before the answer stops it.
    """
    arrivals, name = _arrivals(request), arrival or uuid4()
    if name in arrivals:
        raise Clash("An archive is on its way in under this name already.", field="arrival")
    arrivals[name] = _Arrival(me.id)
    try:
        return await _receive(request, settings, arrivals[name], with_members=with_members and me.keeper)
    finally:
        del arrivals[name]


async def _receive(
    request: Request, settings: Settings, arrival: _Arrival, *, with_members: bool
) -> ProjectShown:
    with tempfile.TemporaryFile(prefix="urdaten-") as file:
        size = 0
        async for block in request.stream():
            size += len(block)
            if size > MOST_BYTES:
                raise TooLarge(
                    f"An archive that is sent over the web has at most {MOST_BYTES // 1_000_000} MB."
                )
            await anyio.to_thread.run_sync(file.write, block)
        task = asyncio.create_task(asyncio.to_thread(_import, settings, file, arrival, with_members))
        while not task.done():
            await asyncio.wait({task}, timeout=LOOK_S)
            arrival.unwanted = arrival.unwanted or await request.is_disconnected()
        return task.result()


def _import(settings: Settings, file: IO[bytes], arrival: _Arrival, with_members: bool) -> ProjectShown:
    file.seek(0)
    with transaction(settings.database_url) as db:
        project = import_project(db, file, arrival.account, with_members=with_members, report=arrival.report)
        return shown(team.belonging(db, project.slug, arrival.account))
