"""Names of a list: a table with the columns name and variants (CSV, RFC 4180), or one name a line."""

from __future__ import annotations

import csv
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from itertools import chain
from typing import Any

from urdaten.errors import BadFile

NAME, VARIANTS = "name", "variants"
_PARTS = ";"


@dataclass(frozen=True)
class Name:
    """A name with the other ways it is written."""

    preferred: str
    variants: tuple[str, ...] = ()


def read_names(lines: Iterable[str]) -> list[Name]:
    """Every name. Where the first line has a column “name” it is the head of a table, in which semicolons part the variants.

    Raises BadFile with the line's number for a row without a name, and for a file without any.
    """
    rest = iter(lines)
    first = next(rest, "").removeprefix("\ufeff")
    columns = [cell.strip() for cell in next(csv.reader([first]), [])]
    if NAME in columns:
        found = list(_of_table(csv.reader(rest, strict=True), {cell: k for k, cell in enumerate(columns)}))
    else:
        found = [Name(line.strip()) for line in chain([first], rest) if line.strip()]
    if not found:
        raise BadFile("There is no name in it.")
    return found


def _of_table(rows: Any, at: Mapping[str, int]) -> Iterator[Name]:
    try:
        for row in rows:
            cells = {column: row[k].strip() for column, k in at.items() if k < len(row)}
            if not any(cells.values()):
                continue
            # The head is the line before.
            line = rows.line_num + 1
            if not cells.get(NAME):
                raise BadFile(f"Line {line}: there is no name in it.", line=line)
            yield Name(cells[NAME], tuple(_parts(cells.get(VARIANTS, ""))))
    except csv.Error as fault:
        raise BadFile(f"Line {rows.line_num + 1}: {fault}.", line=rows.line_num + 1) from fault


def _parts(cell: str) -> Iterator[str]:
    return (part.strip() for part in cell.split(_PARTS) if part.strip())
