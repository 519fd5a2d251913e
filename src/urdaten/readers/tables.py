"""Tables: CSV with any separator, and workbooks (xlsx)."""

from __future__ import annotations

import csv
from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime
from io import BytesIO
from itertools import chain, islice

import openpyxl

from urdaten.errors import BadFile
from urdaten.readers.dates import day_of
from urdaten.readers.document import MOST_SHOWN, Found, How, HowTables, Item, Refusal
from urdaten.readers.encoding import decode
from urdaten.readers.limits import open_zip
from urdaten.readers.rows import LOOKED_AT, Row, columns_of, documents_of

SEPARATORS = ",;\t|"
LONGEST_FIELD = 4_000_000
MOST_COLUMNS = 1_000
# A quoted value that takes more lines than this was not closed.
MOST_LINES = 2_000
MOST_REFUSED = 1_000

# A row with where it stands, or why it is none.
Sheet = tuple[str, list[str]] | Refusal


def read_csv(data: bytes, source: str, how: How) -> Iterator[Item]:
    """A document for each row. Raises BadFile for what is no table."""
    found, rows = csv_sheet(data, source, how)
    yield from _documents(rows, found, how)


def csv_sheet(data: bytes, source: str, how: HowTables) -> tuple[Found, Iterator[Sheet]]:
    """What the table is, and its rows. Raises BadFile for what is no table."""
    decoded = decode(data, how.encoding)
    delimiter = {"tab": "\t", "\\t": "\t"}.get(how.delimiter, how.delimiter) or _separator(decoded.text)
    if len(delimiter) != 1:
        raise BadFile("A separator is one character, such as a comma, a semicolon or a tab.")
    found = Found(
        source=source, kind="csv", encoding=decoded.encoding, guessed=decoded.guessed, delimiter=delimiter
    )
    return found, _csv_rows(decoded.text, delimiter)


def read_workbook(data: bytes, source: str, how: How) -> Iterator[Item]:
    """A document for each row of each sheet. Raises BadFile for what is damaged or locked."""
    for found, rows in workbook_sheets(data, source):
        yield from _documents(rows, found, how)


def workbook_sheets(data: bytes, source: str) -> Iterator[tuple[Found, Iterator[Sheet]]]:
    """Each sheet that holds anything, and its rows. Raises BadFile for what is damaged or locked."""
    if data.startswith(b"\xd0\xcf\x11\xe0"):
        raise BadFile(
            "It is locked with a password, or of the old kind (xls); save it anew as xlsx without one."
        )
    open_zip(data).close()
    try:
        book = openpyxl.load_workbook(BytesIO(data), read_only=True, data_only=True)
        sheets = [(sheet.title, sheet) for sheet in book.worksheets]
    except Exception as fault:
        raise BadFile(f"The workbook is damaged ({type(fault).__name__}).") from None
    several = len(sheets) > 1
    for title, sheet in sheets:
        sheet.reset_dimensions()
        lead = f"{title}, " if several else ""
        rows = (
            (number, [_value(value) for value in row])
            for number, row in enumerate(sheet.iter_rows(values_only=True), start=1)
        )
        filled = ((number, row) for number, row in rows if any(row))
        first = next(filled, None)
        if first is not None:
            found = Found(source=source, kind="xlsx")
            yield found, ((f"{lead}row {n}", row) for n, row in chain([first], filled))


def _value(value: object) -> str:
    if isinstance(value, datetime):
        return (
            value.date().isoformat()
            if value.time() == datetime.min.time()
            else value.isoformat(sep=" ", timespec="minutes")
        )
    if isinstance(value, date):
        return value.isoformat()
    if isinstance(value, float) and value.is_integer():
        return str(int(value))
    return "" if value is None else str(value)


def _separator(text: str) -> str:
    """The one that gives most rows the same number of fields, more than one."""
    look = list(islice((line for line in text[:200_000].split("\n") if line.strip()), 50))
    best, most = ",", 0.0
    for one in SEPARATORS:
        try:
            sizes = Counter(len(row) for row in csv.reader(look, delimiter=one) if row)
        except csv.Error:
            continue
        size, count = max(sizes.items(), key=lambda item: (item[1], item[0]), default=(1, 0))
        if size > 1 and count * min(size, 4) > most:
            best, most = one, count * min(size, 4)
    return best


class _NotClosed(Exception):
    """A quoted value has gone on for too long."""


