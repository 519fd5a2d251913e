"""Routes of a project's pipeline."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Path
from sqlalchemy.orm import Session

from urdaten.errors import BadInput
from urdaten.places.desk import acts as desk
from urdaten.places.pipeline import acts
from urdaten.places.pipeline.plan_wire import (
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
    plan_of,
    plan_shown,
    trace_shown,
)
from urdaten.places.pipeline.wire import make_stave
from urdaten.places.team import acts as team
from urdaten.places.team.acts import Project
from urdaten.places.team.wire import Annotator, Lead, OfProject
from urdaten.places.texts import acts as texts
from urdaten.platform.web import Db

router = APIRouter(prefix="/api/projects/{project}/pipeline", tags=["pipeline"])
Number = Annotated[int, Path(ge=0, le=2**31 - 1)]


def _version(db: Session, project: Project, version: acts.Version) -> PipelineVersionShown:
    names = {member.id: member.name for member in team.read_members(db, project.id)}
    return PipelineVersionShown(
        number=version.number,
        said=version.said,
        by=names.get(version.account_id or 0, ""),
        created_at=version.created_at,
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


@router.post("/look", operation_id="lookAtPipeline")
def look(wish: PipelinePlan, project: OfProject, _me: Annotator, db: Db) -> PlanLookShown:
    return _look(project, acts.look(db, project, plan_of(wish)))


def _look(project: Project, found: acts.Look) -> PlanLookShown:
    values = {
        name: getattr(found, name) for name in ("texts", "all", "tokens", "sentences", "differing", "example")
    }
    return PlanLookShown(
        **values,
        stages=[EffectShown.model_validate(one) for one in found.stages],
        after=vars(found.after),  # type: ignore[arg-type] # it is validated
        before=vars(found.before),  # type: ignore[arg-type] # likewise
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
