"""Weights that were learnt for a project's pipelines, each with what it was learnt from."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from urdaten.core.pipeline import Learnt, Plan, PolicyPlan, Weigher, differences, plan_values, read_plan
from urdaten.errors import BadFile
from urdaten.places.pipeline.acts.names import Known, known_names
from urdaten.places.pipeline.tables import PipelineVersionRow, WeightsRow
from urdaten.places.types import acts as types
from urdaten.platform.jobs import JobView, add_job
from urdaten.platform.revisions import bump

WEIGHING_JOB = "weighing"
# Of those that no version names so many are kept, the newest ones.
KEPT = 5
_LARGEST = 2**31


@dataclass(frozen=True, kw_only=True)
class Weights:
    """Weights without their figures each: when they were learnt, for which stages, and how they did by folds."""

    id: int
    plan: Plan
    figures: dict[str, Any]
    created_at: datetime


def start_weighing(db: Session, project_id: int, account_id: int, plan: Plan, *, with_train: bool) -> JobView:
    """Learn to weigh what the stages of a plan say, in the background. Raises Clash while that is being learnt."""
    return add_job(
        db,
        project_id=project_id,
        account_id=account_id,
        kind=WEIGHING_JOB,
        title="Weights are learnt",
        params={"plan": plan_values(plan), "train": with_train},
        alone="Weights are being learnt already; stop that first, or wait for it.",
    )


def read_weights(db: Session, project_id: int) -> list[Weights]:
    """All that are kept, the newest first."""
    query = select(WeightsRow).where(WeightsRow.project_id == project_id).order_by(WeightsRow.id.desc())
    return [_weights(row) for row in db.scalars(query)]


def weights_named(db: Session, project_id: int, name: str) -> Weights | None:
    """Those that a plan calls so."""
    row = _row(db, project_id, name)
    return None if row is None else _weights(row)


def weigher_named(db: Session, project_id: int, plan: Plan) -> Weigher | None:
    """What weighs in a plan, under the names of now; None where it names none that is there."""
    row = _row(db, project_id, plan.policy.weights)
    if row is None:
        return None
    try:
        weigher = Weigher.from_dict(row.weigher)
    except BadFile:
        return None
    return replace(weigher, learnt=_learnt(db, project_id, plan, row.refers))


def weighs_from(db: Session, project_id: int) -> float | None:
    """From which probability on the answer of the pipeline of now takes a span; None where it does not weigh."""
    query = select(PipelineVersionRow.plan["policy"]).where(PipelineVersionRow.project_id == project_id)
    policy = db.scalar(query.order_by(PipelineVersionRow.number.desc()).limit(1))
    if policy is None or policy["kind"] != "weighed":
        return None
    least: float | None = policy["least"]
    if least is None:
        row = _row(db, project_id, policy["weights"])
        return None if row is None else float(row.figures["least"])
    return least


def keep_weights(
    db: Session,
    project_id: int,
    job_id: int,
    plan: Plan,
    weigher: Weigher,
    known: Known,
    figures: dict[str, Any],
) -> int:
    """Keep what was learnt, with what the names in it stand for, by their numbers, and let go of older ones that nothing names.
    Returns its number."""
    refers = {of: {name: number for number, name in names.items()} for of, names in known.items()}
    row = WeightsRow(
        project_id=project_id,
        job_id=job_id,
        plan=plan_values(plan),
        weigher=weigher.as_dict(),
        refers=refers,
        figures=figures,
    )
    db.add(row)
    db.flush()
    _let_go(db, project_id)
    bump(db, project_id, "pipeline")
    return row.id


def stages_changed(weights: Weights, plan: Plan) -> list[str]:
    """In words, in what the stages of a plan differ from those that weights were learnt for."""
    bare = PolicyPlan()
    return differences(replace(weights.plan, policy=bare), replace(plan, policy=bare))


def _weights(row: WeightsRow) -> Weights:
    return Weights(id=row.id, plan=read_plan(row.plan), figures=row.figures, created_at=row.created_at)


def _row(db: Session, project_id: int, name: str) -> WeightsRow | None:
    if not name.isdecimal() or not 0 < int(name) < _LARGEST:
        return None
    row = db.get(WeightsRow, int(name))
    return None if row is None or row.project_id != project_id else row


def _let_go(db: Session, project_id: int) -> None:
    mine = WeightsRow.project_id == project_id
    plans = db.scalars(select(PipelineVersionRow.plan).where(PipelineVersionRow.project_id == project_id))
    named = {int(name) for plan in plans if (name := plan["policy"]["weights"]).isdecimal()}
    query = select(WeightsRow.id).where(mine, WeightsRow.id.not_in(named)).order_by(WeightsRow.id.desc())
    db.execute(delete(WeightsRow).where(WeightsRow.id.in_(list(db.scalars(query.offset(KEPT))))))


def _learnt(db: Session, project_id: int, plan: Plan, refers: Mapping[str, Mapping[str, int]]) -> Learnt:
    """Under which names it has learnt what is called otherwise now. What is new and has a name that was another's is unknown to it."""
    codes = {one.id: one.code for one in types.list_types(db, project_id)}
    pairs = _renamed(codes, refers["types"])
    known = known_names(db, project_id)
    makers = [
        (stage.name, now, learnt)
        for stage in plan.stages
        if stage.kind in ("lists", "rules")
        for now, learnt in _renamed(known[stage.kind], refers[stage.kind])
    ]
    return Learnt(tuple(sorted(pairs)), tuple(sorted(makers)))


def _renamed(now: Mapping[int, str], then: Mapping[str, int]) -> list[tuple[str, str]]:
    learnt = {number: name for name, number in then.items()}
    pairs = []
    for number, name in now.items():
        before = learnt.get(number)
        if before is None and name in then:
            before = f"{name}, new"
        if before is not None and before != name:
            pairs.append((name, before))
    return pairs
