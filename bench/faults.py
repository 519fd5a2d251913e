"""Parts that die while people work: is what was answered kept, and does every job say what is true?

Server, worker and database are killed in turn while eight clients annotate and trainings run; afterwards many clients write to
one sentence at once. Times are absolute and for orientation.
"""

from __future__ import annotations

import itertools
import statistics
import threading
import time
from typing import Any
from uuid import uuid4

import httpx
from _served import ENDED, Urdaten, running

CLIENTS = 8
ROUNDS, FULL_ROUNDS = 60, 200
RACING = 1000
PARTS = ("server", "worker", "database")
# Between two kills, so that some work gets done.
BREATH_S = 0.7


def measure(full: bool) -> dict[str, float]:
    """Every figure by name."""
    with running() as urdaten:
        kept, seconds = _kill(urdaten, FULL_ROUNDS if full else ROUNDS)
        return {
            "rounds": float(FULL_ROUNDS if full else ROUNDS),
            "acts_answered": float(len(kept)),
            "acts_answered_and_gone": float(_gone(urdaten, kept)),
            "jobs_begun": float(len(urdaten.jobs())),
            "jobs_that_say_what_is_not_true": float(_untrue(urdaten)),
            "served_again_seconds": statistics.median(seconds),
            "served_again_seconds_most": max(seconds),
            "racing_writes": float(RACING),
            "silent_overwrites": float(_race(urdaten)),
        }


def _kill(urdaten: Urdaten, rounds: int) -> tuple[set[str], list[float]]:
    """Tokens of the acts that were answered with 200, and how long each kill kept people waiting."""
    kept: set[str] = set()
    over = threading.Event()
    with urdaten.client() as client:
        items = client.get("/api/projects/tessmar/desk/queue", params={"split": "none"}).json()["items"]
    workers = [
        threading.Thread(target=_annotate, args=(urdaten, items[i::CLIENTS], kept, over))
        for i in range(CLIENTS)
    ]
    trainer = threading.Thread(target=_train, args=(urdaten, over))
    for thread in (*workers, trainer):
        thread.start()
    seconds = []
    for i in range(rounds):
        time.sleep(BREATH_S)
        part = PARTS[i % len(PARTS)]
        urdaten.kill(part)
        if part != "worker":
            time.sleep(0.05)
            seconds.append(urdaten.wait_until_served())
    over.set()
    for thread in (*workers, trainer):
        thread.join()
    urdaten.wait_until_served()
    return kept, seconds


def _annotate(urdaten: Urdaten, items: list[dict[str, Any]], kept: set[str], over: threading.Event) -> None:
    """Sign sentences and withdraw that, one after the other, for as long as it lasts."""
    turn = 0
    with urdaten.client() as client:
        while not over.is_set():
            number = items[turn % len(items)]["id"]
            path = f"/api/projects/tessmar/desk/sentences/{number}"
            try:
                opened = client.get(path, params={"evidence": False})
                if opened.status_code != 200:
                    time.sleep(0.05)
                    continue
                now = opened.json()["annotation"]
                token = str(uuid4())
                wish = {"version": now["version"], "token": token}
                if now["state"] == "signed":
                    wish |= {"kind": "unsign"}
                else:
                    wish |= {"kind": "sign as empty" if not now["spans"] else "sign", "spans": []}
                    wish["spans"] = [{k: s[k] for k in ("start", "end", "type")} for s in now["spans"]]
                if client.put(path, json=wish).status_code == 200:
                    kept.add(token)
                turn += 1
            except httpx.HTTPError:
                time.sleep(0.05)


def _train(urdaten: Urdaten, over: threading.Event) -> None:
    settings: dict[str, Any] | None = None
    with urdaten.client() as client:
        while not over.is_set():
            try:
                if settings is None:
                    presets = client.get("/api/training-settings").json()["presets"]
                    settings = next(p["settings"] for p in presets if p["name"] == "quick")
                running = [
                    j for j in client.get("/api/projects/tessmar/jobs").json() if j["state"] not in ENDED
                ]
                if not running:
                    client.post("/api/projects/tessmar/trainings", json={"name": "t", "settings": settings})
            except (httpx.HTTPError, ValueError, TypeError, KeyError):
                pass
            time.sleep(0.5)


def _gone(urdaten: Urdaten, kept: set[str]) -> int:
    there = {str(token) for (token,) in urdaten.query("SELECT token FROM act WHERE token IS NOT NULL")}
    return len(kept - there)


def _untrue(urdaten: Urdaten) -> int:
    """Jobs that wait or run for ever, are done without a tagger, or have one and say that nothing was saved."""
    deadline = time.monotonic() + 120
    while time.monotonic() < deadline:
        if all(state in ENDED for _, state, _ in urdaten.jobs()):
            break
        time.sleep(0.5)
    query = (
        "SELECT job.state, training.model IS NOT NULL FROM job LEFT JOIN training ON training.job_id = job.id"
    )
    return sum(
        state not in ENDED or (state == "done") != has_model
        for state, has_model in urdaten.query(query)
        if state != "stopped"
    )


def _race(urdaten: Urdaten) -> int:
    """Of many writes on one sentence, each on the version that its writer saw: how many took away another's unseen."""
    with urdaten.client() as client:
        number = client.get("/api/projects/tessmar/desk/queue").json()["items"][0]["id"]
    path = f"/api/projects/tessmar/desk/sentences/{number}"
    before = urdaten.query(f"SELECT count(*) FROM act WHERE sentence_id = {number}")[0][0]
    answered: list[int] = []

    def write(count: int) -> None:
        with urdaten.client() as client:
            for i in range(count):
                now = client.get(path, params={"evidence": False}).json()["annotation"]
                wish = {"kind": "ask", "version": now["version"], "question": f"{threading.get_ident()} {i}"}
                answered.append(client.put(path, json=wish).status_code)

    threads = [threading.Thread(target=write, args=(RACING // CLIENTS,)) for _ in range(CLIENTS)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    chain = urdaten.query(
        f"SELECT before, after FROM act WHERE sentence_id = {number} ORDER BY id OFFSET {before}"
    )
    torn: int = sum(later[0] != earlier[1] for earlier, later in itertools.pairwise(chain))
    refused = sum(status not in {200, 409} for status in answered)
    return torn + refused + abs(answered.count(200) - len(chain))
