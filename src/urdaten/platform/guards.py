"""Before and after every request: known hosts, own pages, bodies of a bearable size; and headers on every answer."""

from __future__ import annotations

import asyncio
import logging
from collections.abc import MutableMapping
from typing import Any
from urllib.parse import urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from urdaten.platform.problems import answer_with, unforeseen

_log = logging.getLogger(__name__)

# Emotion writes style elements at run time; scripts come from our own files alone.
CONTENT_SECURITY_POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self' 'unsafe-inline'; font-src 'self'; "
    "img-src 'self' data:; connect-src 'self'; manifest-src 'self'; base-uri 'none'; "
    "form-action 'self'; frame-ancestors 'none'"
)
MEGABYTE = 1_000_000
MOST_BYTES = MEGABYTE
# What may be larger than this is handed on in parts.
WHOLE_BYTES = 10 * MEGABYTE
# How long a body may take to arrive, in seconds.
BODY_S = 30.0
# How fast a body that is taken in parts has to come on the whole.
BYTES_A_SECOND = 20_000
SAFE = {"GET", "HEAD", "OPTIONS"}


class Refused(Exception):
    """The request goes no further; says how it is answered."""

    def __init__(self, status: int, slug: str, title: str, detail: str) -> None:
        super().__init__(detail)
        self.status, self.slug, self.title, self.detail = status, slug, title, detail


class Guards:
    """ASGI middleware outside of everything else."""

    def __init__(self, app: ASGIApp, hosts: tuple[str, ...], larger: dict[str, int]) -> None:
        """larger: by end of the path, how many bytes a body may have there. One that may have more than
        WHOLE_BYTES is handed on as it comes, for the route to take in parts."""
        self._app, self._hosts, self._larger = app, frozenset(hosts), larger

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        begun = False

        async def sending(message: Message) -> None:
            nonlocal begun
            if message["type"] == "http.response.start":
                begun = True
                _set_headers(MutableHeaders(scope=message), scope["path"])
            await send(message)

        try:
            self._check_origin(scope["method"], headers)
            await self._app(scope, await self._body(scope, headers, receive), sending)
        except Refused as no:
            await answer_with(no.status, no.slug, no.title, no.detail)(scope, receive, sending)
        except Exception as fault:
            if begun:
                raise
            await unforeseen(fault)(scope, receive, sending)

    def _check_origin(self, method: str, headers: Headers) -> None:
        host = headers.get("host", "")
        if _name(host) not in self._hosts:
            raise Refused(
                400,
                "unknown-host",
                "Unknown host",
                "Urdaten does not answer under this name; whoever looks after the server can allow it.",
            )
        if method not in SAFE and not _same(headers.get("origin"), host):
            raise Refused(
                403,
                "foreign-origin",
                "Foreign origin",
                "Writes are taken only from Urdaten's own pages; nothing was changed.",
            )

    async def _body(self, scope: Scope, headers: Headers, receive: Receive) -> Receive:
        """What the application receives: the body as a whole, so that nobody slow holds a thread or a connection."""
        if scope["method"] in SAFE:
            return receive
        most = max((n for end, n in self._larger.items() if scope["path"].endswith(end)), default=MOST_BYTES)
        declared = headers.get("content-length", "0")
        if not declared.isascii() or not declared.isdigit():
            raise Refused(
                400, "malformed-request", "Malformed request", "The length of the body is no number."
            )
        if int(declared) > most:
            raise _too_large(most)
        if most > WHOLE_BYTES:
            return _paced(receive)
        try:
            body = await asyncio.wait_for(_whole(receive, most), BODY_S)
        except TimeoutError:
            raise _too_slow() from None
        return _replay(body, receive)


def _too_slow() -> Refused:
    return Refused(
        408, "too-slow", "Too slow", "The body took too long to arrive; nothing was changed. Send it again."
    )


def _paced(receive: Receive) -> Receive:
    """A body that is handed on in parts, and comes no slower than BYTES_A_SECOND after the first BODY_S seconds."""
    loop = asyncio.get_running_loop()
    end, whole = loop.time() + BODY_S, False

    async def next_part() -> MutableMapping[str, Any]:
        nonlocal end, whole
        if whole:
            return await receive()
        try:
            async with asyncio.timeout_at(end):
                message = await receive()
        except TimeoutError:
            raise _too_slow() from None
        end += len(message.get("body", b"")) / BYTES_A_SECOND
        whole = not message.get("more_body", False)
        return message

    return next_part


def _too_large(most: int) -> Refused:
    size = f"{most // MEGABYTE} MB"
    return Refused(
        413,
        "too-large",
        "Too large",
        f"This is more than the {size} that are taken here; nothing was changed.",
    )


async def _whole(receive: Receive, most: int) -> bytes:
    parts: list[bytes] = []
    size = 0
    while True:
        message = await receive()
        if message["type"] != "http.request":
            raise Refused(400, "malformed-request", "Malformed request", "The body broke off.")
        part: bytes = message.get("body", b"")
        size += len(part)
        if size > most:
            raise _too_large(most)
        parts.append(part)
        if not message.get("more_body", False):
            return b"".join(parts)


def _replay(body: bytes, receive: Receive) -> Receive:
    told = False

    async def again() -> MutableMapping[str, Any]:
        nonlocal told
        if told:
            return await receive()
        told = True
        return {"type": "http.request", "body": body, "more_body": False}

    return again


def _name(host: str) -> str:
    """The name in a Host header, without its port."""
    if host.startswith("["):
        return host[: host.find("]") + 1].lower()
    return host.split(":")[0].lower()


def _same(origin: str | None, host: str) -> bool:
    try:
        return origin is not None and urlsplit(origin).netloc == host
    except ValueError:
        return False


def _set_headers(headers: MutableHeaders, path: str) -> None:
    headers["Content-Security-Policy"] = CONTENT_SECURITY_POLICY
    headers["X-Content-Type-Options"] = "nosniff"
    headers["Referrer-Policy"] = "same-origin"
    headers["Cross-Origin-Opener-Policy"] = "same-origin"
    if path.startswith("/api/"):
        headers.setdefault("Cache-Control", "no-store")
