"""The FastAPI application: every place's routes, live events, and the built front end."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator, Awaitable, Callable
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Any

from fastapi import FastAPI, Request
from fastapi.responses import FileResponse
from sse_starlette import EventSourceResponse
from starlette.exceptions import HTTPException

from urdaten import __doc__ as about
from urdaten.errors import NotSignedIn, Unavailable
from urdaten.places.desk.corpus_routes import router as corpus
from urdaten.places.desk.rounds_routes import router as rounds
from urdaten.places.desk.routes import router as desk
from urdaten.places.findings.routes import router as findings
from urdaten.places.intake.routes import router as intake
from urdaten.places.lists.entry_routes import router as list_entries
from urdaten.places.lists.file_routes import router as list_files
from urdaten.places.lists.routes import router as lists
from urdaten.places.lists.starter_routes import router as starters
from urdaten.places.pipeline.plan_routes import router as plans
from urdaten.places.pipeline.routes import router as evidence
from urdaten.places.records.routes import router as records
from urdaten.places.rules.routes import router as rules
from urdaten.places.scores.routes import router as scores
from urdaten.places.tagger.routes import help_router as tagger_help
from urdaten.places.tagger.routes import router as tagger
from urdaten.places.team.routes import router as team
from urdaten.places.team.signing_in import router as signing_in
from urdaten.places.team.wire import OfProject
from urdaten.places.texts.at_once_routes import router as texts_at_once
from urdaten.places.texts.routes import router as texts
from urdaten.places.texts.splits_routes import router as texts_splits
from urdaten.places.types.routes import router as types
from urdaten.platform import problems
from urdaten.platform.database import transaction
from urdaten.platform.events import EventHub, Listener
from urdaten.platform.guards import MEGABYTE, Guards
from urdaten.platform.sessions import signed_in
from urdaten.platform.settings import Settings
from urdaten.platform.throttle import Throttle
from urdaten.platform.web import Me
from urdaten.readers import MOST_BYTES as MOST_OF_FILE
from urdaten.server import tables, work
from urdaten.server.archive_routes import MOST_BYTES as MOST_OF_ARCHIVE
from urdaten.server.archive_routes import router as archive
from urdaten.server.assets import Assets
from urdaten.server.bundle_routes import router as bundles
from urdaten.server.document import document_of
from urdaten.server.figures import router as figures
from urdaten.server.projects import router as projects

# The Desk's first: an act looks through those before it.
ROUTERS = (
    desk,
    signing_in,
    projects,
    archive,
    team,
    figures,
    types,
    findings,
    texts_splits,
    texts_at_once,
    texts,
    corpus,
    intake,
    rounds,
    lists,
    starters,
    list_entries,
    list_files,
    rules,
    evidence,
    plans,
    bundles,
    tagger,
    tagger_help,
    scores,
    records,
)
KEEP_ALIVE_S = 20
# Where more than the usual megabyte may be sent.
LARGER = {
    "/texts": 8 * MEGABYTE,
    "/at-once": 8 * MEGABYTE,
    "/rounds": 2 * MEGABYTE,
    "/archives/import": MOST_OF_ARCHIVE,
    "/file": MOST_OF_FILE,
}


def build(settings: Settings) -> FastAPI:
    """The application for these settings."""
    assert tables.METADATA.tables
    assert work.KINDS
    hub = EventHub(settings.psycopg_dsn)

    @asynccontextmanager
    async def lifespan(_app: FastAPI) -> AsyncIterator[None]:
        await hub.start()
        yield
        await hub.stop()

    app = FastAPI(
        title="Urdaten",
        description=about or "",
        version="1",
        lifespan=lifespan,
        docs_url=None,
        redoc_url=None,
        openapi_url=None,
        responses={"default": {"model": problems.Problem, "description": "a problem, RFC 9457"}},
    )
    app.state.settings = settings
    app.state.throttle = Throttle()
    problems.install(app)
    app.add_middleware(Guards, hosts=settings.hosts, larger=LARGER)
    for router in ROUTERS:
        app.include_router(router)

    @app.get("/api/projects/{project}/events", include_in_schema=False)
    async def events(project: OfProject, me: Me, request: Request) -> EventSourceResponse:
        listener = Listener(project.id, me.id, me.session_id)
        still = _still_stands(settings, request.cookies.get(settings.cookie))
        return EventSourceResponse(hub.stream(listener, still), ping=KEEP_ALIVE_S)

    @app.get("/api/openapi.json", include_in_schema=False)
    def openapi(_me: Me) -> dict[str, Any]:
        return document_of(app, settings)

    if settings.web_dir.is_dir():
        _serve_front_end(app, settings.web_dir)
    return app


def _still_stands(settings: Settings, token: str | None) -> Callable[[], Awaitable[bool]]:
    """Asks whether a session still stands; a page that is open counts as using it."""

    def look() -> bool:
        try:
            with transaction(settings.database_url) as db:
                signed_in(db, settings, token, touch=True)
        except NotSignedIn:
            return False
        except Unavailable:
            # While the database is away nobody is signed out.
            return True
        return True

    async def ask() -> bool:
        return await asyncio.to_thread(look)

    return ask


def _serve_front_end(app: FastAPI, folder: Path) -> None:
    others = {path.name: path for path in folder.iterdir() if path.is_file()}
    app.mount("/assets", Assets(directory=folder / "assets"), name="assets")

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str, request: Request) -> FileResponse:
        if path in others:
            return FileResponse(others[path], headers={"Cache-Control": "max-age=3600"})
        if path.startswith("api/") or "text/html" not in request.headers.get("accept", "text/html"):
            raise HTTPException(404, "There is nothing at this address")
        return FileResponse(folder / "index.html", headers={"Cache-Control": "no-cache"})
