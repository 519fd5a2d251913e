"""Texts without any spans, for what is learnt from running text: JSON Lines, or plain text; read as a stream."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from urdaten.core.formats.samples import read_json
from urdaten.errors import BadFile

# A longer paragraph of plain text is given in parts, which end with a line.
LONGEST_PART = 50_000


def read_texts(lines: Iterable[str], *, plain: bool) -> Iterator[str]:
    """Each line's text, or where the lines are plain text, its paragraphs, which an empty line parts.

    A line of JSON is an object with "text", or a string. Raises BadFile with the line's number.
    """
    return _paragraphs(lines) if plain else _texts(lines)


def _texts(lines: Iterable[str]) -> Iterator[str]:
    for number, line in enumerate(lines, start=1):
        if not line.strip():
            continue
        try:
            row = read_json(line)
            text = row.get("text") if isinstance(row, dict) else row
            if not isinstance(text, str):
                raise BadFile("an object with “text” is wanted.")
        except BadFile as fault:
            raise BadFile(f"Line {number}: {fault.message}", line=number) from fault
        yield text


def _paragraphs(lines: Iterable[str]) -> Iterator[str]:
    held: list[str] = []
    size = 0
    for line in lines:
        if held and (not line.strip() or size > LONGEST_PART):
            yield "".join(held)
            held, size = [], 0
        if line.strip():
            held.append(line)
            size += len(line)
    if held:
        yield "".join(held)
