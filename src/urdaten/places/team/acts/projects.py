"""Projects: begun, renamed, moved to the bin, brought back, deleted for good."""

from __future__ import annotations

import re
import unicodedata
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any, cast

from sqlalchemy import BindParameter, Row, ScalarSelect, func, select, text
from sqlalchemy.orm import Session

from urdaten.core.spans import Overlap
from urdaten.core.text import LANGUAGES
from urdaten.errors import BadInput, Clash, NotFound
from urdaten.places.team.tables import ProjectRow
from urdaten.platform.events import announce

_OVERLAP_LOCK = 0x0E41A
_SLUG_LOCK = 0x051C6
MOST_SIGNINGS = 10_000
LONGEST_NAME, LONGEST_SLUG = 80, 40
BIN_DAYS = 30
PLACE = "project"


@dataclass(frozen=True, kw_only=True)
class Project:
    """A project as other places see it."""

    id: int
    slug: str
    name: str
    language: str
    created_at: datetime
    removed_at: datetime | None = None
    # Folded and without their stop.
    abbreviations: frozenset[str] = frozenset()
    overlap: Overlap = "apart"
    # After how many signings the tagger is trained anew in the background; 0 for never.
    retrain_after: int = 0


def project_from(row: ProjectRow | Row[*tuple[Any, ...]]) -> Project:
    return Project(
        id=row.id,
        slug=row.slug,
        name=row.name,
        language=row.language,
        created_at=row.created_at,
        removed_at=row.removed_at,
        abbreviations=frozenset(row.abbreviations),
        overlap=cast("Overlap", row.overlap),
        retrain_after=row.retrain_after,
    )


def _checked_name(name: str) -> str:
    name = " ".join(name.split())
    if not 1 <= len(name) <= LONGEST_NAME:
        raise BadInput(f"A project needs a name of 1 to {LONGEST_NAME} characters.", field="name")
    return name


def slug_of(name: str) -> str:
    """A name as it can stand in an address."""
    plain = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode().lower()
    return re.sub(r"[^a-z0-9]+", "-", plain).strip("-")[:LONGEST_SLUG].strip("-") or "project"


def create_project(db: Session, *, name: str, language: str, slug: str | None = None) -> Project:
    """A new, empty project, under an address of its own. Raises BadInput, and Clash when a wanted slug is taken."""
    name = _checked_name(name)
    if language not in LANGUAGES:
        raise BadInput(
            f"A language is one of {', '.join(sorted(LANGUAGES))}, not {language!r}.", field="language"
        )
    # Two who begin projects of one name get two addresses.
    db.execute(select(func.pg_advisory_xact_lock(_SLUG_LOCK)))
    wanted = slug or slug_of(name)
    taken = set(
        db.scalars(select(ProjectRow.slug).where(ProjectRow.slug.startswith(wanted, autoescape=True)))
    )
    if slug is not None and slug in taken:
        raise Clash(f"There is already a project “{slug}”.", field="slug")
    number, free = 2, wanted
    while free in taken:
        free, number = f"{wanted}-{number}", number + 1
    row = ProjectRow(
        slug=free, name=name, language=language, abbreviations=[], overlap="apart", retrain_after=0
    )
    db.add(row)
    db.flush()
    db.refresh(row)
    return project_from(row)


def list_projects(db: Session) -> list[Project]:
    """Every project, by name; those in the bin too."""
    return [
        project_from(row) for row in db.scalars(select(ProjectRow).order_by(ProjectRow.name, ProjectRow.id))
    ]


def count_projects(db: Session) -> int:
    """How many there are, those in the bin too."""
    return db.scalar(select(func.count()).select_from(ProjectRow)) or 0


def project_by_slug(db: Session, slug: str) -> Project:
    """Raises NotFound, also for one in the bin."""
    row = db.scalar(select(ProjectRow).where(ProjectRow.slug == slug, ProjectRow.removed_at.is_(None)))
    if row is None:
        raise no_project(slug)
    return project_from(row)


def no_project(slug: str) -> NotFound:
    """What is said of a project that is not there, or not for whoever asks."""
    return NotFound(f"There is no project “{slug}” that you belong to.")


def project_by_id(db: Session, project_id: int) -> Project:
    """Raises NotFound."""
    row = db.get(ProjectRow, project_id)
    if row is None:
        raise NotFound(f"There is no project {project_id}.")
    return project_from(row)


