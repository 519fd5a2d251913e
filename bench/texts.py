"""Texts in and out: an import of 100 000 short texts with --full, a tenth without, pages asked for meanwhile, what searches and
facets take, and the corpus taken out. With --full the database copies the texts before they are searched, so that there are a
million sentences.

The texts are generated bulletins, as JSON Lines; they are imported over HTTP by the worker, as people do it.
"""

from __future__ import annotations

import json
import statistics
import threading
import time
from collections.abc import Iterator

import httpx
from _served import ENDED, Urdaten, running
from sqlalchemy import text

from urdaten.demo.files import read_demo
from urdaten.demo.stream import generate
from urdaten.places.desk import acts as desk
from urdaten.places.team import acts as team
from urdaten.places.texts.acts import settle
from urdaten.platform.accounts import account_by_login
from urdaten.platform.database import transaction

TEXTS, FULL_TEXTS = 10_000, 100_000
MILLION = 1_000_000
# What somebody who works beside it looks at.
PAGES = ("/texts?limit=200", "/desk/queue", "/figures")


def measure(full: bool) -> dict[str, float]:
    """Every figure by name; times over HTTP."""
    count = FULL_TEXTS if full else TEXTS
    with running() as urdaten:
        slug = _project(urdaten)
        with urdaten.client(timeout=120) as client:
            path = f"/api/projects/{slug}"
            number = client.post(f"{path}/imports").raise_for_status().json()["id"]
            content = b"".join(_lines(count))
            sent = client.post(
                f"{path}/imports/{number}/file", params={"name": "texts.jsonl"}, content=content
            )
            sent.raise_for_status()
            looked_s = _job(client, f"{path}/imports/{number}", "look")
            seen = client.get(f"{path}/imports/{number}").json()["looked"]
            with _Beside(urdaten, path) as beside:
                kept_s = _job(client, f"{path}/imports/{number}", "keep")
            report = client.get(f"{path}/imports/{number}").json()["report"]
        # Some are the same as another: those do not come twice.
        assert report["texts"] == seen["texts"], report
        figures = {
            "texts": float(report["texts"]),
            "sentences": float(report["sentences"]),
            "seen_per_second": seen["texts"] / looked_s,
            "imported_per_second": report["texts"] / kept_s,
            "page_meanwhile_ms": statistics.median(beside.times) * 1000,
            "page_meanwhile_ms_95": statistics.quantiles(beside.times, n=20)[-1] * 1000,
        }
        figures["searched_sentences"] = float(_grown(urdaten, slug, MILLION if full else 0))
        return figures | _asked(urdaten, slug) | _exported(urdaten, slug)


def _project(urdaten: Urdaten) -> str:
    with transaction(urdaten.database_url) as db:
        project = team.create_project(db, name="Imported", language="en")
        team.add_member(db, project.id, account_by_login(db, "ines").id, team.Role.LEAD)
        desk.gold_layer(db, project.id)
    return project.slug


