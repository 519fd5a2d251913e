"""The benchmarks' own machinery."""

from __future__ import annotations

import importlib
import itertools
import tomllib
from pathlib import Path

import pytest

from urdaten.cli import bench
from urdaten.core.tagger import GoldText
from urdaten.errors import NotFound


def test_goals_are_held_against_figures(tmp_path: Path) -> None:
    goals = tmp_path / "goals.toml"
    goals.write_text("[x]\nspeed = { least = 2 }\nsize = { most = 10 }\nlost = { most = 1 }\n")
    assert bench.missed("x", {"speed": 2, "size": 10, "lost": 0}, goals) == []
    assert bench.missed("x", {"speed": 1.9, "size": 11}, goals) == [
        "speed is 1.9, at least 2 wanted",
        "size is 11, at most 10 wanted",
        "lost was not measured",
    ]
    assert bench.missed("y", {}, goals) == []


def test_every_goal_belongs_to_a_benchmark() -> None:
    goals = tomllib.loads((bench.FOLDER / "goals.toml").read_text())
    assert set(goals) <= set(bench.names())


def test_an_unknown_benchmark_is_named_with_those_that_are_there() -> None:
    with pytest.raises(
        NotFound,
        match="there are ablation, desk, evidence, faults, flow, front, lists, long_queue, pipeline, readers, records, rules, server, slice",
    ):
        bench.run("nothing", full=False)


def test_the_synthetic_corpus_is_seeded_and_hard(monkeypatch: pytest.MonkeyPatch) -> None:
    """The same seed writes the same corpus, and most names of test were never seen."""
    monkeypatch.syspath_prepend(str(bench.FOLDER))
    synthetic = importlib.import_module("_synthetic")
    one, again, other = (synthetic.make_corpus(4, 600, seed) for seed in (3, 3, 4))
    bodies = [[text.item.analysis.body for text in corpus.train] for corpus in (one, again, other)]
    assert bodies[0] == bodies[1] != bodies[2]

    def names(texts: list[GoldText]) -> list[str]:
        return [text.item.analysis.body[s.start : s.end] for text in texts for s in text.gold]

    known = set(names(one.train))
    test = names(one.test)
    assert 0.5 < sum(name not in known for name in test) / len(test) < 1
    assert {span.type for text in one.train for span in text.gold} == set(one.types)


def test_the_baseline_learns_and_repairs_its_labels(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.syspath_prepend(str(bench.FOLDER))
    baseline, synthetic = importlib.import_module("_baseline"), importlib.import_module("_synthetic")
    corpus = synthetic.make_corpus(4, 300, 3)
    tuned, seconds = baseline.tuned_baseline(corpus.train, corpus.dev, corpus.types, 1)
    assert seconds > 0
    found = tuned.tag(corpus.train)
    assert baseline.strict_f1(corpus.train, found) > 0.7
    assert all(not one.overlaps(other) for spans in found for one, other in itertools.pairwise(sorted(spans)))
    assert baseline.strict_f1(corpus.train, [text.gold for text in corpus.train]) == 1.0


def test_the_planner_finds_the_fewest_keys(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.syspath_prepend(str(bench.FOLDER))
    from _keystrokes import Open, plan

    words = ["The", "Amber", "Quay", "sails", "at", "0410"]
    tokens = [(0, 3), (4, 9), (10, 14), (15, 20), (21, 23), (24, 28)]
    ship, time = (4, 14, "VES"), (24, 28, "TIM")
    letters = {"VES": "v", "TIM": "t"}
    by_hand = Open(tokens, words)
    assert plan(by_hand, [], letters) == ["Control+Enter"]
    assert plan(by_hand, [ship], letters) == ["Control+ArrowRight", "v", "Enter"]
    assert len(plan(by_hand, [ship, time], letters)) == 5
    agreed = Open(tokens, words, [("lists", ship), ("rules", time)], [ship, time])
    assert plan(agreed, [ship, time], letters) == ["Shift+Enter"]
    # It opens at its first gap.
    assert plan(agreed, [ship], letters) == [" ", "Enter"]
    disputed = Open(tokens, words, [("lists", ship), ("rules", (4, 9, "VES")), ("rules", time)], [ship, time])
    overruled = frozenset({("rules", (4, 9, "VES"))})
    heard = Open(tokens, words, disputed.evidence, disputed.resolved, overruled=overruled)
    assert plan(heard, [ship, time], letters) == ["Shift+Enter"]
    unsure = Open(tokens, words, [("lists", ship)], [ship], doubtful=frozenset({("lists", ship)}))
    assert plan(unsure, [ship], letters) == [" ", "Enter"]
    # Taking the one goes on to the other.
    assert plan(disputed, [ship, time], letters) == [" ", " ", "Enter"]
