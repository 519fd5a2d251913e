"""The thinnest slice: how quickly it is up, and what its tagger brings on the demo project.

Times are absolute and for orientation; F1 figures are strict span F1 on the demo's test split.
"""

from __future__ import annotations

import os
import shutil
import signal
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Sequence
from pathlib import Path

from urdaten.core.pipeline import resolve
from urdaten.core.scoring import score_spans
from urdaten.core.spans import Span
from urdaten.core.tagger import GoldText, Tagger, TaggerInput, TrainingSettings, to_bytes, train
from urdaten.core.text import Vocabulary, batch_of
from urdaten.demo.evidence import found_in
from urdaten.demo.files import Demo, read_demo


def measure(full: bool) -> dict[str, float]:
    """Every figure by name. With `full`, ten seeds instead of three."""
    demo = read_demo()
    return {**_starts(), **_tagger(demo, range(10 if full else 3))}


def _starts() -> dict[str, float]:
    home = Path(tempfile.mkdtemp(prefix="urdaten-bench-"))
    home.chmod(0o711)
    try:
        return {"first_start_seconds": _start(home), "second_start_seconds": _start(home)}
    finally:
        shutil.rmtree(home, ignore_errors=True)


def _start(home: Path) -> float:
    began = time.monotonic()
    process = subprocess.Popen(
        [sys.executable, "-m", "urdaten", "up", "--port", "0", "--idle"],
        env={**os.environ, "URDATEN_HOME": str(home)},
        stdout=subprocess.PIPE,
        text=True,
    )
    assert process.stdout
    up = any("Ctrl-C stops it" in line for line in process.stdout)
    took = time.monotonic() - began
    process.send_signal(signal.SIGINT)
    process.wait(40)
    if not up:
        raise RuntimeError("Urdaten did not come up.")
    return took


def _tagger(demo: Demo, seeds: Sequence[int]) -> dict[str, float]:
    types = [t.code for t in demo.types]
    vocabulary = Vocabulary()
    signed = [bulletin for bulletin in demo.bulletins if bulletin.signed]
    batch = batch_of([bulletin.body for bulletin in signed], demo.language, vocabulary)
    texts: dict[str, list[GoldText]] = {"train": [], "dev": [], "test": []}
    lanes = []
    for bulletin, analysis, evidence in zip(signed, batch.analyses, found_in(demo, batch), strict=True):
        texts[bulletin.split].append(
            GoldText(TaggerInput(analysis, evidence, group=bulletin.group), bulletin.gold)
        )
        lists = [span for span in evidence if span.source == "lists"]
        rules = [span for span in evidence if span.source == "rules"]
        if bulletin.split == "test":
            lanes.append({"lists": lists, "rules": rules})
    gold = [text.gold for text in texts["test"]]

    def f1(found: Sequence[Sequence[Span]]) -> float:
        return score_spans(list(zip(gold, found, strict=True)), types, rounds=10).overall.f1 or 0.0

    def trained(seed: int, features: tuple[str, ...]) -> Tagger:
        settings = TrainingSettings(seed=seed, features=features)
        return train(texts["train"], texts["dev"], vocabulary, types, settings)

    words = ("words", "shapes", "affixes")
    inputs = [text.item for text in texts["test"]]
    began = time.monotonic()
    taggers = [trained(seed, (*words, "lists", "rules")) for seed in seeds]
    seconds = (time.monotonic() - began) / len(taggers)
    found = [tagger.tag(inputs, vocabulary) for tagger in taggers]
    together = [
        [resolve(lane | {"tagger": spans}) for lane, spans in zip(lanes, one, strict=True)] for one in found
    ]
    plain = [trained(seed, words).tag(inputs, vocabulary) for seed in seeds]
    again = trained(seeds[0], (*words, "lists", "rules"))
    return {
        "training_seconds": seconds,
        "same_seed_same_tagger": float(to_bytes(again) == to_bytes(taggers[0])),
        "f1_lists_only": f1([resolve({"lists": lane["lists"]}) for lane in lanes]),
        "f1_rules_only": f1([resolve({"rules": lane["rules"]}) for lane in lanes]),
        "f1_tagger_words_only": statistics.mean(map(f1, plain)),
        "f1_tagger": statistics.mean(map(f1, found)),
        "f1_all_together": statistics.mean(map(f1, together)),
        "f1_all_together_least": min(map(f1, together)),
        "f1_all_together_most": max(map(f1, together)),
    }
