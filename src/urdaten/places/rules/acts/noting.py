"""What is done to rules and fragments is noted, so that it can be undone."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from sqlalchemy.orm import Session

from urdaten.places.rules.tables import FragmentRow, RuleActRow, RuleRow

# What a rule or fragment is; null for not there.
State = dict[str, Any] | None
_SAID = ("name", "about", "pattern", "refers")
_OF_RULES = ("type_id", "must_find", "must_not_find", "on", "priority")


def state_of(row: RuleRow | FragmentRow, names: Iterable[str] | None = None) -> dict[str, Any]:
    """These columns of it, or all that a lead says of one."""
    if names is None:
        names = (*_SAID, *_OF_RULES) if isinstance(row, RuleRow) else _SAID
    return {name: getattr(row, name) for name in names}


def note(
    db: Session, account_id: int | None, said: str, row: RuleRow | FragmentRow, before: State, after: State
) -> None:
    """An act of somebody, in words as in "Undone: …"; what nobody did, as when the demo is loaded, and what changed nothing is
    not noted."""
    if account_id is None or before == after:
        return
    db.add(
        RuleActRow(
            project_id=row.project_id,
            account_id=account_id,
            said=said,
            of_fragment=isinstance(row, FragmentRow),
            number=row.id,
            before=before,
            after=after,
        )
    )
    db.flush()
