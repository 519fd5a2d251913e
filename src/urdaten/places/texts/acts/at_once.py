"""What is done to many texts at once, and undone."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime
from json import dumps
from typing import Any

from sqlalchemy import func, select, text
from sqlalchemy.orm import Session

from urdaten.errors import BadInput, Clash, NotFound
from urdaten.places.texts.acts.changing import PLACE
from urdaten.places.texts.acts.portions import Which, conditions
from urdaten.places.texts.acts.reading import SPLITS
from urdaten.places.texts.tables import TextActRow, TextRow
from urdaten.platform.database import among
from urdaten.platform.revisions import bump

CHANGE, REMOVE = "change", "remove"
MOST_META, LONGEST_NAME, LONGEST_VALUE = 200, 200, 4000


@dataclass(frozen=True, kw_only=True)
class ChangeDraft:
    """What becomes of each text; None leaves a thing as it is."""

    group: str | None = None
    split: str | None = None
    dated: date | None = None
    # Takes the date away.
    undated: bool = False
    # What its source says of it: by name, a value, or None to take it away.
    meta: Mapping[str, str | None] = field(default_factory=dict)

    def check(self) -> None:
        """Raises BadInput, naming the field."""
        if self.split is not None and self.split not in SPLITS:
            raise BadInput(f"A split is one of {', '.join(SPLITS)}, not {self.split!r}.", field="split")
        for name, value in self.meta.items():
            if not name.strip() or len(name) > LONGEST_NAME:
                raise BadInput(f"A name of metadata has 1 to {LONGEST_NAME} characters.", field="meta")
            if value is not None and len(value) > LONGEST_VALUE:
                raise BadInput(f"“{name}” has at most {LONGEST_VALUE} characters.", field="meta")
        if self == ChangeDraft():
            raise BadInput("Say what shall change: group, split, date or metadata.", field="split")


@dataclass(frozen=True, kw_only=True)
class TextAct:
    """Something that was done to many texts at once."""

    id: int
    kind: str
    # How many it touched.
    texts: int
    at: datetime
    undone: bool


@dataclass(frozen=True, kw_only=True)
class Undone:
    """What came of undoing an act: texts that are as before, and those that somebody has changed since, which stay."""

    texts: int
    left: int


# Group, split, date and metadata of a text; the date as ISO has it.
Fields = dict[str, Any]


def numbers_meant(db: Session, project_id: int, which: Which, expected: int | None) -> list[int]:
    """Numbers of those texts, ascending. Raises Clash where there are not as many as whoever asks has seen."""
    query = select(TextRow.id).where(TextRow.project_id == project_id, *conditions(which))
    numbers = list(db.scalars(query.order_by(TextRow.id)))
    if expected is not None and len(numbers) != expected:
        raise Clash(
            f"You saw {expected} texts, and now there are {len(numbers)}; nothing was changed. Look again."
        )
    return numbers


def change_texts(
    db: Session, project_id: int, account_id: int | None, numbers: Sequence[int], draft: ChangeDraft
) -> TextAct:
    """Texts with another group, split, date or metadata, in one act that can be undone.

    Raises BadInput for what cannot be kept, NotFound where no such text is there.
    """
    draft.check()

    def after(_number: int, now: Fields) -> Fields:
        wanted: Fields = {}
        if draft.group is not None:
            wanted["group"] = draft.group.strip()
        if draft.split is not None:
            wanted["split"] = draft.split
        if draft.dated is not None or draft.undated:
            wanted["dated"] = draft.dated.isoformat() if draft.dated else None
        if draft.meta:
            merged = now["meta"] | {name.strip(): value for name, value in draft.meta.items()}
            wanted["meta"] = {name: value for name, value in merged.items() if value is not None}
            if len(wanted["meta"]) > MOST_META:
                raise BadInput(f"A text has at most {MOST_META} kinds of metadata.", field="meta")
        return wanted

    return _change(db, project_id, account_id, numbers, after)


def assign_splits(db: Session, project_id: int, account_id: int | None, splits: Mapping[int, str]) -> TextAct:
    """Each text's split, in one act that can be undone."""
    return _change(db, project_id, account_id, splits, lambda number, _now: {"split": splits[number]})


