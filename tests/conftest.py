"""Fixtures: a throw-away PostgreSQL per test process, and a fresh database per test."""

from __future__ import annotations

import asyncio
import os
import shutil
import tempfile
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

import httpx
import pytest
from fastapi import FastAPI
from hypothesis import settings as hypothesis_settings
from sqlalchemy.orm import Session

from urdaten.demo.files import Demo, read_demo
from urdaten.demo.load import load
from urdaten.places.desk import acts as desk
from urdaten.places.desk import learned
from urdaten.places.lists.acts import compiling, pages
from urdaten.places.pipeline.acts import answers
from urdaten.places.tagger import acts as tagger
from urdaten.places.team import acts as team
from urdaten.places.team.acts import Role
from urdaten.platform.accounts import create_account
from urdaten.platform.database import engine_for, transaction
from urdaten.platform.jobs import run_job
from urdaten.platform.migrate import migrate
from urdaten.platform.passwords import hash_password
from urdaten.platform.postgres import FAST_AND_FRAGILE, Cluster
from urdaten.platform.settings import Settings
from urdaten.server.application import build

# Whether a test passes shall not hang on how busy the machine is.
hypothesis_settings.register_profile("untimed", deadline=None)
hypothesis_settings.load_profile("untimed")

PASSWORD = "a long password"
ORIGIN = "http://urdaten.test"


@pytest.fixture(autouse=True)
def nothing_kept() -> None:
    """What a process keeps for its one database would be wrong for the next test's."""
    compiling._gazetteers.clear()
    compiling._kept.clear()
    pages._twos.clear()
    learned._kept.clear()
    tagger._load.cache_clear()
    answers._held.clear()


@pytest.fixture(scope="session")
def cluster() -> Iterator[Cluster]:
    base = Path("/dev/shm") if os.access("/dev/shm", os.W_OK) else Path(tempfile.gettempdir())
    folder = Path(tempfile.mkdtemp(prefix="urdaten-test-", dir=base))
    folder.chmod(0o711)
    made = Cluster(folder / "postgres", FAST_AND_FRAGILE)
    try:
        made.ensure()
        made.start()
        yield made
    finally:
        made.stop()
        shutil.rmtree(folder, ignore_errors=True)


def settings_for(cluster: Cluster, name: str) -> Settings:
    return Settings(
        database_url=cluster.database_url(name),
        web_dir=Path("/nowhere"),
        hosts=("urdaten.test",),
        # Hashing is made cheap: what is tested is that it happens, not how long it takes.
        password_memory_kib=64,
        password_passes=1,
    )


@pytest.fixture(scope="session")
def empty_template(cluster: Cluster) -> str:
    name = "template_empty"
    cluster.create_database(name)
    settings = settings_for(cluster, name)
    migrate(settings.database_url)
    with transaction(settings.database_url) as db:
        project = team.create_project(db, slug="tessmar", name="Port of Tessmar", language="en")
        desk.gold_layer(db, project.id)
        hashed = hash_password(settings, PASSWORD)
        for login, role in (
            ("ines", Role.LEAD),
            ("jo", Role.ANNOTATOR),
            ("rea", Role.READER),
            ("stan", None),
        ):
            made = create_account(
                db, login=login, name=login.title(), password_hash=hashed, keeper=role is Role.LEAD
            )
            if role is not None:
                team.add_member(db, project.id, made.id, role)
    engine_for(settings.database_url).dispose()
    return name


@pytest.fixture(scope="session")
def demo() -> Demo:
    return read_demo()


# Enough of every split for what is tested, and quick to load, match and train on.
PART = {"week-27": 20, "week-28": 20, "week-36": 10, "week-38": 14, "week-41": 10}


@pytest.fixture(scope="session")
def part(demo: Demo) -> Demo:
    """The demo project with the first bulletins of five of its weeks."""
    taken = [
        bulletin
        for week, count in PART.items()
        for bulletin in [b for b in demo.bulletins if b.group == week][:count]
    ]
    return replace(demo, bulletins=tuple(taken))


