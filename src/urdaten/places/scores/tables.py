"""Tables of the scores place."""

from __future__ import annotations

from typing import Any

from sqlalchemy import ForeignKey
from sqlalchemy.orm import Mapped, mapped_column

from urdaten.platform.database import JSON, Base, Stamped


class ScorecardRow(Base, Stamped):
    """A frozen evaluation of one source against gold."""

    __tablename__ = "scorecard"

    id: Mapped[int] = mapped_column(primary_key=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"), index=True)
    # Scorecards of one scoring share its job.
    job_id: Mapped[int | None] = mapped_column(ForeignKey("job.id", ondelete="SET NULL"))
    source: Mapped[str]
    title: Mapped[str]
    figures: Mapped[dict[str, Any]] = mapped_column(JSON)
    made_from: Mapped[dict[str, Any]] = mapped_column(JSON)


class ScoredSentenceRow(Base):
    """What a scorecard saw in one sentence: [start, end, type(, probability)] in gold and in what was found."""

    __tablename__ = "scored_sentence"

    scorecard_id: Mapped[int] = mapped_column(
        ForeignKey("scorecard.id", ondelete="CASCADE"), primary_key=True
    )
    sentence_id: Mapped[int] = mapped_column(
        ForeignKey("sentence.id", ondelete="CASCADE"), primary_key=True, index=True
    )
    gold: Mapped[list[list[Any]]] = mapped_column(JSON)
    found: Mapped[list[list[Any]]] = mapped_column(JSON)
    # "TYPE outcome" for each outcome in the sentence: right, missed or surplus.
    outcomes: Mapped[list[str]] = mapped_column(JSON)
