"""Acts on the entries of lists: one or many at a time, each kept so that it can be undone."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict
from typing import Any

from sqlalchemy.orm import Session

from urdaten.errors import NotFound
from urdaten.places.lists.acts.entry import (
    FIELDS,
    EntryDraft,
    ListEntry,
    State,
    clean,
    draft_state,
    entry_of,
    state_of,
)
from urdaten.places.lists.acts.lists import own_list
from urdaten.places.lists.acts.steps import ListAct, new_numbers, own_states, write
from urdaten.places.lists.tables import EntryRow
from urdaten.places.team.acts import Project
from urdaten.platform.versions import check_seen


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
    numbers = new_numbers(db, len(cleaned))
    added = list(zip(numbers, cleaned, strict=True))
    one = f"“{cleaned[0].preferred}”" if len(cleaned) == 1 else f"{len(cleaned)} names"
    write(db, project, named, account_id, said or f"the adding of {one}", [], added)
    return [
        ListEntry(id=n, version=1, **{name: getattr(draft, name) for name in FIELDS})
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
    before, after = state_of(row), draft_state(cleaned) | {"source": row.source}
    said = f"the change of “{row.preferred}”"
    if before | {"on": after["on"]} == after:
        said = f"turning “{row.preferred}” {'on' if after['on'] else 'off'}"
    write(db, project, named, account_id, said, [(entry_id, before, after)])
    db.refresh(row)
    return entry_of(row)


def remove_entry(
    db: Session, project: Project, list_id: int, entry_id: int, account_id: int | None = None
) -> None:
    """Delete an entry; that can be undone. Raises NotFound."""
    named = own_list(db, project.id, list_id, to_change=True)
    row = own_entry(db, list_id, entry_id)
    said = f"the deletion of “{row.preferred}”"
    write(db, project, named, account_id, said, [(entry_id, state_of(row), None)])


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
    return write(db, project, named, account_id, said.format(words), steps)
