"""Acts on the entries of lists: one or many at a time, each kept so that it can be undone."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import asdict, dataclass, fields
from datetime import datetime
from json import dumps
from typing import Any

from sqlalchemy import delete, func, select, text
from sqlalchemy.orm import Session

from urdaten.core.lists import spelling_key, touch_marks
from urdaten.errors import BadInput, Clash, NotFound
from urdaten.places.lists.acts.changes import EVERY_TEXT, TOLD_APART, note_change
from urdaten.places.lists.acts.lists import options_of, own_list, put_back
from urdaten.places.lists.tables import EntryRow, ListActRow, ListRow
from urdaten.places.team.acts import Project
from urdaten.platform.database import MANY, among, copy_rows, count_anew
from urdaten.platform.versions import check_seen

MOST_CHARACTERS = 300
MOST_VARIANTS = 200
MOST_NOTE = 2000
MOST_IDENTIFIER = 300


@dataclass(frozen=True, kw_only=True)
class EntryDraft:
    """What a lead says of an entry."""

    preferred: str
    variants: tuple[str, ...] = ()
    note: str = ""
    identifier: str = ""
    on: bool = True
    # Where it came from, in words; "" where somebody typed it.
    source: str = ""


@dataclass(frozen=True, kw_only=True)
class ListEntry(EntryDraft):
    """An entry as other places see it."""

    id: int
    version: int


@dataclass(frozen=True, kw_only=True)
class ListAct:
    """Something that was done to a list or its entries."""

    id: int
    list_id: int
    # In words, as in "Undo …".
    said: str
    entries: int
    at: datetime
    undone: bool


@dataclass(frozen=True, kw_only=True)
class ListUndone:
    """What came of undoing: entries that are as before, and those that somebody has changed since, which stay."""

    entries: int
    left: int


# Of a new entry no act says what it was: it is so as long as it has its first version.
ADDED = "added"
# What an entry was, by field; None for not there.
State = dict[str, Any] | None
_FIELDS = tuple(field.name for field in fields(EntryDraft))
# What is found hangs on these alone.
_FOUND_BY = ("preferred", "variants", "on")


def entry_of(row: EntryRow) -> ListEntry:
    """As other places see it."""
    values = {name: getattr(row, name) for name in _FIELDS}
    return ListEntry(id=row.id, version=row.version, **(values | {"variants": tuple(row.variants)}))


def _state(row: EntryRow) -> dict[str, Any]:
    return {name: getattr(row, name) for name in _FIELDS}


def _draft_state(draft: EntryDraft) -> dict[str, Any]:
    return {name: getattr(draft, name) for name in _FIELDS} | {"variants": list(draft.variants)}


def clean(draft: EntryDraft) -> EntryDraft:
    """Without needless white space, each variant once. Raises BadInput, naming the field."""
    preferred = " ".join(draft.preferred.split())
    if not preferred:
        raise BadInput("An entry needs a name.", field="preferred")
    variants = dict.fromkeys(" ".join(variant.split()) for variant in draft.variants)
    variants.pop("", None)
    variants.pop(preferred, None)
    for name, field in ((preferred, "preferred"), *((variant, "variants") for variant in variants)):
        if len(name) > MOST_CHARACTERS:
            raise BadInput(f"A name has at most {MOST_CHARACTERS} characters: “{name[:40]}…”.", field=field)
    if len(variants) > MOST_VARIANTS:
        raise BadInput(f"An entry has at most {MOST_VARIANTS} variants.", field="variants")
    identifier, note = draft.identifier.strip(), draft.note.strip()
    if len(identifier) > MOST_IDENTIFIER:
        raise BadInput(f"An identifier has at most {MOST_IDENTIFIER} characters.", field="identifier")
    if len(note) > MOST_NOTE:
        raise BadInput(f"A note has at most {MOST_NOTE} characters.", field="note")
    return EntryDraft(
        preferred=preferred,
        variants=tuple(variants),
        note=note,
        identifier=identifier,
        on=draft.on,
        source=draft.source.strip(),
    )


def keys_of(draft: EntryDraft) -> set[int]:
    """Of every way it is written what it shares with names that look alike."""
    return {spelling_key(one) for one in (draft.preferred, *draft.variants)}


def add_entries(
    db: Session,
    project: Project,
    list_id: int,
    drafts: Sequence[EntryDraft],
    account_id: int | None = None,
    said: str = "",
) -> list[ListEntry]:
    """New entries, all or none. Raises Clash for a preferred name that the list has already."""
    named = own_list(db, project.id, list_id, to_change=True)
    cleaned = [clean(draft) for draft in drafts]
    numbers = _new_numbers(db, len(cleaned))
    steps = [(n, None, _draft_state(draft)) for n, draft in zip(numbers, cleaned, strict=True)]
    one = f"“{cleaned[0].preferred}”" if len(cleaned) == 1 else f"{len(cleaned)} names"
    _write(db, project, named, account_id, said or f"the adding of {one}", steps)
    return [
        ListEntry(id=n, version=1, **{name: getattr(draft, name) for name in _FIELDS})
        for n, draft in zip(numbers, cleaned, strict=True)
    ]


def change_entry(
    db: Session,
    project: Project,
    list_id: int,
    entry_id: int,
    draft: EntryDraft,
    version: int,
    account_id: int | None = None,
) -> ListEntry:
    """Raises StaleWrite when the entry is not in the version that was seen."""
    named = own_list(db, project.id, list_id, to_change=True)
    row = own_entry(db, list_id, entry_id)
    cleaned = clean(draft)
    check_seen(f"“{row.preferred}”", asdict(entry_of(row)), asdict(cleaned), version)
    before, after = _state(row), _draft_state(cleaned) | {"source": row.source}
    said = f"the change of “{row.preferred}”"
    if before | {"on": after["on"]} == after:
        said = f"turning “{row.preferred}” {'on' if after['on'] else 'off'}"
    _write(db, project, named, account_id, said, [(entry_id, before, after)])
    db.refresh(row)
    return entry_of(row)


def remove_entry(
    db: Session, project: Project, list_id: int, entry_id: int, account_id: int | None = None
) -> None:
    """Delete an entry; that can be undone. Raises NotFound."""
    named = own_list(db, project.id, list_id, to_change=True)
    row = own_entry(db, list_id, entry_id)
    said = f"the deletion of “{row.preferred}”"
    _write(db, project, named, account_id, said, [(entry_id, _state(row), None)])


def own_entry(db: Session, list_id: int, entry_id: int) -> EntryRow:
    """Raises NotFound for an entry that the list has not."""
    row = db.get(EntryRow, entry_id, populate_existing=True)
    if row is None or row.list_id != list_id:
        raise NotFound(f"There is no entry {entry_id} in this list; it may have been removed.")
    return row


def switch_entries(
    db: Session, project: Project, list_id: int, numbers: Sequence[int], on: bool, account_id: int | None
) -> ListAct:
    """Many entries on or off, in one act. Raises NotFound where none of them is there."""
    return _change_many(
        db, project, list_id, numbers, account_id, f"turning {{}} {'on' if on else 'off'}", {"on": on}
    )


def remove_entries(
    db: Session, project: Project, list_id: int, numbers: Sequence[int], account_id: int | None
) -> ListAct:
    """Many entries deleted, in one act. Raises NotFound where none of them is there."""
    return _change_many(db, project, list_id, numbers, account_id, "the deletion of {}", None)


def _change_many(
    db: Session,
    project: Project,
    list_id: int,
    numbers: Sequence[int],
    account_id: int | None,
    said: str,
    change: dict[str, Any] | None,
) -> ListAct:
    named = own_list(db, project.id, list_id, to_change=True)
    held = own_states(db, list_id, numbers)
    if not held:
        raise NotFound("None of these names is in the list any more; look again.")
    steps: list[tuple[int, State, State]] = [
        (number, state, None if change is None else state | change)
        for number, state in held.items()
        if change is None or state | change != state
    ]
    words = "1 name" if len(steps) == 1 else f"{len(steps)} names"
    return _write(db, project, named, account_id, said.format(words), steps)


def write_steps(
    db: Session,
    project: Project,
    list_id: int,
    account_id: int | None,
    said: str,
    steps: Sequence[tuple[int, State, State]],
    added: Sequence[EntryDraft],
) -> ListAct:
    """Entries changed or deleted and new ones, in one act; drafts are cleaned already."""
    named = own_list(db, project.id, list_id, to_change=True)
    numbers = _new_numbers(db, len(added))
    new = ((n, None, _draft_state(draft)) for n, draft in zip(numbers, added, strict=True))
    return _write(db, project, named, account_id, said, [*steps, *new])


def undo_act(db: Session, project: Project, number: int) -> ListUndone:
    """What the act touched is as before, but what somebody has changed since.

    Raises NotFound for an act that there is not, Clash for one that is undone already or whose name is taken.
    """
    row = db.get(ListActRow, number, with_for_update=True)
    if row is None or row.project_id != project.id:
        raise NotFound(f"There is no act {number} on lists in this project.")
    if row.undone_at is not None:
        raise Clash("This is undone already.")
    named = db.get(ListRow, row.list_id, with_for_update=True, populate_existing=True)
    assert named is not None
    row.undone_at = func.now()
    if row.of_list is not None:
        done = put_back(db, named, *row.of_list)
        return ListUndone(entries=0, left=0 if done else 1)
    if named.removed_at is not None:
        raise Clash(f"The list “{named.name}” is deleted; undo that first.")
    held = own_states(db, named.id, [number for number, *_ in row.steps])
    untouched = _in_first_version(db, named.id, [number for number, _, after in row.steps if after == ADDED])
    back: list[tuple[int, State, State]] = []
    for number, before, after in row.steps:
        is_so = number in untouched if after == ADDED else held.get(number) == after
        if is_so:
            back.append((number, held.get(number), before))
    back = _without_taken(db, named.id, back)
    if back:
        _write_steps(db, project, named, back)
    return ListUndone(entries=len(back), left=len(row.steps) - len(back))


def _in_first_version(db: Session, list_id: int, numbers: Sequence[int]) -> set[int]:
    """Those of the entries that nobody has changed since they were added."""
    query = select(EntryRow.id).where(EntryRow.list_id == list_id, EntryRow.version == 1)
    return set(db.scalars(query.where(among(EntryRow.id, numbers))))


def _without_taken(
    db: Session, list_id: int, steps: Sequence[tuple[int, State, State]]
) -> list[tuple[int, State, State]]:
    """Those whose name no other entry has got since."""
    names = {after["preferred"]: number for number, _, after in steps if after}
    query = select(EntryRow.id, EntryRow.preferred).where(
        EntryRow.list_id == list_id, EntryRow.preferred == func.any(list(names))
    )
    taken = {preferred for number, preferred in db.execute(query) if names[preferred] != number}
    return [step for step in steps if not (step[2] and step[2]["preferred"] in taken)]


def latest_act(db: Session, project_id: int, account_id: int) -> ListAct | None:
    """The last one of this person that stands."""
    query = select(ListActRow).where(
        ListActRow.project_id == project_id,
        ListActRow.account_id == account_id,
        ListActRow.undone_at.is_(None),
    )
    row = db.scalar(query.order_by(ListActRow.id.desc()).limit(1))
    return None if row is None else act_of(row)


def act_of(row: ListActRow) -> ListAct:
    """As other places see it."""
    return ListAct(
        id=row.id,
        list_id=row.list_id,
        said=row.said,
        entries=row.entries,
        at=row.created_at,
        undone=row.undone_at is not None,
    )


def own_states(db: Session, list_id: int, numbers: Sequence[int]) -> dict[int, dict[str, Any]]:
    """What these entries are now, by number, ascending."""
    query = select(EntryRow).where(EntryRow.list_id == list_id, among(EntryRow.id, numbers))
    return {row.id: _state(row) for row in db.scalars(query.order_by(EntryRow.id))}


def _new_numbers(db: Session, count: int) -> list[int]:
    sequence = func.nextval(func.pg_get_serial_sequence("list_entry", "id"))
    query = select(sequence).select_from(func.generate_series(1, count).alias())
    return [int(number) for number in db.scalars(query)] if count else []


def _write(
    db: Session,
    project: Project,
    named: ListRow,
    account_id: int | None,
    said: str,
    steps: Sequence[tuple[int, State, State]],
) -> ListAct:
    """Keep what becomes of entries, and that it can be undone. Whoever asks holds the list's row."""
    if steps:
        _check_free(db, named, steps)
        _write_steps(db, project, named, steps)
    row = ListActRow(
        project_id=project.id,
        list_id=named.id,
        account_id=account_id,
        said=said,
        entries=len(steps),
        of_list=None,
        steps=[[number, before, after if before else ADDED] for number, before, after in steps],
    )
    db.add(row)
    db.flush()
    return act_of(row)


