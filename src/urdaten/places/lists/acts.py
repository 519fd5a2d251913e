"""Acts on lists."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import asdict, dataclass

from sqlalchemy import ColumnElement, delete, func, select, tuple_, update
from sqlalchemy.orm import Session

from urdaten.core.lists import Entry, Gazetteer, NameList
from urdaten.core.text import marks_of
from urdaten.errors import BadInput, Clash, NotFound
from urdaten.places.lists.tables import EntryRow, ListChangeRow, ListRow
from urdaten.places.types import acts as types
from urdaten.platform.database import has_written
from urdaten.platform.revisions import bump, revisions
from urdaten.platform.versions import check_seen

PLACE = "lists"
MOST_CHARACTERS = 300
# Changes of so many names at once are told apart by their words; of more, every text may be touched.
TOLD_APART = 50
_CHANGE_LOCK = 0x115C4


@dataclass(frozen=True, kw_only=True)
class ListDraft:
    """What a lead says of a list."""

    name: str
    type: str
    on: bool = True


@dataclass(frozen=True, kw_only=True)
class NamedList(ListDraft):
    """A list as other places see it."""

    id: int
    entries: int
    version: int


@dataclass(frozen=True, kw_only=True)
class ListOn:
    """A list that is on."""

    id: int
    name: str
    type: str


@dataclass(frozen=True, kw_only=True)
class EntryDraft:
    """What a lead says of an entry."""

    preferred: str
    variants: tuple[str, ...] = ()
    note: str = ""


@dataclass(frozen=True, kw_only=True)
class ListEntry(EntryDraft):
    """An entry as other places see it."""

    id: int
    version: int


def _entry(row: EntryRow) -> ListEntry:
    return ListEntry(
        id=row.id,
        preferred=row.preferred,
        variants=tuple(row.variants),
        note=row.note,
        version=row.version,
    )


def read_lists(db: Session, project_id: int) -> list[NamedList]:
    codes = types.type_codes(db, project_id)
    query = (
        select(ListRow, func.count(EntryRow.id))
        .outerjoin(EntryRow, EntryRow.list_id == ListRow.id)
        .where(ListRow.project_id == project_id)
        .group_by(ListRow.id)
        .order_by(ListRow.name)
    )
    return [
        NamedList(
            id=row.id,
            name=row.name,
            type=codes[row.type_id],
            on=row.on,
            entries=count,
            version=row.version,
        )
        for row, count in db.execute(query)
    ]


def lists_on(db: Session, project_id: int) -> list[ListOn]:
    """Every list that is on, by name."""
    codes = types.type_codes(db, project_id)
    query = select(ListRow.id, ListRow.name, ListRow.type_id).where(
        ListRow.project_id == project_id, ListRow.on
    )
    return [
        ListOn(id=number, name=name, type=codes[type_id])
        for number, name, type_id in db.execute(query.order_by(ListRow.name))
    ]


def read_list(db: Session, project_id: int, list_id: int) -> NamedList:
    found = next((x for x in read_lists(db, project_id) if x.id == list_id), None)
    if found is None:
        raise NotFound(f"There is no list {list_id} in this project; it may have been removed.")
    return found


def _check(db: Session, project_id: int, draft: ListDraft, own_id: int | None) -> int:
    if not draft.name.strip():
        raise BadInput("A list needs a name.", field="name")
    taken = select(ListRow.id).where(ListRow.project_id == project_id, ListRow.name == draft.name.strip())
    if db.scalar(taken) not in (None, own_id):
        raise Clash(f"There is already a list “{draft.name.strip()}”; choose another name.", field="name")
    return types.type_numbers(db, project_id, [draft.type])[draft.type]


def add_list(db: Session, project_id: int, draft: ListDraft) -> NamedList:
    type_id = _check(db, project_id, draft, None)
    row = ListRow(project_id=project_id, name=draft.name.strip(), type_id=type_id, on=draft.on)
    db.add(row)
    db.flush()
    bump(db, project_id, PLACE)
    return read_list(db, project_id, row.id)


def change_list(db: Session, project_id: int, list_id: int, draft: ListDraft, version: int) -> NamedList:
    """Raises StaleWrite when the list is not in the version that was seen."""
    row = db.get(ListRow, list_id, with_for_update=True)
    now = read_list(db, project_id, list_id)
    assert row is not None
    check_seen(f"“{now.name}”", asdict(now), asdict(draft), version)
    type_id = _check(db, project_id, draft, list_id)
    row.version += 1
    row.name, row.type_id, row.on = draft.name.strip(), type_id, draft.on
    db.flush()
    _changed(db, project_id)
    return read_list(db, project_id, list_id)


def remove_list(db: Session, project_id: int, list_id: int) -> None:
    """Remove a list with its entries."""
    read_list(db, project_id, list_id)
    db.execute(delete(ListRow).where(ListRow.id == list_id))
    _changed(db, project_id)


def page_of_entries(
    db: Session, project_id: int, list_id: int, *, after: int | None, limit: int, search: str = ""
) -> list[ListEntry]:
    """Entries by preferred name, those after the entry with this number; at most `limit`."""
    read_list(db, project_id, list_id)
    query = select(EntryRow).where(EntryRow.list_id == list_id)
    if after is not None:
        last = _own_entry(db, list_id, after)
        query = query.where(tuple_(EntryRow.preferred, EntryRow.id) > (last.preferred, last.id))
    if search:
        variants = func.array_to_string(EntryRow.variants, "\n")
        query = query.where(
            EntryRow.preferred.icontains(search, autoescape=True)
            | variants.icontains(search, autoescape=True)
        )
    return [_entry(row) for row in db.scalars(query.order_by(EntryRow.preferred, EntryRow.id).limit(limit))]


def _own_entry(db: Session, list_id: int, entry_id: int, *, to_change: bool = False) -> EntryRow:
    row = db.get(EntryRow, entry_id, with_for_update=to_change or None)
    if row is None or row.list_id != list_id:
        raise NotFound(f"There is no entry {entry_id} in this list; it may have been removed.")
    return row


def _clean(draft: EntryDraft) -> EntryDraft:
    preferred = " ".join(draft.preferred.split())
    if not preferred:
        raise BadInput("An entry needs a name.", field="preferred")
    variants: list[str] = []
    for variant in draft.variants:
        folded = " ".join(variant.split())
        if folded and folded != preferred and folded not in variants:
            variants.append(folded)
    for name in (preferred, *variants):
        if len(name) > MOST_CHARACTERS:
            raise BadInput(
                f"A name has at most {MOST_CHARACTERS} characters: “{name[:40]}…”.", field="preferred"
            )
    return EntryDraft(preferred=preferred, variants=tuple(variants), note=draft.note.strip())


def add_entries(db: Session, project_id: int, list_id: int, drafts: Sequence[EntryDraft]) -> list[ListEntry]:
    """New entries, all or none. Raises Clash for a preferred name that the list has already."""
    named = read_list(db, project_id, list_id)
    clean = [_clean(draft) for draft in drafts]
    names = [draft.preferred for draft in clean]
    taken = set(
        db.scalars(
            select(EntryRow.preferred).where(EntryRow.list_id == list_id, EntryRow.preferred.in_(names))
        )
    )
    for i, name in enumerate(names):
        if name in taken or name in names[:i]:
            raise Clash(
                f"“{name}” is already in the list “{named.name}”; change that entry.", field="preferred"
            )
    rows = [
        EntryRow(list_id=list_id, preferred=d.preferred, variants=list(d.variants), note=d.note)
        for d in clean
    ]
    db.add_all(rows)
    db.flush()
    _changed(db, project_id, [name for d in clean for name in (d.preferred, *d.variants)])
    return [_entry(row) for row in rows]


def change_entry(
    db: Session, project_id: int, list_id: int, entry_id: int, draft: EntryDraft, version: int
) -> ListEntry:
    """Raises StaleWrite when the entry is not in the version that was seen."""
    named = read_list(db, project_id, list_id)
    row = _own_entry(db, list_id, entry_id, to_change=True)
    clean = _clean(draft)
    check_seen(f"“{row.preferred}”", asdict(_entry(row)), asdict(clean), version)
    row.version += 1
    taken = select(EntryRow.id).where(EntryRow.list_id == list_id, EntryRow.preferred == clean.preferred)
    if db.scalar(taken) not in (None, entry_id):
        raise Clash(f"“{clean.preferred}” is already in the list “{named.name}”.", field="preferred")
    before = [row.preferred, *row.variants]
    row.preferred, row.variants, row.note = clean.preferred, list(clean.variants), clean.note
    db.flush()
    after = [clean.preferred, *clean.variants]
    if before == after:
        bump(db, project_id, PLACE)
    else:
        _changed(db, project_id, [*before, *after])
    return _entry(row)


def remove_entry(db: Session, project_id: int, list_id: int, entry_id: int) -> None:
    read_list(db, project_id, list_id)
    row = _own_entry(db, list_id, entry_id)
    db.delete(row)
    db.flush()
    _changed(db, project_id, [row.preferred, *row.variants])


def _changed(db: Session, project_id: int, names: Iterable[str] | None = None) -> None:
    """Note which texts a change can have touched: those that hold one of these names, or, without names, every text."""
    words = {()} if names is None else {tuple(marks_of(name)) for name in names}
    if len(words) > TOLD_APART:
        words = {()}
    # One after the other, so that whoever sees a number sees all that was changed before it.
    db.execute(select(func.pg_advisory_xact_lock(_CHANGE_LOCK, project_id)))
    last = last_change(db, project_id)
    db.add_all(
        ListChangeRow(project_id=project_id, number=number, words=list(marks))
        for number, marks in enumerate(sorted(words), start=last + 1)
    )
    db.flush()
    bump(db, project_id, PLACE)


def last_change(db: Session, project_id: int) -> int:
    """Number of the last change of what lists find, 0 before the first. Whoever reads it before the lists has seen at least
    that change in them."""
    query = select(func.max(ListChangeRow.number)).where(ListChangeRow.project_id == project_id)
    return db.scalar(query) or 0


def touched_since(
    project_id: int, number: ColumnElement[int], words: ColumnElement[list[int]]
) -> ColumnElement[bool]:
    """For queries: can a change after this one have touched a text that holds words of these marks?"""
    return (
        select(ListChangeRow.number)
        .where(ListChangeRow.project_id == project_id, ListChangeRow.number > number)
        .where(ListChangeRow.words.op("<@")(words))
        .exists()
    )


_compiled: dict[int, tuple[tuple[int, int], Gazetteer]] = {}


def gazetteer(db: Session, project_id: int) -> Gazetteer:
    """The project's lists that are on, compiled; kept until lists or types change."""
    numbers = revisions(db, project_id)
    stamp = (numbers.get(PLACE, 0), numbers.get(types.PLACE, 0))
    held = _compiled.get(project_id)
    if held and held[0] == stamp:
        return held[1]
    entries: dict[int, list[Entry]] = {}
    query = select(EntryRow).join(ListRow).where(ListRow.project_id == project_id, ListRow.on)
    for row in db.scalars(query.order_by(EntryRow.id)):
        entries.setdefault(row.list_id, []).append(
            Entry(preferred=row.preferred, variants=tuple(row.variants))
        )
    made = Gazetteer(
        NameList(name=x.name, type=x.type, entries=tuple(entries.get(x.id, ())))
        for x in lists_on(db, project_id)
    )
    # What a transaction has changed itself may be rolled back, and its revision be given again.
    if not has_written(db):
        _compiled[project_id] = (stamp, made)
    return made


def _touched(db: Session, project_id: int, type_id: int) -> list[types.Touched]:
    query = select(ListRow.name).where(ListRow.project_id == project_id, ListRow.type_id == type_id)
    names = tuple(db.scalars(query.order_by(ListRow.name)))
    return [types.Touched(where="lists", noun="list", count=len(names), names=names, bars=True)]


def _merge(db: Session, project_id: int, _account_id: int | None, type_id: int, into: int) -> None:
    mine = (ListRow.project_id == project_id) & (ListRow.type_id == type_id)
    changed = update(ListRow).where(mine).values(type_id=into, version=ListRow.version + 1)
    if db.scalars(changed.returning(ListRow.id)).all():
        _changed(db, project_id)


types.register_user("lists", types.TypeUser(touched=_touched, merge=_merge, retire=lambda *_: None))
