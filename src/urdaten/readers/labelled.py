"""Do the lines of a file hold tokens and labels?"""

from __future__ import annotations

import re
from collections.abc import Iterable
from itertools import islice

_LABEL = re.compile(r"O|[BILUES]-\S+")
# Labels are looked for in so many lines.
_LOOKED_AT = 2_000


def label_columns(lines: Iterable[str]) -> list[int]:
    """Numbers of the last columns that hold labels and nothing else, counted from 0."""
    look = [line.split() for line in islice(lines, _LOOKED_AT) if line.strip() and not line.startswith("# ")]
    width = {len(fields) for fields in look}
    if not look or len(width) != 1 or (size := width.pop()) < 2:
        return []
    columns: list[int] = []
    for column in range(size - 1, 0, -1):
        if not all(_LABEL.fullmatch(fields[column]) for fields in look):
            break
        columns.insert(0, column)
    return columns