def _check_free(db: Session, named: ListRow, steps: Sequence[tuple[int, State, State]]) -> None:
    """Raises Clash where the list has another entry of this name."""
    wanted: dict[str, int] = {}
    for number, _, after in steps:
        if after and wanted.setdefault(after["preferred"], number) != number:
            raise _taken(after["preferred"], named.name)
    query = select(EntryRow.id, EntryRow.preferred).where(
        EntryRow.list_id == named.id, EntryRow.preferred == func.any(list(wanted))
    )
    leaving = {number for number, _, after in steps if after is None}
    changing = {number: after["preferred"] for number, before, after in steps if before and after}
    for number, preferred in db.execute(query):
        if (
            number != wanted[preferred]
            and number not in leaving
            and changing.get(number, preferred) == preferred
        ):
            raise _taken(preferred, named.name)


def _taken(preferred: str, name: str) -> Clash:
    return Clash(f"“{preferred}” is already in the list “{name}”; change that entry.", field="preferred")


def _write_steps(
    db: Session, project: Project, named: ListRow, steps: Sequence[tuple[int, State, State]]
) -> None:
    gone = [number for number, _, after in steps if after is None]
    changed = [(number, after) for number, before, after in steps if before and after]
    added = [(number, after) for number, before, after in steps if not before and after]
    if gone:
        db.execute(delete(EntryRow).where(among(EntryRow.id, gone)))
    if changed:
        db.execute(_CHANGE, {"rows": dumps([_columns(number, after) for number, after in changed])})
    if added:
        rows = (_columns(number, after) | {"list_id": named.id, "version": 1} for number, after in added)
        copy_rows(db, "list_entry", _COPIED, ([row[name] for name in _COPIED] for row in rows))
        if len(added) >= MANY:
            count_anew(db, "list_entry")
    db.expire_all()
    named.size += len(added) - len(gone)
    db.flush()
    note_change(db, project.id, _touched(project, named, steps), [number for number, *_ in steps])


