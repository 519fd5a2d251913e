"""What every route leans on: transaction, person, project of the path; and the guards around all."""

from __future__ import annotations

from collections.abc import Awaitable, Callable, Iterator
from typing import Annotated
from urllib.parse import urlsplit

from fastapi import Depends, FastAPI, Request, Response
from fastapi.responses import JSONResponse
from sqlalchemy.orm import Session

from urdaten.platform.accounts import Person, person_of
from urdaten.platform.database import transaction
from urdaten.platform.settings import Settings

COOKIE = "urdaten_session"

# Emotion writes style elements at run time; scripts come from our own files alone.
CONTENT_SECURITY_POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self' 'unsafe-inline'; font-src 'self'; "
    "img-src 'self' data:; connect-src 'self'; manifest-src 'self'; base-uri 'none'; "
    "form-action 'self'; frame-ancestors 'none'"
)


def settings_of(request: Request) -> Settings:
    settings: Settings = request.app.state.settings
    return settings


def _session(request: Request) -> Iterator[Session]:
    with transaction(settings_of(request).database_url) as db:
        yield db


# scope="function": the commit happens before the answer is sent, so an answer means it is kept.
Db = Annotated[Session, Depends(_session, scope="function")]
Config = Annotated[Settings, Depends(settings_of)]


def _person(request: Request, db: Db) -> Person:
    return person_of(db, request.cookies.get(COOKIE))


def _lead(person: Annotated[Person, Depends(_person)]) -> Person:
    person.must_lead()
    return person


Me = Annotated[Person, Depends(_person)]
Lead = Annotated[Person, Depends(_lead)]


def _same_origin(request: Request) -> bool:
    origin = request.headers.get("origin")
    return origin is not None and urlsplit(origin).netloc == request.headers.get("host")


def install_guards(app: FastAPI) -> None:
    """Refuse writes from foreign pages, and set the security headers on every answer."""

    @app.middleware("http")
    async def guard(request: Request, follow: Callable[[Request], Awaitable[Response]]) -> Response:
        if request.method not in {"GET", "HEAD", "OPTIONS"} and not _same_origin(request):
            answer: Response = JSONResponse(
                {
                    "type": "urn:urdaten:foreign-origin",
                    "title": "Foreign origin",
                    "status": 403,
                    "detail": "Writes are taken only from Urdaten's own pages; nothing was changed.",
                },
                status_code=403,
                media_type="application/problem+json",
            )
        else:
            answer = await follow(request)
        answer.headers["Content-Security-Policy"] = CONTENT_SECURITY_POLICY
        answer.headers["X-Content-Type-Options"] = "nosniff"
        answer.headers["Referrer-Policy"] = "same-origin"
        answer.headers["Cross-Origin-Opener-Policy"] = "same-origin"
        if request.url.path.startswith("/api/"):
            answer.headers.setdefault("Cache-Control", "no-store")
        return answer
