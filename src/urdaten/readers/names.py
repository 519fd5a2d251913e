"""Names of lists: tables, workbooks, JSON Lines, SKOS, and one name a line."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace
from itertools import chain, islice
from pathlib import PurePosixPath
from typing import Any

from urdaten.core.formats import SkosFormat, read_concepts
from urdaten.errors import BadFile
from urdaten.readers.document import NAME_ROLES, Column, Found, HowNames, NameRow, Refusal
from urdaten.readers.encoding import decode
from urdaten.readers.records import object_lines, told
from urdaten.readers.rows import LOOKED_AT, Row
from urdaten.readers.tables import Sheet, csv_sheet, table_of, workbook_sheets

NAME_KINDS = ("csv", "xlsx", "jsonl", "turtle", "json-ld", "lines")
LONGEST_NAME = 300
MOST_VARIANTS = 200
LONGEST_NOTE = 2000
LONGEST_LABEL = 200
# Values that each stand so often on average are labels.
_REPEATED = 3
_BY_ENDING = {
    "csv": "csv",
    "tsv": "csv",
    "tab": "csv",
    "psv": "csv",
    "xlsx": "xlsx",
    "jsonl": "jsonl",
    "ndjson": "jsonl",
    "ttl": "turtle",
    "turtle": "turtle",
    "jsonld": "json-ld",
}
_NAMED = {
    "name": r"name|names|preferred|preflabel|title|term|entry|bezeichnung",
    "variants": r"variants?|aliases|alias|alt|altlabels?|synonyms?|other names|also|short|abbreviation|spellings?",
    "identifier": r"id|identifier|code|key|uri|iri|number|no|nr|ref",
    "note": r"notes?|comments?|remarks?|description|definition|about",
    "on": r"on|active|enabled",
    "label": r"labels?|types?|kinds?|class|classes|category|categories|art|typ",
}
_OFF = {"0", "no", "off", "false", "n"}
_SHOWN, _LONGEST_VALUE = 3, 200
Item = Found | NameRow | Refusal


def read_names(data: bytes, source: str, how: HowNames) -> Iterator[Item]:
    """What the file was found to be, and its names. Raises BadFile for what holds none, or is none that is read here."""
    if not data.strip():
        raise BadFile("The file is empty.")
    kind = how.kind or _kind(data, source)
    if kind not in NAME_KINDS:
        raise BadFile(f"There is no kind {kind!r}; there are {', '.join(NAME_KINDS)}.")
    if kind == "xlsx":
        for found, rows in workbook_sheets(data, source):
            yield from _of_table(found, rows, how)
        return
    if kind == "csv":
        yield from _of_table(*csv_sheet(data, source, how), how)
        return
    decoded = decode(data, how.encoding)
    found = Found(source=source, kind=kind, encoding=decoded.encoding, guessed=decoded.guessed)
    if kind == "jsonl":
        yield from _of_objects(decoded.text, found, how)
    elif kind == "lines":
        yield found
        for number, line in enumerate(decoded.text.split("\n"), start=1):
            if line.strip():
                yield _checked(NameRow(name=line, place=f"line {number}"), source)
    else:
        yield found
        yield from _of_concepts(decoded.text, "turtle" if kind == "turtle" else "json-ld", source)


def _kind(data: bytes, source: str) -> str:
    ending = PurePosixPath(source).suffix[1:].lower()
    if data.startswith(b"PK"):
        return "xlsx"
    if kind := _BY_ENDING.get(ending):
        return kind
    head = data[:65_536]
    if b"skos/core#" in head:
        return "json-ld" if head.lstrip()[:1] in (b"{", b"[") else "turtle"
    if head.lstrip()[:1] in (b"{", b"["):
        return "jsonl"
    # Names have commas at times, but not in every line as often.
    lines = [line for line in head.decode("utf-8", "replace").split("\n")[:-1] if line.strip()][:50]
    for separator in ("\t", ";", ","):
        counts = {line.count(separator) for line in lines}
        if len(lines) > 1 and len(counts) == 1 and counts != {0}:
            return "csv"
    return "lines"


def _of_table(found: Found, sheet: Iterator[Sheet], how: HowNames) -> Iterator[Item]:
    for item in table_of(sheet, found.source, how, lambda rows: _is_header(rows[0][1], how)):
        if isinstance(item, Refusal):
            yield item
            continue
        columns = _columns(item.names, item.first, how)
        yield replace(found, header=item.header, columns=tuple(columns))
        yield from _rows(item.rows, columns, found, how)


def _is_header(row: Sequence[str], how: HowNames) -> bool:
    """Does a row say what columns are for? Names alone look like a heading too."""
    cells = [" ".join(cell.split()) for cell in row]
    return any(
        cell in how.roles or any(re.fullmatch(pattern, cell.lower()) for pattern in _NAMED.values())
        for cell in cells
    )


def _of_objects(text: str, found: Found, how: HowNames) -> Iterator[Item]:
    lines = object_lines(text)
    look = list(islice(lines, LOOKED_AT))
    first = [values for _, values, _ in look if values is not None]
    if not first:
        raise BadFile(look[0][2] if look else "The file holds no lines.")
    names = list(dict.fromkeys(name for row in first for name in row))
    columns = _columns(names, [told(row) for row in first], how)
    yield replace(found, columns=tuple(columns))

    def good() -> Iterator[Row | Refusal]:
        for place, values, why in chain(look, lines):
            if values is None:
                yield Refusal(source=found.source, place=place, why=why)
            else:
                yield place, told(values)

    yield from _rows(good(), columns, found, how)


def _columns(names: Sequence[str], rows: Sequence[Mapping[str, str]], how: HowNames) -> list[Column]:
    """What each column is for: as was said, or else by its name; without a name that says so the first one has the names.

    Raises BadFile for a role that there is not, and where no column has the names.
    """
    for role in how.roles.values():
        if role not in NAME_ROLES:
            raise BadFile(f"A column is for one of {', '.join(NAME_ROLES)}, not {role!r}.")
    roles = {name: role for name, role in how.roles.items() if name in names}
    taken = set(roles.values())
    for role, pattern in _NAMED.items():
        fits = [n for n in names if n not in roles and re.fullmatch(pattern, n.strip().lower())]
        for name in fits if role == "variants" else fits[: role not in taken]:
            roles[name] = role
    if "name" not in roles.values():
        free = next((name for name in names if name not in roles), None)
        # What is called a label holds the names where nothing else does, and where each has an identifier.
        if free is None or "identifier" in roles.values():
            labels = (n for n in names if roles.get(n) == "label" and n not in how.roles)
            free = next(labels, free)
        if free is None:
            raise BadFile("No column holds names; say which one does.")
        roles[free] = "name"
        # Of two columns without a heading the second has other ways to write it, or, where the same stand again and again, labels.
        if len(names) == 2 and "variants" not in roles.values():
            other = next(name for name in names if name != free)
            told = [row[other].strip() for row in rows if row.get(other, "").strip()]
            repeats = len(told) >= _REPEATED and len(set(told)) * _REPEATED <= len(told)
            roles.setdefault(other, "label" if repeats else "variants")
    values = {name: [row[name] for row in rows if row.get(name, "").strip()] for name in names}
    return [
        Column(
            name=name,
            role=roles.get(name, "none"),
            values=tuple(value[:_LONGEST_VALUE] for value in values[name][:_SHOWN]),
        )
        for name in names
    ]


def _rows(
    rows: Iterator[Row | Refusal], columns: Sequence[Column], found: Found, how: HowNames
) -> Iterator[NameRow | Refusal]:
    unled = _unled if found.kind == "csv" else str.strip
    at = {role: [column.name for column in columns if column.role == role] for role in NAME_ROLES}
    of_variants = at.pop("variants")

    def cell(row: Mapping[str, str], role: str) -> str:
        for name in at[role]:
            if value := unled(row.get(name, "")):
                return value
        return ""

    on_at = at["on"]

    for item in rows:
        if isinstance(item, Refusal):
            yield item
            continue
        place, row = item
        variants = [one for name in of_variants for one in _parted(unled(row.get(name, "")), how.parts)]
        made = NameRow(
            cell(row, "name"),
            tuple(variants),
            cell(row, "identifier"),
            cell(row, "note"),
            not on_at or cell(row, "on").lower() not in _OFF,
            place,
            cell(row, "label"),
        )
        yield _checked(made, found.source)


def _unled(value: str) -> str:
    """Without the apostrophe that keeps a spreadsheet from running a cell."""
    value = value.strip()
    return value[1:] if value[:1] == "'" and value[1:2] and value[1:2] in "=+-@" else value


def _parted(value: str, parts: str) -> list[str]:
    """The variants of a cell: a list in JSON, or parted by this, or by semicolons or upright strokes."""
    if value.startswith("["):
        try:
            listed: Any = json.loads(value)
        except ValueError:
            listed = None
        if isinstance(listed, list) and all(isinstance(one, str) for one in listed):
            return [one.strip() for one in listed if one.strip()]
    found = value.split(parts) if parts else re.split("[;|]", value)
    return [one.strip() for one in found if one.strip()]


def _of_concepts(text: str, form: SkosFormat, source: str) -> Iterator[NameRow | Refusal]:
    for concept in read_concepts(text, form):
        yield _checked(
            NameRow(
                name=concept.name,
                variants=concept.variants,
                identifier=concept.notation or _outside(concept.address),
                note=concept.note,
                place=concept.address,
            ),
            source,
        )


def _outside(address: str) -> str:
    """An address that somebody else has given."""
    return "" if address.startswith("urn:urdaten:") or not address.partition(":")[2] else address


def _clean(words: str) -> str:
    return " ".join(words.replace("\0", "").split())


def _checked(row: NameRow, source: str) -> NameRow | Refusal:
    """The row, clean, or why it cannot be kept."""
    name = _clean(row.name)
    variants: dict[str, None] = {}
    if row.variants:
        variants = dict.fromkeys(map(_clean, row.variants))
        variants.pop("", None)
        variants.pop(name, None)
    why = ""
    if not name:
        why = "There is no name in it."
    elif len(name) > LONGEST_NAME or (variants and max(map(len, variants)) > LONGEST_NAME):
        why = f"A name has at most {LONGEST_NAME} characters."
    elif len(variants) > MOST_VARIANTS:
        why = f"An entry has at most {MOST_VARIANTS} variants."
    if why:
        shown = " · ".join((row.name, *row.variants))[:LONGEST_NAME]
        return Refusal(source=source, place=row.place, why=why, content=shown)
    identifier = row.identifier.replace("\0", "")[:LONGEST_NAME]
    return NameRow(
        name,
        tuple(variants),
        identifier,
        row.note.replace("\0", "")[:LONGEST_NOTE],
        row.on,
        row.place,
        _clean(row.label)[:LONGEST_LABEL] if row.label else "",
    )
