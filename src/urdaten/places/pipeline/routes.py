"""Routes of evidence as a whole."""

from __future__ import annotations

from fastapi import APIRouter

from urdaten.places.pipeline import acts
from urdaten.places.pipeline.wire import StandingShown
from urdaten.places.team.wire import Lead, OfProject
from urdaten.platform.web import Db

router = APIRouter(prefix="/api/projects/{project}/evidence", tags=["evidence"])


@router.get("", operation_id="readEvidenceStanding")
def read(project: OfProject, db: Db) -> StandingShown:
    return StandingShown.model_validate(acts.standing(db, project))


@router.post("/count", status_code=202, operation_id="countFinds")
def begin(project: OfProject, me: Lead, db: Db) -> StandingShown:
    acts.begin(db, project, me.id)
    return StandingShown.model_validate(acts.standing(db, project))
