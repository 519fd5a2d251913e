"""Routes of a project's pipeline."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Path, Query
from sqlalchemy.orm import Session

from urdaten.core.pipeline import Plan, differences
from urdaten.core.spans import Span
from urdaten.errors import BadInput, NotFound
from urdaten.places.desk import acts as desk
from urdaten.places.pipeline import acts
from urdaten.places.pipeline.plan_wire import (
    AblationShown,
    BackWish,
    ChoicesShown,
    EffectShown,
    KeepWish,
    PipelinePlan,
    PipelineShown,
    PipelineVersionShown,
    PlanLookShown,
    TraceShown,
    TraceWish,
    VersionNameWish,
    VersionsComparedShown,
    WeighedShown,
    WeighingShown,
    WeighingWish,
    WeightsSeenShown,
    WeighWish,
    plan_of,
    plan_shown,
    trace_shown,
    weights_shown,
)
from urdaten.places.pipeline.wire import make_stave
from urdaten.places.tagger.wire import JobShown
from urdaten.places.team import acts as team
from urdaten.places.team.acts import Project
from urdaten.places.team.wire import Annotator, Lead, OfProject
from urdaten.places.texts import acts as texts
from urdaten.platform.jobs import latest_job
from urdaten.platform.web import Db

router = APIRouter(prefix="/api/projects/{project}/pipeline", tags=["pipeline"])
Number = Annotated[int, Path(ge=0, le=2**31 - 1)]
Offset = Annotated[int, Query(ge=0, le=2**31 - 1)]


def _version(db: Session, project: Project, version: acts.Version) -> PipelineVersionShown:
    names = {member.id: member.name for member in team.read_members(db, project.id)}
    return PipelineVersionShown(
        number=version.number,
        said=version.said,
        by=names.get(version.account_id or 0, ""),
        created_at=version.created_at,
        name=version.name,
        published=version.published,
        has_bundle=version.has_bundle,
        plan=plan_shown(version.plan),
    )


def _shown(db: Session, project: Project, version: acts.Version) -> PipelineShown:
    choices = acts.choices(db, project.id)
    return PipelineShown(
        version=_version(db, project, version),
        fault=acts.fault(db, project, version.plan),
        choices=ChoicesShown.model_validate(choices),
    )


@router.get("", operation_id="readPipeline")
def read(project: OfProject, db: Db) -> PipelineShown:
    return _shown(db, project, acts.present(db, project.id))


@router.put("", operation_id="keepPipeline")
def keep(wish: KeepWish, project: OfProject, me: Lead, db: Db) -> PipelineShown:
    return _shown(db, project, acts.keep(db, project, me.id, plan_of(wish.plan), wish.seen))


@router.get("/versions", operation_id="listPipelineVersions")
def versions(project: OfProject, db: Db) -> list[PipelineVersionShown]:
    return [_version(db, project, version) for version in acts.read_versions(db, project.id)]


@router.post("/versions/{number}/back", status_code=201, operation_id="goBackToPipelineVersion")
def back(number: Number, wish: BackWish, project: OfProject, me: Lead, db: Db) -> PipelineShown:
    return _shown(db, project, acts.go_back(db, project, me.id, number, wish.seen))


@router.put("/versions/{number}/name", operation_id="namePipelineVersion")
def name(
    number: Number, wish: VersionNameWish, project: OfProject, _me: Lead, db: Db
) -> PipelineVersionShown:
    return _version(db, project, acts.call(db, project, number, wish.name))


@router.post("/versions/{number}/publish", status_code=202, operation_id="publishPipelineVersion")
def publish(number: Number, project: OfProject, me: Lead, db: Db) -> JobShown:
    """Keep all that a version needs in one file, as it is now, and give that to others."""
    if number == 0:
        raise NotFound(
            "What every project begins with is no version of its own yet; publish the pipeline of now."
        )
    return JobShown.model_validate(acts.start_publishing(db, project, me.id, number))


@router.post("/publish", status_code=202, operation_id="publishFirstPipeline")
def publish_first(project: OfProject, me: Lead, db: Db) -> JobShown:
    """As publishPipelineVersion, of what every project begins with, which becomes a version of its own by that."""
    version = acts.keep_first(db, project, me.id)
    return JobShown.model_validate(acts.start_publishing(db, project, me.id, version.number))


@router.delete("/versions/{number}/publish", operation_id="withdrawPipelineVersion")
def withdraw(number: Number, project: OfProject, _me: Lead, db: Db) -> PipelineVersionShown:
    return _version(db, project, acts.withdraw(db, project.id, number))


@router.get("/compare", operation_id="comparePipelineVersions")
def compare(
    project: OfProject,
    db: Db,
    before: Annotated[int, Query(ge=0, le=2**31 - 1)],
    after: Annotated[int, Query(ge=0, le=2**31 - 1)],
) -> VersionsComparedShown:
    """Two versions, both with lists, rules and taggers of now."""
    old, new = (acts.read_version(db, project.id, number) for number in (before, after))
    found = acts.look(db, project, new.plan, old.plan)
    return VersionsComparedShown(
        said=differences(old.plan, new.plan), look=_look(db, project, found, new.plan)
    )


@router.get("/weights", operation_id="listPipelineWeights")
def weights(project: OfProject, db: Db) -> WeighingShown:
    job = latest_job(db, project.id, acts.WEIGHING_JOB)
    return WeighingShown(
        job=None if job is None else JobShown.model_validate(job),
        weights=[weights_shown(one) for one in acts.read_weights(db, project.id)],
    )


@router.post("/weights", status_code=202, operation_id="learnPipelineWeights")
def learn(wish: WeighingWish, project: OfProject, me: Lead, db: Db) -> JobShown:
    plan = plan_of(wish.plan)
    return JobShown.model_validate(acts.start_weighing(db, project.id, me.id, plan, with_train=wish.train))


@router.get("/ablation", operation_id="readAblation")
def ablation(project: OfProject, db: Db) -> AblationShown | None:
    found = acts.read_ablation(db, project.id)
    return None if found is None else AblationShown.model_validate(found)


@router.post("/ablation", status_code=202, operation_id="startAblation")
def start_ablation(wish: PipelinePlan, project: OfProject, me: Lead, db: Db) -> JobShown:
    """Compare the stages of a plan on signed dev texts: the whole, each alone, the whole without each."""
    return JobShown.model_validate(acts.start_ablation(db, project.id, me.id, plan_of(wish)))


@router.get("/weighed", operation_id="readWeighed")
def weighed(
    project: OfProject,
    _me: Annotator,
    db: Db,
    sentence: Annotated[int, Query(ge=1, le=2**31 - 1)],
    start: Offset,
    end: Offset,
    type: Annotated[str, Query(max_length=40)],
) -> WeighedShown:
    """Why the pipeline of now gives a span of a sentence the probability that it has."""
    text, _ = texts.read_sentence(db, project.id, sentence)
    desk.refuse_where_quiet(db, project, text)
    plan = acts.present(db, project.id).plan
    return WeighedShown.model_validate(acts.weighed_text(db, project, plan, text, Span(start, end, type)))


@router.post("/weigh", operation_id="weighSpan")
def weigh(wish: WeighWish, project: OfProject, _me: Annotator, db: Db) -> WeighedShown:
    """Why a span has the probability that it has, where a plan weighs."""
    plan, span = plan_of(wish.plan), Span(wish.start, wish.end, wish.type)
    if wish.sentence is None:
        return WeighedShown.model_validate(acts.weighed_words(db, project, plan, wish.words, span))
    text, _ = texts.read_sentence(db, project.id, wish.sentence)
    desk.refuse_where_quiet(db, project, text)
    return WeighedShown.model_validate(acts.weighed_text(db, project, plan, text, span))


@router.post("/look", operation_id="lookAtPipeline")
def look(wish: PipelinePlan, project: OfProject, _me: Annotator, db: Db) -> PlanLookShown:
    plan = plan_of(wish)
    return _look(db, project, acts.look(db, project, plan), plan)


def _look(db: Session, project: Project, found: acts.Look, plan: Plan) -> PlanLookShown:
    held = acts.weights_named(db, project.id, plan.policy.weights) if plan.policy.kind == "weighed" else None
    by = (
        None
        if held is None
        else WeightsSeenShown(weights=weights_shown(held), changes=acts.stages_changed(held, plan))
    )
    values = {
        name: getattr(found, name) for name in ("texts", "all", "tokens", "sentences", "differing", "example")
    }
    return PlanLookShown(
        **values,
        stages=[EffectShown.model_validate(one) for one in found.stages],
        after=vars(found.after),  # type: ignore[arg-type] # it is validated
        before=vars(found.before),  # type: ignore[arg-type] # likewise
        weights=by,
        shown=[
            make_stave(
                project,
                one.text,
                one.sentence,
                True,
                {"gold": one.gold, "before": one.before, "after": one.after},
                True,
            )
            for one in found.shown
        ],
    )


@router.post("/trace", operation_id="tracePipeline")
def trace(wish: TraceWish, project: OfProject, _me: Annotator, db: Db) -> TraceShown:
    plan = plan_of(wish.plan)
    if wish.sentence is not None:
        text, sentence = texts.read_sentence(db, project.id, wish.sentence)
        desk.refuse_where_quiet(db, project, text)
        found = acts.trace_text(db, project, plan, text)
        return trace_shown(
            acts.cut_down(found, sentence.start, sentence.end),
            texts.tokens_between(text, project.language, sentence.start, sentence.end),
        )
    if not wish.words.strip():
        raise BadInput("There are no words to be traced; type or paste some.", field="words")
    found = acts.trace_words(db, project, plan, wish.words)
    return trace_shown(found, texts.tokens_of(wish.words, project.language))