def _lines(count: int) -> Iterator[bytes]:
    for number, line in enumerate(generate(read_demo(), count, 7)):
        row = {
            "text": f"{json.loads(line)['text']}\nEntry {number}.",
            "title": str(number),
            "group": str(number // 20),
        }
        yield json.dumps(row).encode() + b"\n"


def _job(client: httpx.Client, path: str, what: str) -> float:
    """How long it takes from when it is asked for, in seconds."""
    began = time.perf_counter()
    client.post(f"{path}/{what}").raise_for_status()
    while True:
        work = client.get(path).json()["work"]
        if work["state"] in ENDED:
            assert work["state"] == "done", work
            return time.perf_counter() - began
        time.sleep(0.1)


class _Beside:
    """Asks for pages, one after the other, while something else is done."""

    def __init__(self, urdaten: Urdaten, path: str) -> None:
        self.times: list[float] = []
        self._urdaten, self._path = urdaten, path
        self._ended = threading.Event()
        self._thread = threading.Thread(target=self._ask)

    def __enter__(self) -> _Beside:
        self._thread.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._ended.set()
        self._thread.join()

    def _ask(self) -> None:
        with self._urdaten.client(timeout=120) as client:
            while not self._ended.is_set():
                for page in PAGES:
                    began = time.perf_counter()
                    client.get(self._path + page).raise_for_status()
                    self.times.append(time.perf_counter() - began)
                time.sleep(0.2)


# What people type: words that nearly every text, some and hardly any has, two at once, the beginning of one, and a run.
SEARCHES = (
    *("berth", "amber", "pilot", "harbour", "varnby", "pellin", "potash", "fuse", "weighbridge", "entry"),
    *("amber quay", "pilot vane", "sill wharf", "coal steps", "brisk wind", "north mole", "fog lamp"),
    *("amb", "pel", "whar", "entry 512", "77123", '"Sill Wharf 3"', '"two tugs"', '"lamp out"', "quellbork"),
)
FACETS = ("split", "group", "source", "month", "state")


def _grown(urdaten: Urdaten, slug: str, least: int) -> int:
    """Copies of the texts, made by the database until there are so many sentences; how many there are then."""
    with transaction(urdaten.database_url) as db:
        project = team.project_by_slug(db, slug)
        counted = text("SELECT coalesce(sum(sentences), 0) FROM text WHERE project_id = :project")
        count: int = db.scalar(counted, {"project": project.id}) or 0
        if 0 < count < least:
            db.execute(_COPIED, {"project": project.id})
            count = db.scalar(counted, {"project": project.id}) or 0
    settle(urdaten.database_url)
    return count


_COPIED = text(
    """
    WITH made AS (
        INSERT INTO text (project_id, title, body, body_digest, "group", split, position, sentences, version, words)
        SELECT project_id, title, body || ' Again.', md5(body), "group", split, position + 1000000, sentences, 1, words
        FROM text WHERE project_id = :project
        RETURNING id, position
    )
    INSERT INTO sentence (text_id, number, start, "end")
    SELECT made.id, held.number, held.start, held."end"
    FROM made
    JOIN text ON text.project_id = :project AND text.position = made.position - 1000000
    JOIN sentence AS held ON held.text_id = text.id
    """
)


def _asked(urdaten: Urdaten, slug: str) -> dict[str, float]:
    """Times over HTTP in milliseconds: the first page of each search, how many there are, both together, and the facets of all
    texts."""
    path = f"/api/projects/{slug}/texts"
    pages, counts, facets = [], [], []
    with urdaten.client(timeout=120) as client:

        def took_ms(address: str, **asked: str) -> float:
            began = time.perf_counter()
            client.get(address, params=asked).raise_for_status()
            return (time.perf_counter() - began) * 1000

        took_ms(path, search="berth")
        for _ in range(3):
            pages += [took_ms(path, search=words) for words in SEARCHES]
            counts += [took_ms(f"{path}/count", search=words) for words in SEARCHES]
            facets += [took_ms(f"{path}/facets", of=of) for of in FACETS]
    searches = [page + count for page, count in zip(pages, counts, strict=True)]
    return {
        "search_ms": statistics.median(searches),
        "search_ms_95": statistics.quantiles(searches, n=20)[-1],
        "first_page_ms": statistics.median(pages),
        "first_page_ms_95": statistics.quantiles(pages, n=20)[-1],
        "count_ms": statistics.median(counts),
        "count_ms_95": statistics.quantiles(counts, n=20)[-1],
        "facet_ms": statistics.median(facets),
        "facet_ms_most": max(facets),
    }


def _exported(urdaten: Urdaten, slug: str) -> dict[str, float]:
    """JSON Lines written by the act, without the network."""
    with transaction(urdaten.database_url, snapshot=True) as db:
        project = team.project_by_slug(db, slug)
        began, size = time.perf_counter(), 0
        for line in desk.write_out(db, project, desk.CorpusWish(unsigned=True)):
            size += len(line.encode())
        return {"export_megabytes_per_second": size / 1e6 / (time.perf_counter() - began)}