def rename_project(db: Session, project_id: int, name: str) -> Project:
    """Its address stays as it is, so that links go on working. Raises BadInput."""
    row = db.get_one(ProjectRow, project_id, with_for_update=True)
    row.name = _checked_name(name)
    db.flush()
    announce(db, project_id, PLACE)
    return project_from(row)


def bin_project(db: Session, project_id: int) -> Project:
    """Move a project to the bin, from which it can be brought back for BIN_DAYS."""
    row = db.get_one(ProjectRow, project_id, with_for_update=True)
    row.removed_at = row.removed_at or datetime.now(UTC)
    db.flush()
    announce(db, project_id, PLACE)
    return project_from(row)


def restore_project(db: Session, project_id: int) -> Project:
    """Bring a project back from the bin."""
    row = db.get_one(ProjectRow, project_id, with_for_update=True)
    row.removed_at = None
    db.flush()
    announce(db, project_id, PLACE)
    return project_from(row)


def delete_project(db: Session, project_id: int, name: str) -> None:
    """Delete a project in the bin for good, with everything in it. Raises BadInput unless its name is given exactly."""
    row = db.get_one(ProjectRow, project_id, with_for_update=True)
    if row.removed_at is None:
        raise Clash("Move the project to the bin first.")
    if name != row.name:
        raise BadInput(f"Type its name, “{row.name}”, to delete it for good.", field="name")
    db.delete(row)
    db.flush()


def empty_bin(db: Session) -> list[str]:
    """Delete what has lain in the bin for longer than BIN_DAYS; the names of those projects."""
    before = datetime.now(UTC) - timedelta(days=BIN_DAYS)
    rows = db.scalars(
        select(ProjectRow).where(ProjectRow.removed_at < before).with_for_update(skip_locked=True)
    ).all()
    for row in rows:
        db.delete(row)
    db.flush()
    return [row.name for row in rows]


def set_abbreviations(db: Session, project_id: int, abbreviations: frozenset[str]) -> Project:
    row = db.get_one(ProjectRow, project_id)
    row.abbreviations = sorted(abbreviations)
    db.flush()
    return project_from(row)


def hold_overlap(db: Session, project_id: int, *, to_change: bool = False) -> Overlap:
    """How spans may stand to each other, and that it stays so until this transaction ends.

    Whoever means to change it waits until nobody marks, and nobody marks until that is done.
    """
    hold(db, project_id, to_change=to_change)
    return cast("Overlap", db.scalar(select(overlap_of(project_id))))


def hold(db: Session, project_id: int, *, to_change: bool = False) -> None:
    """As `hold_overlap`, for whoever reads `overlap_of` in a later statement."""
    db.execute(_TAKE if to_change else _TAKE_SHARED, {"kind": _OVERLAP_LOCK, "project": project_id})


def overlap_of(project_id: int | BindParameter[int]) -> ScalarSelect[str]:
    """For queries: how a project's spans may stand to each other."""
    return select(ProjectRow.overlap).where(ProjectRow.id == project_id).scalar_subquery()


# Made once: every act asks them.
_TAKE = text("SELECT pg_advisory_xact_lock(:kind, :project)")
_TAKE_SHARED = text("SELECT pg_advisory_xact_lock_shared(:kind, :project)")


def wait_for_writers(db: Session, project_id: int) -> None:
    """Until everybody who was marking when this was asked has done so. Nobody is held up for longer than that."""
    # In one statement, so that nothing can come between taking it and letting go of it.
    db.execute(
        text(
            "WITH taken AS MATERIALIZED (SELECT pg_advisory_lock(:kind, :project)) "
            "SELECT pg_advisory_unlock(:kind, :project) FROM taken"
        ),
        {"kind": _OVERLAP_LOCK, "project": project_id},
    )


def set_retraining(db: Session, project_id: int, after: int) -> Project:
    """Train anew after so many signings, 1 to MOST_SIGNINGS; 0 for never. Raises BadInput."""
    if not 0 <= after <= MOST_SIGNINGS:
        raise BadInput(f"Give 1 to {MOST_SIGNINGS} signings, or 0 for never.", field="after")
    row = db.get_one(ProjectRow, project_id)
    row.retrain_after = after
    db.flush()
    return project_from(row)


def set_overlap(db: Session, project_id: int, overlap: Overlap) -> Project:
    row = db.get_one(ProjectRow, project_id)
    row.overlap = overlap
    db.flush()
    return project_from(row)
