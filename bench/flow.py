"""The flow from raw texts to one answer: batches, lists, rules, tagger and policy over a stream of bulletins.

Speeds are ratios within one run. Texts are told apart by size of the stream: what a token costs must not hang on how many
texts there are. The tagger is trained on the demo first, which is not timed.
"""

from __future__ import annotations

import json
import resource
import statistics
import time
from collections.abc import Callable, Iterator, Sequence
from functools import partial
from itertools import islice
from typing import TypeVar

from _demo import demo_texts
from _plain import PlainLists

from urdaten.core.lists import Entry, Gazetteer, NameList
from urdaten.core.pipeline import ListStage, PolicyStage, RuleStage, Stage, TaggerStage
from urdaten.core.rules import CompiledRule
from urdaten.core.spans import SpanTable
from urdaten.core.tagger import Tagger, TrainingSettings, train
from urdaten.core.text import Batch, batch_of
from urdaten.demo.files import Demo, read_demo
from urdaten.demo.stream import generate

ROUNDS = 3
AT_A_TIME = 200
T = TypeVar("T")
STAGES = ("batch", "lists", "rules", "tagger", "policy")


def measure(full: bool) -> dict[str, float]:
    """Every figure by name. With `full`, a stream of 20 000 bulletins instead of 4 000."""
    demo = read_demo()
    count = 20_000 if full else 4_000
    flow = Flow(demo.lists, demo.compiled_rules)
    # First, as long as nothing else fills the memory.
    streamed = _streamed(flow, demo, count)
    bodies = list(_bodies(demo, count))
    few, many = (
        [flow.run(bodies[:size]) for _ in range(ROUNDS if size == count else 3 * ROUNDS)]
        for size in (count // 10, count)
    )
    tokens = len(batch_of(bodies).word)
    a_tenth = len(batch_of(bodies[: count // 10]).word)
    seconds = {stage: statistics.median(run[stage] for run in many) for stage in STAGES}
    before = {stage: statistics.median(run[stage] for run in few) for stage in STAGES}
    whole, slowest = sum(seconds.values()), max(seconds.values())
    figures = {"texts": float(count), "tokens": float(tokens)}
    figures |= {f"{stage}_tokens_per_second": tokens / seconds[stage] for stage in STAGES}
    figures |= {
        f"{stage}_per_token_to_a_tenth": (seconds[stage] / tokens) / (before[stage] / a_tenth)
        for stage in STAGES
    }
    figures["per_token_to_a_tenth"] = (whole / tokens) / (sum(before.values()) / a_tenth)
    figures["flow_speed_to_slowest_stage"] = slowest / whole
    return figures | streamed | _lists(demo.lists, batch_of(bodies))


def _bodies(demo: Demo, count: int) -> Iterator[str]:
    return (json.loads(line)["text"] for line in generate(demo, count, seed=5))


def _streamed(flow: Flow, demo: Demo, count: int) -> dict[str, float]:
    """How far memory grows from a tenth of the stream to all of it, when texts come a portion at a time."""
    peaks = []
    for size in (count // 10, count):
        bodies = _bodies(demo, size)
        while portion := list(islice(bodies, AT_A_TIME)):
            flow.run(portion)
        peaks.append(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024)
    return {"streamed_megabytes": peaks[1], "streamed_megabytes_to_a_tenth": peaks[1] / peaks[0]}


class Flow:
    """The stages from texts to one answer; each is timed for itself."""

    def __init__(self, lists: Sequence[NameList], rules: Sequence[CompiledRule]) -> None:
        self.stages: list[Stage] = [
            ListStage(Gazetteer(lists)),
            RuleStage(tuple(rules)),
            TaggerStage(_trained()),
            PolicyStage(left_out=(("lists", "tagger"),)),
        ]

    def run(self, bodies: Sequence[str]) -> dict[str, float]:
        """Seconds that each stage takes, and the making of the batch before them."""
        taken: dict[str, float] = {}
        batch = _timed(taken, "batch", lambda: batch_of(bodies))
        spans = SpanTable.empty()
        for stage in self.stages:
            spans = _timed(taken, stage.name, partial(_after, stage, batch, spans))
        return taken


def _after(stage: Stage, batch: Batch, spans: SpanTable) -> SpanTable:
    return stage.apply(batch, spans).to(spans)


def _timed(taken: dict[str, float], name: str, job: Callable[[], T]) -> T:
    began = time.perf_counter()
    made = job()
    taken[name] = time.perf_counter() - began
    return made


def _trained() -> Tagger:
    demo = demo_texts()
    return train(demo.train, demo.dev, demo.vocabulary, demo.types, TrainingSettings(epochs=4))


def _lists(lists: Sequence[NameList], batch: Batch) -> dict[str, float]:
    """Lists alone: against a loop over dictionaries of tuples, and with very many names."""
    names = Gazetteer(lists)
    plain = PlainLists(lists)
    own, other = [], []
    for _ in range(ROUNDS):
        taken: dict[str, float] = {}
        _timed(taken, "own", lambda: names.table(batch))
        _timed(taken, "plain", lambda: plain.find(batch))
        own.append(taken["own"])
        other.append(taken["plain"])
    many = [
        Entry(preferred=f"{one} {other} {number}")
        for number in range(20)
        for one in batch.vocabulary.forms[:100]
        for other in batch.vocabulary.forms[-50:]
    ]
    taken = {}
    large = _timed(
        taken, "compile", lambda: Gazetteer([*lists, NameList(name="many", type="X", entries=tuple(many))])
    )
    _timed(taken, "match", lambda: large.table(batch))
    tokens = len(batch.word)
    return {
        "lists_million_tokens_per_second": tokens / statistics.median(own) / 1e6,
        "lists_times_as_fast_as_plain": statistics.median(other) / statistics.median(own),
        "compiling_names_per_second": len(many) / taken["compile"],
        "100_000_names_speed_to_few": statistics.median(own) / taken["match"],
    }
