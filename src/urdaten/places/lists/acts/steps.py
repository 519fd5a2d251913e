"""How entries are written, in acts that are kept and can be undone: the only writer of their table."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from itertools import chain
from json import dumps
from typing import Any

from sqlalchemy import case, cast, delete, func, literal, select, text
from sqlalchemy.dialects.postgresql import REGCLASS
from sqlalchemy.orm import Session

from urdaten.core.lists import spelling_key, touch_marks
from urdaten.errors import Clash, NotFound
from urdaten.places.lists.acts.changes import EVERY_TEXT, TOLD_APART, note_change
from urdaten.places.lists.acts.entry import EntryDraft, State, draft_of, keys_of, state_of
from urdaten.places.lists.acts.lists import options_of, own_list, put_back
from urdaten.places.lists.tables import EntryRow, ListActRow, ListRow
from urdaten.places.team.acts import Project
from urdaten.platform.database import MANY, among, copy_lines, count_anew


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
# What is found hangs on these alone.
_FOUND_BY = ("preferred", "variants", "on")


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
    numbers = new_numbers(db, len(added))
    return write(db, project, named, account_id, said, steps, list(zip(numbers, added, strict=True)))


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
    steps = list(_single(row.steps))
    held = own_states(db, named.id, [number for number, *_ in steps])
    untouched = _in_first_version(db, named.id, [number for number, _, after in steps if after == ADDED])
    back: list[tuple[int, State, State]] = []
    for number, before, after in steps:
        is_so = number in untouched if after == ADDED else held.get(number) == after
        if is_so:
            back.append((number, held.get(number), before))
    back = _without_taken(db, named.id, back)
    if back:
        _write_steps(db, project, named, back)
    return ListUndone(entries=len(back), left=len(steps) - len(back))


def _single(steps: Iterable[Sequence[Any]]) -> Iterator[tuple[int, Any, Any]]:
    """Steps of one entry each: of what was added many may stand as one, from the first to the last."""
    for number, before, after, *last in steps:
        for one in range(number, (last[0] if last else number) + 1):
            yield one, before, after


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
    return {row.id: state_of(row) for row in db.scalars(query.order_by(EntryRow.id))}


def new_numbers(db: Session, count: int) -> list[int]:
    if count == 0:
        return []
    # Found once, not for each number.
    name = db.scalar(select(func.pg_get_serial_sequence("list_entry", "id")))
    sequence = func.nextval(cast(literal(name), REGCLASS))
    given = select(sequence.label("number")).select_from(func.generate_series(1, count).alias()).cte("given")
    # Of numbers that nobody else has got some of, the ends tell all.
    apart = func.max(given.c.number) - func.min(given.c.number) + 1 > count
    rest = case((apart, func.array_agg(given.c.number)))
    first, numbers = db.execute(select(func.min(given.c.number), rest)).one()
    return list(range(first, first + count)) if numbers is None else list(map(int, numbers))


def write(
    db: Session,
    project: Project,
    named: ListRow,
    account_id: int | None,
    said: str,
    steps: Sequence[tuple[int, State, State]],
    added: Sequence[tuple[int, EntryDraft]] = (),
) -> ListAct:
    """Keep what becomes of entries, and that it can be undone. Whoever asks holds the list's row."""
    if steps or added:
        _check_free(db, named, steps, added)
        _write_steps(db, project, named, steps, added)
    row = ListActRow(
        project_id=project.id,
        list_id=named.id,
        account_id=account_id,
        said=said,
        entries=len(steps) + len(added),
        of_list=None,
        steps=[*map(list, steps), *([first, None, ADDED, last] for first, last in _runs(added))],
    )
    db.add(row)
    db.flush()
    return act_of(row)


def _runs(added: Sequence[tuple[int, EntryDraft]]) -> list[tuple[int, int]]:
    """Numbers that follow one another, first and last."""
    runs: list[tuple[int, int]] = []
    for number, _ in added:
        if runs and runs[-1][1] == number - 1:
            runs[-1] = (runs[-1][0], number)
        else:
            runs.append((number, number))
    return runs


