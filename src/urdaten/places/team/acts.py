"""Acts on projects."""

from __future__ import annotations

from dataclasses import dataclass
from typing import cast

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from urdaten.core.spans import Overlap
from urdaten.errors import BadInput, Clash, NotFound
from urdaten.places.team.tables import ProjectRow

_OVERLAP_LOCK = 0x0E41A
MOST_SIGNINGS = 10_000


@dataclass(frozen=True, kw_only=True)
class Project:
    """A project as other places see it."""

    id: int
    slug: str
    name: str
    language: str
    # Folded and without their stop.
    abbreviations: frozenset[str] = frozenset()
    overlap: Overlap = "apart"
    # After how many signings the tagger is trained anew in the background; 0 for never.
    retrain_after: int = 0


def _project(row: ProjectRow) -> Project:
    return Project(
        id=row.id,
        slug=row.slug,
        name=row.name,
        language=row.language,
        abbreviations=frozenset(row.abbreviations),
        overlap=cast("Overlap", row.overlap),
        retrain_after=row.retrain_after,
    )


def create_project(db: Session, *, slug: str, name: str, language: str) -> Project:
    """A new, empty project. Raises Clash when the short name is taken."""
    if db.scalar(select(ProjectRow.id).where(ProjectRow.slug == slug)):
        raise Clash(f"There is already a project “{slug}”.", field="slug")
    row = ProjectRow(
        slug=slug, name=name, language=language, abbreviations=[], overlap="apart", retrain_after=0
    )
    db.add(row)
    db.flush()
    return _project(row)


def list_projects(db: Session) -> list[Project]:
    return [_project(row) for row in db.scalars(select(ProjectRow).order_by(ProjectRow.name))]


def project_by_slug(db: Session, slug: str) -> Project:
    row = db.scalar(select(ProjectRow).where(ProjectRow.slug == slug))
    if row is None:
        raise NotFound(f"There is no project “{slug}”.")
    return _project(row)


def project_by_id(db: Session, project_id: int) -> Project:
    row = db.get(ProjectRow, project_id)
    if row is None:
        raise NotFound(f"There is no project {project_id}.")
    return _project(row)


def set_abbreviations(db: Session, project_id: int, abbreviations: frozenset[str]) -> Project:
    row = db.get_one(ProjectRow, project_id)
    row.abbreviations = sorted(abbreviations)
    db.flush()
    return _project(row)


def hold_overlap(db: Session, project_id: int, *, to_change: bool = False) -> Overlap:
    """How spans may stand to each other, and that it stays so until this transaction ends.

    Whoever means to change it waits until nobody marks, and nobody marks until that is done.
    """
    take = func.pg_advisory_xact_lock if to_change else func.pg_advisory_xact_lock_shared
    db.execute(select(take(_OVERLAP_LOCK, project_id)))
    overlap = db.scalar(select(ProjectRow.overlap).where(ProjectRow.id == project_id))
    return cast("Overlap", overlap)


def set_retraining(db: Session, project_id: int, after: int) -> Project:
    """Train anew after so many signings, 1 to MOST_SIGNINGS; 0 for never. Raises BadInput."""
    if not 0 <= after <= MOST_SIGNINGS:
        raise BadInput(f"Give 1 to {MOST_SIGNINGS} signings, or 0 for never.", field="after")
    row = db.get_one(ProjectRow, project_id)
    row.retrain_after = after
    db.flush()
    return _project(row)


def set_overlap(db: Session, project_id: int, overlap: Overlap) -> Project:
    row = db.get_one(ProjectRow, project_id)
    row.overlap = overlap
    db.flush()
    return _project(row)
