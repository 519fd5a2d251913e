"""Problem details (RFC 9457): the one place where our errors meet HTTP."""

from __future__ import annotations

import logging
from collections.abc import Mapping

from fastapi import FastAPI, Request
from fastapi.encoders import jsonable_encoder
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel, ConfigDict
from starlette.exceptions import HTTPException

from urdaten import errors

_log = logging.getLogger(__name__)
MEDIA_TYPE = "application/problem+json"

STATUS: dict[type[errors.UrdatenError], int] = {
    errors.BadInput: 422,
    errors.TooLarge: 413,
    errors.NotFound: 404,
    errors.Clash: 409,
    errors.NotAllowed: 403,
    errors.NotSignedIn: 401,
    errors.TooMany: 429,
    errors.Stopped: 409,
    errors.Unavailable: 503,
    errors.UrdatenError: 500,
}


class Problem(BaseModel):
    """A problem as RFC 9457 describes it; further members depend on the type."""

    model_config = ConfigDict(extra="allow")

    type: str
    title: str
    status: int
    detail: str


def status_of(error: type[errors.UrdatenError]) -> int:
    """The status of the nearest mapped ancestor."""
    return next(STATUS[cls] for cls in error.__mro__ if cls in STATUS)


def _slug(name: str) -> str:
    return "".join(f"-{sign.lower()}" if sign.isupper() else sign for sign in name).lstrip("-")


def answer_with(
    status: int, slug: str, title: str, detail: str, headers: Mapping[str, str] | None = None, **more: object
) -> JSONResponse:
    """A response that is a problem."""
    content = {"type": f"urn:urdaten:{slug}", "title": title, "status": status, "detail": detail}
    return JSONResponse(
        jsonable_encoder(content | more), status_code=status, media_type=MEDIA_TYPE, headers=headers
    )


def unforeseen(fault: Exception) -> JSONResponse:
    """The answer where the program itself is at fault."""
    _log.error("Unforeseen error", exc_info=fault)
    detail = "Something unforeseen went wrong; nothing was changed. The server's log says more."
    return answer_with(500, "unforeseen", "Unforeseen error", detail)


def install(app: FastAPI) -> None:
    """Answer every error of the application with problem details."""

    @app.exception_handler(errors.UrdatenError)
    def ours(_request: Request, error: errors.UrdatenError) -> JSONResponse:
        slug = _slug(type(error).__name__)
        title = slug.replace("-", " ").capitalize()
        detail = dict(error.detail)
        seconds = detail.pop("retry_after", None)
        headers = {"Retry-After": str(seconds)} if seconds is not None else None
        return answer_with(status_of(type(error)), slug, title, error.message, headers, **detail)

    @app.exception_handler(RequestValidationError)
    def malformed(_request: Request, error: RequestValidationError) -> JSONResponse:
        faults = [
            {"where": ".".join(str(part) for part in fault["loc"]), "what": fault["msg"]}
            for fault in error.errors()
        ]
        detail = "; ".join(f"{fault['where']}: {fault['what']}" for fault in faults)
        # A fault in a member of the body is shown at its field.
        where = error.errors()[0]["loc"]
        named = (
            {"field": where[1]} if where[0] == "body" and len(where) > 1 and isinstance(where[1], str) else {}
        )
        return answer_with(
            422, "malformed-request", "Malformed request", detail, None, faults=faults, **named
        )

    @app.exception_handler(HTTPException)
    def http(_request: Request, error: HTTPException) -> JSONResponse:
        return answer_with(error.status_code, "http", str(error.detail), f"{error.detail}.", error.headers)
