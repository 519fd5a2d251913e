"""Tables of the texts place."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any

from sqlalchemy import ForeignKey, Index, UniqueConstraint, text
from sqlalchemy.dialects.postgresql import TSVECTOR
from sqlalchemy.orm import Mapped, mapped_column

from urdaten.platform.database import JSON, Base, Stamped

# The words of longer bodies may be too many to be kept; they are looked for in the body itself.
IS_LONG = "char_length(body) > 100000"


class TextRow(Base, Stamped):
    """A text; its body never changes."""

    __tablename__ = "text"
    __table_args__ = (
        UniqueConstraint("project_id", "body_digest"),
        # With what figures sum up and the queue is cut by, so that neither need read bodies for it.
        Index(
            "ix_text_reading_order", "project_id", "position", "id", postgresql_include=["sentences", "split"]
        ),
        Index("ix_text_project_id_split", "project_id", "split", "id", postgresql_include=["sentences"]),
        Index("ix_text_project_id_group", "project_id", "group"),
        Index("ix_text_project_id_source", "project_id", "source"),
        Index(
            "ix_text_words",
            "title",
            "body",
            postgresql_using="gin",
            postgresql_ops={"title": "gin_trgm_ops", "body": "gin_trgm_ops"},
        ),
        Index("ix_text_full", "project_id", "words", postgresql_using="gin"),
        Index("ix_text_long", "project_id", postgresql_where=IS_LONG),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"))
    title: Mapped[str]
    body: Mapped[str]
    body_digest: Mapped[str]
    group: Mapped[str]
    dated: Mapped[date | None]
    split: Mapped[str]
    position: Mapped[int]
    # How many it has.
    sentences: Mapped[int]
    # Rises whenever its sentences are cut anew.
    cut: Mapped[int] = mapped_column(default=0, server_default="0")
    # Rises with every change, so that nobody overwrites what they have not seen.
    version: Mapped[int] = mapped_column(default=1)
    # What its source said of it besides, by name.
    meta: Mapped[dict[str, str]] = mapped_column(JSON, default=dict, server_default=text("'{}'"))
    # The file or address that it came from, and where in it.
    source: Mapped[str] = mapped_column(default="", server_default="")
    place: Mapped[str] = mapped_column(default="", server_default="")
    # By which it is searched; see acts.indexing.
    words: Mapped[str] = mapped_column(TSVECTOR, server_default=text("''::tsvector"), deferred=True)
    # Half-open bounds of what its writer quotes, and of signatures.
    aside: Mapped[list[list[int]]] = mapped_column(JSON, default=list, server_default=text("'[]'"))


class SentenceRow(Base):
    """A sentence: half-open code point bounds in its text's body."""

    __tablename__ = "sentence"
    __table_args__ = (UniqueConstraint("text_id", "number"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    text_id: Mapped[int] = mapped_column(ForeignKey("text.id", ondelete="CASCADE"))
    number: Mapped[int]
    start: Mapped[int]
    end: Mapped[int]


class TextActRow(Base, Stamped):
    """Something that was done to many texts at once, so that it can be undone."""

    __tablename__ = "text_act"
    __table_args__ = (Index("ix_text_act_project_id_id", "project_id", "id"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"))
    account_id: Mapped[int | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))
    # change · remove
    kind: Mapped[str]
    # How many it touched.
    texts: Mapped[int]
    # Of each text [number, what its fields were, what they became]; of those removed their numbers alone.
    steps: Mapped[list[Any]] = mapped_column(JSON)
    undone_at: Mapped[datetime | None]


class BinnedTextRow(Base, Stamped):
    """A text in the bin, with everything that belongs to it."""

    __tablename__ = "binned_text"
    __table_args__ = (Index("ix_binned_text_project_id_created_at", "project_id", "created_at", "id"),)

    # The text's own.
    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"))
    account_id: Mapped[int | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))
    title: Mapped[str]
    body_digest: Mapped[str]
    sentences: Mapped[int]
    # Signatures in any layer.
    signed: Mapped[int]
    # As platform.packing takes it out.
    held: Mapped[dict[str, Any]] = mapped_column(JSON)


class LikenessRow(Base):
    """Which texts of a project are nearly the same, as far as they were looked at."""

    __tablename__ = "likeness"

    project_id: Mapped[int] = mapped_column(
        ForeignKey("project.id", ondelete="CASCADE"), primary_key=True, autoincrement=False
    )
    # The highest number of a text that was looked at.
    newest: Mapped[int]
    # [text, earlier text, share of their runs of words]
    pairs: Mapped[list[Any]] = mapped_column(JSON)
    # Sentences that stand in several: [text, start, end, numbers of all texts that have it]
    recurring: Mapped[list[Any]] = mapped_column(JSON, default=list, server_default=text("'[]'"))
    job_id: Mapped[int | None] = mapped_column(ForeignKey("job.id", ondelete="SET NULL"))
