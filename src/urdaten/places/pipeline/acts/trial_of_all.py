"""A rule that is not saved yet, held against all texts by a job."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from urdaten.errors import NotFound
from urdaten.places.pipeline.acts.finds import Finds
from urdaten.places.pipeline.acts.trial import Hit, Trial
from urdaten.places.rules import acts as rules
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts
from urdaten.platform.jobs import JobView, add_job, read_job

TRIAL_JOB = "rule trial"


@dataclass(frozen=True, kw_only=True)
class TrialOfAll:
    """The job, and what it has found so far: in so many texts, and the first sentences of each outcome, the wrong ones first."""

    job: JobView
    finds: Finds
    # It only takes spans away.
    takes: bool
    texts: int
    hits: Sequence[Hit]


def begin_trial(
    db: Session, project: Project, account_id: int, draft: rules.RuleDraft, rule_id: int | None
) -> TrialOfAll:
    """Raises BadPattern for a pattern that cannot be read, Clash while another trial runs."""
    takes = not rules.compile_draft(db, project.id, draft).marks
    job = add_job(
        db,
        project_id=project.id,
        account_id=account_id,
        kind=TRIAL_JOB,
        title="A rule is held against all texts",
        params={"draft": asdict(draft), "rule": rule_id},
        alone="Another rule is being held against all texts; stop that first, or wait for it.",
    )
    return TrialOfAll(job=job, finds=Finds(), takes=takes, texts=0, hits=())


def trial_of(db: Session, project: Project, params: Mapping[str, Any]) -> Trial:
    """As it was asked for. Raises BadPattern where something that it names is gone meanwhile."""
    values = params["draft"]
    examples = {name: tuple(values[name]) for name in ("must_find", "must_not_find")}
    draft = rules.RuleDraft(**values | examples)
    return Trial(db, project, rules.compile_draft(db, project.id, draft), params["rule"])


def texts_to_try(db: Session, project_id: int) -> list[int]:
    """Numbers of all texts, in reading order."""
    index = texts.text_index(project_id)
    return list(db.scalars(select(index.c.id).order_by(index.c.position, index.c.id)))


def told_of(trial: Trial) -> dict[str, Any]:
    """What a job remembers of it."""
    return {
        "finds": asdict(trial.finds),
        "texts": trial.texts,
        "hits": [[hit.text.id, hit.sentence.id] for hit in trial.hits],
    }


def read_trial(db: Session, project: Project, job_id: int) -> TrialOfAll:
    """What has come of it so far. Raises NotFound."""
    job = read_job(db, project.id, job_id)
    if job.kind != TRIAL_JOB:
        raise NotFound(f"There is no trial {job_id} of a rule in this project.")
    told = job.params.get("told")
    if told is None:
        return TrialOfAll(job=job, finds=Finds(), takes=False, texts=0, hits=())
    wanted = {sentence for _, sentence in told["hits"]}
    # Held against their texts anew: what a rule finds is not kept before it is one.
    again = trial_of(db, project, job.params)
    again.take(db, project, texts.read_texts(db, project.id, {text for text, _ in told["hits"]}))
    return TrialOfAll(
        job=job,
        finds=Finds(**told["finds"]),
        takes=again.takes,
        texts=told["texts"],
        hits=[hit for hit in again.hits if hit.sentence.id in wanted],
    )
