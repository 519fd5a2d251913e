"""The live figures of the top bar: one per place, with what makes it out of date."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import Field
from sqlalchemy.orm import Session

from urdaten.places.desk import acts as desk
from urdaten.places.lists import acts as lists
from urdaten.places.pipeline import acts as pipeline
from urdaten.places.records import acts as records
from urdaten.places.rules import acts as rules
from urdaten.places.scores import acts as scores
from urdaten.places.tagger import acts as tagger
from urdaten.places.tagger.wire import JobShown
from urdaten.places.team.acts import Project
from urdaten.places.team.wire import Id, Lead, OfProject, Shown
from urdaten.places.types import acts as types
from urdaten.platform.jobs import read_jobs, stop_job
from urdaten.platform.web import Db

router = APIRouter(prefix="/api/projects/{project}", tags=["project"])


class TaggerFigure(Shown):
    name: str
    made_at: str
    dev_f1: float | None


class ScoreFigure(Shown):
    f1: float | None
    low: float | None
    high: float | None


class PipelineFigure(Shown):
    stages: int = Field(description="those that are on")
    version: int


class ProjectFigures(Shown):
    """Plain figures; the front end puts them into words. `stale` says per place what has changed."""

    types: int
    scheme: int
    texts: int
    signed: int
    sentences: int
    lists: int
    names: int
    rules: int
    rules_failing: int
    tagger: TaggerFigure | None
    pipeline: PipelineFigure
    scores: ScoreFigure | None
    records: int
    records_open: int
    stale: dict[str, list[str]]
    running: list[JobShown]


def _figures(db: Session, project: Project) -> ProjectFigures:
    share = desk.shares(db, [project.id])[project.id]
    held = lists.read_lists(db, project.id)
    known_rules = rules.read_rules(db, project.id)
    training = tagger.training_in_use(db, project.id)
    stages, version = pipeline.stages_on(db, project.id)
    card = scores.latest_whole(db, project.id)
    count, unfinished = records.count_records(db, project.id)
    stale: dict[str, list[str]] = {}
    if training and (changes := tagger.out_of_date(db, project.id, training)):
        stale["tagger"] = changes
    if card and (changes := scores.out_of_date(db, project.id, card)):
        stale["scores"] = changes
    if records.out_of_date(db, project.id):
        stale["records"] = ["something has changed since they were assembled"]
    jobs = [job for job in read_jobs(db, project.id) if not job.ended]
    return ProjectFigures(
        types=len(types.list_types(db, project.id)),
        scheme=types.scheme_version(db, project.id),
        texts=share.texts,
        signed=share.signed,
        sentences=share.sentences,
        lists=len(held),
        names=sum(x.entries for x in held),
        rules=len(known_rules),
        rules_failing=sum(rules.failing(db, project, rule) > 0 for rule in known_rules),
        tagger=_tagger(training),
        pipeline=PipelineFigure(stages=stages, version=version),
        scores=_score(card),
        records=count,
        records_open=unfinished,
        stale=stale,
        running=[JobShown.model_validate(job) for job in jobs],
    )


def _tagger(training: tagger.Training | None) -> TaggerFigure | None:
    if training is None:
        return None
    ended = training.job.finished_at if training.job else None
    best = max((e["dev_f1"] for e in training.epochs if e["dev_f1"] is not None), default=None)
    return TaggerFigure(name=training.name, made_at=(ended or training.created_at).isoformat(), dev_f1=best)


def _score(card: scores.Scorecard | None) -> ScoreFigure | None:
    if card is None:
        return None
    f = card.figures
    return ScoreFigure(f1=f["overall"]["f1"], low=f["f1_low"], high=f["f1_high"])


@router.get("/figures", operation_id="readFigures")
def figures(project: OfProject, db: Db) -> ProjectFigures:
    return _figures(db, project)


@router.get("/jobs", operation_id="listJobs")
def jobs(project: OfProject, db: Db) -> list[JobShown]:
    return [JobShown.model_validate(job) for job in read_jobs(db, project.id)]


@router.post("/jobs/{job_id}/stop", operation_id="stopJob")
def stop(job_id: Id, project: OfProject, _me: Lead, db: Db) -> JobShown:
    return JobShown.model_validate(stop_job(db, project.id, job_id))
