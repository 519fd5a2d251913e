"""The benchmarks' own machinery."""

from __future__ import annotations

import tomllib
from pathlib import Path

import pytest

from urdaten.cli import bench
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
    with pytest.raises(NotFound, match="there are ablation, slice"):
        bench.run("nothing", full=False)
