"""Tables of the records place."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey, Index, LargeBinary, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from urdaten.platform.database import JSON, Base, Stamped


class TemplateRow(Base, Stamped):
    """A record template. Its fields name entity types by number, so that a new code changes nothing."""

    __tablename__ = "record_template"
    __table_args__ = (UniqueConstraint("project_id", "name"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"))
    name: Mapped[str]
    # "" where records stand for sentences, paragraphs or texts.
    anchor: Mapped[str]
    fields: Mapped[list[dict[str, Any]]] = mapped_column(JSON)
    description: Mapped[str] = mapped_column(server_default="")
    scope: Mapped[str] = mapped_column(server_default="text")
    each: Mapped[str] = mapped_column(server_default="entity")
    # Groups of names of fields, one of each of which a record needs.
    opens: Mapped[list[list[str]]] = mapped_column(JSON, server_default="[]")
    # What was learnt from signed records, as core/records writes it, and from how many.
    learnt: Mapped[bytes | None] = mapped_column(LargeBinary)
    learnt_records: Mapped[int] = mapped_column(server_default="0")
    # Rises with every change, so that nobody overwrites what they have not seen.
    version: Mapped[int] = mapped_column(default=1)


class RecordRow(Base, Stamped):
    """One record: found, signed by somebody, or turned down."""

    __tablename__ = "record"
    __table_args__ = (Index("ix_record_template_id_state", "template_id", "state"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    template_id: Mapped[int] = mapped_column(ForeignKey("record_template.id", ondelete="CASCADE"), index=True)
    text_id: Mapped[int] = mapped_column(ForeignKey("text.id", ondelete="CASCADE"), index=True)
    # Where its first span stands in the text.
    position: Mapped[int]
    # Folded; "" where it has none.
    entity: Mapped[str] = mapped_column(server_default="")
    # Field name → list of values: text, kind, how, fault, sort.
    values: Mapped[dict[str, list[dict[str, Any]]]] = mapped_column(JSON, server_default="{}")
    # Field name → list of parts: value, written, start, end, type, source, why, probability, speaks, against.
    parts: Mapped[dict[str, list[dict[str, Any]]]] = mapped_column(JSON)
    # Parts that would have filled a filled field with another value, with that field's name.
    rivals: Mapped[list[dict[str, Any]]] = mapped_column(JSON)
    missing: Mapped[list[str]] = mapped_column(JSON)
    # What there is to look at; see acts.LOOKS.
    looks: Mapped[list[str]] = mapped_column(JSON, server_default="[]")
    probability: Mapped[float | None]
    # "found", "signed" or "refused".
    state: Mapped[str] = mapped_column(server_default="found")
    signed_by: Mapped[int | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))
    signed_at: Mapped[datetime | None]
    # Of a signed record what would be found now where that differs: field → [signed, found].
    differs: Mapped[dict[str, list[str]]] = mapped_column(JSON, server_default="{}")


class SignedTextRow(Base):
    """Somebody has said that these are all the records of a text by a template."""

    __tablename__ = "record_signed_text"

    template_id: Mapped[int] = mapped_column(
        ForeignKey("record_template.id", ondelete="CASCADE"), primary_key=True
    )
    text_id: Mapped[int] = mapped_column(
        ForeignKey("text.id", ondelete="CASCADE"), primary_key=True, index=True
    )
    signed_by: Mapped[int | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))
    signed_at: Mapped[datetime]


class AssemblyRow(Base, Stamped):
    """When a project's records were last assembled, and from which versions."""

    __tablename__ = "assembly"

    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"), primary_key=True)
    made_from: Mapped[dict[str, Any]] = mapped_column(JSON)
