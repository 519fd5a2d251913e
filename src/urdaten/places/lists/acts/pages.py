"""Entries of a list in pages: which of them, and in what order."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any, Literal, get_args

from sqlalchemy import (
    BigInteger,
    ColumnElement,
    FromClause,
    Subquery,
    and_,
    cast,
    func,
    literal,
    not_,
    or_,
    select,
    tuple_,
)
from sqlalchemy.dialects.postgresql import ARRAY
from sqlalchemy.orm import Session

from urdaten.errors import BadInput
from urdaten.places.lists.acts.changes import PLACE
from urdaten.places.lists.acts.entries import own_entry
from urdaten.places.lists.acts.entry import ListEntry, entry_of
from urdaten.places.lists.acts.lists import own_list
from urdaten.places.lists.tables import EntryRow, ListRow
from urdaten.platform.database import among, has_written
from urdaten.platform.revisions import revisions

# All; those that find nothing; that do more harm than good; that stand as words in small letters too; that another list has
# too; that are off.
Show = Literal["", "never", "harmful", "common", "two", "off"]
SHOWS: tuple[Show, ...] = get_args(Show)
# By name; by the F1 that they cost; by how often they are found.
Order = Literal["name", "harm", "finds"]
ORDERS: tuple[Order, ...] = get_args(Order)


@dataclass(frozen=True, kw_only=True)
class EntryWorth:
    """What an entry finds, as far as it is counted."""

    finds: int = 0
    # Finds in signed sentences, and those of them that are gold.
    judged: int = 0
    right: int = 0
    # Places where its name stands in small letters, though the list writes it with a capital.
    small: int = 0
    # By how many points the F1 of its list would rise without it.
    harm: float = 0.0


@dataclass(frozen=True, kw_only=True)
class EntryLine:
    """An entry with what it is worth."""

    entry: ListEntry
    worth: EntryWorth


@dataclass(frozen=True, kw_only=True)
class EntryFilter:
    """Which entries, and in what order."""

    search: str = ""
    show: str = ""
    order: str = "name"

    def check(self) -> None:
        """Raises BadInput, naming the field."""
        if self.show not in SHOWS:
            raise BadInput(
                f"Entries to show are one of {', '.join(SHOWS[1:])}, not {self.show!r}.", field="show"
            )
        if self.order not in ORDERS:
            raise BadInput(f"Entries are in order of {', '.join(ORDERS)}, not {self.order!r}.", field="order")


_WORTH = ("finds", "judged", "right", "small", "harm")
_NOTHING = (0,) * len(_WORTH)


def _which(project_id: int, list_id: int, wish: EntryFilter, worth: FromClause) -> list[ColumnElement[bool]]:
    conditions: list[ColumnElement[bool]] = [EntryRow.list_id == list_id]
    if wish.search:
        conditions.append(EntryRow.written.icontains(wish.search, autoescape=True))
    own = select(worth.c.entry_id).where(worth.c.list_id == list_id)
    if wish.show == "never":
        conditions.append(and_(EntryRow.on, EntryRow.id.not_in(own.where(worth.c.finds > 0))))
    elif wish.show == "harmful":
        conditions.append(and_(EntryRow.on, EntryRow.id.in_(own.where(worth.c.harm > 0))))
    elif wish.show == "common":
        conditions.append(EntryRow.id.in_(own.where(worth.c.small > 0)))
    elif wish.show == "two":
        conditions.append(_in_two(project_id))
    elif wish.show == "off":
        conditions.append(not_(EntryRow.on))
    return conditions


def _in_two(project_id: int) -> ColumnElement[bool]:
    """Is the entry in another list, too? Those names are looked for once, of all lists."""
    key = func.unnest(EntryRow.keys).label("key")
    every = (
        select(EntryRow.id, EntryRow.list_id.label("of_list"), key)
        .join(ListRow, ListRow.id == EntryRow.list_id)
        .where(ListRow.project_id == project_id, ListRow.removed_at.is_(None))
        .cte("every")
    )
    shared = select(every.c.key).group_by(every.c.key).having(func.count(every.c.of_list.distinct()) > 1)
    return EntryRow.id.in_(select(every.c.id).where(every.c.key.in_(shared)))


def entry_index(project_id: int) -> Subquery:
    """For queries of other places: each entry's id, list_id and type_id."""
    return (
        select(EntryRow.id, EntryRow.list_id, ListRow.type_id)
        .join(ListRow, ListRow.id == EntryRow.list_id)
        .where(ListRow.project_id == project_id, ListRow.removed_at.is_(None))
        .subquery()
    )


