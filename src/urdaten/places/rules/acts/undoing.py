"""Acts on rules and fragments, taken back."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from urdaten.errors import BadPattern, Clash, NotFound
from urdaten.places.rules.acts.fragments import check_users, rename_uses
from urdaten.places.rules.acts.noting import state_of
from urdaten.places.rules.acts.reading import PLACE, fragment_rows, read_fragments, rule_rows
from urdaten.places.rules.acts.rules import place_rule
from urdaten.places.rules.tables import FragmentRow, RuleActRow, RuleRow
from urdaten.places.types import acts as types
from urdaten.platform.revisions import bump


@dataclass(frozen=True, kw_only=True)
class RuleAct:
    """Something that was done to a rule or a fragment; in words, as in "Undone: …"."""

    id: int
    said: str


def latest_act(db: Session, project_id: int, account_id: int) -> RuleAct | None:
    """The last one of this person that stands."""
    query = select(RuleActRow).where(
        RuleActRow.project_id == project_id,
        RuleActRow.account_id == account_id,
        RuleActRow.undone_at.is_(None),
    )
    row = db.scalar(query.order_by(RuleActRow.id.desc()).limit(1))
    return None if row is None else RuleAct(id=row.id, said=row.said)


def undo_act(db: Session, project_id: int, number: int) -> str:
    """The rule or fragment is as it was before; or why it stays as it is, for which the act counts as undone too.

    Raises NotFound for an act that there is not, Clash for one that is undone already.
    """
    act = db.get(RuleActRow, number, with_for_update=True)
    if act is None or act.project_id != project_id:
        raise NotFound(f"There is no act {number} on rules in this project.")
    if act.undone_at is not None:
        raise Clash("This is undone already.")
    act.undone_at = func.now()
    try:
        with db.begin_nested():
            _put_back(db, act)
            if act.of_fragment:
                check_users(db, project_id)
    except _StaysError as why:
        return str(why)
    except BadPattern as fault:
        return f"then something could not be read: {fault.message}"
    bump(db, project_id, PLACE)
    return ""


class _StaysError(Exception):
    """Why something stays as it is."""


def _put_back(db: Session, act: RuleActRow) -> None:
    row: RuleRow | FragmentRow | None
    if act.of_fragment:
        row = db.get(FragmentRow, act.number, with_for_update=True, populate_existing=True)
    else:
        row = db.get(RuleRow, act.number, with_for_update=True, populate_existing=True)
    now = None if row is None else state_of(row, act.after or ())
    if now != act.after:
        raise _StaysError("it has been changed since")
    if act.before is None:
        assert row is not None
        _take_out(db, row)
        return
    before = dict(act.before)
    place = before.pop("position", None)
    _check_free(db, act, before)
    if row is None:
        row = FragmentRow(version=0) if act.of_fragment else RuleRow(version=0, position=0)
        row.id, row.project_id = act.number, act.project_id
        db.add(row)
    renamed_from = row.name if isinstance(row, FragmentRow) else None
    for name, value in before.items():
        setattr(row, name, value)
    row.version += 1
    db.flush()
    if isinstance(row, RuleRow) and place is not None:
        place_rule(db, rule_rows(db, act.project_id, to_change=True), row.id, place)
    if renamed_from and renamed_from != row.name:
        rename_uses(db, act.project_id, renamed_from, row.name)


def _take_out(db: Session, row: RuleRow | FragmentRow) -> None:
    if isinstance(row, FragmentRow):
        used_by = next(one.used_by for one in read_fragments(db, row.project_id) if one.id == row.id)
        if used_by:
            raise _StaysError("it is used by " + ", ".join(f"“{name}”" for name in used_by))
    db.delete(row)
    db.flush()


def _check_free(db: Session, act: RuleActRow, before: dict[str, Any]) -> None:
    """Can it be so again?"""
    rows = fragment_rows(db, act.project_id) if act.of_fragment else rule_rows(db, act.project_id)
    if any(row.name == before.get("name") and row.id != act.number for row in rows):
        raise _StaysError(f"another one is called “{before['name']}” now")
    if "type_id" in before and before["type_id"] not in types.present_codes(db, act.project_id):
        raise _StaysError("its type is not in the scheme any more")
