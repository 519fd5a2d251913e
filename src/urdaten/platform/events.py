"""Live events: PostgreSQL's NOTIFY, fanned out to the browsers that listen."""

from __future__ import annotations

import asyncio
import contextlib
import json
import logging
from collections.abc import AsyncIterator, Awaitable, Callable
from dataclasses import dataclass, field

import psycopg
from sqlalchemy import bindparam, func, select
from sqlalchemy.orm import Session

CHANNEL = "urdaten"
_log = logging.getLogger(__name__)


_NOTIFY = select(func.pg_notify(CHANNEL, bindparam("event")))


def announce(db: Session, project_id: int, what: str) -> None:
    """Tell the listeners of a project, once this transaction is committed, that `what` changed."""
    db.execute(_NOTIFY, {"event": changed(project_id, what)})


def changed(project_id: int, what: str) -> str:
    """The event itself, for whoever sends it within a statement of their own."""
    return json.dumps({"project": project_id, "what": what})


def end_streams(
    db: Session, *, session: int | None = None, account: int | None = None, project: int | None = None
) -> None:
    """End, once this transaction is committed, the streams of a session, of an account, or of an account in a project."""
    ended = {"session": session, "account": account, "project": project}
    db.execute(_NOTIFY, {"event": json.dumps({"end": ended})})


@dataclass(eq=False)
class Listener:
    """One open stream: whose it is, and what it has not told yet. None ends it."""

    project: int
    account: int
    session: int
    queue: asyncio.Queue[str | None] = field(default_factory=lambda: asyncio.Queue(MOST_WAITING))

    def tell(self, what: str) -> None:
        """A listener that cannot keep up is told to look at everything, once."""
        if self.queue.full():
            while not self.queue.empty():
                self.queue.get_nowait()
            what = "all"
        self.queue.put_nowait(what)

    def end(self) -> None:
        while not self.queue.empty():
            self.queue.get_nowait()
        self.queue.put_nowait(None)


MOST_WAITING = 100


class EventHub:
    """Listens on one connection and hands each event to every open stream of its project."""

    RETRY_S = 1.0
    # How often a stream asks whether its session still stands.
    LOOK_S = 60.0

    def __init__(self, dsn: str) -> None:
        self._dsn = dsn
        self._listeners: set[Listener] = set()
        self._task: asyncio.Task[None] | None = None
        # Set while it hears.
        self.listening = asyncio.Event()

    async def start(self) -> None:
        self._task = asyncio.create_task(self._listen())

    async def stop(self) -> None:
        for listener in self._listeners:
            listener.end()
        if self._task:
            self._task.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await self._task

    async def _listen(self) -> None:
        while True:
            try:
                async with await psycopg.AsyncConnection.connect(self._dsn, autocommit=True) as connection:
                    await connection.execute(f"LISTEN {CHANNEL}")
                    self.listening.set()
                    # Whatever happened while we were not listening is made good by looking again.
                    for listener in self._listeners:
                        listener.tell("all")
                    async for note in connection.notifies():
                        self._hear(note.payload)
            except Exception as fault:
                # Whatever it was: without this task every page would be deaf until the next start.
                _log.warning("The event connection was lost and is opened again: %s", type(fault).__name__)
            finally:
                self.listening.clear()
            await asyncio.sleep(self.RETRY_S)

    def _hear(self, payload: str) -> None:
        try:
            event = json.loads(payload)
        except ValueError:
            _log.warning("Somebody else's event on our channel was passed over.")
            return
        for listener in self._listeners:
            if "end" in event:
                wanted = {name: value for name, value in event["end"].items() if value is not None}
                if all(getattr(listener, name) == value for name, value in wanted.items()):
                    listener.end()
            elif event.get("project") == listener.project:
                listener.tell(event["what"])

    async def stream(
        self, listener: Listener, still_stands: Callable[[], Awaitable[bool]]
    ) -> AsyncIterator[dict[str, str]]:
        """Server-sent events of one project, until the caller goes away or the session ends."""
        self._listeners.add(listener)
        try:
            yield {"event": "changed", "data": "all"}
            while True:
                try:
                    what = await asyncio.wait_for(listener.queue.get(), self.LOOK_S)
                except TimeoutError:
                    if not await still_stands():
                        return
                    continue
                if what is None:
                    return
                yield {"event": "changed", "data": what}
        finally:
            self._listeners.discard(listener)
