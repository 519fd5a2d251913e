"""Rankings of sentences, kept so that a queue stays as it is under the hands of whoever works through it, also when the
server is started anew in between."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from sqlalchemy import delete, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from urdaten.places.desk.tables import RankingRow
from urdaten.platform.database import attempt

# Of each project, and for how long after they were made.
KEPT, DAYS = 64, 7
# Sentences with what they were ranked by, first things first.
Ranking = list[tuple[int, float | None]]


@dataclass(frozen=True)
class Made:
    """A ranking that was just made."""

    ranking: Ranking

    @property
    def length(self) -> int:
        return len(self.ranking)

    def part(self, _: Session, begin: int, end: int) -> Ranking:
        """What stands from place `begin` to before place `end`, counted from 0."""
        return self.ranking[max(0, begin) : end]

    def place_of(self, _: Session, sentence_id: int) -> int | None:
        """Where a sentence stands, counted from 0; None if it is not ranked."""
        return next((place for place, (number, _) in enumerate(self.ranking) if number == sentence_id), None)


@dataclass(frozen=True)
class Kept:
    """A ranking that is kept: as `Made`, but read no farther than is asked for."""

    id: int
    length: int

    def part(self, db: Session, begin: int, end: int) -> Ranking:
        # Arrays of the database count from 1, and their ends are included.
        span = slice(max(0, begin) + 1, end)
        query = select(RankingRow.sentences[span], RankingRow.worths[span]).where(RankingRow.id == self.id)
        return list(zip(*db.execute(query).one(), strict=True))

    def place_of(self, db: Session, sentence_id: int) -> int | None:
        query = select(func.array_position(RankingRow.sentences, sentence_id)).where(RankingRow.id == self.id)
        place = db.scalar(query)
        return None if place is None else place - 1


def read_ranking(db: Session, project_id: int, digest: str) -> Kept | None:
    """The ranking of this name; None where there is none."""
    query = select(RankingRow.id, func.cardinality(RankingRow.sentences)).where(
        RankingRow.project_id == project_id, RankingRow.digest == digest, RankingRow.created_at > _too_old()
    )
    found = db.execute(query).first()
    return None if found is None else Kept(*found)


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
