"""`urdaten run`: a bundle over texts, without the application.

Programs ask for it again and again, so it waits for nothing that it does not need, which is why it reads its options with the
standard library.
"""

from __future__ import annotations

import argparse
import sys
import time
from collections.abc import Sequence
from pathlib import Path

from urdaten.errors import UrdatenError

PROGRESS_S = 0.5
_ABOUT = """\
Find spans in texts, or records, with everything that a pipeline needs in one file.

Spans are offsets in code points. Texts are read and written a portion at a time; those of one group are read together where
they follow each other.
"""


def _options() -> argparse.ArgumentParser:
    options = argparse.ArgumentParser(
        prog="urdaten run", description=_ABOUT, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    add = options.add_argument
    add("bundle", type=Path, metavar="BUNDLE", help="a bundle, as Pipeline exports it")
    add(
        "sources",
        nargs="*",
        metavar="SOURCE",
        help="files, and folders with all that lies in them; else standard input",
    )
    add(
        "--records",
        default="",
        metavar="TEMPLATE",
        help="write records by this template of the bundle, not spans",
    )
    add("--out", type=Path, metavar="FILE", help="the file to write; standard output unless said")
    add("--to", default="", metavar="FORM", help="jsonl, csv or parquet; by the ending of --out unless said")
    add(
        "--as",
        dest="form",
        default="",
        metavar="FORM",
        help="what the texts are: plain, jsonl or csv; found out unless said",
    )
    add(
        "--per",
        default="",
        metavar="PART",
        help="of plain text: one text for each file, paragraph or line",
    )
    add("--column", default="", metavar="NAME", help="of CSV: the column that holds the texts")
    add("--processes", type=_count, default=1, metavar="N", help="so many at once; changes no result")
    add("--why", action="store_true", help="say of each span why it is there")
    add("--keep-good", action="store_true", help="report bad lines and go on with the others")
    return options


def _count(value: str) -> int:
    if not value.isdecimal() or not 1 <= int(value) <= 64:
        raise argparse.ArgumentTypeError(f"a number from 1 to 64, not {value!r}")
    return int(value)


def run(arguments: Sequence[str]) -> int:
    """Do what the arguments say; the code to exit with."""
    wish = _options().parse_args(arguments)
    from urdaten import load
    from urdaten.cli.run_rows import Rows, form_of, writing
    from urdaten.cli.run_texts import Reading, read_all
    from urdaten.cli.workers import run_many

    form = form_of(wish.to, wish.out)
    runner = load(wish.bundle)
    rows = Rows(form, runner.bundle.template(wish.records) if wish.records else None, why=wish.why)
    tell = _passed_over if wish.keep_good else None
    texts = read_all(wish.sources, Reading(form=wish.form, per=wish.per, column=wish.column, tell=tell))
    progress = _Progress()
    try:
        with writing(form, rows.columns, wish.out) as write:
            for told, count, troubles in run_many(runner, texts, rows.tell, wish.processes, wish.records):
                write(told)
                for trouble in troubles:
                    print(trouble, file=sys.stderr)
                progress.add(count)
            sys.stdout.flush()
    except KeyboardInterrupt:
        progress.end("Stopped")
        return 130
    except BrokenPipeError:
        # Whoever reads has seen enough; nothing more is written, not even at the end.
        sys.stdout = None
        return 0
    progress.end("Done")
    return 0


def _passed_over(problem: str) -> None:
    print(f"passed over: {problem}", file=sys.stderr)


class _Progress:
    """One line on the terminal that changes; nothing where nobody watches."""

    def __init__(self) -> None:
        self._watched = sys.stderr.isatty()
        self._began = self._shown = time.monotonic()
        self._count = 0

    def add(self, count: int) -> None:
        self._count += count
        now = time.monotonic()
        if self._watched and now - self._shown >= PROGRESS_S:
            self._shown = now
            print(f"\r{self._said()}", end="", file=sys.stderr, flush=True)

    def end(self, how: str) -> None:
        if self._watched:
            print(f"\r{how}: {self._said()}", file=sys.stderr)

    def _said(self) -> str:
        rate = self._count / max(time.monotonic() - self._began, 1e-6)
        return f"{self._count} {'text' if self._count == 1 else 'texts'}, {rate:.0f} a second"


def main() -> None:
    """The command alone."""
    try:
        sys.exit(run(sys.argv[2:]))
    except UrdatenError as error:
        print(f"urdaten: {error.message}", file=sys.stderr)
        sys.exit(1)
