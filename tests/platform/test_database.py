"""The schema, the cluster's folders, and live events."""

from __future__ import annotations

import asyncio
import socket
from collections.abc import AsyncIterator, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path

import psycopg
import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import text
from sqlalchemy.orm import Session

from urdaten.platform.database import copy_lines, engine_for, transaction
from urdaten.platform.events import MOST_WAITING, EventHub, Listener, announce, end_streams
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
    for place in ("lists", "lists", "rules"):
        bump(db, 1, place)
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


def test_nobody_waits_for_anybody_elses_count(settings: Settings) -> None:
    with transaction(settings.database_url) as one:
        bump(one, 1, "desk")
        with transaction(settings.database_url) as other:
            other.execute(text("SET LOCAL lock_timeout = '500ms'"))
            bump(other, 1, "desk")
        with transaction(settings.database_url) as reader:
            assert revisions(reader, 1) == {"desk": 1}
    with transaction(settings.database_url) as reader:
        assert revisions(reader, 1) == {"desk": 2}
    with transaction(settings.database_url) as db:
        bump(db, 1, "desk")
        assert revisions(db, 1) == {"desk": 3}
        assert db.scalar(text("SELECT count(*) FROM revision WHERE place = 'desk'")) == 2, (
            "rows are used again"
        )


@contextmanager
def hearing(settings: Settings, *listeners: Listener, stands: bool = True) -> Iterator[Hearing]:
    with asyncio.Runner() as runner:
        heard = Hearing(settings, runner, listeners, stands)
        try:
            yield heard
        finally:
            heard.end()


class Hearing:
    """A hub with some open streams, from a test that is no coroutine itself."""

    def __init__(
        self, settings: Settings, runner: asyncio.Runner, listeners: Sequence[Listener], stands: bool
    ) -> None:
        self._runner = runner
        self.hub = EventHub(settings.psycopg_dsn)

        async def still() -> bool:
            return stands

        async def begin() -> list[AsyncIterator[dict[str, str]]]:
            await self.hub.start()
            await asyncio.wait_for(self.hub.listening.wait(), 5)
            return [self.hub.stream(listener, still) for listener in listeners]

        self.streams = runner.run(begin())
        for i in range(len(listeners)):
            assert self.next(i) == "all"

    def next(self, stream: int = 0) -> str | None:
        """What a stream tells next; None when it ends."""

        async def one() -> str | None:
            try:
                return (await asyncio.wait_for(anext(self.streams[stream]), 5))["data"]
            except StopAsyncIteration:
                return None

        return self._runner.run(one())

    def end(self) -> None:
        self._runner.run(self.hub.stop())


def test_events_reach_the_streams_of_their_project(settings: Settings) -> None:
    with hearing(settings, Listener(1, 1, 1), Listener(2, 1, 1)) as heard:
        with transaction(settings.database_url) as db:
            bump(db, 1, "lists")
            announce(db, 2, "rules")
        assert [heard.next(0), heard.next(1)] == ["lists", "rules"]


@pytest.mark.parametrize(
    ("whose", "ended"),
    [
        ({"session": 7}, [True, False, False]),
        ({"account": 1}, [True, True, False]),
        ({"account": 1, "project": 2}, [False, True, False]),
    ],
)
def test_streams_end_with_what_they_hang_on(
    settings: Settings, whose: dict[str, int], ended: list[bool]
) -> None:
    streams = Listener(1, 1, 7), Listener(2, 1, 8), Listener(1, 2, 9)
    with hearing(settings, *streams) as heard:
        with transaction(settings.database_url) as db:
            end_streams(db, **whose)
            for project in (1, 2):
                announce(db, project, "later")
        assert [heard.next(i) for i in range(3)] == [None if gone else "later" for gone in ended]


def test_a_stream_ends_when_its_session_does(settings: Settings, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(EventHub, "LOOK_S", 0.05)
    with hearing(settings, Listener(1, 1, 1), stands=False) as heard:
        assert heard.next() is None


def test_a_listener_that_cannot_keep_up_is_told_to_look_at_everything() -> None:
    async def flood() -> list[str | None]:
        listener = Listener(1, 1, 1)
        for i in range(MOST_WAITING + 1):
            listener.tell(f"event {i}")
        return [listener.queue.get_nowait() for _ in range(listener.queue.qsize())]

    assert asyncio.run(flood()) == ["all"]


def test_the_hub_listens_again_after_whatever_went_wrong(
    settings: Settings, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(EventHub, "RETRY_S", 0.05)
    with hearing(settings, Listener(1, 1, 1)) as heard:
        with transaction(settings.database_url) as db:
            db.execute(text("SELECT pg_notify('urdaten', 'no json')"))
            announce(db, 1, "lists")
        assert heard.next() == "lists", "what is not ours is passed over"
        with psycopg.connect(settings.psycopg_dsn, autocommit=True) as connection:
            connection.execute(
                "SELECT pg_terminate_backend(pid) FROM pg_stat_activity "
                "WHERE query LIKE 'LISTEN%' AND datname = current_database()"
            )
        assert heard.next() == "all", "what was missed is made good"
        with transaction(settings.database_url) as db:
            announce(db, 1, "rules")
        assert heard.next() == "rules"


def test_a_failed_transaction_announces_nothing_and_keeps_nothing(settings: Settings) -> None:
    def fail() -> None:
        with transaction(settings.database_url) as db:
            bump(db, 1, "lists")
            raise RuntimeError

    with pytest.raises(RuntimeError):
        fail()
    with transaction(settings.database_url) as db:
        assert revisions(db, 1) == {}


def test_lines_are_copied_as_they_are(settings: Settings) -> None:
    """Signs that mean something to COPY or in a list of the database, and empty and missing values."""
    texts = ["", "a\tb", "c\\d", "e\nf\r", "\\N", '"', "{a,b}", "Ü ·", "\\.", "NULL", " x "]
    rows: list[Sequence[object]] = [
        (k, one, [one, "z"], [k, -k], k % 2 == 0, None) for k, one in enumerate(texts)
    ] + [(99, "", [], [], True, "n")]
    with transaction(settings.database_url) as db:
        db.execute(text("CREATE TEMP TABLE held (a int, b text, c varchar[], d bigint[], e boolean, f text)"))
        copy_lines(db, "held", ("a", "b", "c", "d", "e", "f"), rows)
        found = db.execute(text("SELECT * FROM held ORDER BY a")).all()
    assert [tuple(row) for row in found] == rows
