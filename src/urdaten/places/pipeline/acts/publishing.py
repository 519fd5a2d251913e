"""Versions of a pipeline that are published: each with all that it needs, as it was then, so that it answers the same for good."""

from __future__ import annotations

import hashlib

from sqlalchemy import delete, select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from urdaten.core.pipeline import build
from urdaten.errors import Clash, NotFound
from urdaten.places.pipeline.acts.material import read_material
from urdaten.places.pipeline.acts.versions import PLACE, Version, read_version
from urdaten.places.pipeline.tables import ArtefactRow, PipelineVersionRow
from urdaten.places.team.acts import Project
from urdaten.platform.jobs import JobView, add_job
from urdaten.platform.revisions import bump

PUBLISHING_JOB = "publishing"
_KIND = "bundle"


def start_publishing(db: Session, project: Project, account_id: int, number: int) -> JobView:
    """Publish a version in the background. Raises NotFound, BadInput for one that cannot run as it is, and Clash while another is
    being published."""
    version = read_version(db, project.id, number)
    build(version.plan, read_material(db, project, version.plan))
    return add_job(
        db,
        project_id=project.id,
        account_id=account_id,
        kind=PUBLISHING_JOB,
        title=f"Version {version.number} is published",
        params={"version": version.number},
        alone="Another version is being published; wait for it.",
    )


def keep_published(db: Session, project_id: int, number: int, bundle: bytes) -> None:
    """Make this version the published one; a file that it had already stays as it was."""
    row = db.get(PipelineVersionRow, (project_id, number), with_for_update=True)
    if row is None:
        raise NotFound(f"There is no version {number} of the pipeline.")
    if row.bundle is None:
        row.bundle = _keep(db, bundle)
    mine = PipelineVersionRow.project_id == project_id
    db.execute(update(PipelineVersionRow).where(mine, PipelineVersionRow.published).values(published=False))
    db.flush()
    row.published = True
    db.flush()
    _let_go(db)
    bump(db, project_id, PLACE)


def withdraw(db: Session, project_id: int, number: int) -> Version:
    """The version is published no longer, and its file is let go of. Raises NotFound, and Clash for one that has none."""
    row = db.get(PipelineVersionRow, (project_id, number), with_for_update=True)
    if row is None:
        raise NotFound(f"There is no version {number} of the pipeline.")
    if row.bundle is None:
        raise Clash(f"Version {number} was not published.")
    row.published, row.bundle = False, None
    db.flush()
    _let_go(db)
    bump(db, project_id, PLACE)
    return read_version(db, project_id, number)


def published_number(db: Session, project_id: int) -> int | None:
    """The version that is published."""
    mine = PipelineVersionRow.project_id == project_id
    return db.scalar(select(PipelineVersionRow.number).where(mine, PipelineVersionRow.published))


def read_bundle(db: Session, project_id: int, number: int) -> bytes:
    """The file of a version, as it was when it was published. Raises NotFound for one that has none."""
    query = (
        select(ArtefactRow.data)
        .join(PipelineVersionRow, PipelineVersionRow.bundle == ArtefactRow.digest)
        .where(PipelineVersionRow.project_id == project_id, PipelineVersionRow.number == number)
    )
    data = db.scalar(query)
    if data is None:
        raise NotFound(f"Version {number} has no file: it was not published.")
    return data


def _keep(db: Session, data: bytes) -> str:
    digest = hashlib.sha256(data).hexdigest()
    made = insert(ArtefactRow).values(digest=digest, kind=_KIND, data=data)
    # What is there already is held until this is done, so that nobody lets go of it.
    db.execute(made.on_conflict_do_update(index_elements=["digest"], set_={"kind": _KIND}))
    return digest


def _let_go(db: Session) -> None:
    """Of files that no version names any more."""
    named = select(PipelineVersionRow.bundle).where(PipelineVersionRow.bundle.is_not(None))
    db.execute(delete(ArtefactRow).where(ArtefactRow.kind == _KIND, ArtefactRow.digest.not_in(named)))
