"""The server on a large project: opening places, the bar's figures, acts alone and by eight at once, memory; a large text.

The project is generated: the demo's scheme, bulletins in groups of twenty, half of their sentences signed. It has no lists,
rules or tagger: what these find in all texts is another benchmark's matter. Times are absolute, of the whole way over HTTP.
"""

from __future__ import annotations

import json
import statistics
import threading
import time
from collections.abc import Callable
from contextlib import closing
from functools import partial
from http.client import HTTPConnection
from urllib.parse import urlsplit
from uuid import uuid4

import httpx
from _generated import fill
from _served import Urdaten, running

from urdaten.demo.files import read_demo

TEXTS, FULL_TEXTS = 10_000, 100_000
LOOKS = 5
ACTS, ANNOTATORS = 200, 8
LARGE_LINES = 166_000
# A look that takes longer is not repeated.
LONG_S = 5.0
PLACES = {
    "types": ("/types",),
    "texts": ("/texts",),
    "desk": ("/desk/queue", "/desk/rounds", "/desk/pace"),
    "lists": ("/lists",),
    "rules": ("/rules",),
    "tagger": ("/trainings", "/trainings/anew"),
    "scores": ("/scorecards",),
    "records": ("/records/templates",),
}


def measure(full: bool) -> dict[str, float]:
    """Every figure by name."""
    count = FULL_TEXTS if full else TEXTS
    with running() as urdaten:
        began = time.monotonic()
        slug, sentences = fill(urdaten, read_demo(), count)
        figures: dict[str, float] = {
            "texts": float(count),
            "sentences": float(sentences),
            "filling_seconds": time.monotonic() - began,
        }
        address = f"/api/projects/{slug}"
        with urdaten.client(timeout=120) as client:
            for place, paths in PLACES.items():
                looks = [_looks(client, address + path) for path in paths]
                figures[f"{place}_first_ms"] = sum(first for first, _ in looks)
                figures[f"{place}_ms"] = sum(median for _, median in looks)
            figures["place_first_ms"] = max(figures[f"{place}_first_ms"] for place in PLACES)
            figures["place_ms"] = max(figures[f"{place}_ms"] for place in PLACES)
            figures["figures_ms"] = _looks(client, f"{address}/figures")[1]
            # The bodies begin with their number.
            searches = {"search": f"words={count // 2}:", "search_all": "words=the", "novelty": "by=novelty"}
            for name, wish in searches.items():
                asked = f"{address}/desk/queue/ordered?limit=100&{wish}"
                figures[f"{name}_first_ms"] = _seconds(partial(client.get, asked)) * 1000
            open_ones = client.get(f"{address}/desk/queue", params={"limit": 5000}).json()["items"]
        numbers = [item["id"] for item in open_ones]
        figures["act_ms_95"] = _acts(urdaten, address, numbers[:ACTS])[-1]
        figures["act_ms_95_eight"] = _at_once(urdaten, address, numbers[ACTS : ACTS * (1 + ANNOTATORS)])
        figures |= _large(urdaten)
        figures["server_megabytes"] = _megabytes(urdaten)
    return figures


def _looks(client: httpx.Client, path: str) -> tuple[float, float]:
    """Milliseconds that an answer takes: the first, for which nothing was kept yet, and the median of all."""
    taken: list[float] = []
    for _ in range(LOOKS):
        taken.append(_seconds(lambda: client.get(path)) * 1000)
        if taken[-1] > 1000 * LONG_S:
            break
    return taken[0], statistics.median(taken)


def _seconds(ask: Callable[[], httpx.Response]) -> float:
    began = time.perf_counter()
    ask().raise_for_status()
    return time.perf_counter() - began


def _large(urdaten: Urdaten) -> dict[str, float]:
    """One text of very many short lines, in a project of its own: what of it is in sight comes soon."""
    lines = [f"at {number % 60:02d}" for number in range(LARGE_LINES)]
    lines[LARGE_LINES // 2] = lines[0] = "Pellin"
    with urdaten.client(timeout=120) as client:
        slug = client.post("/api/projects", json={"name": "Large", "language": "en"}).json()["slug"]
        address = f"/api/projects/{slug}"
        kind = {"code": "VES", "name": "vessel", "key": "v", "hue": 1}
        client.post(f"{address}/types", json=kind).raise_for_status()
        body = {"title": "large", "body": "\n".join(lines)}
        added = _seconds(lambda: client.post(f"{address}/texts", json=body))
        (text,) = client.get(f"{address}/texts").json()["texts"]
        sentence = client.get(f"{address}/desk/queue", params={"limit": 1}).json()["items"][0]["id"]
        asked = {
            "text": f"/texts/{text['id']}/sentences",
            "queue": "/desk/queue",
            "sentence": f"/desk/sentences/{sentence}?evidence=false",
            "evidence": f"/desk/sentences/{sentence}",
            "alike": f"/desk/sentences/{sentence}/alike?start=0&end=6&type=VES",
        }
        looks = {name: _looks(client, address + path)[0] for name, path in asked.items()}
    return {"large_add_seconds": added} | {f"large_{name}_first_ms": first for name, first in looks.items()}


def _acts(urdaten: Urdaten, address: str, numbers: list[int]) -> tuple[float, float]:
    """Median and 95 % of the milliseconds that acts on these sentences take."""
    taken: list[float] = []
    cookies = "; ".join(f"{name}={value}" for name, value in urdaten.cookies.items())
    headers = {"Origin": urdaten.address, "Cookie": cookies, "Content-Type": "application/json"}
    # The plainest client there is: what is asked is how long the server takes, on a machine that both share.
    with closing(HTTPConnection(urlsplit(urdaten.address).netloc, timeout=20)) as client:
        for number in numbers:
            wish = {"kind": "sign as empty", "version": 0, "spans": [], "token": str(uuid4())}
            body = json.dumps(wish)
            began = time.perf_counter()
            client.request("PUT", f"{address}/desk/sentences/{number}", body, headers)
            answer = client.getresponse()
            answer.read()
            taken.append(1000 * (time.perf_counter() - began))
            assert answer.status == 200, answer.status
    return statistics.median(taken), _percentile(taken)


def _at_once(urdaten: Urdaten, address: str, numbers: list[int]) -> float:
    each = len(numbers) // ANNOTATORS
    taken: list[tuple[float, float]] = []

    def work(mine: list[int]) -> None:
        taken.append(_acts(urdaten, address, mine[:ACTS]))

    shares = [numbers[i * each : (i + 1) * each] for i in range(ANNOTATORS)]
    threads = [threading.Thread(target=work, args=(share,)) for share in shares]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return max(at_95 for _, at_95 in taken)


def _percentile(values: list[float], share: float = 0.95) -> float:
    return sorted(values)[min(len(values) - 1, int(share * len(values)))]


def _megabytes(urdaten: Urdaten) -> float:
    """The most memory that the server has held."""
    number = json.loads((urdaten.home / "processes.json").read_text())["server"]
    with open(f"/proc/{number}/status") as status:
        (line,) = [line for line in status if line.startswith("VmHWM")]
    return int(line.split()[1]) / 1000