def _check_free(
    db: Session,
    named: ListRow,
    steps: Sequence[tuple[int, State, State]],
    added: Sequence[tuple[int, EntryDraft]],
) -> None:
    """Raises Clash where the list has another entry of this name."""
    wanted: dict[str, int] = {}
    becoming = ((number, after["preferred"]) for number, _, after in steps if after)
    for number, name in chain(becoming, ((number, draft.preferred) for number, draft in added)):
        if wanted.setdefault(name, number) != number:
            raise _taken(name, named.name)
    if named.size == 0:
        return
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
    db: Session,
    project: Project,
    named: ListRow,
    steps: Sequence[tuple[int, State, State]],
    added: Sequence[tuple[int, EntryDraft]] = (),
) -> None:
    gone = [number for number, _, after in steps if after is None]
    changed = [(number, after) for number, before, after in steps if before and after]
    back = [(number, draft_of(after)) for number, before, after in steps if not before and after]
    if gone:
        db.execute(delete(EntryRow).where(among(EntryRow.id, gone)))
    if changed:
        db.execute(_CHANGE, {"rows": dumps([_columns(number, after) for number, after in changed])})
    if new := [*back, *added]:
        copy_lines(db, "list_entry", _COPIED, (_row(number, draft, named.id) for number, draft in new))
        if len(new) >= MANY:
            count_anew(db, "list_entry")
    db.expire_all()
    named.size += len(new) - len(gone)
    db.flush()
    touched = _touched(project, named, steps, added)
    numbers = chain((number for number, *_ in steps), (number for number, _ in added))
    note_change(db, project.id, touched, list(numbers))


def _touched(
    project: Project,
    named: ListRow,
    steps: Sequence[tuple[int, State, State]],
    added: Sequence[tuple[int, EntryDraft]],
) -> Iterable[tuple[int, ...]]:
    """Marks of the words by which texts may be touched."""
    options = options_of(named.options)
    found: set[tuple[int, ...]] = set()
    for draft in chain(_differing(steps), (draft for _, draft in added)):
        if draft.on:
            found |= touch_marks([draft.preferred, *draft.variants], options, project.language)
        if len(found) > TOLD_APART:
            return EVERY_TEXT
    return found


def _differing(steps: Sequence[tuple[int, State, State]]) -> Iterator[EntryDraft]:
    """What entries were and what they are, where they are found by other words."""
    for _, before, after in steps:
        if not (before and after and all(before[name] == after[name] for name in _FOUND_BY)):
            yield from (draft_of(state) for state in (before, after) if state)


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
    return {
        "id": number,
        **state,
        "written": "\n".join([state["preferred"], *state["variants"]]),
        "keys": sorted({spelling_key(one) for one in (state["preferred"], *state["variants"])}),
    }


def _row(number: int, draft: EntryDraft, list_id: int) -> Sequence[object]:
    """In the order of _COPIED."""
    name, variants = draft.preferred, list(draft.variants)
    written, keys = (name, [spelling_key(name)])
    if variants:
        written, keys = "\n".join([name, *variants]), sorted(keys_of(draft))
    return (
        number, list_id, name, variants, draft.note, draft.identifier, draft.on, draft.source, written, keys, 1,
    )  # fmt: skip


_CHANGE = text(
    'UPDATE list_entry SET preferred = new.preferred, variants = new.variants, note = new.note, "on" = new."on", '
    "identifier = new.identifier, source = new.source, written = new.written, keys = new.keys, version = version + 1 "
    "FROM jsonb_to_recordset(CAST(:rows AS jsonb)) AS new(id integer, preferred varchar, variants varchar[], note varchar, "
    '"on" boolean, identifier varchar, source varchar, written varchar, keys bigint[]) WHERE list_entry.id = new.id'
)
