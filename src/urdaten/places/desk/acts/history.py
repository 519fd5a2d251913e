"""Who did what in a sentence."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from urdaten.places.desk.acts.annotation import shown
from urdaten.places.desk.acts.layers import gold_layer
from urdaten.places.desk.tables import ActRow
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types
from urdaten.platform.accounts import Account


@dataclass(frozen=True, kw_only=True)
class LoggedAct:
    """An act as the history shows it."""

    id: int
    at: datetime
    who: str
    kind: str
    before: dict[str, Any]
    after: dict[str, Any]


NOBODY = "loaded with the project"


def last_hand(db: Session, sentence_id: int, layer: int) -> str:
    """Name of whoever acted on a sentence last, in a layer."""
    query = (
        select(Account.name)
        .select_from(ActRow)
        .outerjoin(Account, Account.id == ActRow.account_id)
        .where(ActRow.sentence_id == sentence_id, ActRow.layer_id == layer)
        .order_by(ActRow.id.desc())
        .limit(1)
    )
    return db.scalar(query) or NOBODY


def history(db: Session, project_id: int, sentence_id: int, layer: int | None = None) -> list[LoggedAct]:
    """Every act on a sentence in gold, or in another layer, oldest first. Types go by their present or last codes."""
    texts.read_sentence(db, project_id, sentence_id)
    codes = types.last_codes(db, project_id)
    layer = gold_layer(db, project_id) if layer is None else layer
    query = (
        select(ActRow, Account.name)
        .outerjoin(Account, Account.id == ActRow.account_id)
        .where(ActRow.sentence_id == sentence_id, ActRow.layer_id == layer)
        .order_by(ActRow.id)
    )
    return [
        LoggedAct(
            id=row.id,
            at=row.created_at,
            who=name or NOBODY,
            kind=row.kind,
            before=shown(row.before, codes),
            after=shown(row.after, codes),
        )
        for row, name in db.execute(query)
    ]