def _change(
    db: Session,
    project_id: int,
    account_id: int | None,
    numbers: Iterable[int],
    after: Callable[[int, Fields], Fields],
) -> TextAct:
    there = _held(db, project_id, list(numbers))
    if not there:
        raise NotFound("None of these texts is here any more; look again.")
    steps: list[tuple[int, Fields, Fields]] = []
    for number, now in there.items():
        wanted = {name: value for name, value in after(number, now).items() if now[name] != value}
        if wanted:
            steps.append((number, {name: now[name] for name in wanted}, wanted))
    _write(db, [(number, there[number] | wanted) for number, _, wanted in steps])
    row = TextActRow(project_id=project_id, account_id=account_id, kind=CHANGE, texts=len(steps), steps=steps)
    db.add(row)
    db.flush()
    if steps:
        bump(db, project_id, PLACE)
    return act_of(row)


def keep_removal(db: Session, project_id: int, account_id: int | None, numbers: Sequence[int]) -> TextAct:
    """Note that these texts were moved to the bin."""
    row = TextActRow(
        project_id=project_id, account_id=account_id, kind=REMOVE, texts=len(numbers), steps=list(numbers)
    )
    db.add(row)
    db.flush()
    return act_of(row)


def latest_act(db: Session, project_id: int) -> TextAct | None:
    """The last one that stands and touched something."""
    query = select(TextActRow).where(
        TextActRow.project_id == project_id, TextActRow.undone_at.is_(None), TextActRow.texts > 0
    )
    row = db.scalar(query.order_by(TextActRow.id.desc()).limit(1))
    return None if row is None else act_of(row)


def act_to_undo(db: Session, project_id: int, number: int) -> TextActRow:
    """Raises NotFound for an act that there is not, Clash for one that is undone already."""
    row = db.get(TextActRow, number, with_for_update=True)
    if row is None or row.project_id != project_id:
        raise NotFound(f"There is no act {number} on texts in this project.")
    if row.undone_at is not None:
        raise Clash("This is undone already.")
    return row


def undo_change(db: Session, row: TextActRow) -> Undone:
    """Every text that still is as the act made it is as before."""
    there = _held(db, row.project_id, [number for number, *_ in row.steps])
    back = []
    for number, before, after in row.steps:
        now = there.get(number)
        if now is not None and all(now[name] == value for name, value in after.items()):
            back.append((number, now | before))
    _write(db, back)
    row.undone_at = func.now()
    db.flush()
    bump(db, row.project_id, PLACE)
    return Undone(texts=len(back), left=len(row.steps) - len(back))


def act_of(row: TextActRow) -> TextAct:
    return TextAct(
        id=row.id, kind=row.kind, texts=row.texts, at=row.created_at, undone=row.undone_at is not None
    )


def _held(db: Session, project_id: int, numbers: Sequence[int]) -> dict[int, Fields]:
    """What these texts are now; nobody else changes them until this transaction ends."""
    query = (
        select(TextRow.id, TextRow.group, TextRow.split, TextRow.dated, TextRow.meta)
        .where(TextRow.project_id == project_id, among(TextRow.id, numbers))
        .order_by(TextRow.id)
        .with_for_update()
    )
    return {
        number: {"group": group, "split": split, "dated": dated and dated.isoformat(), "meta": meta}
        for number, group, split, dated, meta in db.execute(query)
    }


def _write(db: Session, rows: Sequence[tuple[int, Fields]]) -> None:
    if rows:
        db.execute(_WRITE, {"rows": dumps([{"id": number, **now} for number, now in rows])})
        db.expire_all()


_WRITE = text(
    'UPDATE text SET "group" = new."group", split = new.split, dated = new.dated, meta = new.meta, version = version + 1 '
    "FROM jsonb_to_recordset(CAST(:rows AS jsonb)) "
    'AS new(id integer, "group" varchar, split varchar, dated date, meta jsonb) WHERE text.id = new.id'
)
