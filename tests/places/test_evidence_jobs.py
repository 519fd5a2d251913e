"""Evidence of a project that is too large to be counted while somebody waits."""

from __future__ import annotations

from typing import Any

import pytest
from sqlalchemy import select

from conftest import Api
from places.finding import BODIES, by_tagger, put_to_use
from urdaten.places.desk import acts as desk
from urdaten.places.pipeline import acts as pipeline
from urdaten.places.pipeline import jobs
from urdaten.places.pipeline.acts import finds
from urdaten.places.pipeline.tables import EvidenceRow
from urdaten.places.team import acts as team
from urdaten.places.texts import acts as texts
from urdaten.platform.database import transaction
from urdaten.platform.jobs import JobContext, run_job


@pytest.fixture
def large(api: Api, monkeypatch: pytest.MonkeyPatch) -> Api:
    """A project that is too large to be counted while somebody waits."""
    monkeypatch.setattr(finds, "FEW_TEXTS", 0)
    api.post("/types", {"code": "VES", "name": "vessel", "key": "v", "hue": 1})
    for number, body in enumerate(BODIES):
        api.post("/texts", {"title": str(number), "body": body})
    made = api.post("/lists", {"name": "vessels", "type": "VES"})
    api.post(f"/lists/{made['id']}/entries", {"preferred": "Haldis"})
    return api


def evidence_jobs(api: Api) -> list[dict[str, Any]]:
    return [job for job in api.get("/jobs") if job["kind"] == pipeline.JOB]


def test_a_job_counts_what_is_too_much_for_a_request(large: Api) -> None:
    assert [one["finds"] for one in large.get("/lists")] == [0]
    standing = large.get("/evidence")
    assert (standing["texts"], standing["behind"], standing["job"]["state"]) == (3, 3, "waiting")
    # However often somebody asks, it is one job.
    large.get("/lists")
    large.get("/rules")
    assert len(evidence_jobs(large)) == 1
    (done,) = large.run_jobs()
    assert (done["state"], done["done"]) == ("done", 3)
    assert "3 texts were behind" in done["message"]
    assert [one["finds"] for one in large.get("/lists")] == [2]
    assert large.get("/evidence")["behind"] == 0
    assert len(evidence_jobs(large)) == 1


def test_a_job_counts_anew_where_many_have_signed(large: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    large.get("/lists")
    large.run_jobs()
    monkeypatch.setattr(jobs, "PORTION", 1)
    with transaction(large.settings.database_url) as db:
        held = texts.sentences_of(db, [text.id for text in texts.all_texts(db, 1)])
        desk.sign_many(db, 1, 1, {s.id: () for own in held.values() for s in own})
    assert [(one["finds"], one["judged"]) for one in large.get("/lists")] == [(2, 0)]
    assert large.get("/evidence")["behind"] == 3
    large.run_jobs()
    assert [(one["finds"], one["judged"]) for one in large.get("/lists")] == [(2, 2)]
    assert large.get("/evidence")["behind"] == 0


def test_old_figures_stay_until_the_new_ones_are_there(large: Api) -> None:
    large.get("/lists")
    large.run_jobs()
    (one,) = large.get("/lists")
    large.post(f"/lists/{one['id']}/entries", {"preferred": "Amber Quay"})
    assert [one["finds"] for one in large.get("/lists")] == [2]
    assert large.get("/evidence")["behind"] == 1
    large.run_jobs()
    assert [one["finds"] for one in large.get("/lists")] == [3]


def test_a_stopped_job_keeps_what_it_counted_and_is_not_begun_again_by_itself(
    large: Api, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(jobs, "PORTION", 1)
    large.get("/lists")
    (job,) = evidence_jobs(large)
    monkeypatch.setattr(JobContext, "should_stop", lambda _: True)
    run_job(large.settings.database_url, job["id"])
    (job,) = evidence_jobs(large)
    assert (job["state"], job["done"], job["total"]) == ("stopped", 1, 3)
    monkeypatch.undo()
    monkeypatch.setattr(finds, "FEW_TEXTS", 0)
    large.get("/lists")
    assert large.get("/evidence")["behind"] == 2
    assert len(evidence_jobs(large)) == 1
    assert large.post("/evidence/count", expect=202)["job"]["state"] == "waiting"
    assert "already" in large.post("/evidence/count", expect=409)["detail"]
    large.run_jobs()
    assert large.get("/evidence")["behind"] == 0
    # Nor is one begun where a reader looks in.
    large.other("rea").post("/evidence/count", expect=403)


def test_another_job_goes_first(large: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(jobs, "PORTION", 1)
    large.get("/lists")
    (job,) = evidence_jobs(large)
    large.post("/trainings", {"name": "other"})
    run_job(large.settings.database_url, job["id"])
    (job,) = evidence_jobs(large)
    assert (job["state"], job["message"]) == ("done", "Another job goes first; the rest is counted later.")
    large.run_jobs()
    large.get("/lists")
    large.run_jobs()
    assert large.get("/evidence")["behind"] == 0


def test_a_job_that_failed_is_tried_again_once_something_has_changed(
    large: Api, monkeypatch: pytest.MonkeyPatch
) -> None:
    large.get("/lists")
    with monkeypatch.context() as broken:
        broken.setattr(pipeline, "count", lambda *_: 1 / 0)
        large.run_jobs()
    large.get("/lists")
    assert [job["state"] for job in evidence_jobs(large)] == ["failed"]
    (one,) = large.get("/lists")
    large.post(f"/lists/{one['id']}/entries", {"preferred": "Amber Quay"})
    large.get("/lists")
    large.run_jobs()
    assert [job["state"] for job in evidence_jobs(large)] == ["done", "failed"]
    assert [one["finds"] for one in large.get("/lists")] == [3]


def test_the_job_lets_the_tagger_speak_of_every_text(large: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    with transaction(large.settings.database_url) as db:
        put_to_use(db)
    monkeypatch.setattr(jobs, "PORTION", 1)
    large.run_jobs()
    with transaction(large.settings.database_url) as db:
        rows = db.execute(select(EvidenceRow.stamp, EvidenceRow.tagger_key, EvidenceRow.tagger)).all()
        now = pipeline.read_makers(db, team.project_by_id(db, 1)).stamp
        assert [row.stamp for row in rows] == [now] * 3
        assert all(row.tagger_key for row in rows)
        assert sum(len(row.tagger) for row in rows) == sum(map(len, by_tagger(db))) > 0
