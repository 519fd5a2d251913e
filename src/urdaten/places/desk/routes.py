"""Routes of the Desk."""

from __future__ import annotations

from dataclasses import asdict
from typing import Annotated

from fastapi import APIRouter, Query

from urdaten.core.spans import Span
from urdaten.places.desk import acts, queue
from urdaten.places.desk.wire import (
    ActShown,
    AnnotationShown,
    ChangeWish,
    ContributionShown,
    DeskSentenceShown,
    QueueItemShown,
    QueuePage,
    SpanShown,
    TravelShown,
    WhyShown,
)
from urdaten.places.team.wire import OfProject
from urdaten.platform.web import Db, Me

MOST_REASONS = 10

router = APIRouter(prefix="/api/projects/{project}/desk", tags=["desk"])


@router.get("/queue", operation_id="readQueue")
def read_queue(
    project: OfProject,
    db: Db,
    after: int | None = None,
    split: str = "",
    texts: Annotated[int, Query(ge=1, le=500)] = 200,
) -> QueuePage:
    items, following = queue.read_queue(db, project, after_text=after, split=split, texts_per_page=texts)
    progress = acts.progress(db, project.id, split)
    return QueuePage(
        items=[QueueItemShown.model_validate(item) for item in items], next=following, **asdict(progress)
    )


@router.get("/sentences/{sentence_id}", operation_id="openSentence")
def open_sentence(sentence_id: int, project: OfProject, db: Db) -> DeskSentenceShown:
    return DeskSentenceShown.model_validate(queue.open_sentence(db, project, sentence_id))


@router.get("/sentences/{sentence_id}/why", operation_id="explainSpan")
def explain_span(
    sentence_id: int,
    project: OfProject,
    db: Db,
    start: Annotated[int, Query(ge=0)],
    end: Annotated[int, Query(ge=0)],
    type: str,
) -> WhyShown:
    made = queue.why(db, project, sentence_id, Span(start, end, type))
    listed, rest = made.contributions[:MOST_REASONS], made.contributions[MOST_REASONS:]
    return WhyShown(
        difference=made.difference,
        runner_up=[SpanShown.model_validate(s) for s in made.runner_up],
        contributions=[ContributionShown.model_validate(c) for c in listed],
        rest=len(rest),
        rest_value=sum(c.value for c in rest),
    )


@router.put("/sentences/{sentence_id}", operation_id="annotate")
def annotate(sentence_id: int, wish: ChangeWish, project: OfProject, me: Me, db: Db) -> AnnotationShown:
    change = acts.Change(
        kind=wish.kind,
        version=wish.version,
        state=wish.state,
        spans=tuple(Span(s.start, s.end, s.type, "gold") for s in wish.spans),
        token=wish.token,
    )
    return AnnotationShown.model_validate(acts.annotate(db, project.id, me.id, sentence_id, change))


@router.post("/undo", operation_id="undo")
def undo(project: OfProject, me: Me, db: Db) -> TravelShown:
    sentence_id, annotation = acts.undo(db, project.id, me.id)
    return TravelShown(sentence_id=sentence_id, annotation=AnnotationShown.model_validate(annotation))


@router.post("/redo", operation_id="redo")
def redo(project: OfProject, me: Me, db: Db) -> TravelShown:
    sentence_id, annotation = acts.redo(db, project.id, me.id)
    return TravelShown(sentence_id=sentence_id, annotation=AnnotationShown.model_validate(annotation))


@router.get("/sentences/{sentence_id}/history", operation_id="readHistory")
def history(sentence_id: int, project: OfProject, db: Db) -> list[ActShown]:
    return [ActShown.model_validate(act) for act in acts.history(db, project.id, sentence_id)]
