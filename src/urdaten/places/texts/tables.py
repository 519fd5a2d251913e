"""Tables of the texts place."""

from __future__ import annotations

from datetime import date

from sqlalchemy import ForeignKey, Index, UniqueConstraint, text
from sqlalchemy.orm import Mapped, mapped_column

from urdaten.platform.database import JSON, Base, Stamped


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
