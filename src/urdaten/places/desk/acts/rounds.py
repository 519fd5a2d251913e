"""Rounds: portions of annotation work, with their texts, the people who are asked, and whether anything is suggested."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from dataclasses import dataclass

from sqlalchemy import delete, func, insert, select
from sqlalchemy.orm import Session

from urdaten.errors import BadInput, Clash, NotFound
from urdaten.places.desk.tables import RoundPersonRow, RoundRow, RoundTextRow
from urdaten.places.team import acts as team
from urdaten.places.texts import acts as texts
from urdaten.platform.revisions import bump
from urdaten.platform.versions import check_seen

ROUNDS = "rounds"
LONGEST_NAME, LONGEST_NOTE, LOWEST_PRIORITY = 60, 2000, 99


@dataclass(frozen=True, kw_only=True)
class RoundDraft:
    """What a lead says of a round besides its texts."""

    name: str
    # What the annotators should know or watch for.
    note: str = ""
    # 1 to LOWEST_PRIORITY; smaller numbers come first.
    priority: int = 1
    suggestions: bool = True
    open: bool = True
    # Accounts that are asked; with none, whoever finds the time.
    people: frozenset[int] = frozenset()


@dataclass(frozen=True, kw_only=True)
class Round(RoundDraft):
    """A round as other modules see it."""

    id: int
    version: int
    # How many.
    texts: int


def read_rounds(db: Session, project_id: int) -> list[Round]:
    """Every round of a project: open ones first, by priority, then by age."""
    query = select(RoundRow).where(RoundRow.project_id == project_id)
    rows = db.scalars(query.order_by(RoundRow.open.desc(), RoundRow.priority, RoundRow.id)).all()
    numbers = [row.id for row in rows]
    asked: dict[int, set[int]] = {number: set() for number in numbers}
    for row in db.scalars(select(RoundPersonRow).where(RoundPersonRow.round_id.in_(numbers))):
        asked[row.round_id].add(row.account_id)
    counting = select(RoundTextRow.round_id, func.count()).where(RoundTextRow.round_id.in_(numbers))
    counts = {number: count for number, count in db.execute(counting.group_by(RoundTextRow.round_id))}
    return [
        Round(
            id=row.id,
            version=row.version,
            name=row.name,
            note=row.note,
            priority=row.priority,
            suggestions=row.suggestions,
            open=row.open,
            people=frozenset(asked[row.id]),
            texts=counts.get(row.id, 0),
        )
        for row in rows
    ]


def add_round(db: Session, project_id: int, draft: RoundDraft, text_ids: Collection[int]) -> int:
    """A new round of these texts; its number. Raises BadInput, Clash for a name that is taken."""
    draft = _checked(db, project_id, draft, None)
    if not text_ids:
        raise BadInput("A round needs texts; choose them by what the queue shows.", field="texts")
    row = RoundRow(project_id=project_id, **_columns(draft))
    db.add(row)
    db.flush()
    _set_people(db, row.id, draft.people)
    _put_in(db, project_id, row.id, text_ids)
    bump(db, project_id, ROUNDS)
    return row.id


def change_round(
    db: Session,
    project_id: int,
    round_id: int,
    draft: RoundDraft,
    text_ids: Collection[int] = (),
    *,
    version: int,
    keep_texts: bool = True,
) -> None:
    """The round as the draft says, with these texts besides its own, or in their place.

    Raises BadInput, Clash for a name that is taken, NotFound, and StaleWrite when it is not in the version that was seen.
    """
    row = _own(db, project_id, round_id, to_change=True)
    (now,) = [one for one in read_rounds(db, project_id) if one.id == round_id]
    check_seen(f"“{now.name}”", vars(now), vars(draft), version)
    row.version += 1
    draft = _checked(db, project_id, draft, round_id)
    if not keep_texts and not text_ids:
        raise BadInput("A round needs texts; choose them by what the queue shows.", field="texts")
    for name, value in _columns(draft).items():
        setattr(row, name, value)
    db.flush()
    _set_people(db, round_id, draft.people)
    if not keep_texts:
        db.execute(delete(RoundTextRow).where(RoundTextRow.round_id == round_id))
    _put_in(db, project_id, round_id, text_ids)
    bump(db, project_id, ROUNDS)


def remove_round(db: Session, project_id: int, round_id: int) -> None:
    """Remove a round. What was annotated in it stays. Raises NotFound."""
    db.delete(_own(db, project_id, round_id))
    db.flush()
    bump(db, project_id, ROUNDS)


def check_round(db: Session, project_id: int, round_id: int | None) -> None:
    """Raises NotFound for a round that is not there."""
    if round_id is not None:
        _own(db, project_id, round_id)


def texts_of_round(db: Session, project_id: int, round_id: int) -> set[int]:
    """The numbers of its texts. Raises NotFound."""
    _own(db, project_id, round_id)
    return set(db.scalars(select(RoundTextRow.text_id).where(RoundTextRow.round_id == round_id)))


def silenced_by(db: Session, project_id: int) -> dict[int, str]:
    """Texts in open rounds without suggestions: their numbers, and the name of such a round."""
    query = (
        select(RoundTextRow.text_id, RoundRow.name)
        .join(RoundRow, RoundRow.id == RoundTextRow.round_id)
        .where(RoundRow.project_id == project_id, RoundRow.open, ~RoundRow.suggestions)
        .order_by(RoundRow.priority.desc(), RoundRow.id.desc())
    )
    return {text_id: name for text_id, name in db.execute(query)}


def _own(db: Session, project_id: int, round_id: int, *, to_change: bool = False) -> RoundRow:
    row = db.get(RoundRow, round_id, with_for_update=to_change or None)
    if row is None or row.project_id != project_id:
        raise NotFound(f"There is no round {round_id} in this project; it may have been removed.")
    return row


def _columns(draft: RoundDraft) -> dict[str, object]:
    columns = ("name", "note", "priority", "suggestions", "open")
    return {name: getattr(draft, name) for name in columns}


def _checked(db: Session, project_id: int, draft: RoundDraft, own: int | None) -> RoundDraft:
    """The draft without blanks around its words. Raises BadInput or Clash, naming the field."""
    name, note = draft.name.strip(), draft.note.strip()
    if not 1 <= len(name) <= LONGEST_NAME:
        raise BadInput(f"A round needs a name of 1 to {LONGEST_NAME} characters.", field="name")
    if len(note) > LONGEST_NOTE:
        raise BadInput(f"A note has at most {LONGEST_NOTE} characters, not {len(note)}.", field="note")
    if not 1 <= draft.priority <= LOWEST_PRIORITY:
        raise BadInput(
            f"A priority is 1 to {LOWEST_PRIORITY}, not {draft.priority}; 1 comes first.", field="priority"
        )
    team.check_members(db, project_id, draft.people)
    taken = select(RoundRow.id).where(RoundRow.project_id == project_id, RoundRow.name == name)
    if (found := db.scalar(taken)) is not None and found != own:
        raise Clash(f"There is already a round “{name}”.", field="name")
    return RoundDraft(
        name=name,
        note=note,
        priority=draft.priority,
        suggestions=draft.suggestions,
        open=draft.open,
        people=draft.people,
    )


def _set_people(db: Session, round_id: int, wanted: Iterable[int]) -> None:
    db.execute(delete(RoundPersonRow).where(RoundPersonRow.round_id == round_id))
    db.add_all(RoundPersonRow(round_id=round_id, account_id=number) for number in wanted)
    db.flush()


def _put_in(db: Session, project_id: int, round_id: int, text_ids: Collection[int]) -> None:
    """Put texts into a round, those that are in it already aside. Raises BadInput for one of another project."""
    index = texts.text_index(project_id)
    if unknown := set(text_ids) - set(db.scalars(select(index.c.id))):
        raise BadInput(
            f"There is no text {min(unknown)} in this project; it may have been removed.", field="texts"
        )
    new = sorted(set(text_ids) - texts_of_round(db, project_id, round_id))
    if new:
        db.execute(insert(RoundTextRow), [{"round_id": round_id, "text_id": number} for number in new])
