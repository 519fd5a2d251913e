"""Revisions: one rising number per project and place, so that what depends on a place knows its age.

A number is spread over several rows. Whoever counts a change takes a row that nobody holds just now, or makes one, so
nobody waits for anybody else's transaction; the number is their sum.
"""

from __future__ import annotations

from sqlalchemy import ForeignKey, Index, bindparam, func, insert, select, update
from sqlalchemy.orm import Mapped, Session, mapped_column

from urdaten.platform.database import Base, table_of
from urdaten.platform.events import CHANNEL, announce, changed


class Revision(Base):
    """A part of how often a place of a project has changed."""

    __tablename__ = "revision"
    __table_args__ = (Index("ix_revision_project_id_place", "project_id", "place"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"))
    place: Mapped[str]
    number: Mapped[int]


def bump(db: Session, project_id: int, place: str) -> None:
    """Count a change of a place and tell everybody who watches the project."""
    counted = {"project": project_id, "of": place, "event": changed(project_id, place)}
    if db.execute(_COUNT, counted).first() is None:
        db.execute(insert(Revision).values(project_id=project_id, place=place, number=1))
        announce(db, project_id, place)


_TABLE = table_of(Revision)
_FREE = (
    select(_TABLE.c.id)
    .where(_TABLE.c.project_id == bindparam("project"), _TABLE.c.place == bindparam("of"))
    .order_by(_TABLE.c.id)
    .limit(1)
    .with_for_update(skip_locked=True)
    .scalar_subquery()
)
_COUNTED = (
    update(_TABLE)
    .where(_TABLE.c.id == _FREE)
    .values(number=_TABLE.c.number + 1)
    .returning(_TABLE.c.id)
    .cte("counted")
)
# Made once, and one statement: every act asks it.
_COUNT = select(func.pg_notify(CHANNEL, bindparam("event"))).select_from(_COUNTED)


def revisions(db: Session, project_id: int) -> dict[str, int]:
    """Present number of each place; places that never changed are absent."""
    query = select(Revision.place, func.sum(Revision.number)).where(Revision.project_id == project_id)
    return {place: int(number) for place, number in db.execute(query.group_by(Revision.place))}
