"""A whole Urdaten of its own, as ./start runs it, and a browser."""

from __future__ import annotations

import json
import os
import re
import shutil
import signal
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import psycopg
import pytest
from playwright.sync_api import Browser, BrowserContext, Page, expect, sync_playwright

from e2e.rewind import Rewind
from urdaten.cli.connection import RunningSettings
from urdaten.platform.database import transaction
from urdaten.platform.postgres import SUPERUSER
from urdaten.platform.sessions import make_link

CHROMIUM = "/usr/bin/chromium"
FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]
UP_LIMIT_S = 90
# In gold; annotators have layers of their own besides.
SIGNED = "SELECT count(*) FROM annotation JOIN layer ON layer.id = layer_id WHERE state = 'signed' AND kind = 'gold'"
# A busy machine is slow, not wrong.
expect.set_options(timeout=20_000)


class Running:
    """An Urdaten that was started for tests."""

    def __init__(self, home: Path) -> None:
        self.home = home
        self.lines: list[str] = []
        env = {**os.environ, "URDATEN_HOME": str(home)}
        self._process = subprocess.Popen(
            [sys.executable, "-m", "urdaten", "up", "--port", "0", "--idle"],
            env=env,
            stdin=subprocess.DEVNULL,
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            text=True,
            start_new_session=True,
        )
        self._reader = threading.Thread(target=self._read, daemon=True)
        self._reader.start()
        wait_for(
            lambda: any("Ctrl-C stops it" in line for line in self.lines) or self._process.poll() is not None,
            UP_LIMIT_S,
        )
        assert self._process.poll() is None, self.output

    def _read(self) -> None:
        assert self._process.stdout
        with self._process.stdout as lines:
            for line in lines:
                self.lines.append(line)

    @property
    def output(self) -> str:
        return "".join(self.lines)

    def _said(self, pattern: str) -> str:
        match = re.search(pattern, self.output)
        assert match, self.output
        return match[1]

    @property
    def address(self) -> str:
        return self._said(r"up at (\S+)")

    @property
    def printed_link(self) -> str:
        """The one for the lead, of the first start."""
        return self._said(r"Sign in once with\s+(\S+)")

    def link(self, login: str = "ines") -> str:
        """A new one that signs somebody in once."""
        settings = RunningSettings.model_validate(self._connection)
        with transaction(settings.database_url) as db:
            return f"{self.address}/sign-in#{make_link(db, settings, login)}"

    def command(self, *words: str) -> str:
        """What a command of this Urdaten prints."""
        env = {**os.environ, "URDATEN_HOME": str(self.home)}
        command = [sys.executable, "-m", "urdaten", *words]
        return subprocess.run(command, env=env, capture_output=True, text=True, timeout=60, check=True).stdout

    def password(self, login: str) -> str:
        """Shown on the first start."""
        return self._said(rf"or as {login}\s+with password (\S+)")

    @property
    def _connection(self) -> dict[str, str]:
        found: dict[str, str] = json.loads((self.home / "connection.json").read_text())
        return found

    @property
    def superuser_dsn(self) -> str:
        """Of its database."""
        password = (self.home / "postgres" / f"{SUPERUSER}.password").read_text()
        dsn = self._connection["database_url"].replace("+psycopg", "")
        return re.sub(r"//[^@]*@", lambda _: f"//{SUPERUSER}:{password}@", dsn)

    def pids(self) -> dict[str, int]:
        found: dict[str, int] = json.loads((self.home / "processes.json").read_text())
        return found

    def kill(self, name: str) -> None:
        """Kill one of its processes without warning, and wait until another has taken its place."""
        before = self.pids()[name]
        os.kill(before, signal.SIGKILL)
        if name != "database":
            wait_for(lambda: self.pids()[name] != before)

    def query(self, statement: str) -> list[tuple[Any, ...]]:
        with psycopg.connect(self._connection["database_url"].replace("+psycopg", "")) as connection:
            return connection.execute(statement.encode()).fetchall()

    def kill_starter(self) -> int:
        """Kill the process that started the others; its exit code."""
        self._process.kill()
        return self._process.wait(10)

    def stop(self) -> int:
        self._process.send_signal(signal.SIGINT)
        code = self._process.wait(40)
        self._reader.join(5)
        return code


