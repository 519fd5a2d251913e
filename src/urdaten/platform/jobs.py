"""Long work: jobs with progress and stop, carried by the PostgreSQL-backed queue.

Our `job` row says what people see; the queue only carries its number to a worker. While a worker
runs a job it holds an advisory lock on that number, which PostgreSQL lets go the moment the worker
dies: a job that is "running" while nobody holds its lock was interrupted.
"""

from __future__ import annotations

import asyncio
import logging
import time
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import UTC, datetime
from enum import StrEnum
from typing import Any

import procrastinate
from sqlalchemy import ForeignKey, func, select, text
from sqlalchemy.orm import Mapped, Session, mapped_column

from urdaten.errors import BadInput, Clash, NotFound, Stopped, UrdatenError
from urdaten.platform.database import JSON, Base, Stamped, engine_for, transaction
from urdaten.platform.events import announce

_log = logging.getLogger(__name__)
_LOCK_CLASS = 0x0DA7E
_ALONE_CLASS = 0x0DA7F
# Lets others name the job meanwhile: what a running job is about to keep does, and it must still be possible to stop it.
_HOLD = {"key_share": True}
# How often the worker looks for jobs that others left behind, and when a waiting one counts as lost, in seconds.
RECOVER_S = 3.0
LOST_AFTER_S = 10
STOP_LOOK_S = 0.2


class JobState(StrEnum):
    """What has become of a job."""

    WAITING = "waiting"
    RUNNING = "running"
    DONE = "done"
    STOPPED = "stopped"
    FAILED = "failed"
    INTERRUPTED = "interrupted"


ENDED = frozenset({JobState.DONE, JobState.STOPPED, JobState.FAILED, JobState.INTERRUPTED})


class Job(Base, Stamped):
    """One piece of long work."""

    __tablename__ = "job"

    id: Mapped[int] = mapped_column(primary_key=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"), index=True)
    account_id: Mapped[int | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))
    kind: Mapped[str]
    title: Mapped[str]
    params: Mapped[dict[str, Any]] = mapped_column(JSON)
    state: Mapped[str] = mapped_column(default=JobState.WAITING.value)
    done: Mapped[int] = mapped_column(default=0)
    total: Mapped[int] = mapped_column(default=0)
    unit: Mapped[str] = mapped_column(default="")
    message: Mapped[str] = mapped_column(default="")
    stop_requested: Mapped[bool] = mapped_column(default=False)
    started_at: Mapped[datetime | None]
    finished_at: Mapped[datetime | None]


@dataclass(frozen=True, kw_only=True)
class JobView:
    """A job as other code sees it."""

    id: int
    kind: str
    title: str
    params: dict[str, Any]
    state: JobState
    done: int
    total: int
    unit: str
    message: str
    created_at: datetime
    started_at: datetime | None
    finished_at: datetime | None

    @property
    def ended(self) -> bool:
        return self.state in ENDED


def _view(row: Job) -> JobView:
    names = JobView.__dataclass_fields__
    values = {name: getattr(row, name) for name in names if name != "state"}
    return JobView(state=JobState(row.state), **values)


class JobContext:
    """What a running job may do besides its work: say how far it is, and ask whether to stop."""

    def __init__(self, database_url: str, job: JobView, project_id: int) -> None:
        self.database_url = database_url
        self.job = job
        self.project_id = project_id

    def progress(self, done: int, total: int, unit: str, message: str = "") -> None:
        with transaction(self.database_url) as db:
            row = db.get_one(Job, self.job.id)
            row.done, row.total, row.unit, row.message = done, total, unit, message
            announce(db, self.project_id, "jobs")

    def remember(self, **params: object) -> None:
        """Note something beside what the job was asked for; whoever looks at it finds it among its parameters."""
        with transaction(self.database_url) as db:
            row = db.get_one(Job, self.job.id)
            row.params = row.params | params

    def conclude(self, db: Session, message: str, **params: object) -> None:
        """The job is done, together with all that this transaction keeps: whatever dies from here on, both hold. What is noted
        beside what it was asked for is found among its parameters.

        Raises Stopped, and so keeps nothing, when the job was ended otherwise meanwhile.
        """
        row = db.get_one(Job, self.job.id, with_for_update=_HOLD, populate_existing=True)
        if row.state != JobState.RUNNING:
            raise Stopped("This job was given up before it ended; nothing was kept.")
        row.state = (JobState.STOPPED if row.stop_requested else JobState.DONE).value
        _close_count(row)
        row.message, row.finished_at, row.params = message, datetime.now(UTC), row.params | params
        announce(db, self.project_id, "all")

    def should_stop(self) -> bool:
        with transaction(self.database_url) as db:
            return bool(db.scalar(select(Job.stop_requested).where(Job.id == self.job.id)))


