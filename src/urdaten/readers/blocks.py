"""A page's elements as lines of text: a line for each heading, paragraph, list item and row of a table."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from typing import Any

_BLOCKS = frozenset(
    "address article aside blockquote body center dd details dialog div dl dt fieldset figcaption figure footer form h1 h2 h3 h4 h5 h6 "
    "header hgroup hr html legend li main menu nav ol optgroup option p pre section summary table tbody td tfoot th thead title tr ul".split()
)
_UNSEEN = frozenset(
    "applet area audio base button canvas datalist embed head iframe input link map meta noembed noframes noscript object param picture "
    "progress rp script select source style svg template textarea track video".split()
)
_HIDDEN = re.compile(r"display\s*:\s*none|visibility\s*:\s*hidden", re.IGNORECASE)
_SPACE = re.compile(r"[ \t\n\r\f\u00a0]+")
CELLS = " | "


def lines_of(element: Any) -> list[str]:
    """What is shown of an lxml element, a block a line; cells of a row have ` | ` between them, quoted blocks lead with `> `."""
    lines: list[str] = []
    held: list[str] = []

    def close(lead: str) -> None:
        words = _SPACE.sub(" ", "".join(held)).strip()
        held.clear()
        if words:
            lines.extend(lead + part.strip() for part in words.split("\v") if part.strip())

    # An explicit stack: pages nest deeper than Python does.
    stack: list[tuple[Any, str, bool]] = [(element, "", False)]
    while stack:
        node, lead, leaving = stack.pop()
        if isinstance(node, str):
            held.append(node)
            continue
        tag = _tag(node)
        if leaving:
            if tag in _BLOCKS:
                close(lead)
            continue
        if not tag or tag in _UNSEEN or hidden(node):
            continue
        if tag == "br":
            held.append("\v")
            continue
        if tag == "tr" and (row := _row(node)) is not None:
            close(lead)
            if row:
                lines.append(lead + row)
            continue
        if tag == "pre":
            close(lead)
            lines += [lead + line.rstrip() for line in "".join(_words(node)).split("\n") if line.strip()]
            continue
        if tag in _BLOCKS:
            close(lead)
        inner = lead + "> " if tag == "blockquote" else lead
        stack.append((node, inner, True))
        parts: list[tuple[Any, str, bool]] = []
        if node.text:
            parts.append((node.text, inner, False))
        for child in node:
            parts.append((child, inner, False))
            if child.tail:
                parts.append((child.tail, inner, False))
        stack += reversed(parts)
    close("")
    return lines


def hidden(node: Any) -> bool:
    """Is this left out of what is shown?"""
    return (
        node.get("hidden") is not None
        or node.get("aria-hidden") == "true"
        or bool(_HIDDEN.search(node.get("style") or ""))
    )


def _tag(node: Any) -> str:
    # Comments and instructions have no name.
    return node.tag.rpartition("}")[2].lower() if isinstance(node.tag, str) else ""


def _row(node: Any) -> str | None:
    """The cells of a row on one line; None where its cells hold blocks of text, as in pages laid out with tables."""
    cells = [child for child in node if _tag(child) in ("td", "th") and not hidden(child)]
    told: list[str] = []
    for cell in cells:
        if (
            sum(_tag(inner) in ("p", "div", "table", "ul", "ol", "h1", "h2", "h3") for inner in cell.iter())
            > 1
        ):
            return None
        told.append(_SPACE.sub(" ", "".join(_words(cell))).strip())
    while told and not told[-1]:
        told.pop()
    return CELLS.join(told)


def _words(node: Any) -> Iterator[str]:
    for inner in _seen(node):
        yield inner if isinstance(inner, str) else ""


def _seen(node: Any) -> Iterable[Any]:
    stack = [node]
    while stack:
        one = stack.pop()
        if isinstance(one, str):
            yield one
            continue
        tag = _tag(one)
        if not tag or (one is not node and (tag in _UNSEEN or hidden(one))):
            continue
        if tag == "br":
            yield "\n"
        parts: list[Any] = [one.text] if one.text else []
        for child in one:
            parts.append(child)
            if child.tail:
                parts.append(child.tail)
        stack += reversed(parts)
