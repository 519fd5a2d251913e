"""`urdaten demo`: the demo project's files outside the application."""

from __future__ import annotations

import json
import sys
from pathlib import Path
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


@demo.command("annotators")
def annotators() -> None:
    """Make the three annotators' files anew from gold; the same files for the same gold."""
    from urdaten.demo.annotators import write_annotators
    from urdaten.demo.files import read_demo

    for path in write_annotators(read_demo()):
        print(path)


@demo.command("stream")
def stream(
    out: Annotated[Path, typer.Argument(help="the JSON Lines file to write")],
    count: Annotated[int, typer.Option(help="How many bulletins.")] = 20_000,
    seed: Annotated[int, typer.Option(help="Same seed, same bulletins.")] = 7,
) -> None:
    """Write generated bulletins, for load and throughput only."""
    from urdaten.demo.files import read_demo
    from urdaten.demo.stream import generate

    with out.open("w", encoding="utf-8") as file:
        for line in generate(read_demo(), count, seed):
            file.write(line + "\n")
    print(f"{count} generated bulletins in {out}")


@demo.command("site")
def site(port: Annotated[int, typer.Option(help="Port on loopback.")] = 8720) -> None:
    """Serve the office's small web site on loopback, to fetch texts from; Ctrl-C stops it."""
    from urdaten.demo.site import serve_site

    print(f"The office's site is at http://127.0.0.1:{port}/")
    serve_site(port)