class StopLook:
    """Asks whether a job is to stop, at most once in STOP_LOOK_S: for work that asks often."""

    def __init__(self, context: JobContext) -> None:
        self._context = context
        self._looked = 0.0
        self._stop = False

    def __call__(self) -> bool:
        now = time.monotonic()
        if not self._stop and now - self._looked > STOP_LOOK_S:
            self._looked, self._stop = now, self._context.should_stop()
        return self._stop


def _close_count(row: Job) -> None:
    """What was found to be enough was all that there was to do: 3 of 3, where 4 had been foreseen."""
    if row.state == JobState.DONE:
        row.total = row.done


Handler = Callable[[JobContext], str]
_handlers: dict[str, Handler] = {}


def handles(kind: str) -> Callable[[Handler], Handler]:
    """Register the function that does jobs of this kind. It returns a closing sentence for people."""

    def register(handler: Handler) -> Handler:
        _handlers[kind] = handler
        return handler

    return register


queue_app = procrastinate.App(connector=procrastinate.PsycopgConnector())
_TASK = "urdaten.run_job"


def add_job(
    db: Session,
    *,
    project_id: int,
    account_id: int | None,
    kind: str,
    title: str,
    params: dict[str, Any],
    alone: str = "",
) -> JobView:
    """Put a job into the queue; it becomes visible to workers when the transaction commits.

    alone: raises Clash with these words while another job of the kind has not ended in the project.
    """
    if kind not in _handlers:
        raise BadInput(f"There is no work of the kind {kind!r}.", field="kind")
    if alone:
        # Two who begin at once begin one.
        db.execute(select(func.pg_advisory_xact_lock(_ALONE_CLASS, project_id)))
        others = select(Job.id).where(Job.project_id == project_id, Job.kind == kind, Job.state.not_in(ENDED))
        if db.scalar(others.limit(1)) is not None:
            raise Clash(alone)
    row = Job(project_id=project_id, account_id=account_id, kind=kind, title=title, params=params)
    db.add(row)
    db.flush()
    _defer(db, row.id)
    announce(db, project_id, "jobs")
    return _view(row)


def _defer(db: Session, job_id: int) -> None:
    db.execute(
        text(
            "SELECT procrastinate_defer_jobs_v1(ARRAY[ROW('default', :task, 0, NULL, NULL, "
            "jsonb_build_object('job_id', CAST(:job AS int)), NULL)::procrastinate_job_to_defer_v1])"
        ),
        {"task": _TASK, "job": job_id},
    )


def read_jobs(db: Session, project_id: int, *, limit: int = 50) -> list[JobView]:
    """The project's latest jobs, newest first."""
    rows = db.scalars(select(Job).where(Job.project_id == project_id).order_by(Job.id.desc()).limit(limit))
    return [_view(row) for row in rows]


def latest_job(db: Session, project_id: int, kind: str) -> JobView | None:
    """The project's newest job of a kind."""
    query = select(Job).where(Job.project_id == project_id, Job.kind == kind).order_by(Job.id.desc())
    row = db.scalar(query.limit(1))
    return None if row is None else _view(row)


def others_wait(db: Session) -> bool:
    """Does any job wait for its turn?"""
    return db.scalar(select(Job.id).where(Job.state == JobState.WAITING.value).limit(1)) is not None


def jobs_by_id(db: Session, ids: Iterable[int]) -> dict[int, JobView]:
    """The named jobs, those that are there."""
    return {row.id: _view(row) for row in db.scalars(select(Job).where(Job.id.in_(list(ids))))}


def read_job(db: Session, project_id: int, job_id: int) -> JobView:
    """Raises NotFound."""
    row = db.get(Job, job_id)
    if row is None or row.project_id != project_id:
        raise NotFound(f"There is no job {job_id} in this project.")
    return _view(row)


def _own(db: Session, project_id: int, job_id: int) -> Job:
    row = db.get(Job, job_id, with_for_update=_HOLD)
    if row is None or row.project_id != project_id:
        raise NotFound(f"There is no job {job_id} in this project.")
    return row


def stop_job(db: Session, project_id: int, job_id: int) -> JobView:
    """Ask a job to stop; one that has not begun stops at once. Raises Clash when it has ended."""
    row = _own(db, project_id, job_id)
    if JobState(row.state) in ENDED:
        raise Clash(f"This job has already ended ({row.state}).")
    row.stop_requested = True
    if row.state == JobState.WAITING:
        row.state, row.finished_at = JobState.STOPPED.value, datetime.now(UTC)
        row.message = "Stopped before it began."
    announce(db, project_id, "jobs")
    return _view(row)


