"""JSON Lines, and one list of objects: rows with fields, or an annotated corpus of ours."""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping
from itertools import chain, islice
from typing import Any

from urdaten.core.formats import read_corpus, read_json
from urdaten.errors import BadFile
from urdaten.readers.corpora import document_of
from urdaten.readers.document import MOST_SHOWN, Found, How, Item, Refusal, sentence
from urdaten.readers.encoding import decode
from urdaten.readers.rows import LOOKED_AT, Row, columns_of, documents_of

LONGEST_LINE = 16_000_000
MOST_FIELDS = 1_000


def read_records(data: bytes, source: str, how: How) -> Iterator[Item]:
    """A document for each object; one with `text` and `spans` brings its spans along. Raises BadFile."""
    decoded = decode(data, how.encoding)
    found = Found(source=source, kind="jsonl", encoding=decoded.encoding, guessed=decoded.guessed)
    lines = object_lines(decoded.text)
    look = list(islice(lines, LOOKED_AT))
    rows = [values for _, values, _ in look if values is not None]
    if not rows:
        raise BadFile(look[0][2] if look else "The file holds no lines.")
    if not how.roles and any(
        isinstance(row.get("text"), str) and isinstance(row.get("spans"), list) for row in rows
    ):
        yield Found(source=source, kind="corpus", encoding=decoded.encoding, guessed=decoded.guessed)
        yield from _corpus(decoded.text, source)
        return
    names = list(dict.fromkeys(name for row in rows for name in row))
    if len(names) > MOST_FIELDS:
        raise BadFile(f"Its objects have {len(names)} fields; the most is {MOST_FIELDS}.")
    columns = columns_of(names, [told(row) for row in rows], how)
    yield Found(
        source=source, kind="jsonl", encoding=found.encoding, guessed=found.guessed, columns=tuple(columns)
    )

    def good() -> Iterator[Row | Refusal]:
        for place, values, why in chain(look, lines):
            if values is None:
                yield Refusal(source=source, place=place, why=why)
            else:
                yield place, told(values)

    yield from documents_of(good(), columns, source, how)


def told(row: Mapping[str, Any]) -> dict[str, str]:
    """Values as words; lists and objects as JSON."""
    return {
        name: value
        if isinstance(value, str)
        else ""
        if value is None
        else json.dumps(value, ensure_ascii=False)
        for name, value in row.items()
    }


def object_lines(text: str) -> Iterator[tuple[str, dict[str, Any] | None, str]]:
    """Each object with where it stands, or what is wrong with it."""
    if text.lstrip().startswith("["):
        try:
            listed = read_json(text)
        except BadFile as fault:
            raise BadFile(sentence(fault.message)) from fault
        if not isinstance(listed, list):
            raise BadFile("A list of objects is wanted.")
        for number, one in enumerate(listed, start=1):
            good = isinstance(one, dict)
            yield f"object {number}", one if good else None, "An object with fields is wanted."
        return
    for number, line in enumerate(text.split("\n"), start=1):
        if not line.strip():
            continue
        place = f"line {number}"
        try:
            if len(line) > LONGEST_LINE:
                raise BadFile(f"the line is longer than {LONGEST_LINE} characters.")
            row = read_json(line)
            if not isinstance(row, dict):
                raise BadFile("an object with fields is wanted.")
            yield place, row, ""
        except BadFile as fault:
            yield place, None, sentence(fault.message)


def _corpus(text: str, source: str) -> Iterator[Item]:
    for number, line in enumerate(text.split("\n"), start=1):
        if not line.strip():
            continue
        place = f"line {number}"
        try:
            for one in read_corpus([line]):
                yield document_of(one, source, place)
        except BadFile as fault:
            why = sentence(fault.message.removeprefix("Line 1: "))
            yield Refusal(source=source, place=place, why=why, content=line[:MOST_SHOWN])
