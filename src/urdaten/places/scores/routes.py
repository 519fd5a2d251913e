"""Routes of the scores place."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Query

from urdaten.places.desk.wire import StavePage
from urdaten.places.scores import acts
from urdaten.places.scores.wire import ScorecardHead, ScorecardShown
from urdaten.places.tagger.wire import JobShown
from urdaten.places.team.wire import Id, Lead, OfProject
from urdaten.platform.web import Db

router = APIRouter(prefix="/api/projects/{project}/scorecards", tags=["scores"])


def _head(card: acts.Scorecard) -> dict[str, Any]:
    return {
        "id": card.id,
        "source": card.source,
        "title": card.title,
        "f1": card.figures["overall"]["f1"],
        "f1_low": card.figures["f1_low"],
        "f1_high": card.figures["f1_high"],
        "created_at": card.created_at,
        "texts": card.made_from["texts"],
        "sentences": card.made_from["sentences"],
        "learnt": card.made_from.get("learnt", "") if card.source in ("tagger", "resolved") else "",
    }


@router.get("", operation_id="listScorecards")
def read_all(project: OfProject, db: Db) -> list[ScorecardHead]:
    return [ScorecardHead.model_validate(_head(card)) for card in acts.read_scorecards(db, project.id)]


@router.post("", status_code=202, operation_id="startScoring")
def start(project: OfProject, me: Lead, db: Db) -> JobShown:
    return JobShown.model_validate(acts.start_scoring(db, project.id, me.id))


@router.get("/{scorecard_id}", operation_id="readScorecard")
def read(scorecard_id: Id, project: OfProject, db: Db) -> ScorecardShown:
    card = acts.read_scorecard(db, project.id, scorecard_id)
    changes = acts.out_of_date(db, project.id, card)
    parts = {"overall": card.figures["overall"], "types": card.figures["types"], "changes": changes}
    return ScorecardShown.model_validate(_head(card) | parts)


@router.delete("/{scorecard_id}", status_code=204, operation_id="removeScorecard")
def remove(scorecard_id: Id, project: OfProject, _me: Lead, db: Db) -> None:
    acts.remove_scorecard(db, project.id, scorecard_id)


@router.get("/{scorecard_id}/sentences", operation_id="readScoredSentences")
def sentences(
    scorecard_id: Id,
    project: OfProject,
    db: Db,
    type: Annotated[str, Query(max_length=40)] = "",
    outcome: Annotated[str, Query(max_length=40)] = "",
    after: Annotated[int | None, Query(ge=0, le=2**31 - 1)] = None,
) -> StavePage:
    return acts.sentences_behind(db, project, scorecard_id, type, outcome, after)
