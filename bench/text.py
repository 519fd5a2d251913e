"""Text analysis: right bounds on checked texts, and speed against a bare word pattern.

Speed is a ratio within one run: both sides take turns over the same stream, and the median counts.
"""

from __future__ import annotations

import json
import re
import statistics
import time
from collections.abc import Callable

from urdaten.core.formats import CheckedText, read_bounds
from urdaten.core.text import Vocabulary, analyse, analyse_many
from urdaten.demo.files import FOLDER, read_demo
from urdaten.demo.stream import generate

Bounds = set[tuple[int, int]]
_WORD = re.compile(r"\w+|[^\w\s]")


def measure(full: bool) -> dict[str, float]:
    """F1 of token and sentence bounds (0 to 1), and speeds as ratios to the bare pattern."""
    return {**_bounds(), **_speed(bulletins=20_000 if full else 4_000, rounds=9 if full else 5)}


def _f1(pairs: list[tuple[Bounds, Bounds]]) -> float:
    right = sum(len(wanted & found) for wanted, found in pairs)
    return 2 * right / sum(len(wanted) + len(found) for wanted, found in pairs)


def _bounds() -> dict[str, float]:
    found: dict[str, float] = {}
    for name in ("checked", "fresh"):
        texts = read_bounds((FOLDER / "bounds" / f"{name}.txt").read_text())
        found |= {f"{name}_{figure}": value for figure, value in _bounds_of(texts).items()}
    return found


def _bounds_of(texts: list[CheckedText]) -> dict[str, float]:
    token_pairs: list[tuple[Bounds, Bounds]] = []
    sentence_pairs: list[tuple[Bounds, Bounds]] = []
    for text in texts:
        analysis = analyse(text.body)
        found = set(zip(analysis.start.tolist(), analysis.end.tolist(), strict=True))
        token_pairs.append((set(text.tokens), found))
        sentence_pairs.append((set(text.sentences), set(analysis.sentence_bounds())))
    return {
        "sentences": float(sum(len(text.sentences) for text in texts)),
        "token_f1": _f1(token_pairs),
        "sentence_f1": _f1(sentence_pairs),
    }


def _speed(bulletins: int, rounds: int) -> dict[str, float]:
    bodies = [json.loads(line)["text"] for line in generate(read_demo(), bulletins, seed=5)]

    def bare() -> None:
        for body in bodies:
            [match.span() for match in _WORD.finditer(body)]

    def one_by_one() -> None:
        vocabulary = Vocabulary()
        for body in bodies:
            analyse(body, "en", vocabulary)

    def whole() -> None:
        analyse_many(bodies)

    one = "\n\n".join(bodies)
    times: dict[str, list[float]] = {}
    jobs: dict[str, Callable[[], object]] = {
        "bare": bare,
        "one_by_one": one_by_one,
        "whole": whole,
        "bare_long": lambda: [match.span() for match in _WORD.finditer(one)],
        "whole_long": lambda: analyse(one),
    }
    for _ in range(rounds):
        for name, job in jobs.items():
            began = time.perf_counter()
            job()
            times.setdefault(name, []).append(time.perf_counter() - began)
    median = {name: statistics.median(values) for name, values in times.items()}
    return {
        "tokeniser_and_splitter_to_bare_pattern": median["bare"] / median["whole"],
        "the_same_text_by_text": median["bare"] / median["one_by_one"],
        "one_long_text_to_bare_pattern": median["bare_long"] / median["whole_long"],
        "million_code_points_per_second": sum(map(len, bodies)) / median["whole"] / 1e6,
    }
