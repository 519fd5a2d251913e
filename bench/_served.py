"""An Urdaten of its own, reached over HTTP, whose processes can be killed."""

from __future__ import annotations

import json
import os
import shutil
import signal
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import httpx
import psycopg

ENDED = {"done", "stopped", "failed", "interrupted"}


class Urdaten:
    """One that runs in a folder of its own."""

    def __init__(self, home: Path) -> None:
        self.home = home
        self._process = subprocess.Popen(
            [sys.executable, "-m", "urdaten", "up", "--port", "0", "--idle"],
            env={**os.environ, "URDATEN_HOME": str(home)},
            stdout=subprocess.PIPE,
            text=True,
        )
        assert self._process.stdout
        self.link = next(line.split()[-1] for line in self._process.stdout if line.startswith("Sign in once"))
        threading.Thread(target=self._process.stdout.read, daemon=True).start()
        self.address = self.link.split("/sign-in")[0]
        self.cookies: dict[str, str] = {}
        with self.client() as client:
            answer = client.post("/api/sign-in/link", json={"token": self.link.split("#")[1]})
            answer.raise_for_status()
            self.cookies = dict(client.cookies)

    def client(self, timeout: float = 20) -> httpx.Client:
        """Signed in as the lead."""
        return httpx.Client(
            base_url=self.address,
            headers={"Origin": self.address},
            cookies=self.cookies,
            trust_env=False,
            timeout=timeout,
        )

    def kill(self, part: str) -> None:
        try:
            number = json.loads((self.home / "processes.json").read_text())[part]
            os.kill(number, signal.SIGKILL)
        except (OSError, ValueError, TypeError):
            return  # it is just being started again

    def wait_until_served(self) -> float:
        began = time.monotonic()
        with self.client() as client:
            while True:
                try:
                    if client.get("/api/projects/tessmar/desk/pace").status_code == 200:
                        return time.monotonic() - began
                except httpx.HTTPError:
                    pass
                if time.monotonic() - began > 120:
                    raise RuntimeError("Urdaten did not come back.")
                time.sleep(0.02)

    @property
    def database_url(self) -> str:
        url: str = json.loads((self.home / "connection.json").read_text())["database_url"]
        return url

    def query(self, statement: str) -> list[tuple[Any, ...]]:
        with psycopg.connect(self.database_url.replace("+psycopg", "")) as connection:
            return connection.execute(statement.encode()).fetchall()

    def jobs(self) -> list[tuple[Any, ...]]:
        return self.query("SELECT id, state, message FROM job")

    def stop(self) -> None:
        self._process.send_signal(signal.SIGINT)
        self._process.wait(60)


@contextmanager
def running() -> Iterator[Urdaten]:
    home = Path(tempfile.mkdtemp(prefix="urdaten-faults-"))
    home.chmod(0o711)
    urdaten = Urdaten(home)
    try:
        yield urdaten
    finally:
        urdaten.stop()
        shutil.rmtree(home, ignore_errors=True)
