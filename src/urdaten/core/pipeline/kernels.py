"""The kernel of policies: which spans stand, the strongest first."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Ints
from urdaten.core.jit import kernel

Bytes = NDArray[np.uint8]


@kernel
def standing(
    order: Ints,
    text: Ints,
    start: Ints,
    end: Ints,
    kind: Ints,
    fixed: Bytes,
    lenient: bool,
    mode: int,
    kept: Bytes,
    by: Ints,
) -> Any:
    """Flags, written to `kept`, of the rows that may stand with all stronger ones that stand; `by` gets for each other one the
    row that it gives way to.

    `order` has the rows of each text after each other, in each the strongest first. Rows with a flag in `fixed` stand in any
    case; where it is lenient, none but those are in the way of others. Of rows with the same bounds and kind one stands; beside that, with mode 0, none that overlaps another, with mode 1
    none that crosses another without one holding the other.
    """
    stand = np.empty(len(order), dtype=np.int64)
    begin = 0
    count = 0
    for k in range(len(order)):
        row = order[k]
        if k > 0 and text[row] != text[order[k - 1]]:
            begin = count
        against = -1
        if not fixed[row]:
            for j in range(begin, count):
                other = stand[j]
                if end[other] <= start[row] or end[row] <= start[other]:
                    continue
                if start[other] == start[row] and end[other] == end[row] and kind[other] == kind[row]:
                    against = other
                    break
                if against >= 0 or mode == 2:
                    continue
                crosses = (start[other] < start[row] and end[other] < end[row]) or (
                    start[row] < start[other] and end[row] < end[other]
                )
                if mode == 0 or crosses:
                    against = other
        if against < 0:
            kept[row] = 1
            if fixed[row] or not lenient:
                stand[count] = row
                count += 1
        by[row] = against
    return count
