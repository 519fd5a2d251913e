"""An Urdaten of its own with the demo project, and a browser on it, signed in as the lead."""

from __future__ import annotations

import os
import shutil
import signal
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

FLAGS = (
    "--no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking --disable-sync"
)


@contextmanager
def started() -> Iterator[str]:
    """The link that signs the lead in once; the Urdaten goes with all it holds afterwards."""
    home = Path(tempfile.mkdtemp(prefix="urdaten-own-"))
    home.chmod(0o711)
    process = subprocess.Popen(
        [sys.executable, "-m", "urdaten", "up", "--port", "0", "--idle"],
        env={**os.environ, "URDATEN_HOME": str(home)},
        stdout=subprocess.PIPE,
        text=True,
    )
    try:
        assert process.stdout
        yield next(line.split()[-1] for line in process.stdout if line.startswith("Sign in once"))
    finally:
        process.send_signal(signal.SIGINT)
        process.wait(40)
        shutil.rmtree(home, ignore_errors=True)


@contextmanager
def browsing() -> Iterator[Page]:
    """A page of 1280x800."""
    with sync_playwright() as driver:
        browser = driver.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS.split())
        yield browser.new_page(viewport={"width": 1280, "height": 800})
        browser.close()


def to_the_desk(page: Page, link: str) -> None:
    """Sign in by the link, and go to the demo's Desk."""
    page.goto(link)
    page.wait_for_url("**/projects")
    page.goto(f"{link.split('/sign-in')[0]}/p/tessmar/desk")
    page.wait_for_url("**/p/tessmar/desk/*")


@contextmanager
def at_the_desk() -> Iterator[Page]:
    """A page on the Desk of a fresh demo project."""
    with started() as link, browsing() as page:
        to_the_desk(page, link)
        yield page
