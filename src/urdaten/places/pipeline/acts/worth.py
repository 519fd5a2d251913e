"""What each entry of a list is worth: summed up from what is counted text by text."""

from __future__ import annotations

from sqlalchemy import FromClause, Table, case, cast, delete, func, insert, literal, select, update
from sqlalchemy.orm import Session
from sqlalchemy.types import Float

from urdaten.places.desk import acts as desk
from urdaten.places.lists import acts as lists
from urdaten.places.pipeline.acts import store
from urdaten.places.pipeline.acts.finds import counted_row, summed_of
from urdaten.places.pipeline.tables import CountedRow, EntryFindsRow, EntryWorthRow
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types
from urdaten.platform.database import attempt, table_of

_FINDS = table_of(EntryFindsRow)
_WORTH: Table = table_of(EntryWorthRow)
_SUMS = ("finds", "judged", "right", "small")


def entry_worths(db: Session, project: Project) -> FromClause:
    """A row for each entry that is found or stands in small letters: entry_id, list_id, finds, judged, right, small and harm,
    as far as it is counted."""
    row = counted_row(db, project.id)
    if row is not None:
        of = summed_of(db, project, row)
        if row.weighed != of and store.get_hold(db, project.id):
            mine = update(CountedRow).where(CountedRow.project_id == project.id)

            def keep() -> None:
                _weigh(db, project)
                db.execute(mine.values(weighed=of))

            attempt(db, keep)
    return select(_WORTH).where(_WORTH.c.project_id == project.id).subquery()


def _weigh(db: Session, project: Project) -> None:
    index = texts.text_index(project.id)
    entries = lists.entry_index(project.id)
    gold = desk.gold_by_type(db, project)
    loud = desk.is_loud(db, project, index)
    sums = (
        select(
            _FINDS.c.entry_id,
            entries.c.list_id,
            entries.c.type_id,
            *(func.sum(_FINDS.c[name]).label(name) for name in _SUMS),
        )
        .join(index, index.c.id == _FINDS.c.text_id)
        .join(entries, entries.c.id == _FINDS.c.entry_id)
        .where(_FINDS.c.project_id == project.id, loud)
        .group_by(_FINDS.c.entry_id, entries.c.list_id, entries.c.type_id)
        .cte("sums")
    )
    of_list = {name: func.sum(sums.c[name]).over(partition_by=sums.c.list_id) for name in ("judged", "right")}
    golden = (
        case(*((sums.c.type_id == number, literal(count)) for number, count in gold.items()), else_=0)
        if gold
        else literal(0)
    )

    # F1 = 2 · right / (judged + gold), with the entry and without it.
    before = of_list["right"] / func.nullif(cast(of_list["judged"] + golden, Float), 0)
    after = (of_list["right"] - sums.c.right) / func.nullif(
        cast(of_list["judged"] - sums.c.judged + golden, Float), 0
    )
    harm = 200 * (func.coalesce(after, 0.0) - func.coalesce(before, 0.0))
    made = select(
        sums.c.entry_id,
        literal(project.id),
        sums.c.list_id,
        *(sums.c[name] for name in _SUMS),
        case((sums.c.judged == 0, 0.0), else_=harm),
    )
    db.execute(delete(_WORTH).where(_WORTH.c.project_id == project.id))
    db.execute(insert(_WORTH).from_select(["entry_id", "project_id", "list_id", *_SUMS, "harm"], made))


def gold_of_type(db: Session, project: Project, code: str) -> int:
    """Spans of a type in signed sentences of texts that are not quiet."""
    return desk.gold_by_type(db, project).get(types.type_numbers(db, project.id, [code])[code], 0)


def scores(right: int, judged: int, gold: int) -> tuple[float | None, float | None, float | None]:
    """Precision, recall and F1; None where there is nothing to divide by."""
    return (
        right / judged if judged else None,
        right / gold if gold else None,
        2 * right / (judged + gold) if judged + gold else None,
    )