def mark_interrupted(db: Session) -> list[int]:
    """Mark running jobs whose worker is gone; their numbers."""
    lost = []
    for job_id in db.scalars(select(Job.id).where(Job.state == JobState.RUNNING.value)).all():
        if not db.scalar(select(func.pg_try_advisory_xact_lock(_LOCK_CLASS, job_id))):
            continue
        # The worker may have finished between the two looks: look again under a row lock.
        row = db.get_one(Job, job_id, with_for_update=_HOLD, populate_existing=True)
        if row.state == JobState.RUNNING:
            row.state, row.finished_at = JobState.INTERRUPTED.value, datetime.now(UTC)
            row.message = "The worker stopped in the middle of this; nothing was kept. Run it again."
            announce(db, row.project_id, "jobs")
            lost.append(job_id)
    return lost


def take_up_lost(db: Session) -> list[int]:
    """Put waiting jobs into the queue again that fell out of it between being fetched and being begun; their numbers.

    A job that is put in twice is run once.
    """
    query = text(
        "SELECT id FROM job WHERE state = 'waiting' AND created_at < now() - make_interval(secs => :age) "
        "AND NOT EXISTS (SELECT 1 FROM procrastinate_jobs q WHERE q.task_name = :task AND q.status = 'todo' "
        "AND (q.args ->> 'job_id')::int = job.id) ORDER BY id"
    )
    lost = []
    for job_id in db.scalars(query, {"age": LOST_AFTER_S, "task": _TASK}).all():
        if db.scalar(select(func.pg_try_advisory_xact_lock(_LOCK_CLASS, job_id))):
            _defer(db, job_id)
            lost.append(job_id)
    return lost


def recover(database_url: str) -> None:
    """Make every job's state true again, and let none wait for ever."""
    with transaction(database_url) as db:
        mark_interrupted(db)
    with transaction(database_url) as db:
        take_up_lost(db)


def run_job(database_url: str, job_id: int) -> None:
    """Do one job, here and now. A job that has begun or ended before is left alone."""
    # The lock lives as long as this connection, which a dying process cannot keep open.
    with engine_for(database_url).connect() as holder:
        holder.execute(select(func.pg_advisory_lock(_LOCK_CLASS, job_id)))
        # The lock belongs to the session: no transaction needs to stay open for as long as the job runs.
        holder.commit()
        try:
            with transaction(database_url) as db:
                row = db.get(Job, job_id, with_for_update=_HOLD)
                if row is None or row.state != JobState.WAITING:
                    return
                row.state, row.started_at = JobState.RUNNING.value, datetime.now(UTC)
                announce(db, row.project_id, "jobs")
                context = JobContext(database_url, _view(row), row.project_id)
            state, message = _attempt(context)
            with transaction(database_url) as db:
                row = db.get(Job, job_id, with_for_update=_HOLD)
                # It may be concluded with what it kept, or gone with its project.
                if row is not None and row.state == JobState.RUNNING:
                    row.state, row.message, row.finished_at = state.value, message, datetime.now(UTC)
                    _close_count(row)
                    announce(db, row.project_id, "all")
        finally:
            holder.execute(select(func.pg_advisory_unlock(_LOCK_CLASS, job_id)))
            holder.commit()


def _attempt(context: JobContext) -> tuple[JobState, str]:
    try:
        message = _handlers[context.job.kind](context)
    except Stopped as stop:
        return JobState.STOPPED, stop.message
    except UrdatenError as error:
        return JobState.FAILED, error.message
    except Exception:
        _log.exception("Job %s failed", context.job.id)
        return JobState.FAILED, "Something unforeseen went wrong; the worker's log says more."
    return (JobState.STOPPED if context.should_stop() else JobState.DONE), message


async def work(dsn: str, database_url: str) -> None:
    """Take jobs from the queue, one at a time, until told to end by SIGINT or SIGTERM."""
    app = queue_app.with_connector(procrastinate.PsycopgConnector(conninfo=dsn))

    @app.task(name=_TASK)
    async def carry(job_id: int) -> None:
        await asyncio.to_thread(run_job, database_url, job_id)

    async with app.open_async():
        recovering = asyncio.create_task(_keep_recovering(app, database_url))
        try:
            await app.run_worker_async(concurrency=1, delete_jobs="successful")
        finally:
            recovering.cancel()


async def _keep_recovering(app: procrastinate.App, database_url: str) -> None:
    while True:
        try:
            await asyncio.to_thread(recover, database_url)
            # What a killed worker left "doing" in the queue is closed: our own row says what becomes of the job.
            for stalled in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=30):
                if stalled.id is not None:
                    await app.job_manager.finish_job_by_id_async(
                        stalled.id, status=procrastinate.jobs.Status.FAILED, delete_job=True
                    )
        except Exception as fault:
            # The database may be away; the next look comes soon.
            _log.warning("Jobs could not be looked through: %s", type(fault).__name__)
        await asyncio.sleep(RECOVER_S)
