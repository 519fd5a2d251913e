"""The evidence of a large project: found whole, and brought up to date after one name, one rule and some gold changed.

The project is generated: bulletins, half of their sentences signed, with the demo's lists and rules and a tagger trained on
the demo in use; once with each for itself, and a tenth of them in groups of twenty, which the tagger reads together. The
worker does it, as after anything that is too much for a request. Shares are of the time that finding everything takes in the
same run, from the change until all is up to date.
"""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable, Iterator
from typing import Any

import httpx
from _demo import demo_texts
from _generated import GROUP, fill
from _served import ENDED, Urdaten, running

from urdaten.core.tagger import TrainingSettings, to_bytes, train
from urdaten.demo.files import Demo, read_demo
from urdaten.demo.load import furnish
from urdaten.places.tagger import acts as tagger
from urdaten.places.team import acts as team
from urdaten.places.types import acts as types
from urdaten.platform.accounts import account_by_login
from urdaten.platform.database import transaction
from urdaten.server import work

TEXTS, FULL_TEXTS = 2_000, 100_000
LOOKS = 5
# Registers what jobs there are.
assert work.KINDS


def measure(full: bool) -> dict[str, float]:
    """Every figure by name."""
    demo = read_demo()
    count = FULL_TEXTS if full else TEXTS
    with running() as urdaten:
        figures = _measured(urdaten, demo, count, 1)
        grouped = _measured(urdaten, demo, count // 10, GROUP)
        (pages,) = urdaten.query(
            "SELECT pg_total_relation_size('evidence') + pg_total_relation_size('finds')"
        )
    figures |= {f"grouped_{name}": grouped[name] for name in ("texts", "whole_seconds", "entry_share")}
    return figures | {"store_megabytes": pages[0] / 1e6}


def _measured(urdaten: Urdaten, demo: Demo, count: int, group: int) -> dict[str, float]:
    slug, sentences = fill(urdaten, demo, count, group)
    _put_to_use(urdaten, slug, demo)
    address = f"/api/projects/{slug}"
    with urdaten.client(timeout=120) as client:
        whole = _brought_up(client, address)
        figures = {"texts": float(count), "sentences": float(sentences), "whole_seconds": whole}
        for place in ("lists", "rules"):
            _done(client.get(f"{address}/{place}"))
            figures[f"{place}_ms"] = statistics.median(_looks(client, f"{address}/{place}"))
        for name, change in _changes(client, address):
            change()
            began = time.perf_counter()
            figures[f"{name}_first_look_ms"] = next(_looks(client, f"{address}/lists"))
            _brought_up(client, address)
            figures[f"{name}_share"] = (time.perf_counter() - began) / whole
    figures["entry_share"] = max(v for k, v in figures.items() if k in ENTRY)
    return figures


ENTRY = ("entry_removed_share", "entry_added_share", "variant_added_share")


def _put_to_use(urdaten: Urdaten, slug: str, demo: Demo) -> None:
    """The demo's lists and rules, and a tagger that was trained on it."""
    texts = demo_texts()
    settings = TrainingSettings(epochs=4)
    model = to_bytes(train(texts.train, texts.dev, texts.vocabulary, texts.types, settings))
    with transaction(urdaten.database_url) as db:
        project = team.project_by_slug(db, slug)
        furnish(db, project, demo)
        training = tagger.start_training(
            db, project.id, account_by_login(db, "ines").id, "of the demo", settings
        )
        tagger.stop_training(db, project.id, training.id)
        numbers = {one.code: one.id for one in types.list_types(db, project.id)}
        tagger.keep_model(db, training.id, model, {"type_numbers": numbers})


def _changes(client: httpx.Client, address: str) -> Iterator[tuple[str, Callable[[], object]]]:
    """What is changed, one after the other: of the list with the most finds the entry in the middle, and a rule."""
    named = max(client.get(f"{address}/lists").json(), key=lambda one: one["finds"])
    entries = f"{address}/lists/{named['id']}/entries"
    every = client.get(entries).json()["entries"]
    entry = every[len(every) // 2]
    wish = {name: entry[name] for name in ("preferred", "variants", "note")}
    rule = client.get(f"{address}/rules").json()[0]
    changed = {name: rule[name] for name in ("name", "type", "about", "must_find", "must_not_find", "on")}
    changed |= {"pattern": f"(?:{rule['pattern']})", "version": rule["version"]}

    def other_variant() -> object:
        added = client.get(entries, params={"search": wish["preferred"]}).json()["entries"][0]
        variants = {"variants": [*wish["variants"], "quarterly"], "version": added["version"]}
        return _done(client.put(f"{entries}/{added['id']}", json=wish | variants))

    yield "entry_removed", lambda: _done(client.delete(f"{entries}/{entry['id']}"))
    yield "entry_added", lambda: _done(client.post(entries, json=wish))
    yield "variant_added", other_variant
    yield "rule_changed", lambda: _done(client.put(f"{address}/rules/{rule['id']}", json=changed))


def _done(answer: httpx.Response) -> httpx.Response:
    return answer.raise_for_status()


def _looks(client: httpx.Client, path: str) -> Iterator[float]:
    """Milliseconds that an answer takes, several times."""
    for _ in range(LOOKS):
        began = time.perf_counter()
        _done(client.get(path))
        yield (time.perf_counter() - began) * 1000


def _brought_up(client: httpx.Client, address: str) -> float:
    """Seconds until everything that is behind is found and counted, and the tagger has spoken of it."""
    began = time.perf_counter()
    _wait(client, address)
    _done(client.post(f"{address}/evidence/count"))
    _wait(client, address)
    taken = time.perf_counter() - began
    standing: dict[str, Any] = _done(client.get(f"{address}/evidence")).json()
    if standing["behind"] or standing["job"]["state"] != "done":
        raise RuntimeError(f"Evidence was not brought up to date: {standing}")
    return taken


def _wait(client: httpx.Client, address: str) -> None:
    while (job := _done(client.get(f"{address}/evidence")).json()["job"]) and job["state"] not in ENDED:
        time.sleep(0.05)
