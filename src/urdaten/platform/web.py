"""What every route leans on: transaction, person, and the classes of routes that any project-less part needs."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from typing import Annotated

from anyio import CancelScope
from fastapi import Depends, Request
from sqlalchemy.orm import Session
from starlette.concurrency import run_in_threadpool

from urdaten.errors import Busy
from urdaten.platform.database import CONNECTION_WAIT_S, CONNECTIONS, transaction
from urdaten.platform.sessions import SignedIn, signed_in
from urdaten.platform.settings import Settings


async def settings_of(request: Request) -> Settings:
    settings: Settings = request.app.state.settings
    return settings


Config = Annotated[Settings, Depends(settings_of)]


async def _room(request: Request) -> AsyncIterator[None]:
    """A place among those who hold a connection. Whoever waits for one holds neither connection nor thread."""
    room: asyncio.Semaphore | None = getattr(request.app.state, "room", None)
    if room is None:
        # Here, not when the application is built: it belongs to the loop that serves.
        room = request.app.state.room = asyncio.Semaphore(CONNECTIONS)
    try:
        await asyncio.wait_for(room.acquire(), CONNECTION_WAIT_S)
    except TimeoutError:
        raise Busy(retry_after=1) from None
    try:
        yield
    finally:
        room.release()


Room = Annotated[None, Depends(_room, scope="function")]


async def _session(request: Request, _room: Room, settings: Config) -> AsyncIterator[Session]:
    # What is read for one answer agrees with itself.
    snapshot = request.method in {"GET", "HEAD"}
    held = transaction(settings.database_url, snapshot=snapshot)
    # It reaches for a connection when it is first asked something, so only its end needs a thread.
    db = held.__enter__()
    try:
        yield db
    except BaseException as fault:
        # Also of a request that is broken off: its connection goes back all the same.
        with CancelScope(shield=True):
            forgiven = await run_in_threadpool(held.__exit__, type(fault), fault, fault.__traceback__)
        if not forgiven:
            raise
    else:
        with CancelScope(shield=True):
            await run_in_threadpool(held.__exit__, None, None, None)


# scope="function": the commit happens before the answer is sent, so an answer means it is kept.
Db = Annotated[Session, Depends(_session, scope="function")]


async def anybody() -> None:
    """Class of routes: open. Needs no session."""


def account(request: Request, db: Db, settings: Config) -> SignedIn:
    """Class of routes: account. Anybody who is signed in."""
    touch = request.method not in {"GET", "HEAD"}
    return signed_in(db, settings, request.cookies.get(settings.cookie), touch=touch)


async def keeper(person: Annotated[SignedIn, Depends(account)]) -> SignedIn:
    """Class of routes: server keeper. Whoever looks after the server."""
    person.must_keep()
    return person


Open = Depends(anybody)
Me = Annotated[SignedIn, Depends(account)]
Keeper = Annotated[SignedIn, Depends(keeper)]