def _csv_rows(text: str, delimiter: str) -> Iterator[Sheet]:
    """The rows of a table; one that is amiss is refused, and the next line begins a row again."""
    csv.field_size_limit(LONGEST_FIELD)
    lines = text.split("\n")
    begun = taken = refused = 0

    def feed() -> Iterator[str]:
        nonlocal taken
        while taken < len(lines):
            if taken - begun > MOST_LINES:
                raise _NotClosed
            taken += 1
            yield lines[taken - 1] + "\n"

    reader = csv.reader(feed(), delimiter=delimiter, strict=True)
    while True:
        begun = taken
        try:
            row = next(reader, None)
        except (csv.Error, _NotClosed) as fault:
            refused += 1
            if refused > MOST_REFUSED:
                raise BadFile(
                    f"More than {MOST_REFUSED} rows are amiss, the last in line {begun + 1}; is this the right separator?"
                ) from None
            long = "field larger" in str(fault)
            yield Refusal(
                source="",
                place=f"line {begun + 1}",
                why=f"A value in it is longer than {LONGEST_FIELD} characters."
                if long
                else "A quotation mark in it is not closed, or something follows one that is.",
                content=lines[begun][:MOST_SHOWN],
            )
            taken = begun + 1
            reader = csv.reader(feed(), delimiter=delimiter, strict=True)
            continue
        if row is None:
            return
        if any(value.strip() for value in row):
            yield f"line {begun + 1}", row


@dataclass(frozen=True)
class Table:
    """A table whose columns have names: the first of its rows, and all of them with what is refused."""

    header: bool
    names: list[str]
    first: list[dict[str, str]]
    rows: Iterator[Row | Refusal]


def table_of(
    sheet: Iterator[Sheet],
    source: str,
    how: HowTables,
    is_header: Callable[[Sequence[tuple[str, list[str]]]], bool] | None = None,
) -> Iterator[Refusal | Table]:
    """The table that rows make. What is amiss before it is known comes first; is_header tells of the first rows, with where each
    stands, whether the very first names the columns. Raises BadFile for no rows at all."""
    look = list(islice(sheet, LOOKED_AT + 1))
    whole = [row for row in look if not isinstance(row, Refusal)]
    if not whole:
        yield from (replace(item, source=source) for item in look if isinstance(item, Refusal))
        raise BadFile("The table holds no rows.")
    header = (is_header or _is_header)(whole) if how.header is None else how.header
    width = max(len(row) for _, row in whole) if not header else len(whole[0][1])
    if width > MOST_COLUMNS:
        raise BadFile(f"It has {width} columns; the most is {MOST_COLUMNS}.")
    names = _names(whole[0][1] if header else [""] * width)
    named = [dict(zip(names, row, strict=False)) for _, row in whole[header:]]
    if not named:
        yield from (replace(item, source=source) for item in look if isinstance(item, Refusal))
        raise BadFile("The table holds no rows below its header.")

    def good() -> Iterator[Row | Refusal]:
        seen_header = not header
        for item in chain(look, sheet):
            if isinstance(item, Refusal):
                yield replace(item, source=source)
                continue
            place, row = item
            if not seen_header:
                seen_header = True
                continue
            if len(row) > len(names) and any(row[len(names) :]):
                yield Refusal(
                    source=source,
                    place=place,
                    why=f"It has {len(row)} values; the table has {len(names)} columns.",
                    content=" · ".join(row)[:MOST_SHOWN],
                )
                continue
            yield place, dict(zip(names, row, strict=False))

    yield Table(header, names, named, good())


def _documents(sheet: Iterator[Sheet], found: Found, how: How) -> Iterator[Item]:
    """Rows as documents; the first are looked at to find out what the columns are for."""
    for item in table_of(sheet, found.source, how):
        if isinstance(item, Refusal):
            yield item
            continue
        columns = columns_of(item.names, item.first, how)
        yield replace(found, header=item.header, columns=tuple(columns))
        yield from documents_of(item.rows, columns, found.source, how)


def _is_header(rows: Sequence[tuple[str, list[str]]]) -> bool:
    """Does the first row name the columns: short words, each its own, no figures or days, and not like what stands below?"""
    first = rows[0][1]
    names = [name.strip() for name in first]
    if not all(names) or len(set(names)) < len(names) or max(map(len, names)) > 60:
        return False
    if any(day_of(name) or name.replace(".", "").replace(",", "").isdigit() for name in names):
        return False
    if len(names) == 1:
        below = [row[0] for _, row in rows[1:] if row]
        return (
            bool(below)
            and len(names[0].split()) <= 2
            and sum(map(len, below)) > 2 * len(below) * len(names[0])
        )
    return True


def _names(header: Iterable[str]) -> list[str]:
    """Names of columns, each its own; those without one are numbered."""
    names: list[str] = []
    for number, given in enumerate(header, start=1):
        name = wanted = " ".join(given.split())[:100] or f"column {number}"
        more = 2
        while name in names:
            name, more = f"{wanted} {more}", more + 1
        names.append(name)
    return names
