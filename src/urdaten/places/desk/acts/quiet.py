"""Where nothing is suggested, and why: test texts, and texts of open rounds that are annotated without suggestions."""

from __future__ import annotations

from collections.abc import Iterable

from sqlalchemy import ColumnElement, Subquery, and_, not_
from sqlalchemy.orm import Session

from urdaten.errors import NotAllowed
from urdaten.places.desk.acts.rounds import silenced_by
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts
from urdaten.platform.database import among

TEST_QUIET = "Test texts are annotated without suggestions, so that their figures stay honest."


def quiet_reason(db: Session, project: Project, text: texts.Text) -> str | None:
    """Why nothing is suggested in this text; None where something is."""
    if text.split == "test":
        return TEST_QUIET
    name = silenced_by(db, project.id).get(text.id)
    return None if name is None else f"The round “{name}” is annotated without suggestions."


def refuse_where_quiet(db: Session, project: Project, text: texts.Text) -> None:
    """Raises NotAllowed where nothing is suggested."""
    if reason := quiet_reason(db, project, text):
        raise NotAllowed(reason)


def quiet_among(db: Session, project: Project, wanted: Iterable[texts.Text]) -> set[int]:
    """The numbers of those texts in which nothing is suggested."""
    silenced = silenced_by(db, project.id)
    return {text.id for text in wanted if text.split == "test" or text.id in silenced}


def is_loud(db: Session, project: Project, index: Subquery) -> ColumnElement[bool]:
    """For queries: is a text of texts.text_index none of the quiet ones?"""
    return and_(index.c.split != "test", not_(among(index.c.id, silenced_by(db, project.id))))
