"""Where words stand on a page: rows, and columns of running text in the order of reading."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise
from statistics import median

# A gap between columns is this wide at least, in sizes of the letters beside it.
_GUTTER = 1.0


@dataclass(frozen=True)
class Word:
    """A word and its box, in points from the top left."""

    text: str
    left: float
    right: float
    top: float
    bottom: float

    @property
    def height(self) -> float:
        return self.bottom - self.top


def regions(words: Sequence[Word], depth: int = 0) -> Iterator[list[Word]]:
    """Columns one after the other; what reaches over them parts them."""
    if len(words) < 2:
        if words:
            yield list(words)
        return
    size = median(word.height for word in words)
    if depth < 8 and (at := _gutter(words, size)) is not None:
        x, top, bottom = at
        above = [word for word in words if word.top < top]
        below = [word for word in words if word.bottom > bottom and word.top >= top]
        beside = [word for word in words if word.top >= top and word.bottom <= bottom]
        left = [word for word in beside if (word.left + word.right) / 2 < x]
        right = [word for word in beside if (word.left + word.right) / 2 >= x]
        for part in (above, left, right, below):
            if part:
                yield from regions(part, depth + 1)
        return
    yield list(words)


def _gutter(words: Sequence[Word], size: float) -> tuple[float, float, float] | None:
    """A gap between two columns of running text: where it is, and from where to where it reaches down; None where there is none.

    Nothing crosses it, and the text on both sides fills its column; cells of a table do not fill theirs.
    """
    rows = rows_of(words, size)
    gaps = Counter(
        round((one.right + next_.left) / 2 / size)
        for row in rows
        for one, next_ in pairwise(row)
        if next_.left - one.right >= _GUTTER * size
    )
    best: tuple[float, float, float] | None = None
    most = 0
    for mark, count in gaps.most_common(4):
        x = mark * size
        if count < 3:
            break
        for top, bottom in _open_ranges(rows, x, size):
            beside = [word for word in words if word.top >= top and word.bottom <= bottom]
            left = [word for word in beside if word.right <= x + size]
            right = [word for word in beside if word.left >= x - size]
            if len(beside) > most and _fills(left, size) and _fills(right, size):
                most, best = len(beside), (x, top, bottom)
    return best


def _open_ranges(rows: Sequence[Sequence[Word]], x: float, size: float) -> Iterator[tuple[float, float]]:
    """Heights between which no line crosses x: one does where a word does, or two words with no more than a space between them."""
    top, bottom = float("inf"), float("-inf")
    for row in rows:
        crosses = any(word.left < x - 0.2 * size and word.right > x + 0.2 * size for word in row) or any(
            one.right <= x + size
            and next_.left >= x - size
            and next_.left - one.right < 0.8 * size
            and abs((one.right + next_.left) / 2 - x) < 0.6 * size
            and abs(one.top - next_.top) < 0.3 * size
            for one, next_ in pairwise(row)
        )
        if not crosses:
            top, bottom = min(top, *(w.top for w in row)), max(bottom, *(w.bottom for w in row))
            continue
        if top < bottom:
            yield top, bottom
        top, bottom = float("inf"), float("-inf")
    if top < bottom:
        yield top, bottom


def _fills(words: Sequence[Word], size: float) -> bool:
    """Does running text fill its column? Cells of a table leave theirs half empty, and hold few words."""
    rows = rows_of(words, size) if words else []
    if len(rows) < 3:
        return False
    left, right = min(row[0].left for row in rows), max(row[-1].right for row in rows)
    spans = [row[-1].right - row[0].left for row in rows]
    return median(spans) >= 0.55 * (right - left) and median(map(len, rows)) >= 3


def rows_of(words: Sequence[Word], size: float) -> list[list[Word]]:
    """Words of the same height beside each other, from left to right."""
    rows: list[list[Word]] = []
    for word in sorted(words, key=lambda w: (w.top + w.bottom) / 2):
        middle = (word.top + word.bottom) / 2
        if rows and abs(middle - (rows[-1][0].top + rows[-1][0].bottom) / 2) < 0.5 * size:
            rows[-1].append(word)
        else:
            rows.append([word])
    return [sorted(row, key=lambda w: w.left) for row in rows]
