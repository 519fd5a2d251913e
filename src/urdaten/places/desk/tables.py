"""Tables of the Desk."""

from __future__ import annotations

from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy import ForeignKey, Index, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from urdaten.platform.database import JSON, Base, Stamped


class AnnotationRow(Base):
    """What stands annotated in one sentence; a sentence without a row is untouched."""

    __tablename__ = "annotation"

    sentence_id: Mapped[int] = mapped_column(ForeignKey("sentence.id", ondelete="CASCADE"), primary_key=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"), index=True)
    state: Mapped[str]
    version: Mapped[int]
    signed_by: Mapped[int | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))
    signed_at: Mapped[datetime | None]
    # What an annotator asks the lead about the sentence, and what the lead says; "" where nobody has.
    question: Mapped[str]
    answer: Mapped[str]


class SpanRow(Base):
    """A gold span: half-open code points in the body of its sentence's text."""

    __tablename__ = "span"
    __table_args__ = (UniqueConstraint("sentence_id", "start", "end", "type_id"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    sentence_id: Mapped[int] = mapped_column(ForeignKey("annotation.sentence_id", ondelete="CASCADE"))
    start: Mapped[int]
    end: Mapped[int]
    type_id: Mapped[int] = mapped_column(ForeignKey("entity_type.id"), index=True)


class TurnedDownRow(Base):
    """Evidence that an annotator has turned down: such a span is not offered again in its sentence."""

    __tablename__ = "turned_down"
    __table_args__ = (UniqueConstraint("sentence_id", "start", "end", "type_id"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    sentence_id: Mapped[int] = mapped_column(ForeignKey("annotation.sentence_id", ondelete="CASCADE"))
    start: Mapped[int]
    end: Mapped[int]
    type_id: Mapped[int] = mapped_column(ForeignKey("entity_type.id", ondelete="CASCADE"))


class ActRow(Base, Stamped):
    """One act of annotation. Never changed but for `standing`, which undo and redo move."""

    __tablename__ = "act"
    __table_args__ = (
        Index("ix_act_undo", "project_id", "account_id", "standing", "id"),
        UniqueConstraint("project_id", "token"),
        Index("ix_act_batch", "batch", postgresql_where="batch IS NOT NULL"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"))
    sentence_id: Mapped[int] = mapped_column(ForeignKey("sentence.id", ondelete="CASCADE"), index=True)
    account_id: Mapped[int | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))
    kind: Mapped[str]
    before: Mapped[dict[str, Any]] = mapped_column(JSON)
    after: Mapped[dict[str, Any]] = mapped_column(JSON)
    # done: stands, can be undone · undone: can be redone · kept: stands, but its sentence has been changed since ·
    # dropped: undone for good · passed: undoing and redoing themselves, and what was loaded
    standing: Mapped[str]
    # Named by the sender, so that an act sent twice is done once.
    token: Mapped[UUID | None]
    # Acts that were made at once are undone at once.
    batch: Mapped[UUID | None]


class VerdictRow(Base):
    """What an act said of one span of evidence; acceptance by source is counted from these."""

    __tablename__ = "verdict"

    id: Mapped[int] = mapped_column(primary_key=True)
    act_id: Mapped[int] = mapped_column(ForeignKey("act.id", ondelete="CASCADE"), index=True)
    source: Mapped[str]
    maker: Mapped[str]
    start: Mapped[int]
    end: Mapped[int]
    type_id: Mapped[int] = mapped_column(ForeignKey("entity_type.id", ondelete="CASCADE"))
    taken: Mapped[bool]


class RoundRow(Base, Stamped):
    """A portion of annotation work. Its texts and people stand in tables of their own."""

    __tablename__ = "round"
    __table_args__ = (UniqueConstraint("project_id", "name"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"))
    name: Mapped[str]
    note: Mapped[str]
    # Smaller numbers come first.
    priority: Mapped[int]
    suggestions: Mapped[bool]
    open: Mapped[bool]


class RoundTextRow(Base):
    """A text that belongs to a round."""

    __tablename__ = "round_text"

    round_id: Mapped[int] = mapped_column(ForeignKey("round.id", ondelete="CASCADE"), primary_key=True)
    text_id: Mapped[int] = mapped_column(
        ForeignKey("text.id", ondelete="CASCADE"), primary_key=True, index=True
    )


class RoundPersonRow(Base):
    """Somebody who is asked to work in a round."""

    __tablename__ = "round_person"

    round_id: Mapped[int] = mapped_column(ForeignKey("round.id", ondelete="CASCADE"), primary_key=True)
    account_id: Mapped[int] = mapped_column(
        ForeignKey("account.id", ondelete="CASCADE"), primary_key=True, index=True
    )
