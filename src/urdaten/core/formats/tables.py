"""Writers of flat records: CSV (RFC 4180) and JSON Lines."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Iterable, Iterator, Mapping, Sequence
from itertools import chain

# A spreadsheet takes a cell that begins like this for a formula.
_FORMULA = ("=", "+", "-", "@", "\t", "\r")


def write_csv(header: Sequence[str], rows: Iterable[Sequence[str]]) -> Iterator[str]:
    """Lines of a CSV file with CRLF ends. Cells that a spreadsheet would run are led by an apostrophe."""
    out = io.StringIO()
    writer = csv.writer(out)
    for row in chain([header], rows):
        writer.writerow(["'" + cell if cell.startswith(_FORMULA) else cell for cell in row])
        yield out.getvalue()
        out.seek(0)
        out.truncate()


def write_json_lines(rows: Iterable[Mapping[str, object]]) -> Iterator[str]:
    """One JSON object a line."""
    for row in rows:
        yield json.dumps(row, ensure_ascii=False) + "\n"
