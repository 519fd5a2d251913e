"""Evidence of a whole project brought up to date in the background, and how far that has come."""

from __future__ import annotations

from contextlib import suppress
from dataclasses import dataclass

from sqlalchemy.orm import Session

from urdaten.errors import Clash
from urdaten.places.pipeline.acts import finds
from urdaten.places.pipeline.acts.makers import read_makers
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts
from urdaten.platform.jobs import JobState, JobView, add_job, latest_job

JOB = "evidence"
# What it counts as long as there are finds to count.
COUNTED = "texts"
# What it remembers of the makers that it counted with.
STAMP = "stamp"
# A job that ended in one of these is not begun again by itself before something has changed.
_LEFT = (JobState.STOPPED, JobState.FAILED)


@dataclass(frozen=True, kw_only=True)
class Standing:
    """How far the figures of lists and rules are counted."""

    texts: int
    # Texts whose finds have yet to be counted.
    behind: int
    # What is doing that, or was the last to do it.
    job: JobView | None


def counted(db: Session, project: Project) -> bool:
    """Are the figures those of now? What is behind is counted at once if that is little work, otherwise by a job."""
    job = latest_job(db, project.id, JOB)
    # A job counts for long, and figures of before stay meanwhile; another request has counted in a moment.
    done = finds.count_if_little(db, project, patient=job is None or job.ended)
    if done is not finds.Counted.TOO_MUCH:
        return done is finds.Counted.YES
    if job is None or (job.ended and (job.state not in _LEFT or _has_changed(db, project, job))):
        with suppress(Clash):
            begin(db, project, None)
    return False


def _has_changed(db: Session, project: Project, job: JobView) -> bool:
    return job.params.get(STAMP) != read_makers(db, project).stamp


def begin(db: Session, project: Project, account_id: int | None) -> None:
    """Count what is behind, also after somebody has stopped that. Raises Clash while it is being counted."""
    add_job(
        db,
        project_id=project.id,
        account_id=account_id,
        kind=JOB,
        title="Finds are counted",
        params={},
        alone="Finds are being counted already.",
    )


def standing(db: Session, project: Project) -> Standing:
    """How far the figures are."""
    job = latest_job(db, project.id, JOB)
    if job is not None and not job.ended and job.total:
        behind = job.total - job.done if job.unit == COUNTED else 0
    else:
        behind = len(finds.to_count(db, project, read_makers(db, project)).numbers)
    return Standing(texts=texts.count_texts(db, project.id), behind=behind, job=job)
