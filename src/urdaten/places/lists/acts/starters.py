"""Starter lists: names of the general lexicon, to look through and to take over, so that a new project finds something."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from sqlalchemy.orm import Session

from urdaten.core.formats import ListedName, write_names
from urdaten.core.lexicon import KINDS, SORTS, Senses
from urdaten.core.text import fold
from urdaten.errors import BadInput, NotFound
from urdaten.installed import senses
from urdaten.places.lists.acts.importing import ListImport, begin_keeping
from urdaten.places.team.acts import Project

SOURCE = "general lexicon"
PAGE = 200
MOST_NARROWER = 40
MOST_FOUND = 30
_KIND_NAMES = tuple(KINDS.values())


@dataclass(frozen=True, kw_only=True)
class Starter:
    """Which meanings: all of a kind, or all beneath one; single things that have names, kinds of things, or both."""

    kind: str = ""
    beneath: int | None = None
    sort: str = "both"
    # Those alone that are written with these words somewhere.
    search: str = ""


@dataclass(frozen=True, kw_only=True)
class StarterKind:
    """How much there is of a kind."""

    kind: str
    names: int
    words: int


@dataclass(frozen=True, kw_only=True)
class StarterName:
    """A meaning, as it is written."""

    number: int
    words: tuple[str, ...]
    meaning: str


@dataclass(frozen=True, kw_only=True)
class StarterMeaning(StarterName):
    """A meaning that others fall under: so many of them."""

    names: int
    kinds: int


@dataclass(frozen=True, kw_only=True)
class StarterNames:
    """A page of names: how many there are, under what most of them fall, and from where the next page goes on."""

    total: int
    names: list[StarterName]
    narrower: list[StarterMeaning]
    next: int | None


def starter_kinds() -> list[StarterKind] | None:
    """Every kind of which there is something, those with most names first; None where no lexicon is installed."""
    held = senses()
    if held is None:
        return None
    kinds = [
        StarterKind(kind=name, names=len(held.of_kind(at, "names")), words=len(held.of_kind(at, "words")))
        for at, name in enumerate(_KIND_NAMES)
    ]
    return sorted((one for one in kinds if one.names or one.words), key=lambda one: (-one.names, -one.words))


def find_meanings(words: str) -> list[StarterMeaning]:
    """Meanings that are written so and that others fall under. Raises NotFound where no lexicon is installed."""
    held = _held()
    return [_meaning(held, row) for row in held.search(words, MOST_FOUND)]


def starter_names(wish: Starter, after: int) -> StarterNames:
    """Names in their order, from the place `after` on. Raises NotFound and BadInput, naming the field."""
    held = _held()
    ordered = _ordered(held, wish)
    page = ordered[after : after + PAGE]
    return StarterNames(
        total=len(ordered),
        names=[_name(held, row) for row in page],
        narrower=[
            _meaning(held, one.row)
            for one in held.narrower(ordered, MOST_NARROWER)
            if int(held.number[one.row]) != wish.beneath and 1 < one.count < len(ordered)
        ]
        if after == 0
        else [],
        next=after + PAGE if len(ordered) > after + PAGE else None,
    )


def take_starter(
    db: Session, project: Project, list_id: int, account_id: int, wish: Starter, numbers: Sequence[int] | None
) -> ListImport:
    """Bring names into a list, all that are wished for or some of them, as a file of them would be: what the list has changes
    no more than by that. Raises NotFound, and BadInput where there is nothing to take."""
    held = _held()
    rows = _ordered(held, wish)
    if numbers is not None:
        wanted = set(numbers)
        rows = [row for row in rows if int(held.number[row]) in wanted]
    if not rows:
        raise BadInput("There is no such name to take.", field="numbers")
    data = b"".join(write_names(_listed(held, rows), "jsonl"))
    title = _title(held, wish)
    return begin_keeping(db, project, list_id, account_id, f"{SOURCE}, {title}.jsonl", data, source=SOURCE)


def _held() -> Senses:
    held = senses()
    if held is None:
        raise NotFound("There is no general lexicon here: the Debian package wordnet-base is not installed.")
    return held


def _ordered(held: Senses, wish: Starter) -> list[int]:
    """Rows by how they are written."""
    if wish.sort not in SORTS:
        raise BadInput(f"Names are one of {', '.join(SORTS)}, not {wish.sort!r}.", field="sort")
    if wish.beneath is not None:
        row = held.row_of(wish.beneath)
        if row is None:
            raise NotFound(f"The general lexicon has no meaning {wish.beneath}.")
        rows = held.beneath(row, wish.sort)
    elif wish.kind in _KIND_NAMES:
        rows = held.of_kind(_KIND_NAMES.index(wish.kind), wish.sort)
    else:
        raise BadInput(f"A kind is one of {', '.join(_KIND_NAMES)}, not {wish.kind!r}.", field="kind")
    found: list[int] = held.containing(rows, wish.search).tolist()
    return sorted(found, key=lambda row: (fold(held.words(row)[0]), row))


def _title(held: Senses, wish: Starter) -> str:
    row = None if wish.beneath is None else held.row_of(wish.beneath)
    return wish.kind if row is None else held.words(row)[0]


def _listed(held: Senses, rows: Sequence[int]) -> Iterator[ListedName]:
    for row in rows:
        name, *variants = held.words(row)
        yield ListedName(
            name=name,
            variants=tuple(variants),
            identifier=f"{SOURCE} {int(held.number[row])}",
            note=held.meaning(row),
        )


def _name(held: Senses, row: int) -> StarterName:
    return StarterName(number=int(held.number[row]), words=held.words(row), meaning=held.meaning(row))


def _meaning(held: Senses, row: int) -> StarterMeaning:
    one = _name(held, row)
    return StarterMeaning(
        number=one.number,
        words=one.words,
        meaning=one.meaning,
        names=len(held.beneath(row, "names")),
        kinds=len(held.beneath(row, "words")),
    )
