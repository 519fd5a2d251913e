"""The whole pipeline: from raw texts to one answer as a bundle gives it, how good a weighed answer is, and what bad bundles do.

Speeds are ratios within one run, over a stream of generated bulletins; `urdaten run` is timed as a command, its start apart.
The tagger is trained on the demo first, which is not timed. The test split is looked at once, for a figure that is stated and
hangs on nothing.
"""

from __future__ import annotations

import hashlib
import io
import json
import random
import resource
import statistics
import subprocess
import sys
import tempfile
import time
import zipfile
from collections.abc import Callable, Iterator, Sequence
from itertools import islice
from pathlib import Path

import numpy as np
from _demo import DemoTexts, demo_texts, trained
from _keys import begin_training, keys_per_span, use_tagger, weigh
from _running import at_the_desk

from urdaten.core.bundle import Bundle, Runner, from_bytes, to_bytes
from urdaten.core.lists import Gazetteer
from urdaten.core.pipeline import (
    Beside,
    ListStage,
    PolicyKind,
    PolicyStage,
    RuleStage,
    Signed,
    Stage,
    TaggerStage,
    answers_by_folds,
    learn,
    trace,
)
from urdaten.core.scoring import score_spans
from urdaten.core.spans import Span, SpanTable
from urdaten.core.tagger import Tagger
from urdaten.core.text import batch_of
from urdaten.demo.bundle import demo_bundle
from urdaten.demo.files import Bulletin, Demo, read_demo
from urdaten.demo.stream import generate
from urdaten.errors import BadFile

AT_A_TIME = 200
ROUNDS = 3
STARTS = 5
# How unlikely the tagger's second thoughts may be.
SECOND_THOUGHTS = 0.05
_FED = (("lists", "tagger"),)
ONE_TEXT = "The Amber Quay sailed from Varnby at 0600.\n"


def measure(full: bool) -> dict[str, float]:
    """Every figure by name. With `full`, a stream of 20 000 bulletins instead of 4 000, 2 000 bad bundles instead of 200, and
    weights learnt from train as well, with taggers that have not seen it, and the keys that gold costs with them."""
    demo, texts = read_demo(), demo_texts()
    tagger = trained(texts, texts.train)
    bundle = demo_bundle(demo, tagger)
    data = to_bytes(bundle)
    with tempfile.TemporaryDirectory(prefix="urdaten-") as folder:
        path, stream = Path(folder, "demo.bundle"), Path(folder, "texts.jsonl")
        path.write_bytes(data)
        count = 20_000 if full else 4_000
        lines = list(generate(demo, count, seed=5))
        stream.write_text("".join(line.rstrip("\n") + "\n" for line in lines))
        figures = _as_a_command(path, stream, count)
        figures |= _in_one_process(bundle, [json.loads(line)["text"] for line in lines])
        figures["says_the_same_everywhere"] = float(_same(path, bundle, lines[:300], Path(folder)))
    figures["same_file_again"] = float(to_bytes(from_bytes(data)) == data)
    figures |= _answers(demo, texts, tagger, full)
    if full:
        figures |= _keys(demo)
    return figures | _bad_bundles(demo_bundle(demo, tagger), 2_000 if full else 200)


# Speed


