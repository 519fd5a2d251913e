"""`urdaten bench`: run a benchmark, print its figures, hold them against its goals."""

from __future__ import annotations

import importlib.util
import json
import sys
import tomllib
from pathlib import Path

from urdaten.errors import NotFound

FOLDER = Path(__file__).parents[3] / "bench"


def names() -> list[str]:
    """Benchmarks by name; modules with an underscore are parts of them."""
    return sorted(path.stem for path in FOLDER.glob("[!_]*.py"))


def run(name: str, *, full: bool) -> dict[str, float]:
    """Figures of one benchmark. Raises NotFound for a name that is not there."""
    if name not in names():
        raise NotFound(f"There is no benchmark {name!r}; there are {', '.join(names())}.")
    spec = importlib.util.spec_from_file_location(f"bench_{name}", FOLDER / f"{name}.py")
    assert spec
    assert spec.loader
    module = importlib.util.module_from_spec(spec)
    if str(FOLDER) not in sys.path:
        sys.path.insert(0, str(FOLDER))
    spec.loader.exec_module(module)
    figures: dict[str, float] = module.measure(full)
    return figures


def missed(name: str, figures: dict[str, float], goals_file: Path = FOLDER / "goals.toml") -> list[str]:
    """The goals that the figures do not reach, in words."""
    goals = tomllib.loads(goals_file.read_text()).get(name, {})
    found = []
    for figure, limits in goals.items():
        value = figures.get(figure)
        if value is None:
            found.append(f"{figure} was not measured")
        elif value > limits.get("most", value):
            found.append(f"{figure} is {value:.3g}, at most {limits['most']} wanted")
        elif value < limits.get("least", value):
            found.append(f"{figure} is {value:.3g}, at least {limits['least']} wanted")
    return found


def report(name: str, *, as_json: bool, judge: bool, full: bool) -> int:
    """Print a benchmark's figures; the exit code, 1 when a goal is missed and `judge` is set."""
    figures = run(name, full=full)
    if not as_json:
        for figure, value in figures.items():
            print(f"{figure:28} {value:.4g}")
    failures = missed(name, figures) if judge else []
    if as_json:
        print(json.dumps({"bench": name, "figures": figures, "missed": failures}))
    elif judge:
        print(f"missed: {'; '.join(failures)}" if failures else "every goal is reached")
    return 1 if failures else 0