def page_of_entries(
    db: Session,
    project_id: int,
    list_id: int,
    worth: FromClause,
    wish: EntryFilter,
    *,
    after: int | None,
    limit: int,
) -> list[EntryLine]:
    """Entries of a list, those after the entry with this number; at most `limit`.

    worth: a row for each entry that is found, with entry_id and the fields of EntryWorth. In order of harm or finds there are
    only those. Raises NotFound and BadInput.
    """
    own_list(db, project_id, list_id)
    wish.check()
    query = select(EntryRow).where(*_which(project_id, list_id, wish, worth))
    if wish.order == "name":
        if after is not None:
            last = own_entry(db, list_id, after)
            query = query.where(tuple_(EntryRow.preferred, EntryRow.id) > (last.preferred, last.id))
        query = query.order_by(EntryRow.preferred, EntryRow.id)
    else:
        by = worth.c[wish.order]
        query = query.join(worth, and_(worth.c.entry_id == EntryRow.id, worth.c.list_id == list_id))
        if after is not None:
            value = select(by).where(worth.c.entry_id == after).scalar_subquery()
            query = query.where(or_(by < value, and_(by == value, worth.c.entry_id > literal(after))))
        query = query.order_by(by.desc(), worth.c.entry_id)
    rows = db.scalars(query.limit(limit)).all()
    # Asked for by themselves: beside them the database would at times sort the whole list first.
    columns = [worth.c[name] for name in _WORTH]
    worths = {
        number: values
        for number, *values in db.execute(
            select(worth.c.entry_id, *columns).where(among(worth.c.entry_id, [row.id for row in rows]))
        )
    }
    return [_line(row, worths.get(row.id, _NOTHING)) for row in rows]


def _line(row: EntryRow, values: Sequence[Any]) -> EntryLine:
    worth = EntryWorth(**{name: value or 0 for name, value in zip(_WORTH, values, strict=True)})
    return EntryLine(entry=entry_of(row), worth=worth)


def read_entry(db: Session, project_id: int, list_id: int, entry_id: int, worth: FromClause) -> EntryLine:
    """One entry with what it is worth. Raises NotFound."""
    own_list(db, project_id, list_id)
    row = own_entry(db, list_id, entry_id)
    values = db.execute(
        select(*(worth.c[name] for name in _WORTH)).where(worth.c.entry_id == entry_id)
    ).first()
    return _line(row, values or _NOTHING)


def count_entries(db: Session, project_id: int, list_id: int, worth: FromClause) -> dict[str, int]:
    """How many entries there are of each of SHOWS."""
    size = own_list(db, project_id, list_id).size
    own = (EntryRow.list_id == list_id, worth.c.list_id == list_id)
    found = select(func.count()).join_from(EntryRow, worth, worth.c.entry_id == EntryRow.id).where(*own)
    off = select(func.count()).where(EntryRow.list_id == list_id, not_(EntryRow.on))
    counts = {
        "found": found.where(EntryRow.on, worth.c.finds > 0),
        "harmful": found.where(EntryRow.on, worth.c.harm > 0),
        "common": found.where(worth.c.small > 0),
        "off": off,
    }
    told = {name: db.scalar(query) or 0 for name, query in counts.items()}
    told["never"] = size - told["off"] - told.pop("found")
    return told | {"": size, "two": _counted_in_two(db, project_id).get(list_id, 0)}


# By project: as of which revision, and of each list how many entries stand in another list too.
_twos: dict[int, tuple[int, dict[int, int]]] = {}


def _counted_in_two(db: Session, project_id: int) -> dict[int, int]:
    revision = revisions(db, project_id).get(PLACE, 0)
    held = _twos.get(project_id)
    if held and held[0] == revision:
        return held[1]
    query = select(EntryRow.list_id, func.count()).where(_in_two(project_id)).group_by(EntryRow.list_id)
    counts = {number: count for number, count in db.execute(query)}
    if not has_written(db):
        _twos[project_id] = (revision, counts)
    return counts


def numbers_of(
    db: Session, project_id: int, list_id: int, worth: FromClause, wish: EntryFilter
) -> Sequence[int]:
    """The numbers of all entries of this kind, ascending."""
    own_list(db, project_id, list_id)
    wish.check()
    query = select(EntryRow.id).where(*_which(project_id, list_id, wish, worth))
    return db.scalars(query.order_by(EntryRow.id)).all()


def all_entries(db: Session, project_id: int, list_id: int) -> Iterator[ListEntry]:
    """Every entry by name, without all of them being held at once."""
    own_list(db, project_id, list_id)
    query = select(EntryRow).where(EntryRow.list_id == list_id).order_by(EntryRow.preferred, EntryRow.id)
    for row in db.scalars(query.execution_options(yield_per=5000)):
        yield entry_of(row)
        db.expunge(row)


def shares_a_key(keys: Iterable[int]) -> ColumnElement[bool]:
    """For queries: is the entry written like one that has these keys?"""
    return EntryRow.keys.op("&&")(cast(list(keys), ARRAY(BigInteger)))


@dataclass(frozen=True, kw_only=True)
class Elsewhere:
    """An entry of another list that is written alike."""

    list_id: int
    list: str
    entry_id: int
    preferred: str


def alike_elsewhere(db: Session, project_id: int, list_id: int, entry_id: int) -> list[Elsewhere]:
    """Entries of other lists that share a way to be written with this one."""
    entry = own_entry(db, list_id, entry_id)
    query = (
        select(ListRow.id, ListRow.name, EntryRow.id, EntryRow.preferred)
        .join(ListRow, ListRow.id == EntryRow.list_id)
        .where(ListRow.project_id == project_id, ListRow.removed_at.is_(None), ListRow.id != list_id)
        .where(shares_a_key(entry.keys))
        .order_by(ListRow.name, EntryRow.preferred)
        .limit(50)
    )
    return [
        Elsewhere(list_id=number, list=name, entry_id=entry_id, preferred=preferred)
        for number, name, entry_id, preferred in db.execute(query)
    ]
