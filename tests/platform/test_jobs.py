"""Jobs: their states, stopping, and workers that die."""

from __future__ import annotations

import threading

import pytest
from sqlalchemy import func, select, text
from sqlalchemy.orm import Session

from conftest import Api
from urdaten.errors import BadInput, Clash, NotFound, Stopped
from urdaten.platform import jobs
from urdaten.platform.database import engine_for, transaction
from urdaten.platform.jobs import JobContext, JobState
from urdaten.platform.revisions import bump, revisions
from urdaten.platform.settings import Settings

KIND = "tried in tests"


@pytest.fixture
def handler(monkeypatch: pytest.MonkeyPatch) -> dict[str, jobs.Handler]:
    handlers = dict(jobs._handlers)
    monkeypatch.setattr(jobs, "_handlers", handlers)
    handlers[KIND] = lambda _: "All is well."
    return handlers


def add(settings: Settings) -> int:
    with transaction(settings.database_url) as db:
        return jobs.add_job(db, project_id=1, account_id=1, kind=KIND, title="t", params={"n": 1}).id


def state(settings: Settings, job_id: int) -> jobs.JobView:
    with transaction(settings.database_url) as db:
        return jobs.jobs_by_id(db, [job_id])[job_id]


def test_a_job_runs_once(settings: Settings, handler: dict[str, jobs.Handler]) -> None:
    ran = []

    def work(context: JobContext) -> str:
        ran.append(context.job.params)
        context.progress(1, 3, "things", "on it")
        assert state(settings, context.job.id).done == 1
        return "All is well."

    handler[KIND] = work
    job_id = add(settings)
    assert state(settings, job_id).state is JobState.WAITING
    jobs.run_job(settings.database_url, job_id)
    jobs.run_job(settings.database_url, job_id)
    done = state(settings, job_id)
    assert (done.state, done.message, ran) == (JobState.DONE, "All is well.", [{"n": 1}])
    assert done.started_at is not None
    assert done.finished_at is not None
    assert done.ended
    assert (done.done, done.total) == (1, 1), "there was no more to do"


@pytest.mark.parametrize(
    ("fault", "ends", "words"),
    [
        (BadInput("The list is empty."), JobState.FAILED, "The list is empty."),
        (Stopped("Enough."), JobState.STOPPED, "Enough."),
        (RuntimeError("secret detail"), JobState.FAILED, "Something unforeseen"),
    ],
)
def test_what_goes_wrong_is_said(
    settings: Settings, handler: dict[str, jobs.Handler], fault: Exception, ends: JobState, words: str
) -> None:
    def work(context: JobContext) -> str:
        context.progress(1, 3, "things")
        raise fault

    handler[KIND] = work
    job_id = add(settings)
    jobs.run_job(settings.database_url, job_id)
    ended = state(settings, job_id)
    assert ended.state is ends
    assert ended.message.startswith(words)
    assert "secret" not in ended.message


def test_stopping_a_running_job(settings: Settings, handler: dict[str, jobs.Handler]) -> None:
    def work(context: JobContext) -> str:
        assert not context.should_stop()
        with transaction(settings.database_url) as db:
            jobs.stop_job(db, 1, context.job.id)
        assert context.should_stop()
        return "Kept the best."

    handler[KIND] = work
    job_id = add(settings)
    jobs.run_job(settings.database_url, job_id)
    assert state(settings, job_id).state is JobState.STOPPED
    assert state(settings, job_id).message == "Kept the best."


@pytest.mark.usefixtures("handler")
def test_stopping_before_it_begins(settings: Settings) -> None:
    job_id = add(settings)
    with transaction(settings.database_url) as db:
        jobs.stop_job(db, 1, job_id)
    jobs.run_job(settings.database_url, job_id)
    assert state(settings, job_id).state is JobState.STOPPED
    with transaction(settings.database_url) as db:
        with pytest.raises(Clash, match="already ended"):
            jobs.stop_job(db, 1, job_id)
        with pytest.raises(NotFound):
            jobs.stop_job(db, 2, job_id)


@pytest.mark.usefixtures("handler")
def test_a_job_whose_worker_died_is_interrupted_and_one_at_work_is_not(settings: Settings) -> None:
    alive, dead = add(settings), add(settings)
    with transaction(settings.database_url) as db:
        for row in db.scalars(select(jobs.Job)):
            row.state = JobState.RUNNING.value
    with engine_for(settings.database_url).connect() as holder:
        holder.execute(select(func.pg_advisory_lock(jobs._LOCK_CLASS, alive)))
        jobs.recover(settings.database_url)
        assert state(settings, alive).state is JobState.RUNNING
        lost = state(settings, dead)
        assert lost.state is JobState.INTERRUPTED
        assert "Run it again" in lost.message


def queued(settings: Settings) -> list[int]:
    with transaction(settings.database_url) as db:
        query = text("SELECT args ->> 'job_id' FROM procrastinate_jobs WHERE status = 'todo' ORDER BY id")
        return [int(number) for number in db.scalars(query)]


