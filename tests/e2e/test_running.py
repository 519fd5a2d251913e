"""Starting, stopping, and parts that die."""

from __future__ import annotations

import os
import re
import socket
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page, expect

from e2e.conftest import SIGNED, Complaints, Running, wait_for

ROOT = Path(__file__).parents[2]


def run(home: Path, *words: str, answer: str | None = None) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, "-m", "urdaten", *words],
        env={**os.environ, "URDATEN_HOME": str(home)},
        input=answer,
        capture_output=True,
        text=True,
        timeout=60,
        check=False,
    )


def test_a_second_start_keeps_the_data_and_a_fresh_one_asks(new_home: Callable[[], Path]) -> None:
    home = new_home()
    first = Running(home)
    assert "Loading the demo project" in first.output
    again = run(home, "up")
    assert again.returncode == 1
    assert f"running already with the data in {home}" in again.stderr.replace("\n", " ")
    first.query("UPDATE text SET title = 'kept' WHERE title = '27/1' RETURNING 1")
    assert "with password" in first.output
    assert "/sign-in#" in first.printed_link
    hashes = "SELECT login, password_hash FROM account ORDER BY login"
    kept = first.query(hashes)
    assert first.stop() == 0
    assert not (home / "processes.json").exists()
    second = Running(home)
    assert "Loading" not in second.output
    assert second.query(hashes) == kept
    # What signs somebody in is shown on the first start alone; later ones say how to get another link.
    assert "with password" not in second.output
    assert "account link" in second.output
    assert "/sign-in#" in second.command("account", "link", "ines")
    assert second.query("SELECT count(*) FROM text WHERE title = 'kept'") == [(1,)]
    second.stop()
    refused = run(home, "up", "--fresh", answer="no\n")
    assert refused.returncode == 1
    assert "Nothing was removed" in refused.stdout
    assert (home / "postgres" / "data" / "PG_VERSION").exists()


def test_a_taken_port_is_no_obstacle(new_home: Callable[[], Path]) -> None:
    home = new_home()
    with socket.create_server(("127.0.0.1", 0)) as other:
        taken = other.getsockname()[1]
        (home / "database-port").write_text(str(taken))
        running = Running(home)
        assert int((home / "database-port").read_text()) != taken
        assert running.query("SELECT count(*) FROM text") == [(340,)]
        running.stop()


def test_help_says_it_all() -> None:
    done = subprocess.run([ROOT / "start", "--help"], capture_output=True, text=True, timeout=20, check=True)
    for words in ("--fresh", "--port", "Ctrl-C", "PostgreSQL", "sign-in link"):
        assert words in done.stdout


def test_a_killed_worker_leaves_a_training_that_says_so_and_can_be_run_again(
    page: Page, urdaten: Running
) -> None:
    page.goto(f"{urdaten.address}/p/tessmar/tagger")
    page.get_by_role("button", name="new training").first.click()
    page.get_by_role("button", name="all settings").click()
    page.get_by_label("most epochs").fill("1000")
    page.get_by_label("epochs without gain until it stops").fill("1000")
    page.get_by_role("button", name="train", exact=True).click()
    expect(page.get_by_text(re.compile("epoch [2-9] of at most"))).to_be_visible(timeout=60_000)
    urdaten.kill("worker")
    expect(page.get_by_text("The worker stopped in the middle of this")).to_be_visible(timeout=30_000)
    page.get_by_role("button", name="run again").click()
    expect(page.get_by_text(re.compile("epoch [2-9] of at most"))).to_be_visible(timeout=60_000)
    # And a stop keeps the best so far.
    page.get_by_role("button", name="stop and save the best").click()
    expect(page.get_by_text(re.compile("Stopped after .* was best and is kept"))).to_be_visible(
        timeout=30_000
    )
    expect(page.get_by_text("in use: it gives the tagger lane")).to_be_visible()


def test_a_killed_database_loses_no_signed_sentence(
    page: Page, urdaten: Running, complaints: Complaints
) -> None:
    complaints.expected += ["503 (Service Unavailable)", "500 (Internal"]
    expect(page.get_by_text("41/1 · week-41")).to_be_visible()
    signed = SIGNED
    before, every = urdaten.query(signed)[0][0], urdaten.query("SELECT count(*) FROM sentence")[0][0]
    page.keyboard.press("t")
    page.keyboard.press("Enter")
    expect(page.get_by_text("sentence 2 of")).to_be_visible()
    wait_for(lambda: urdaten.query(signed) == [(before + 1,)])
    urdaten.kill("database")
    page.keyboard.press("Control+Enter")
    wait_for(lambda: urdaten.query(signed) == [(before + 2,)], 60)
    page.reload()
    thousands = [f"{n:,}".replace(",", "\u202f") for n in (before + 2, every)]
    expect(page.get_by_text(f"{thousands[0]} of {thousands[1]} signed")).to_be_visible()
    # The worker takes jobs again too.
    page.goto(f"{urdaten.address}/p/tessmar/scores")
    page.get_by_role("button", name="score now").first.click()
    expect(page.get_by_role("option")).to_have_count(3, timeout=60_000)


def test_nothing_is_left_running_when_the_starter_is_killed(new_home: Callable[[], Path]) -> None:
    running = Running(new_home())
    pids = running.pids()
    assert running.kill_starter() == -9
    gone = [Path(f"/proc/{pid}") for name, pid in pids.items() if name != "supervisor"]

    def ended(process: Path) -> bool:
        return not process.exists() or "\nState:\tZ" in (process / "status").read_text()

    wait_for(lambda: all(ended(process) for process in gone))
    again = Running(running.home)
    assert again.query("SELECT count(*) FROM text") == [(340,)]
    again.stop()
