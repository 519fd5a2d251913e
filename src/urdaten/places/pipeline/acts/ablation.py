"""Ablation: the whole pipeline, each of its stages alone, and the whole without each, on signed dev texts."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import asdict, dataclass, replace
from typing import Any, Literal

from sqlalchemy.orm import Session

from urdaten.core.pipeline import (
    Material,
    Plan,
    PolicyPlan,
    Signed,
    answers_by_folds,
    build,
    differences,
    plan_values,
    read_plan,
)
from urdaten.core.scoring import Difference, compare, score_spans
from urdaten.core.spans import Span
from urdaten.errors import BadInput, Clash, Stopped
from urdaten.places.pipeline.acts import versions
from urdaten.places.pipeline.acts.material import read_material
from urdaten.places.pipeline.acts.signed_texts import SignedTexts, signed_dev
from urdaten.places.team.acts import Project
from urdaten.platform.jobs import JobView, add_job, latest_job

ABLATION_JOB = "ablation"
How = Literal["whole", "alone", "without"]
# What stages of these kinds do to spans of others they cannot do alone.
_OF_OTHERS = ("where", "types", "repeats")


@dataclass(frozen=True, kw_only=True)
class Variant:
    """One of the pipelines that are compared: with all stages, or with one alone or without it."""

    how: How
    stage: str
    plan: Plan


@dataclass(frozen=True, kw_only=True)
class Row:
    """How a variant did, beside the whole; only why it could not run where `fault` says that."""

    how: How
    stage: str
    fault: str = ""
    right: int = 0
    found: int = 0
    gold: int = 0
    f1: float | None = None
    f1_low: float | None = None
    f1_high: float | None = None
    against: Difference | None = None


@dataclass(frozen=True, kw_only=True)
class Ablation:
    """What has come of it: a row for each variant that could be built, and whether the stages are others now."""

    job: JobView
    plan: Plan
    texts: int
    sentences: int
    rows: list[Row]
    changes: list[str]


def start_ablation(db: Session, project_id: int, account_id: int, plan: Plan) -> JobView:
    """Compare the stages of a plan in the background. Raises Clash while that is going on, and where no stage is on."""
    if not plan.on:
        raise Clash("No stage is on, so there is nothing to compare.")
    return add_job(
        db,
        project_id=project_id,
        account_id=account_id,
        kind=ABLATION_JOB,
        title="Stages are compared",
        params={"plan": plan_values(plan)},
        alone="Stages are being compared already; stop that first, or wait for it.",
    )


def read_ablation(db: Session, project_id: int) -> Ablation | None:
    """The newest comparison, be it done or not; None before the first."""
    job = latest_job(db, project_id, ABLATION_JOB)
    # The jobs of a project that was brought from elsewhere have left behind what they were asked for.
    if job is None or "plan" not in job.params:
        return None
    plan = read_plan(job.params["plan"])
    told = job.params.get("told", {"texts": 0, "sentences": 0, "rows": []})
    return Ablation(
        job=job,
        plan=plan,
        texts=told["texts"],
        sentences=told["sentences"],
        rows=[_row(values) for values in told["rows"]],
        changes=differences(plan, versions.present(db, project_id).plan),
    )


def _row(values: dict[str, Any]) -> Row:
    against = values["against"]
    return Row(**{**values, "against": against and Difference(**against)})


def variants(plan: Plan) -> list[Variant]:
    """The whole first; then each stage that is on, alone if it can be and then left out, unless it is the only one."""
    found = [Variant(how="whole", stage="", plan=plan)]
    for stage in plan.on:
        if len(plan.on) > 1 and stage.kind not in _OF_OTHERS:
            found.append(Variant(how="alone", stage=stage.name, plan=plan.alone(stage.name)))
    for stage in plan.on:
        if len(plan.on) > 1:
            found.append(Variant(how="without", stage=stage.name, plan=plan.without(stage.name)))
    return found


@dataclass(frozen=True, kw_only=True, eq=False)
class Comparison:
    """What was read to compare stages; nothing of it is asked of the database again."""

    plan: Plan
    material: Material
    held: SignedTexts

    def told(
        self, report: Callable[[int, int, str], None], should_stop: Callable[[], bool]
    ) -> dict[str, Any]:
        """A row for each variant, the difference from the whole with its interval. Raises BadInput where the whole cannot be built,
        Stopped."""
        every = variants(self.plan)
        held, gold = self.held, self.held.gold
        rows: list[Row] = []
        whole: list[list[Any]] = []
        for number, one in enumerate(every):
            if should_stop():
                raise Stopped("Comparing the stages was stopped; nothing of it was kept.")
            report(number, len(every), "pipelines")
            try:
                found = held.judged(self._answers(one, should_stop))
            except BadInput as why:
                if one.how == "whole":
                    raise
                rows.append(Row(how=one.how, stage=one.stage, fault=why.message))
                continue
            whole = found if one.how == "whole" else whole
            scores = score_spans(list(zip(gold, found, strict=True)), (), groups=held.groups)
            rows.append(
                Row(
                    how=one.how,
                    stage=one.stage,
                    right=scores.overall.right,
                    found=scores.overall.in_found,
                    gold=scores.overall.in_gold,
                    f1=scores.overall.f1,
                    f1_low=scores.f1_low,
                    f1_high=scores.f1_high,
                    against=compare(gold, found, whole, held.groups),
                )
            )
        return {"texts": len(held.wanted), "sentences": held.sentences, "rows": list(map(asdict, rows))}

    def _answers(self, one: Variant, should_stop: Callable[[], bool]) -> list[list[Span]]:
        """What a variant answers. Where the plan weighs, what is left of it is weighed anew, each text by weights that have not
        seen it; a stage alone has nobody to be weighed against."""
        if one.plan.policy.kind != "weighed":
            return self.held.answers(build(one.plan, self.material))
        pipeline = build(replace(one.plan, policy=PolicyPlan()), self.material)
        if one.how == "alone":
            return self.held.answers(pipeline)
        held = self.held
        spans = pipeline.candidates(held.batch, held.beside)
        signed = Signed.of(held.batch, spans, held.gold, held.bounds, held.beside)
        return answers_by_folds([], signed, self.material.overlap, should_stop=should_stop)


def read_comparison(db: Session, project: Project, plan: Plan) -> Comparison:
    """Raises BadInput where no dev text has a signed sentence."""
    held = signed_dev(db, project)
    if not held.wanted:
        raise BadInput("No sentence of a dev text is signed, so there is nothing to compare the stages on.")
    return Comparison(plan=plan, material=read_material(db, project, plan), held=held)
