"""Who did what in a sentence."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from urdaten.places.desk.tables import ActRow
from urdaten.places.texts import acts as texts
from urdaten.platform.accounts import Account


@dataclass(frozen=True, kw_only=True)
class Act:
    """An act as the history shows it."""

    id: int
    at: datetime
    who: str
    kind: str
    before: dict[str, Any]
    after: dict[str, Any]


NOBODY = "loaded with the project"


def last_hand(db: Session, sentence_id: int) -> str:
    """Name of whoever acted on a sentence last."""
    query = (
        select(Account.name)
        .select_from(ActRow)
        .outerjoin(Account, Account.id == ActRow.account_id)
        .where(ActRow.sentence_id == sentence_id)
        .order_by(ActRow.id.desc())
        .limit(1)
    )
    return db.scalar(query) or NOBODY


def history(db: Session, project_id: int, sentence_id: int) -> list[Act]:
    """Every act on a sentence, oldest first."""
    texts.read_sentence(db, project_id, sentence_id)
    query = (
        select(ActRow, Account.name)
        .outerjoin(Account, Account.id == ActRow.account_id)
        .where(ActRow.sentence_id == sentence_id)
        .order_by(ActRow.id)
    )
    return [
        Act(
            id=row.id,
            at=row.created_at,
            who=name or NOBODY,
            kind=row.kind,
            before=row.before,
            after=row.after,
        )
        for row, name in db.execute(query)
    ]