def wait_for(condition: Callable[[], object], limit_s: float = 30, what: str = "the condition") -> None:
    """Look again and again until it holds; fails after the limit."""
    deadline = time.monotonic() + limit_s
    while True:
        try:
            if condition():
                return
        except (OSError, psycopg.Error, ValueError):
            pass
        assert time.monotonic() < deadline, f"{what} did not come to hold within {limit_s} s"
        time.sleep(0.05)


@pytest.fixture(scope="session")
def new_home() -> Iterator[Callable[[], Path]]:
    """Makes folders that the database's user can reach; removed at the end."""
    made: list[Path] = []

    def make() -> Path:
        folder = Path(tempfile.mkdtemp(prefix="urdaten-e2e-"))
        folder.chmod(0o711)
        made.append(folder)
        return folder

    yield make
    for folder in made:
        shutil.rmtree(folder, ignore_errors=True)


@pytest.fixture(scope="session")
def shared(new_home: Callable[[], Path]) -> Iterator[tuple[Running, Rewind]]:
    """One Urdaten for many tests, with what it held when it was new."""
    running = Running(new_home())
    yield running, Rewind(running.superuser_dsn)
    assert running.stop() == 0


@pytest.fixture
def urdaten(shared: tuple[Running, Rewind]) -> Running:
    """An Urdaten with the demo project, and nothing else."""
    running, rewind = shared
    rewind()
    return running


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as driver:
        browser = driver.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        yield browser
        browser.close()


@pytest.fixture
def new_context(browser: Browser) -> Iterator[Callable[[], BrowserContext]]:
    """Makes browser contexts of 1280x800; each is somebody of their own."""
    made: list[BrowserContext] = []

    def make() -> BrowserContext:
        context = browser.new_context(viewport={"width": 1280, "height": 800}, accept_downloads=True)
        context.set_default_timeout(20_000)
        # A page comes with all its files, from a machine that may have both its cores at other tests.
        context.set_default_navigation_timeout(60_000)
        made.append(context)
        return context

    yield make
    for context in made:
        context.close()


class Complaints:
    """What a page complains about in its console; looked at when the test ends."""

    def __init__(self) -> None:
        self.heard: list[str] = []
        # Words of complaints that a test provokes on purpose.
        self.expected: list[str] = []

    def listen(self, page: Page) -> Page:
        page.on("pageerror", lambda error: self.heard.append(f"page error: {error}"))
        page.on("console", lambda m: self.heard.append(f"{m.type}: {m.text}") if m.type == "error" else None)
        return page

    def expect_cut_connections(self) -> None:
        """A server goes: at which point of an answer, and what the browser calls it, is chance."""
        self.expected.append("Failed to load resource: net::ERR_")

    def unexpected(self) -> list[str]:
        return [line for line in self.heard if not any(words in line for words in self.expected)]


@pytest.fixture
def complaints() -> Iterator[Complaints]:
    made = Complaints()
    yield made
    assert made.unexpected() == []


def sign_in(page: Page, urdaten: Running, login: str) -> None:
    """Sign somebody in by password, to where they work."""
    page.goto(f"{urdaten.address}/sign-in")
    page.get_by_label("login").fill(login)
    page.get_by_label("password").fill(urdaten.password(login))
    page.get_by_role("button", name="sign in").click()
    to_the_desk(page, urdaten)


def to_the_desk(page: Page, urdaten: Running) -> None:
    """From where signing in leads, to the demo's Desk."""
    page.wait_for_url(re.compile("/projects$|/p/tessmar/desk/"))
    page.goto(f"{urdaten.address}/p/tessmar/desk")
    page.wait_for_url("**/p/tessmar/desk/**")


@pytest.fixture
def page(urdaten: Running, new_context: Callable[[], BrowserContext], complaints: Complaints) -> Page:
    """The lead, signed in by the link."""
    # Before anybody has signed in the page asks who is there and is told 401.
    complaints.expected.append("401 (Unauthorized)")
    page = complaints.listen(new_context().new_page())
    page.goto(urdaten.link())
    to_the_desk(page, urdaten)
    return page
