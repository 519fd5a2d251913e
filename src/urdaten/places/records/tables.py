"""Tables of the records place."""

from __future__ import annotations

from typing import Any

from sqlalchemy import ForeignKey, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from urdaten.platform.database import JSON, Base, Stamped


class TemplateRow(Base, Stamped):
    """A record template. Its fields name entity types by number, so that a new code changes nothing."""

    __tablename__ = "record_template"
    __table_args__ = (UniqueConstraint("project_id", "name"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"))
    name: Mapped[str]
    anchor: Mapped[str]
    fields: Mapped[list[dict[str, Any]]] = mapped_column(JSON)
    # Rises with every change, so that nobody overwrites what they have not seen.
    version: Mapped[int] = mapped_column(default=1)


class RecordRow(Base, Stamped):
    """One assembled record."""

    __tablename__ = "record"

    id: Mapped[int] = mapped_column(primary_key=True)
    template_id: Mapped[int] = mapped_column(ForeignKey("record_template.id", ondelete="CASCADE"), index=True)
    text_id: Mapped[int] = mapped_column(ForeignKey("text.id", ondelete="CASCADE"), index=True)
    position: Mapped[int]
    # Field name → list of parts: value, written, start, end, type, source, why.
    parts: Mapped[dict[str, list[dict[str, Any]]]] = mapped_column(JSON)
    # Parts that would have filled a filled field with another value, with that field's name.
    rivals: Mapped[list[dict[str, Any]]] = mapped_column(JSON)
    missing: Mapped[list[str]] = mapped_column(JSON)


class AssemblyRow(Base, Stamped):
    """When a project's records were last assembled, and from which versions."""

    __tablename__ = "assembly"

    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"), primary_key=True)
    made_from: Mapped[dict[str, Any]] = mapped_column(JSON)
