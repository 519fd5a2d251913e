"""What a reader makes of a source: what it found the source to be, documents, and refusals."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date
from typing import Any, NamedTuple

from urdaten.core.formats import CorpusText

Bounds = tuple[int, int]
# What a column or field of a table can say of a text; what is said by none of them goes to its metadata.
ROLES = ("body", "title", "date", "group", "order", "split", "id", "meta", "none")


@dataclass(frozen=True, kw_only=True)
class HowTables:
    """How tables are read; what is empty is found out from the source itself."""

    kind: str = ""
    encoding: str = ""
    delimiter: str = ""
    header: bool | None = None
    # What columns and fields are for.
    roles: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True, kw_only=True)
class HowNames(HowTables):
    """How the names of a list are read."""

    # What parts the variants in a cell.
    parts: str = ""


@dataclass(frozen=True, kw_only=True)
class How(HowTables):
    """How texts are read."""

    # One text for each `file`, `paragraph` or `line` of a text file, or `page` of a PDF.
    per: str = "file"
    # Of HTML: everything that is shown, not the main text alone.
    whole_page: bool = False
    # Of mails: what is quoted and the signature are left out, not only marked off.
    without_quoted: bool = False
    # 3/4/2026 is the third of April.
    day_first: bool = True


@dataclass(frozen=True, kw_only=True)
class Column:
    """A column or field: its role, and the first values that are not empty."""

    name: str
    role: str
    values: tuple[str, ...] = ()


# What a column or field can say of a name.
NAME_ROLES = ("name", "variants", "identifier", "note", "on", "label", "none")


@dataclass(frozen=True, kw_only=True)
class Found:
    """What a source was found to be."""

    source: str
    kind: str
    # Empty where the kind brings its own.
    encoding: str = ""
    # Was it guessed, not declared or proven?
    guessed: bool = False
    # Where it was: how a part of the file reads in each encoding that it can be in.
    readings: tuple[tuple[str, str], ...] = ()
    delimiter: str = ""
    header: bool = False
    columns: tuple[Column, ...] = ()


@dataclass(frozen=True, kw_only=True)
class Document:
    """A text as it stands in a source."""

    body: str
    title: str = ""
    dated: date | None = None
    group: str = ""
    split: str = ""
    # Sorts the texts of a source; those without come last, as they stand.
    order: str = ""
    meta: Mapping[str, str] = field(default_factory=dict)
    # The file or address, and where in it.
    source: str = ""
    place: str = ""
    # What is quoted from others, and signatures: half-open bounds in the body, in order.
    aside: tuple[Bounds, ...] = ()
    # What was amiss with it and has been got over.
    note: str = ""
    # Where the source is an annotated corpus: its spans, and its sentences with who stands for them.
    corpus: CorpusText | None = None


@dataclass(frozen=True, kw_only=True)
class Refusal:
    """What could not be read, where it stands, and why; the thing itself as far as it can be shown."""

    source: str
    why: str
    place: str = ""
    content: str = ""


class NameRow(NamedTuple):
    """A name of a list as it stands in a source, and where."""

    name: str
    variants: tuple[str, ...] = ()
    identifier: str = ""
    note: str = ""
    on: bool = True
    place: str = ""
    # What kind of name it is, where the source has several.
    label: str = ""


@dataclass(frozen=True, kw_only=True)
class Names:
    """Some names of a source, one after the other."""

    source: str
    rows: tuple[NameRow, ...]


@dataclass(frozen=True, kw_only=True)
class Beat:
    """So far is a long document, in its own unit: whoever waits sees that it goes on."""

    source: str
    done: int
    total: int
    unit: str


Item = Found | Document | Names | Refusal | Beat

# Of what is shown of a refused row.
MOST_SHOWN = 2_000


def text_meta(values: Mapping[str, Any]) -> dict[str, str]:
    """Values as they are kept with a text: words, without the empty ones."""
    told = {str(name): "" if value is None else str(value).strip() for name, value in values.items()}
    return {name: value for name, value in told.items() if value}


def sentence(words: str) -> str:
    """Words that begin a sentence."""
    return words[:1].upper() + words[1:]