def _touched(
    project: Project, named: ListRow, steps: Sequence[tuple[int, State, State]]
) -> Iterable[tuple[int, ...]]:
    """Marks of the words by which texts may be touched."""
    options = options_of(named.options)
    found: set[tuple[int, ...]] = set()
    for _, before, after in steps:
        if before and after and all(before[name] == after[name] for name in _FOUND_BY):
            continue
        for state in (before, after):
            if state and state["on"]:
                found |= touch_marks([state["preferred"], *state["variants"]], options, project.language)
        if len(found) > TOLD_APART:
            return EVERY_TEXT
    return found


_COPIED = (
    *(
        "id",
        "list_id",
        "preferred",
        "variants",
        "note",
        "identifier",
        "on",
        "source",
        "written",
        "keys",
        "version",
    ),
)


def _columns(number: int, state: Mapping[str, Any]) -> dict[str, Any]:
    ways = [state["preferred"], *state["variants"]]
    keys = sorted({spelling_key(one) for one in ways})
    return {"id": number, **state, "written": "\n".join(ways), "keys": keys}


_CHANGE = text(
    'UPDATE list_entry SET preferred = new.preferred, variants = new.variants, note = new.note, "on" = new."on", '
    "identifier = new.identifier, source = new.source, written = new.written, keys = new.keys, version = version + 1 "
    "FROM jsonb_to_recordset(CAST(:rows AS jsonb)) AS new(id integer, preferred varchar, variants varchar[], note varchar, "
    '"on" boolean, identifier varchar, source varchar, written varchar, keys bigint[]) WHERE list_entry.id = new.id'
)
