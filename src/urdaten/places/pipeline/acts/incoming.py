"""Bundles that somebody brings: kept until they are looked through, and brought in or forgotten."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any

from sqlalchemy import delete, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from urdaten.core.pipeline import Plan, read_plan
from urdaten.errors import Clash, NotFound
from urdaten.places.pipeline.tables import ArtefactRow
from urdaten.platform.jobs import JobState, JobView, add_job, read_job

BRINGING_JOB = "bundle"
_KIND = "incoming"
# So long one may take to look it through.
_KEPT = timedelta(days=1)


@dataclass(frozen=True, kw_only=True)
class Arrival:
    """A part of a bundle, and what becomes of it: it is new here, the same is here, or it gets another name because something else
    has its own."""

    what: str
    name: str
    becomes: str
    how: str


@dataclass(frozen=True, kw_only=True)
class Incoming:
    """A bundle that is being looked through or brought in, with what is known of it so far."""

    job: JobView
    # Was it brought in, or is it only looked through?
    kept: bool
    arrivals: list[Arrival]
    # What does not come along, in words.
    notes: list[str]
    # Once it is brought in, its stages under the names that their parts have here.
    plan: Plan | None


def start_looking(db: Session, project_id: int, account_id: int, name: str, data: bytes) -> JobView:
    """Look a file through in the background. Raises Clash while another is being looked through."""
    old = datetime.now(UTC) - _KEPT
    db.execute(delete(ArtefactRow).where(ArtefactRow.kind == _KIND, ArtefactRow.created_at < old))
    digest = hashlib.sha256(data).hexdigest()
    made = insert(ArtefactRow).values(digest=digest, kind=_KIND, data=data)
    db.execute(made.on_conflict_do_nothing())
    return _start(db, project_id, account_id, {"digest": digest, "name": name, "keep": False})


def start_bringing(db: Session, project_id: int, account_id: int, job_id: int) -> JobView:
    """Bring in what was looked through. Raises NotFound, and Clash where looking has not come to its end, or ended badly."""
    job = _own(db, project_id, job_id)
    if job.state != JobState.DONE:
        raise Clash("This file was not looked through to its end; send it again.")
    if job.params["keep"]:
        raise Clash("This file was brought in already.")
    wish = {"digest": job.params["digest"], "name": job.params["name"], "keep": True}
    return _start(db, project_id, account_id, wish)


def _start(db: Session, project_id: int, account_id: int, params: dict[str, Any]) -> JobView:
    return add_job(
        db,
        project_id=project_id,
        account_id=account_id,
        kind=BRINGING_JOB,
        title=f"“{params['name']}” is {'brought in' if params['keep'] else 'looked through'}",
        params=params | {"account": account_id},
        alone="Another bundle is being read; wait for it.",
    )


def read_incoming(db: Session, project_id: int, job_id: int) -> Incoming:
    """Raises NotFound."""
    job = _own(db, project_id, job_id)
    told = job.params.get("told", {"arrivals": [], "notes": [], "plan": None})
    return Incoming(
        job=job,
        kept=job.params["keep"],
        arrivals=[Arrival(**one) for one in told["arrivals"]],
        notes=told["notes"],
        plan=None if told["plan"] is None else read_plan(told["plan"]),
    )


def incoming_data(db: Session, digest: str) -> bytes:
    """What was sent. Raises NotFound once it was let go of."""
    data = db.scalar(select(ArtefactRow.data).where(ArtefactRow.digest == digest))
    if data is None:
        raise NotFound("This file is kept no longer; send it again.")
    return data


def let_go_of_incoming(db: Session, digest: str) -> None:
    """It is brought in; one that is published as well stays."""
    db.execute(delete(ArtefactRow).where(ArtefactRow.digest == digest, ArtefactRow.kind == _KIND))


def _own(db: Session, project_id: int, job_id: int) -> JobView:
    job = read_job(db, project_id, job_id)
    if job.kind != BRINGING_JOB or "digest" not in job.params:
        raise NotFound(f"There is no bundle {job_id} on its way into this project.")
    return job