@pytest.mark.usefixtures("handler")
def test_a_job_that_fell_out_of_the_queue_is_taken_up_again(
    settings: Settings, monkeypatch: pytest.MonkeyPatch
) -> None:
    fetched, waiting = add(settings), add(settings)
    with transaction(settings.database_url) as db:
        # As a worker leaves it that dies between fetching and beginning.
        statement = "UPDATE procrastinate_jobs SET status = 'doing' WHERE args ->> 'job_id' = :job"
        db.execute(text(statement), {"job": str(fetched)})
    jobs.recover(settings.database_url)
    assert queued(settings) == [waiting], "it may be on its way"
    monkeypatch.setattr(jobs, "LOST_AFTER_S", 0)
    with engine_for(settings.database_url).connect() as holder:
        holder.execute(select(func.pg_advisory_lock(jobs._LOCK_CLASS, fetched)))
        jobs.recover(settings.database_url)
        assert queued(settings) == [waiting], "somebody is just beginning it"
        holder.execute(select(func.pg_advisory_unlock(jobs._LOCK_CLASS, fetched)))
    jobs.recover(settings.database_url)
    jobs.recover(settings.database_url)
    assert queued(settings) == [waiting, fetched]


def test_what_is_kept_and_that_it_is_done_hold_together(
    settings: Settings, handler: dict[str, jobs.Handler]
) -> None:
    def work(context: JobContext) -> str:
        with transaction(context.database_url) as db:
            bump(db, 1, "kept")
            context.conclude(db, "Kept.")
        # The worker dies here; what it kept is there, and the job says so.
        raise KeyboardInterrupt

    handler[KIND] = work
    job_id = add(settings)
    with pytest.raises(KeyboardInterrupt):
        jobs.run_job(settings.database_url, job_id)
    jobs.recover(settings.database_url)
    ended = state(settings, job_id)
    assert (ended.state, ended.message) == (JobState.DONE, "Kept.")


def test_a_job_that_was_given_up_keeps_nothing(settings: Settings, handler: dict[str, jobs.Handler]) -> None:
    def work(context: JobContext) -> str:
        with transaction(settings.database_url) as db:
            db.get_one(jobs.Job, context.job.id).state = JobState.INTERRUPTED.value
        with transaction(context.database_url) as db:
            bump(db, 1, "kept")
            context.conclude(db, "Kept.")
        return "not reached"

    handler[KIND] = work
    job_id = add(settings)
    jobs.run_job(settings.database_url, job_id)
    assert state(settings, job_id).state is JobState.INTERRUPTED
    with transaction(settings.database_url) as db:
        assert "kept" not in revisions(db, 1)


@pytest.mark.usefixtures("handler")
def test_of_two_that_are_to_be_alone_one_is_begun(settings: Settings) -> None:
    begun: list[int] = []
    refused: list[str] = []

    def begin() -> None:
        try:
            with transaction(settings.database_url) as db:
                job = jobs.add_job(
                    db, project_id=1, account_id=1, kind=KIND, title="t", params={}, alone="Going on."
                )
                begun.append(job.id)
        except Clash as clash:
            refused.append(clash.message)

    threads = [threading.Thread(target=begin) for _ in range(5)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert (len(begun), refused) == (1, ["Going on."] * 4)
    jobs.run_job(settings.database_url, begun[0])
    begin()
    assert len(begun) == 2


def test_scoring_looks_at_stop(demo_api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    started = demo_api.post("/scorecards", expect=202)
    plain = JobContext.progress

    def stop_at_the_second(context: JobContext, done: int, total: int, unit: str, message: str = "") -> None:
        plain(context, done, total, unit, message)
        if done == 1:
            demo_api.post(f"/jobs/{started['id']}/stop", expect=200)

    monkeypatch.setattr(JobContext, "progress", stop_at_the_second)
    (job,) = demo_api.run_jobs()
    assert job["state"] == "stopped"
    assert "no scorecard of it was kept" in job["message"]
    assert demo_api.get("/scorecards") == []


def test_the_queue_carries_the_job_with_its_transaction(db: Session) -> None:
    job = jobs.add_job(db, project_id=1, account_id=None, kind="scoring", title="t", params={})
    args = db.connection().exec_driver_sql("SELECT task_name, args FROM procrastinate_jobs").all()
    assert args == [("urdaten.run_job", {"job_id": job.id})]


def test_unknown_work_is_refused(db: Session) -> None:
    with pytest.raises(BadInput, match="no work of the kind"):
        jobs.add_job(db, project_id=1, account_id=None, kind="dance", title="t", params={})


def test_jobs_are_shown_and_stopped_over_http(demo_api: Api) -> None:
    started = demo_api.post("/scorecards", expect=202)
    assert demo_api.get("/jobs")[0]["state"] == "waiting"
    assert demo_api.get("/figures")["running"][0]["kind"] == "scoring"
    stopped = demo_api.post(f"/jobs/{started['id']}/stop", expect=200)
    assert stopped["state"] == "stopped"
    assert demo_api.get("/figures")["running"] == []
