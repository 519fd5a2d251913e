"""Acts on lists as a whole."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass, fields
from typing import Any

from sqlalchemy import func, select, update
from sqlalchemy.orm import Session

from urdaten.core.lists import CASES, ListOptions
from urdaten.errors import BadInput, Clash, NotFound
from urdaten.places.lists.acts.changes import note_change
from urdaten.places.lists.tables import EntryRow, ListActRow, ListRow
from urdaten.places.types import acts as types
from urdaten.platform.versions import check_seen

MOST_LENGTH = 100
MOST_WITHIN = 50
MOST_PHRASES = 200
MOST_PHRASE = 100
_DEFAULT = ListOptions()


@dataclass(frozen=True, kw_only=True)
class ListDraft:
    """What a lead says of a list."""

    name: str
    type: str
    on: bool = True
    options: ListOptions = _DEFAULT


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


def options_of(kept: Mapping[str, Any]) -> ListOptions:
    """Options as they are kept: what differs from the default."""
    values: dict[str, Any] = {name: tuple(v) if isinstance(v, list) else v for name, v in kept.items()}
    return ListOptions(**values)


def kept_options(options: ListOptions) -> dict[str, Any]:
    """What differs from the default, in JSON."""
    values = {field.name: getattr(options, field.name) for field in fields(options)}
    return {
        name: list(value) if isinstance(value, tuple) else value
        for name, value in values.items()
        if value != getattr(_DEFAULT, name)
    }


def _present(project_id: int) -> Any:
    return (ListRow.project_id == project_id) & ListRow.removed_at.is_(None)


def _named(row: ListRow, codes: Mapping[int, str]) -> NamedList:
    return NamedList(
        id=row.id,
        name=row.name,
        type=codes[row.type_id],
        on=row.on,
        options=options_of(row.options),
        entries=row.size,
        version=row.version,
    )


def read_lists(db: Session, project_id: int) -> list[NamedList]:
    """Every list, by name."""
    codes = types.type_codes(db, project_id)
    query = select(ListRow).where(_present(project_id)).order_by(ListRow.name)
    return [_named(row, codes) for row in db.scalars(query)]


def lists_on(db: Session, project_id: int) -> list[ListOn]:
    """Every list that is on, by name."""
    codes = types.type_codes(db, project_id)
    query = select(ListRow.id, ListRow.name, ListRow.type_id).where(_present(project_id), ListRow.on)
    return [
        ListOn(id=number, name=name, type=codes[type_id])
        for number, name, type_id in db.execute(query.order_by(ListRow.name))
    ]


def read_list(db: Session, project_id: int, list_id: int) -> NamedList:
    """Raises NotFound for a list that there is not."""
    return _named(own_list(db, project_id, list_id), types.type_codes(db, project_id))


def own_list(db: Session, project_id: int, list_id: int, *, to_change: bool = False) -> ListRow:
    """The row, held against other writers if it is to be changed. Raises NotFound."""
    row = db.get(ListRow, list_id, with_for_update=to_change or None, populate_existing=to_change)
    if row is None or row.project_id != project_id or row.removed_at is not None:
        raise NotFound(f"There is no list {list_id} in this project; it may have been removed.")
    return row


def _check(db: Session, project_id: int, draft: ListDraft, own_id: int | None) -> int:
    if not draft.name.strip():
        raise BadInput("A list needs a name.", field="name")
    taken = select(ListRow.id).where(_present(project_id), ListRow.name == draft.name.strip())
    if db.scalar(taken) not in (None, own_id):
        raise Clash(f"There is already a list “{draft.name.strip()}”; choose another name.", field="name")
    _check_options(draft.options)
    return types.type_numbers(db, project_id, [draft.type])[draft.type]


def _check_options(options: ListOptions) -> None:
    if options.case not in CASES:
        raise BadInput(f"Case is one of {', '.join(CASES)}, not {options.case!r}.", field="case")
    for name in ("exact_below", "shortest"):
        if not 0 <= getattr(options, name) <= MOST_LENGTH:
            raise BadInput(f"A length is between 0 and {MOST_LENGTH} letters.", field=name)
    if not 1 <= options.within <= MOST_WITHIN:
        raise BadInput(f"Words are looked for within 1 to {MOST_WITHIN} tokens.", field="within")
    for name in ("near", "not_after", "not_before"):
        phrases = getattr(options, name)
        if len(phrases) > MOST_PHRASES:
            raise BadInput(f"At most {MOST_PHRASES} words or phrases.", field=name)
        if any(not phrase.strip() or len(phrase) > MOST_PHRASE for phrase in phrases):
            raise BadInput(f"A word or phrase has 1 to {MOST_PHRASE} characters.", field=name)


def _state(row: ListRow) -> dict[str, Any]:
    return {"name": row.name, "type_id": row.type_id, "on": row.on, "options": row.options}


def _keep(db: Session, row: ListRow, account_id: int | None, said: str, before: Any, after: Any) -> None:
    db.add(
        ListActRow(
            project_id=row.project_id,
            list_id=row.id,
            account_id=account_id,
            said=said,
            entries=0,
            of_list=[before, after],
            steps=[],
        )
    )
    db.flush()


def add_list(db: Session, project_id: int, draft: ListDraft, account_id: int | None = None) -> NamedList:
    """Raises BadInput and Clash, naming the field."""
    type_id = _check(db, project_id, draft, None)
    row = ListRow(
        project_id=project_id,
        name=draft.name.strip(),
        type_id=type_id,
        on=draft.on,
        options=kept_options(draft.options),
    )
    db.add(row)
    db.flush()
    _keep(db, row, account_id, f"the new list “{row.name}”", None, _state(row))
    note_change(db, project_id, ())
    return read_list(db, project_id, row.id)


def change_list(
    db: Session, project_id: int, list_id: int, draft: ListDraft, version: int, account_id: int | None = None
) -> NamedList:
    """Raises StaleWrite when the list is not in the version that was seen."""
    row = own_list(db, project_id, list_id, to_change=True)
    now = read_list(db, project_id, list_id)
    check_seen(f"“{now.name}”", asdict(now), asdict(draft), version)
    type_id = _check(db, project_id, draft, list_id)
    before = _state(row)
    _set(
        row,
        {
            "name": draft.name.strip(),
            "type_id": type_id,
            "on": draft.on,
            "options": kept_options(draft.options),
        },
    )
    db.flush()
    if _state(row) != before:
        _keep(db, row, account_id, f"the change of the list “{row.name}”", before, _state(row))
    note_change(db, project_id)
    return read_list(db, project_id, list_id)


def _set(row: ListRow, state: Mapping[str, Any]) -> None:
    row.version += 1
    row.name, row.type_id, row.on = state["name"], state["type_id"], state["on"]
    row.options = state["options"]


def remove_list(db: Session, project_id: int, list_id: int, account_id: int | None = None) -> None:
    """Delete a list with its entries; that can be undone."""
    row = own_list(db, project_id, list_id, to_change=True)
    row.removed_at = func.now()
    db.flush()
    _keep(db, row, account_id, f"the deletion of the list “{row.name}”", _state(row), None)
    note_change(db, project_id)


def put_back(db: Session, row: ListRow, before: Any, after: Any) -> bool:
    """Undo what was done to a list as a whole; False, and nothing done, where it has been changed since.

    Raises Clash where another list has its name by now.
    """
    if (None if row.removed_at else _state(row)) != after:
        return False
    if before is None:
        row.removed_at = func.now()
    else:
        state = before if after else _state(row)
        taken = select(ListRow.id).where(_present(row.project_id), ListRow.name == state["name"])
        if db.scalar(taken) not in (None, row.id):
            raise Clash(f"Another list is called “{state['name']}” by now; rename that one first.")
        if state["type_id"] not in types.type_codes(db, row.project_id):
            raise Clash(f"The type of “{state['name']}” is not in the scheme any more.")
        row.removed_at = None
        _set(row, state)
    db.flush()
    note_change(db, row.project_id)
    return True


def count_entries_anew(db: Session, project_id: int) -> None:
    """For entries that came by another way than acts."""
    count = select(func.count()).where(EntryRow.list_id == ListRow.id).scalar_subquery()
    db.execute(update(ListRow).where(ListRow.project_id == project_id).values(size=count))


def _touched(db: Session, project_id: int, type_id: int) -> list[types.Touched]:
    query = select(ListRow.name).where(_present(project_id), ListRow.type_id == type_id)
    names = tuple(db.scalars(query.order_by(ListRow.name)))
    return [types.Touched(where="lists", noun="list", count=len(names), names=names, bars=True)]


def _merge(db: Session, project_id: int, _account_id: int | None, type_id: int, into: int) -> None:
    # Deleted ones too: they may come back.
    mine = (ListRow.project_id == project_id) & (ListRow.type_id == type_id)
    changed = update(ListRow).where(mine).values(type_id=into, version=ListRow.version + 1)
    if db.scalars(changed.returning(ListRow.id)).all():
        note_change(db, project_id)


types.register_user("lists", types.TypeUser(touched=_touched, merge=_merge, retire=lambda *_: None))