def _as_a_command(bundle: Path, stream: Path, count: int) -> dict[str, float]:
    """`urdaten run`: until the first span, one process against two, and how far its memory grows."""
    command = [sys.executable, "-m", "urdaten", "run", str(bundle)]
    starts = []
    for _ in range(STARTS):
        began = time.perf_counter()
        with subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True) as going:
            assert going.stdin is not None
            assert going.stdout is not None
            going.stdin.write(ONE_TEXT)
            going.stdin.close()
            assert '"VES"' in going.stdout.readline()
            starts.append(time.perf_counter() - began)
    start = statistics.median(starts)
    tenth = stream.with_name("tenth.jsonl")
    with stream.open() as lines:
        tenth.write_text("".join(islice(lines, count // 10)))
    peaks = []
    for texts in (tenth, stream):
        _run([*command, str(texts)])
        peaks.append(resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1024)
    one, two = (
        statistics.median(_run([*command, str(stream), "--processes", str(n)]) for _ in range(ROUNDS))
        for n in (1, 2)
    )
    return {
        "start_seconds": start,
        "texts_per_second_one_process": count / (one - start),
        "two_processes_times_as_fast": (one - start) / max(two - start, 1e-9),
        "streamed_megabytes": peaks[1],
        "streamed_megabytes_to_a_tenth": peaks[1] / peaks[0],
    }


def _run(command: Sequence[str]) -> float:
    began = time.perf_counter()
    subprocess.run(command, check=True, stdout=subprocess.DEVNULL)
    return time.perf_counter() - began


def _in_one_process(bundle: Bundle, bodies: Sequence[str]) -> dict[str, float]:
    """Tokens a second of each stage and of the whole."""
    pipeline = bundle.pipeline()
    runs: list[dict[str, float]] = []
    tokens = 0
    for _ in range(ROUNDS):
        taken: dict[str, float] = {}
        tokens = 0
        for at in range(0, len(bodies), AT_A_TIME):
            began = time.perf_counter()
            batch = batch_of(bodies[at : at + AT_A_TIME])
            tokens += len(batch.word)
            for name in _timed(taken, "batch", began, pipeline.steps(batch)):
                assert name
        runs.append(taken)
    seconds = {name: statistics.median(run[name] for run in runs) for name in runs[0]}
    whole = sum(seconds.values())
    figures = {f"{name}_tokens_per_second": tokens / took for name, took in seconds.items()}
    figures |= {f"{name}_share": took / whole for name, took in seconds.items()}
    figures["tokens_per_second"] = tokens / whole
    figures["speed_to_slowest_stage"] = max(seconds.values()) / whole
    return figures


def _timed(taken: dict[str, float], first: str, began: float, steps: Iterator[object]) -> Iterator[str]:
    now = time.perf_counter()
    taken[first] = taken.get(first, 0.0) + now - began
    for step in steps:
        name = step.stage.name  # type: ignore[attr-defined] # a step of a trace
        later = time.perf_counter()
        taken[name] = taken.get(name, 0.0) + later - now
        yield name
        now = time.perf_counter()


def _same(path: Path, bundle: Bundle, lines: Sequence[str], folder: Path) -> bool:
    """Do the command line, with one process and with two, and Python say the same?"""
    texts = folder / "some.jsonl"
    texts.write_text("".join(line.rstrip("\n") + "\n" for line in lines))
    told = []
    for processes in ("1", "2"):
        command = [sys.executable, "-m", "urdaten", "run", str(path), str(texts), "--processes", processes]
        done = subprocess.run(command, check=True, stdout=subprocess.PIPE, text=True)
        rows = [json.loads(line)["spans"] for line in done.stdout.splitlines()]
        told.append([[(s["start"], s["end"], s["type"]) for s in own] for own in rows])
    runner = Runner(bundle)
    found = runner.run(map(json.loads, lines))
    told.append([[(s.start, s.end, s.type) for s in one.spans] for one in found])
    return told[0] == told[1] == told[2]


# Answers


class _Split:
    """Signed demo texts of one split with all that lists, rules and a tagger say of them."""

    def __init__(self, demo: Demo, own: Sequence[Bulletin], tagger: Tagger, also: float | None) -> None:
        self.own = own
        sources: list[Stage] = [ListStage(Gazetteer(demo.lists)), RuleStage(demo.compiled_rules)]
        batch = batch_of([one.body for one in own], demo.language)
        beside = Beside([one.group for one in own])
        spans = trace([*sources, TaggerStage(tagger, also=also)], batch, beside)[-1].after
        gold = SpanTable.of_spans([list(one.gold) for one in own])
        self.signed = Signed(batch, spans, gold, np.ones(len(batch.word), dtype=bool), beside)

    def answer(self, policy: PolicyStage, sources: Sequence[str] = ("lists", "rules", "tagger")) -> float:
        """The F1 of what a policy answers when these are heard."""
        one = self.signed
        spans = one.spans.of_sources(sources)
        found = policy.apply(one.batch, spans, one.beside).to(spans).spans(len(self.own))
        return self.f1(found)

    def f1(self, found: Sequence[Sequence[Span]]) -> float:
        pairs = [(list(one.gold), list(own)) for one, own in zip(self.own, found, strict=True)]
        codes = sorted({span.type for gold, _ in pairs for span in gold})
        return 100 * (score_spans(pairs, codes, rounds=1).overall.f1 or 0)


def _answers(demo: Demo, texts: DemoTexts, tagger: Tagger, full: bool) -> dict[str, float]:
    """F1 on dev of each stage alone, of every policy, and of weighing whose weights have not seen what it answers."""
    split = {
        name: [one for one in demo.bulletins if one.signed and one.split == name]
        for name in ("train", "dev", "test")
    }
    plain = _Split(demo, split["dev"], tagger, None)
    figures = {
        f"dev_f1_{name}_alone": plain.answer(PolicyStage(), [name]) for name in ("lists", "rules", "tagger")
    }
    kinds: tuple[PolicyKind, ...] = ("order", "longest", "likeliest")
    figures |= {f"dev_f1_{kind}": plain.answer(PolicyStage(kind, left_out=_FED)) for kind in kinds}
    dev = _Split(demo, split["dev"], tagger, SECOND_THOUGHTS)
    others = _held_out(demo, texts, split["train"]) if full else []
    weighed = dev.f1(answers_by_folds(others, dev.signed))
    figures["dev_f1_weighed"] = weighed
    best = max(figures[f"dev_f1_{name}_alone"] for name in ("lists", "rules", "tagger"))
    figures["weighed_points_above_best_stage"] = weighed - best
    figures["weighed_points_above_order"] = weighed - figures["dev_f1_order"]
    weigher = learn([*others, dev.signed])
    policy = PolicyStage("weighed", order=(), least=weigher.least, weigher=weigher)
    test = _Split(demo, split["test"], tagger, None)
    figures["test_f1_order"] = test.answer(PolicyStage(left_out=_FED))
    figures["test_f1_weighed"] = _Split(demo, split["test"], tagger, SECOND_THOUGHTS).answer(policy)
    return figures


def _held_out(demo: Demo, texts: DemoTexts, own: Sequence[Bulletin]) -> list[Signed]:
    """Train texts as taggers see them that have not learnt from them: group by group dealt out to five."""
    groups = sorted({one.group for one in own})
    found = []
    for number in range(5):
        held = set(groups[number::5])
        tagger = trained(texts, [one for one in texts.train if one.item.group not in held])
        found.append(_Split(demo, [one for one in own if one.group in held], tagger, SECOND_THOUGHTS).signed)
    return found


# Keys


def _keys(demo: Demo) -> dict[str, float]:
    """Keys per span at the Desk where the pipeline weighs, over all bulletins that nobody has signed."""
    titles = [one.title for one in demo.bulletins if not one.signed]
    with at_the_desk() as page:
        begin_training(page)
        use_tagger(page)
        weigh(page)
        keys, spans = keys_per_span(page, titles, evidence=True)
    return {"keys_per_span_weighed": keys, "spans_weighed": float(spans)}


# Bad bundles


def _bad_bundles(bundle: Bundle, count: int) -> dict[str, float]:
    """What becomes of bundles with some bytes changed, and of such whose sums were put right again."""
    from dataclasses import replace

    data = to_bytes(replace(bundle, words=None, lexicon=None, rules=bundle.rules[:3]))
    chance = random.Random(3)
    fell, unnamed, taken = 0, 0, 0
    for number in range(count):
        bad = _flipped(data, chance) if number % 2 else _signed_anew(data, chance)
        if bad == data:
            continue
        try:
            read = from_bytes(bad)
        except BadFile as fault:
            unnamed += "part" not in fault.detail
        except Exception as fault:  # that is what is counted
            fell += 1
            print(f"fell over: {type(fault).__name__}: {fault}", file=sys.stderr)
        else:
            # Another name or weight is no fault; it must run all the same.
            taken += 1
            fell += number % 2
            _still_runs(read)
    return {
        "bad_bundles": float(count),
        "bad_bundles_fell_over": float(fell),
        "bad_bundles_without_part": float(unnamed),
        "bad_bundles_that_run": float(taken),
    }


def _still_runs(bundle: Bundle) -> None:
    for one in Runner(bundle).run([ONE_TEXT]):
        assert one.spans is not None


def _flipped(data: bytes, chance: random.Random) -> bytes:
    bad = bytearray(data)
    for _ in range(chance.randint(1, 3)):
        bad[chance.randrange(len(bad))] ^= chance.randint(1, 255)
    return bytes(bad)


def _signed_anew(data: bytes, chance: random.Random) -> bytes:
    """One part with some bytes changed, or values of JSON exchanged, and the sums of what is there now."""
    with zipfile.ZipFile(io.BytesIO(data)) as file:
        parts = {name: file.read(name) for name in file.namelist()}
    name = chance.choice([one for one in parts if one != "manifest.json"])
    if name.endswith(".json") and chance.random() < 0.7:
        parts[name] = json.dumps(_exchanged(json.loads(parts[name]), chance), ensure_ascii=False).encode()
    else:
        own = bytearray(parts[name])
        for _ in range(chance.randint(1, 3)):
            own[chance.randrange(len(own))] ^= chance.randint(1, 255)
        # The binary parts have a sum of their own.
        if name.endswith(".bin"):
            own[8:40] = hashlib.sha256(bytes(own[40:])).digest()
        parts[name] = bytes(own)
    manifest = json.loads(parts["manifest.json"])
    for part, held in parts.items():
        if part in manifest["parts"]:
            manifest["parts"][part] = {"bytes": len(held), "sha256": hashlib.sha256(held).hexdigest()}
    parts["manifest.json"] = (
        json.dumps(manifest, ensure_ascii=False, indent=1, sort_keys=True) + "\n"
    ).encode()
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as file:
        for part, held in parts.items():
            file.writestr(zipfile.ZipInfo(part, (1980, 1, 1, 0, 0, 0)), held)
    return out.getvalue()


_JUNK: tuple[Callable[[random.Random], object], ...] = (
    lambda _: None,
    lambda c: c.randint(-(2**40), 2**40),
    lambda c: c.random() * 3 - 1,
    lambda _: "x\u0000",
    lambda _: [],
    lambda _: {},
    lambda _: True,
    lambda _: "[" * 50,
)


def _exchanged(value: object, chance: random.Random) -> object:
    """Junk in the place of something within a value."""
    if chance.random() < 0.25 or not isinstance(value, dict | list) or not value:
        return chance.choice(_JUNK)(chance)
    if isinstance(value, dict):
        key = chance.choice(sorted(value))
        return {**value, key: _exchanged(value[key], chance)}
    at = chance.randrange(len(value))
    return [*value[:at], _exchanged(value[at], chance), *value[at + 1 :]]
