"""What changes of lists can have touched, so that most texts are left alone when a name changes."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from sqlalchemy import ColumnElement, func, select
from sqlalchemy.orm import Session

from urdaten.places.lists.tables import ListChangeRow
from urdaten.platform.revisions import bump

PLACE = "lists"
# Changes with so many different words at once are told apart by them; of more, every text may be touched.
TOLD_APART = 50
_CHANGE_LOCK = 0x115C4
EVERY_TEXT: frozenset[tuple[int, ...]] = frozenset({()})


def note_change(
    db: Session, project_id: int, words: Iterable[tuple[int, ...]] = EVERY_TEXT, entries: Sequence[int] = ()
) -> None:
    """Note which texts a change can have touched, by the marks of words, and which entries it was of."""
    marks = set(words)
    if len(marks) > TOLD_APART or () in marks:
        marks = set(EVERY_TEXT)
    if marks:
        # One after the other, so that whoever sees a number sees all that was changed before it.
        db.execute(select(func.pg_advisory_xact_lock(_CHANGE_LOCK, project_id)))
        last = last_change(db, project_id)
        db.add_all(
            ListChangeRow(
                project_id=project_id,
                number=number,
                words=list(own),
                entries=[] if number > last + 1 else list(entries),
            )
            for number, own in enumerate(sorted(marks), start=last + 1)
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


def entries_changed_since(db: Session, project_id: int, number: int) -> set[int]:
    """Entries that were added, changed or deleted after this change."""
    query = select(func.unnest(ListChangeRow.entries)).where(
        ListChangeRow.project_id == project_id, ListChangeRow.number > number
    )
    return set(db.scalars(query.distinct()))
