"""Tables of the Desk."""

from __future__ import annotations

from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy import ARRAY, BigInteger, Float, ForeignKey, Index, Integer, UniqueConstraint, text
from sqlalchemy.orm import Mapped, mapped_column

from urdaten.platform.database import JSON, Base, Stamped


class LayerRow(Base, Stamped):
    """Whose annotation of sentences: gold, of which a project has one, or one annotator's own, or one brought in."""

    __tablename__ = "layer"
    __table_args__ = (
        UniqueConstraint("project_id", "name"),
        Index("uq_layer_gold", "project_id", unique=True, postgresql_where="kind = 'gold'"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"))
    # gold · annotator · imported · proposed
    kind: Mapped[str]
    account_id: Mapped[int | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))
    round_id: Mapped[int | None] = mapped_column(ForeignKey("round.id", ondelete="SET NULL"))
    name: Mapped[str]


class AnnotationRow(Base):
    """What stands annotated in one sentence, in one layer; a sentence without a row is untouched there."""

    __tablename__ = "annotation"
    __table_args__ = (
        UniqueConstraint("sentence_id", "layer_id"),
        Index("ix_annotation_signed", "layer_id", "sentence_id", postgresql_where="state = 'signed'"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    sentence_id: Mapped[int] = mapped_column(ForeignKey("sentence.id", ondelete="CASCADE"))
    layer_id: Mapped[int] = mapped_column(ForeignKey("layer.id", ondelete="CASCADE"), index=True)
    state: Mapped[str]
    version: Mapped[int]
    signed_by: Mapped[int | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))
    signed_at: Mapped[datetime | None]
    # Number of the scheme's version that stood when it was last changed.
    scheme: Mapped[int]


class TallyRow(Base):
    """A part of how far gold has come in a text; see acts.tallying."""

    __tablename__ = "tally"

    id: Mapped[int] = mapped_column(primary_key=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"), index=True)
    text_id: Mapped[int] = mapped_column(ForeignKey("text.id", ondelete="CASCADE"), index=True)
    # Signed sentences, and how many of those have no span.
    signed: Mapped[int]
    empty: Mapped[int]
    # Sentences with a question to the lead that has no answer.
    asked: Mapped[int]
    spans: Mapped[int]


class SpanRow(Base):
    """A span: half-open code points in the body of its sentence's text."""

    __tablename__ = "span"
    __table_args__ = (UniqueConstraint("annotation_id", "start", "end", "type_id"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    annotation_id: Mapped[int] = mapped_column(ForeignKey("annotation.id", ondelete="CASCADE"))
    start: Mapped[int]
    end: Mapped[int]
    type_id: Mapped[int] = mapped_column(ForeignKey("entity_type.id"), index=True)


class TurnedDownRow(Base):
    """Evidence that an annotator has turned down: such a span is not offered again in its sentence."""

    __tablename__ = "turned_down"
    __table_args__ = (UniqueConstraint("annotation_id", "start", "end", "type_id"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    annotation_id: Mapped[int] = mapped_column(ForeignKey("annotation.id", ondelete="CASCADE"))
    start: Mapped[int]
    end: Mapped[int]
    type_id: Mapped[int] = mapped_column(ForeignKey("entity_type.id"), index=True)


class QuestionRow(Base):
    """What an annotator asks the lead about a sentence, and what the lead says; "" where nobody has."""

    __tablename__ = "question"

    annotation_id: Mapped[int] = mapped_column(
        ForeignKey("annotation.id", ondelete="CASCADE"), primary_key=True
    )
    words: Mapped[str]
    asked_by: Mapped[int | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))
    asked_at: Mapped[datetime]
    answer: Mapped[str]
    answered_by: Mapped[int | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))
    answered_at: Mapped[datetime | None]


class ActRow(Base, Stamped):
    """One act of annotation. Never changed but for `standing`, which undo and redo move.

    It outlives its sentence, its text and the types that it speaks of; these are named by their numbers alone.
    """

    __tablename__ = "act"
    __table_args__ = (
        Index("ix_act_undo", "project_id", "account_id", "standing", "id"),
        UniqueConstraint("project_id", "token"),
        Index("ix_act_batch", "batch", postgresql_where="batch IS NOT NULL"),
        Index("ix_act_project_id_id", "project_id", "id"),
        Index("ix_act_project_id_created_at", "project_id", "created_at"),
        Index("ix_act_project_id_transaction", "project_id", "transaction"),
        Index("ix_act_sentence_id_layer_id", "sentence_id", "layer_id", "id"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"))
    layer_id: Mapped[int] = mapped_column(ForeignKey("layer.id", ondelete="CASCADE"))
    sentence_id: Mapped[int]
    account_id: Mapped[int | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))
    kind: Mapped[str]
    # As acts.annotation writes it: types by their numbers.
    before: Mapped[dict[str, Any]] = mapped_column(JSON)
    after: Mapped[dict[str, Any]] = mapped_column(JSON)
    # done: stands, can be undone · undone: can be redone · kept: stands, but its sentence has been changed since ·
    # dropped: undone for good · passed: undoing and redoing themselves, what was loaded, and what a scheme's change made
    standing: Mapped[str]
    # Named by the sender, so that an act sent twice is done once.
    token: Mapped[UUID | None]
    # Acts that were made at once are undone at once.
    batch: Mapped[UUID | None]
    # Whoever asks what is new since a moment goes by this: numbers of acts become visible out of their order.
    transaction: Mapped[int] = mapped_column(
        BigInteger, server_default=text("(pg_current_xact_id()::text)::bigint")
    )


class VerdictRow(Base):
    """What an act said of one span of evidence; acceptance by source is counted from these."""

    __tablename__ = "verdict"

    id: Mapped[int] = mapped_column(primary_key=True)
    act_id: Mapped[int] = mapped_column(ForeignKey("act.id", ondelete="CASCADE"), index=True)
    source: Mapped[str]
    maker: Mapped[str]
    start: Mapped[int]
    end: Mapped[int]
    type_id: Mapped[int]
    taken: Mapped[bool]


class RankingRow(Base, Stamped):
    """Sentences in an order of the queue, as it was when somebody first asked for it."""

    __tablename__ = "ranking"
    __table_args__ = (UniqueConstraint("project_id", "digest"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"))
    # Of what was asked for.
    digest: Mapped[str]
    sentences: Mapped[list[int]] = mapped_column(ARRAY(Integer))
    # What each was ranked by; null where it was not.
    worths: Mapped[list[float | None]] = mapped_column(ARRAY(Float))


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
    # Rises with every change, so that nobody overwrites what they have not seen.
    version: Mapped[int] = mapped_column(default=1)


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
