"""The schema, the cluster's folders, and live events."""

from __future__ import annotations

import asyncio
import socket
from pathlib import Path

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy.orm import Session

from urdaten.platform.database import engine_for, transaction
from urdaten.platform.events import EventHub
from urdaten.platform.migrate import migrate
from urdaten.platform.postgres import data_home, free_port, reachable_by_server
from urdaten.platform.revisions import bump, revisions
from urdaten.platform.settings import Settings
from urdaten.server.tables import METADATA


def test_migrations_make_just_what_the_tables_say(settings: Settings) -> None:
    def ours(_object: object, name: str | None, kind: str, _reflected: bool, _compared: object) -> bool:
        return not (kind == "table" and (name or "").startswith(("procrastinate_", "alembic_")))

    with engine_for(settings.database_url).connect() as connection:
        context = MigrationContext.configure(connection, opts={"include_object": ours, "compare_type": True})
        assert compare_metadata(context, METADATA) == []


def test_migrating_twice_changes_nothing(settings: Settings) -> None:
    migrate(settings.database_url)


def test_revisions_rise_per_place(db: Session) -> None:
    assert revisions(db, 1) == {}
    assert [bump(db, 1, "lists"), bump(db, 1, "lists"), bump(db, 1, "rules")] == [1, 2, 1]
    assert revisions(db, 1) == {"lists": 2, "rules": 1}


def test_a_taken_port_is_no_obstacle() -> None:
    with socket.create_server(("127.0.0.1", 0)) as other:
        taken = other.getsockname()[1]
        assert free_port(taken) not in {0, taken}
    assert free_port(taken) == taken


def test_data_goes_where_the_server_can_reach_it(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("os.geteuid", lambda: 0)
    closed = tmp_path / "closed"
    closed.mkdir(mode=0o700)
    assert not reachable_by_server(closed / "data")
    assert data_home(closed / "data").parent == Path("/var/lib")
    monkeypatch.setattr("os.geteuid", lambda: 1000)
    assert data_home(closed / "data") == closed / "data"


def test_events_reach_the_streams_of_their_project(settings: Settings) -> None:
    def change() -> None:
        with transaction(settings.database_url) as db:
            bump(db, 1, "lists")

    async def listen() -> list[str]:
        hub = EventHub(settings.psycopg_dsn)
        await hub.start()
        stream = hub.stream(1)
        heard = [(await anext(stream))["data"]]
        # The hub says "all" once more when its connection stands; only then is a change sure to be heard.
        heard.append((await anext(stream))["data"])
        await asyncio.to_thread(change)
        heard.append((await asyncio.wait_for(anext(stream), 5))["data"])
        await stream.aclose()  # type: ignore[attr-defined]
        await hub.stop()
        return heard

    assert asyncio.run(listen()) == ["all", "all", "lists"]


def test_a_failed_transaction_announces_nothing_and_keeps_nothing(settings: Settings) -> None:
    def fail() -> None:
        with transaction(settings.database_url) as db:
            bump(db, 1, "lists")
            raise RuntimeError

    with pytest.raises(RuntimeError):
        fail()
    with transaction(settings.database_url) as db:
        assert revisions(db, 1) == {}
