"""Revisions: one rising number per project and place, so that what depends on a place knows its age."""

from __future__ import annotations

from sqlalchemy import ForeignKey, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Mapped, Session, mapped_column

from urdaten.platform.database import Base
from urdaten.platform.events import announce


class Revision(Base):
    """How often a place of a project has changed."""

    __tablename__ = "revision"

    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"), primary_key=True)
    place: Mapped[str] = mapped_column(primary_key=True)
    number: Mapped[int]


def bump(db: Session, project_id: int, place: str) -> int:
    """Count a change of a place and tell everybody who watches the project."""
    statement = (
        insert(Revision)
        .values(project_id=project_id, place=place, number=1)
        .on_conflict_do_update(index_elements=["project_id", "place"], set_={"number": Revision.number + 1})
        .returning(Revision.number)
    )
    number = db.scalars(statement).one()
    announce(db, project_id, place)
    return number


def revisions(db: Session, project_id: int) -> dict[str, int]:
    """Present number of each place; places that never changed are absent."""
    rows = db.execute(select(Revision.place, Revision.number).where(Revision.project_id == project_id))
    return {place: number for place, number in rows}