@pytest.fixture(scope="session")
def demo_template(cluster: Cluster, part: Demo) -> str:
    name = "template_demo"
    cluster.create_database(name)
    settings = settings_for(cluster, name)
    migrate(settings.database_url)
    with transaction(settings.database_url) as db:
        load(db, dict.fromkeys(("ines", "jo"), hash_password(settings, PASSWORD)), part)
    engine_for(settings.database_url).dispose()
    return name


_count = 0


def _clone(cluster: Cluster, template: str) -> Iterator[Settings]:
    global _count
    _count += 1
    name = f"test_{_count}"
    cluster.create_database(name, template)
    settings = settings_for(cluster, name)
    yield settings
    engine_for(settings.database_url).dispose()
    cluster.drop_database(name)


@pytest.fixture
def settings(cluster: Cluster, empty_template: str) -> Iterator[Settings]:
    """A database with an empty project, its lead, an annotator, a reader, and somebody who does not belong to it."""
    yield from _clone(cluster, empty_template)


@pytest.fixture
def demo_settings(cluster: Cluster, demo_template: str) -> Iterator[Settings]:
    """A database with the demo project."""
    yield from _clone(cluster, demo_template)


@pytest.fixture
def db(settings: Settings) -> Iterator[Session]:
    with transaction(settings.database_url) as session:
        yield session


@dataclass
class Api:
    """A signed-in client of the application, without a network."""

    app: FastAPI
    settings: Settings
    headers: dict[str, str] = field(default_factory=lambda: {"Origin": ORIGIN})
    cookies: dict[str, str] = field(default_factory=dict)

    def request(self, method: str, path: str, **more: Any) -> httpx.Response:
        async def send() -> httpx.Response:
            transport = httpx.ASGITransport(app=self.app, raise_app_exceptions=False)
            async with httpx.AsyncClient(
                transport=transport, base_url=ORIGIN, headers=self.headers, cookies=self.cookies
            ) as client:
                answer = await client.request(method, path, **more)
                # A cookie that the server takes back comes with an empty value.
                for cookie in client.cookies.jar:
                    self.cookies[cookie.name] = cookie.value or ""
                return answer

        return asyncio.run(send())

    def ask(self, method: str, path: str, expect: int = 200, **more: Any) -> Any:
        """The answer to a request within the project; fails unless its status is as expected."""
        answer = self.request(method, f"/api/projects/tessmar{path}", **more)
        assert answer.status_code == expect, answer.text
        if answer.status_code == 204:
            return None
        return answer.json()

    def get(self, path: str, expect: int = 200, **params: Any) -> Any:
        return self.ask("GET", path, expect, params=params)

    def post(self, path: str, body: Any = None, expect: int = 201) -> Any:
        return self.ask("POST", path, expect, json=body)

    def put(self, path: str, body: Any = None, expect: int = 200) -> Any:
        return self.ask("PUT", path, expect, json=body)

    def delete(self, path: str, expect: int = 204) -> Any:
        return self.ask("DELETE", path, expect)

    def sign_in(self, login: str) -> Api:
        answer = self.request("POST", "/api/sign-in", json={"login": login, "password": PASSWORD})
        assert answer.status_code == 200, answer.text
        return self

    def other(self, login: str) -> Api:
        """Another person's client of the same application."""
        return Api(self.app, self.settings).sign_in(login)

    def run_jobs(self) -> list[dict[str, Any]]:
        """Do every waiting job here and now, as the worker would; all jobs, newest first."""
        for job in reversed(self.get("/jobs")):
            if job["state"] == "waiting":
                run_job(self.settings.database_url, job["id"])
        jobs: list[dict[str, Any]] = self.get("/jobs")
        return jobs


@pytest.fixture
def api(settings: Settings) -> Api:
    """The lead's client on the empty project."""
    return Api(build(settings), settings).sign_in("ines")


@pytest.fixture
def demo_api(demo_settings: Settings) -> Api:
    """The lead's client on the demo project."""
    return Api(build(demo_settings), demo_settings).sign_in("ines")
