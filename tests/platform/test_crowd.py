"""Many at once: nobody holds what others wait for, and whoever has to wait too long is told when to come again."""

from __future__ import annotations

import asyncio
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import anyio
import httpx
import pytest
from sqlalchemy.orm import Session

from conftest import ORIGIN, Api
from urdaten.places.types import acts as types
from urdaten.platform import web
from urdaten.platform.database import CONNECTIONS, engine_for, transaction


def ask_at_once(api: Api, path: str, count: int) -> list[httpx.Response]:
    async def all_of_them() -> list[httpx.Response]:
        transport = httpx.ASGITransport(app=api.app, raise_app_exceptions=False)
        async with httpx.AsyncClient(
            transport=transport, base_url=ORIGIN, headers=api.headers, cookies=api.cookies, timeout=60
        ) as client:
            return await asyncio.gather(*(client.get(path) for _ in range(count)))

    # A loop of its own, as a server has one.
    api.app.state.room = None
    return asyncio.run(all_of_them())


def test_more_requests_than_connections_and_threads_are_all_answered(
    api: Api, monkeypatch: pytest.MonkeyPatch
) -> None:
    # However busy the machine is: whether somebody waits too long is not asked here.
    monkeypatch.setattr(web, "CONNECTION_WAIT_S", 60)
    answers = ask_at_once(api, "/api/projects/tessmar/types", 5 * CONNECTIONS)
    assert {answer.status_code for answer in answers} == {200}
    pool = engine_for(api.settings.database_url).pool
    assert pool.checkedout() == 0  # type: ignore[attr-defined]
    assert pool.checkedin() <= CONNECTIONS  # type: ignore[attr-defined]


def test_streams_hold_no_connection(api: Api) -> None:
    async def listen(count: int) -> int:
        transport = httpx.ASGITransport(app=api.app, raise_app_exceptions=False)
        async with httpx.AsyncClient(
            transport=transport, base_url=ORIGIN, headers=api.headers, cookies=api.cookies
        ) as client:
            # This transport answers when a stream ends, and these do not: they are let go of while they are open.
            path = "/api/projects/tessmar/events"
            pool = engine_for(api.settings.database_url).pool
            held = count
            async with anyio.create_task_group() as streams:
                for _ in range(count):
                    streams.start_soon(client.get, path)
                for _ in range(200):
                    # Each holds one for as long as it is asked who it is.
                    await asyncio.sleep(0.1)
                    held = pool.checkedout()  # type: ignore[attr-defined]
                    if held == 0:
                        break
                answer = await client.get("/api/projects/tessmar/types")
                assert answer.status_code == 200
                streams.cancel_scope.cancel()
            return held

    api.app.state.room = None
    assert asyncio.run(listen(2 * CONNECTIONS)) == 0


def test_requests_that_are_broken_off_give_their_connections_back(
    api: Api, monkeypatch: pytest.MonkeyPatch
) -> None:
    read = types.list_types
    over = threading.Event()

    def slowly(db: Session, project_id: int) -> Any:
        found = read(db, project_id)
        over.wait(30)
        return found

    ended: list[type[BaseException]] = []

    @contextmanager
    def watched(database_url: str, *, snapshot: bool) -> Iterator[Session]:
        try:
            with transaction(database_url, snapshot=snapshot) as db:
                yield db
        except BaseException as fault:
            ended.append(type(fault))
            raise

    monkeypatch.setattr(web, "transaction", watched)
    monkeypatch.setattr(types, "list_types", slowly)
    pool = engine_for(api.settings.database_url).pool

    async def broken_off() -> tuple[int, int]:
        transport = httpx.ASGITransport(app=api.app, raise_app_exceptions=False)
        async with httpx.AsyncClient(
            transport=transport, base_url=ORIGIN, headers=api.headers, cookies=api.cookies
        ) as client:
            held = 0
            async with anyio.create_task_group() as group:
                for _ in range(4):
                    group.start_soon(client.get, "/api/projects/tessmar/types")
                for _ in range(500):
                    held = pool.checkedout()  # type: ignore[attr-defined]
                    if held == 4:
                        break
                    await asyncio.sleep(0.01)
                group.cancel_scope.cancel()
                over.set()
            return held, pool.checkedout()  # type: ignore[attr-defined]

    api.app.state.room = None
    assert asyncio.run(broken_off()) == (4, 0)
    # Ended by the request, not by the collector of what nobody refers to any more.
    assert ended == [asyncio.CancelledError] * 4


def test_whoever_would_wait_too_long_is_told_when_to_come_again(
    api: Api, monkeypatch: pytest.MonkeyPatch
) -> None:
    async def none_left() -> None:
        api.app.state.room = asyncio.Semaphore(0)

    asyncio.run(none_left())
    monkeypatch.setattr(web, "CONNECTION_WAIT_S", 0.05)
    answer = api.request("GET", "/api/me")
    assert answer.status_code == 503
    assert answer.headers["retry-after"] == "1"
    assert answer.json()["type"] == "urn:urdaten:busy"
