"""`urdaten demo`: the demo project's files outside the application."""

from __future__ import annotations

import json
import sys
from typing import Annotated

import typer
from rich.console import Console

demo = typer.Typer(no_args_is_help=True, help="The demo project.")


@demo.command("check")
def check(
    as_json: Annotated[bool, typer.Option("--json", help="Print one JSON object.")] = False,
    tagger: Annotated[bool, typer.Option(help="Train taggers to see how hard the corpus is.")] = True,
) -> None:
    """Read the demo files, hold them against their limits, and print what they hold."""
    from urdaten.demo.files import read_demo
    from urdaten.demo.measures import how_hard, measure

    files = read_demo()
    console = Console(stderr=True)
    report = measure(files, how_hard(files, report=console.log) if tagger else None)
    if as_json:
        print(json.dumps({"figures": report.figures, "faults": report.faults}, ensure_ascii=False))
    else:
        for name, value in report.figures.items():
            print(f"{name:42} {value}")
        for fault in report.faults:
            print(f"missed: {fault}")
    sys.exit(1 if report.faults else 0)
