"""A table as a workbook for spreadsheets."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from typing import IO

# What a cell takes.
LONGEST_CELL = 32_767
# Control characters that the format has no way to write.
_UNWRITABLE = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff]")


def write_workbook(file: IO[bytes], header: Sequence[str], rows: Iterable[Sequence[str]], title: str) -> None:
    """One sheet with a bold first row; every cell is text, so that nothing is run as a formula."""
    # Hardly anybody who loads this room writes one, and loading takes as long as all the rest.
    from openpyxl import Workbook

    book = Workbook(write_only=True)
    sheet = book.create_sheet(title)
    sheet.freeze_panes = "A2"
    sheet.append([_cell(sheet, name, bold=True) for name in header])
    for row in rows:
        sheet.append([_cell(sheet, value) for value in row])
    book.save(file)


def _cell(sheet: object, value: str, *, bold: bool = False) -> object:
    from openpyxl.cell import WriteOnlyCell
    from openpyxl.styles import Font

    cell = WriteOnlyCell(sheet, value=_UNWRITABLE.sub("\ufffd", value)[:LONGEST_CELL])
    cell.data_type = "s"
    if bold:
        cell.font = Font(bold=True)
    return cell
