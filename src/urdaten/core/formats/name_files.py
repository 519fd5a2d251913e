"""Names of a list as files that spreadsheets and other programs read."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Iterable, Iterator
from dataclasses import asdict, dataclass
from typing import Literal, get_args
from urllib.parse import quote

from urdaten.core.formats.skos import Concept, write_concepts
from urdaten.core.formats.tables import write_csv
from urdaten.core.formats.workbook import write_workbook

NameFormat = Literal["csv", "tsv", "xlsx", "lines", "jsonl", "turtle", "json-ld"]
NAME_FORMATS: tuple[NameFormat, ...] = get_args(NameFormat)
COLUMNS = ("name", "variants", "identifier", "note", "on")
_PARTS = "; "


@dataclass(frozen=True, kw_only=True)
class ListedName:
    """An entry of a list."""

    name: str
    variants: tuple[str, ...] = ()
    identifier: str = ""
    note: str = ""
    on: bool = True


def write_names(names: Iterable[ListedName], form: NameFormat) -> Iterator[bytes]:
    """The file, a portion at a time. Tables have the variants in one cell, with semicolons between; lines hold nothing but
    names; SKOS has no word for a name that is off."""
    if form == "xlsx":
        file = io.BytesIO()
        write_workbook(file, COLUMNS, map(_row, names), "names")
        yield file.getvalue()
    elif form in ("turtle", "json-ld"):
        yield write_concepts(map(_concept, names), "turtle" if form == "turtle" else "json-ld").encode()
    else:
        for line in _lines(names, form):
            yield line.encode()


def _lines(names: Iterable[ListedName], form: NameFormat) -> Iterator[str]:
    if form == "csv":
        yield from write_csv(COLUMNS, map(_row, names))
    elif form == "tsv":
        out = io.StringIO()
        writer = csv.writer(out, delimiter="\t")
        writer.writerow(COLUMNS)
        for one in names:
            writer.writerow(_row(one))
            yield out.getvalue()
            out.seek(0)
            out.truncate()
        yield out.getvalue()
    elif form == "jsonl":
        for one in names:
            yield json.dumps(asdict(one), ensure_ascii=False) + "\n"
    else:
        for one in names:
            yield one.name + "\n"


def _row(one: ListedName) -> tuple[str, ...]:
    # A variant that holds what parts variants is written so that it can be read back.
    if any(sign in variant for variant in one.variants for sign in ";|["):
        variants = json.dumps(one.variants, ensure_ascii=False)
    else:
        variants = _PARTS.join(one.variants)
    return one.name, variants, one.identifier, one.note, "yes" if one.on else "no"


def _concept(one: ListedName) -> Concept:
    return Concept(
        address=f"urn:urdaten:name:{quote(one.identifier or one.name, safe='')}",
        name=one.name,
        variants=one.variants,
        notation=one.identifier,
        note=one.note,
    )
