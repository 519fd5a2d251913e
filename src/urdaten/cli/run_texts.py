"""What `urdaten run` reads: plain text, JSON Lines, the column of a table, folders of such files."""

from __future__ import annotations

import csv
import sys
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, replace
from pathlib import Path
from typing import IO

from urdaten.core.bundle import Incoming
from urdaten.core.formats import read_texts, stream_samples
from urdaten.errors import BadFile, BadInput

FORMS = ("plain", "jsonl", "csv")
PORTIONS = ("file", "paragraph", "line")
# Under this name spans that a line of JSON has are known to a pipeline.
GIVEN = "given"
_ENDINGS = {".jsonl": "jsonl", ".json": "jsonl", ".csv": "csv"}
_LONGEST_CELL = 100_000_000


@dataclass(frozen=True, kw_only=True)
class Text(Incoming):
    """A text with its number among all, from 1, and the file that it is from, "" for standard input."""

    number: int = 0
    source: str = ""


@dataclass(frozen=True, kw_only=True)
class Reading:
    """How texts are read."""

    # One of FORMS; "" to find it out.
    form: str = ""
    # What of plain text is one text: one of PORTIONS; "" for a file, of standard input a paragraph.
    per: str = ""
    column: str = ""
    # Is told of what cannot be read, which is passed over then; None: that ends everything.
    tell: Callable[[str], None] | None = None


def read_all(sources: Iterable[str], how: Reading) -> Iterator[Text]:
    """The texts of files and of all files in folders, of standard input without any. Raises BadFile with file and line."""
    _check(how)
    for number, (source, one) in enumerate(_from(list(sources), how), start=1):
        yield Text(
            text=one.text,
            group=one.group,
            id=one.id,
            meta=one.meta,
            given=one.given,
            number=number,
            source=source,
        )


def _check(how: Reading) -> None:
    if how.form not in ("", *FORMS):
        raise BadInput(f"Texts are read as {', '.join(FORMS)}, not {how.form!r}.", field="--as")
    if how.per not in ("", *PORTIONS):
        raise BadInput(f"One text is a {', '.join(PORTIONS)}, not a {how.per!r}.", field="--per")


def _from(sources: list[str], how: Reading) -> Iterator[tuple[str, Incoming]]:
    paths = [path for source in sources for path in _files(Path(source))]
    if not sources:
        yield from (("", one) for one in _read(sys.stdin, "", how))
        return
    for path in paths:
        try:
            with path.open(encoding="utf-8-sig", newline="") as lines:
                yield from ((str(path), one) for one in _read(lines, str(path), how))
        except OSError as fault:
            _fail(how, f"{path} cannot be read: {fault.strerror}.")
        except UnicodeDecodeError as fault:
            _fail(how, f"{path} is not UTF-8 (byte {fault.start}).")


def _files(source: Path) -> list[Path]:
    if not source.is_dir():
        return [source]
    found = (path for path in source.rglob("*") if path.is_file())
    return sorted(path for path in found if not any(part.startswith(".") for part in path.parts))


def _fail(how: Reading, problem: str) -> None:
    if how.tell is None:
        raise BadFile(problem)
    how.tell(problem)


def _read(lines: IO[str], name: str, how: Reading) -> Iterator[Incoming]:
    form = how.form or _ENDINGS.get(Path(name).suffix, "")
    first = ""
    if not form:
        first = lines.readline() if not name else ""
        form = "jsonl" if first.lstrip().startswith("{") else "plain"
    every = _again(first, lines)
    tell = _telling(name, how)
    try:
        if form == "jsonl":
            yield from _json(every, tell)
        elif form == "csv":
            yield from _table(every, how, tell)
        else:
            yield from _plain(every, name, how)
    except BadFile as fault:
        raise BadFile(f"{name}: {fault.message}" if name else fault.message) from fault


def _again(first: str, lines: Iterable[str]) -> Iterator[str]:
    if first:
        yield first
    yield from lines


def _telling(name: str, how: Reading) -> Callable[[str], None] | None:
    if how.tell is None:
        return None
    tell = how.tell
    return lambda problem: tell(f"{name}: {problem}" if name else problem)


def _json(lines: Iterable[str], tell: Callable[[str], None] | None) -> Iterator[Incoming]:
    for sample in stream_samples(lines, tell):
        given = [replace(span, source=GIVEN) for span in sample.spans]
        yield Incoming(text=sample.text, group=sample.group, id=sample.id, meta=sample.meta, given=given)


def _plain(lines: Iterable[str], name: str, how: Reading) -> Iterator[Incoming]:
    per = how.per or ("file" if name else "paragraph")
    if per == "paragraph":
        yield from (Incoming(text=text) for text in read_texts(lines, plain=True))
    elif per == "line":
        bare = (line.rstrip("\r\n") for line in lines)
        yield from (Incoming(text=line) for line in bare if line.strip())
    else:
        text = "".join(lines)
        if text.strip():
            yield Incoming(text=text)


def _table(lines: Iterable[str], how: Reading, tell: Callable[[str], None] | None) -> Iterator[Incoming]:
    csv.field_size_limit(_LONGEST_CELL)
    rows = csv.reader(lines, strict=True)
    try:
        header = next(rows, [])
        if how.column not in header:
            named = f"“{how.column}”" if how.column else "that holds the texts; name it with --column"
            raise BadFile(f"There is no column {named}. There are {', '.join(header) or 'none'}.")
        at = header.index(how.column)
        for row in rows:
            if not row:
                continue
            if len(row) != len(header):
                problem = (
                    f"Line {rows.line_num}: it has {len(row)} cells, and the first line has {len(header)}."
                )
                if tell is None:
                    raise BadFile(problem, line=rows.line_num)
                tell(problem)
                continue
            meta = {name: cell for k, (name, cell) in enumerate(zip(header, row, strict=True)) if k != at}
            yield Incoming(text=row[at], meta=meta)
    except csv.Error as fault:
        raise BadFile(f"Line {rows.line_num}: {fault}.", line=rows.line_num) from fault
