"""Lines of pages put together to paragraphs, without heads and feet."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from statistics import median

_FIGURES = re.compile(r"\d+")
_ENDS = re.compile(r"[.!?:;…][\"'”’)\]]*$")
_BULLET = re.compile(r"^(?:[•‣◦▪–—*·-]|\(?\d{1,3}[.)]|\(?[a-z][.)])\s")


@dataclass(frozen=True)
class Line:
    """Words beside each other; how far they reach, and the block that they stand in."""

    text: str
    left: float
    right: float
    top: float
    bottom: float
    block: int
    # Rows of a table stand for themselves.
    row: bool = False


def without_edges(pages: Sequence[Sequence[Line]]) -> list[list[Line]]:
    """The pages without what stands at the head or foot of most of them."""
    around = _around(pages)
    return [[line for line in page if (_masked(line), _at(line)) not in around] for page in pages]


def _masked(line: Line) -> str:
    return _FIGURES.sub("#", line.text)


def _at(line: Line) -> int:
    return round(line.top / 4)


def _around(pages: Sequence[Sequence[Line]]) -> set[tuple[str, int]]:
    """Heads and feet: what stands at the same height of most pages, but for figures, among their outermost lines."""
    if len(pages) < 3:
        feet = [(number, page[-1]) for number, page in enumerate(pages, start=1) if page]
        return {
            (_masked(line), _at(line)) for number, line in feet if _numbers(line.text, number, len(pages))
        }
    seen: Counter[tuple[str, int]] = Counter()
    for page in pages:
        by_height = sorted(page, key=lambda line: line.top)
        seen.update({(_masked(line), _at(line)) for line in (*by_height[:3], *by_height[-3:])})
    return {what for what, count in seen.items() if count >= max(3, 0.5 * len(pages))}


def _numbers(text: str, page: int, pages: int) -> bool:
    """Does a line hold the page's number alone?"""
    figures = [int(figure) for figure in _FIGURES.findall(text)]
    return figures in ([page], [page, pages]) and len(text) < 20


def paragraphs(pages: Sequence[Sequence[Line]]) -> list[str]:
    """Lines put together to paragraphs, with words that a line break parts whole again."""
    told: list[str] = []
    last: Line | None = None
    gaps = [
        b.top - a.bottom for page in pages for a, b in pairwise(page) if a.block == b.block and b.top > a.top
    ]
    usual = median(gaps) if gaps else 0.0
    widths = {(number, line.block): _reach(page, line) for number, page in enumerate(pages) for line in page}
    for number, page in enumerate(pages):
        for line in page:
            if last is not None and told and _goes_on(last, line, usual, widths, number):
                told[-1] = _joined(told[-1], line.text)
            else:
                told.append(line.text)
            last = line
    return [text.replace("\u00ad", "") for text in told]


def _reach(page: Sequence[Line], line: Line) -> float:
    """How far right the lines of a column go, with the tables that stand in it."""
    own = [one for one in page if one.block == line.block]
    left, right = min(one.left for one in own), max(one.right for one in own)
    return max(
        one.right
        for one in page
        if one.block == line.block or (one.block == -1 and left - 20 <= one.left < right)
    )


def _goes_on(last: Line, line: Line, usual: float, widths: dict[tuple[int, int], float], page: int) -> bool:
    """Is a line the next of the same paragraph?"""
    if last.row or line.row or _BULLET.match(line.text):
        return False
    height = last.bottom - last.top
    if abs((line.bottom - line.top) - height) > 0.25 * height:
        return False
    same = last.block == line.block and line.top > last.top
    if same:
        if line.top - last.bottom > usual + 0.5 * height:
            return False
        reach = widths[page, last.block]
        full = last.right >= reach - 3 * height
        return full or (not _ENDS.search(last.text) and last.right - line.left > 0.8 * (reach - line.left))
    # Over a column or page: what has not ended goes on in small letters, or with the rest of a word.
    return not _ENDS.search(last.text) and (
        line.text[:1].islower() or last.text.endswith(("-", "\u00ad", ","))
    )


def _joined(before: str, after: str) -> str:
    if before.endswith("\u00ad"):
        return before[:-1] + after
    if before.endswith(("-", "\u2010")) and before[-2:-1].isalpha() and after[:1].islower():
        return before[:-1] + after
    if before.endswith(("-", "\u2010", "/")) and before[-2:-1].isalnum():
        return before + after
    return f"{before} {after}"
