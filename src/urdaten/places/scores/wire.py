"""Wire models of the scores place."""

from __future__ import annotations

from datetime import datetime

from pydantic import Field

from urdaten.places.team.wire import Shown


class FiguresShown(Shown):
    """Strict span figures; null where undefined (nothing found, nothing in gold)."""

    right: int
    missed: int
    surplus: int
    precision: float | None
    recall: float | None
    f1: float | None


class ScorecardHead(Shown):
    id: int
    source: str
    title: str
    f1: float | None
    f1_low: float | None
    f1_high: float | None
    created_at: datetime
    texts: int
    sentences: int
    learnt: str = Field(
        description="in words, from what the tagger learnt that nobody had signed; empty where there was nothing of the kind"
    )


class ScorecardShown(ScorecardHead):
    overall: FiguresShown
    types: dict[str, FiguresShown]
    changes: list[str] = Field(description="what has changed since it was frozen")
