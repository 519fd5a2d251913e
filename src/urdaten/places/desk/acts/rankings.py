"""Rankings of sentences, kept so that a queue stays as it is under the hands of whoever works through it, also when the
server is started anew in between."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime, timedelta

from sqlalchemy import delete, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from urdaten.places.desk.tables import RankingRow
from urdaten.platform.database import attempt

# Of each project, and for how long after they were made.
KEPT, DAYS = 64, 7
# Sentences with what they were ranked by, first things first.
Ranking = list[tuple[int, float | None]]


def read_ranking(db: Session, project_id: int, digest: str) -> Ranking | None:
    """The ranking of this name; None where there is none."""
    query = select(RankingRow.sentences, RankingRow.worths).where(
        RankingRow.project_id == project_id, RankingRow.digest == digest, RankingRow.created_at > _too_old()
    )
    found = db.execute(query).first()
    return None if found is None else list(zip(*found, strict=True))


def _too_old() -> datetime:
    return datetime.now(UTC) - timedelta(days=DAYS)


def keep_ranking(
    db: Session, project_id: int, digest: str, ranking: Sequence[tuple[int, float | None]]
) -> None:
    """Keep it under a name; where somebody else does so in this very moment theirs is kept."""
    made = insert(RankingRow).values(
        project_id=project_id,
        digest=digest,
        sentences=[number for number, _ in ranking],
        worths=[worth for _, worth in ranking],
    )
    oldest = (
        select(RankingRow.id)
        .where(RankingRow.project_id == project_id)
        .order_by(RankingRow.id.desc())
        .offset(KEPT - 1)
        .limit(1)
        .scalar_subquery()
    )
    gone = (RankingRow.id <= oldest) | (RankingRow.created_at <= _too_old())

    def keep() -> None:
        db.execute(delete(RankingRow).where(RankingRow.project_id == project_id, gone))
        db.execute(made.on_conflict_do_nothing())

    attempt(db, keep)
