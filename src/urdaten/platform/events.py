"""Live events: PostgreSQL's NOTIFY, fanned out to the browsers that listen."""

from __future__ import annotations

import asyncio
import contextlib
import json
import logging
from collections.abc import AsyncIterator

import psycopg
from sqlalchemy import func, select
from sqlalchemy.orm import Session

CHANNEL = "urdaten"
_log = logging.getLogger(__name__)


def announce(db: Session, project_id: int, what: str) -> None:
    """Tell the listeners of a project, once this transaction is committed, that `what` changed."""
    db.execute(select(func.pg_notify(CHANNEL, json.dumps({"project": project_id, "what": what}))))


class EventHub:
    """Listens on one connection and hands each event to every open stream of its project."""

    RETRY_S = 1.0

    def __init__(self, dsn: str) -> None:
        self._dsn = dsn
        self._streams: set[tuple[int, asyncio.Queue[str]]] = set()
        self._task: asyncio.Task[None] | None = None

    async def start(self) -> None:
        self._task = asyncio.create_task(self._listen())

    async def stop(self) -> None:
        if self._task:
            self._task.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await self._task

    async def _listen(self) -> None:
        while True:
            try:
                async with await psycopg.AsyncConnection.connect(self._dsn, autocommit=True) as connection:
                    await connection.execute(f"LISTEN {CHANNEL}")
                    # Whatever happened while we were not listening is made good by looking again.
                    self._send(None, "all")
                    async for note in connection.notifies():
                        event = json.loads(note.payload)
                        self._send(event["project"], event["what"])
            except psycopg.Error as fault:
                _log.warning("The event connection was lost and is opened again: %s", fault)
                await asyncio.sleep(self.RETRY_S)

    def _send(self, project_id: int | None, what: str) -> None:
        for project, queue in self._streams:
            if project_id is None or project == project_id:
                queue.put_nowait(what)

    async def stream(self, project_id: int) -> AsyncIterator[dict[str, str]]:
        """Server-sent events of one project, until the caller goes away."""
        queue: asyncio.Queue[str] = asyncio.Queue()
        entry = (project_id, queue)
        self._streams.add(entry)
        try:
            yield {"event": "changed", "data": "all"}
            while True:
                yield {"event": "changed", "data": await queue.get()}
        finally:
            self._streams.discard(entry)
