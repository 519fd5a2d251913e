"""Acts on projects."""

from __future__ import annotations

from dataclasses import dataclass
from typing import cast

from sqlalchemy import select
from sqlalchemy.orm import Session

from urdaten.core.spans import Overlap
from urdaten.errors import Clash, NotFound
from urdaten.places.team.tables import ProjectRow


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


def _project(row: ProjectRow) -> Project:
    return Project(
        id=row.id,
        slug=row.slug,
        name=row.name,
        language=row.language,
        abbreviations=frozenset(row.abbreviations),
        overlap=cast("Overlap", row.overlap),
    )


def create_project(db: Session, *, slug: str, name: str, language: str) -> Project:
    """A new, empty project. Raises Clash when the short name is taken."""
    if db.scalar(select(ProjectRow.id).where(ProjectRow.slug == slug)):
        raise Clash(f"There is already a project “{slug}”.", field="slug")
    row = ProjectRow(slug=slug, name=name, language=language, abbreviations=[], overlap="apart")
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


def set_overlap(db: Session, project_id: int, overlap: Overlap) -> Project:
    row = db.get_one(ProjectRow, project_id)
    row.overlap = overlap
    db.flush()
    return _project(row)
