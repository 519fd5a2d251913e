"""Tables of the types place."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import ARRAY, ForeignKey, Index, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from urdaten.platform.database import JSON, Base, Stamped


class EntityTypeRow(Base, Stamped):
    """One entity type, in the scheme or retired. Never deleted: spans, the log and taggers name it by its number."""

    __tablename__ = "entity_type"
    __table_args__ = (
        Index(
            "uq_entity_type_code", "project_id", "code", unique=True, postgresql_where="retired_at IS NULL"
        ),
        Index(
            "uq_entity_type_key",
            "project_id",
            "key",
            unique=True,
            postgresql_where="retired_at IS NULL AND key <> ''",
        ),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"))
    code: Mapped[str]
    name: Mapped[str]
    # That marks with it at the Desk; "" for none.
    key: Mapped[str]
    hue: Mapped[int]
    definition: Mapped[str]
    counts: Mapped[list[str]] = mapped_column(ARRAY(String))
    counts_not: Mapped[list[str]] = mapped_column(ARRAY(String))
    rulings: Mapped[list[str]] = mapped_column(ARRAY(String))
    position: Mapped[int]
    parent_id: Mapped[int | None] = mapped_column(ForeignKey("entity_type.id", ondelete="SET NULL"))
    # How its values are normalised; see acts.VALUE_KINDS.
    value_kind: Mapped[str]
    # Rises with every change, so that nobody overwrites what they have not seen.
    version: Mapped[int]
    retired_at: Mapped[datetime | None]
    # The type that it became part of when it was retired, if it did.
    merged_into: Mapped[int | None] = mapped_column(ForeignKey("entity_type.id", ondelete="SET NULL"))


class SchemeRow(Base, Stamped):
    """One version of a project's scheme; never changed."""

    __tablename__ = "scheme"
    __table_args__ = (UniqueConstraint("project_id", "number"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"))
    number: Mapped[int]
    digest: Mapped[str]
    overlap: Mapped[str]
    # Every type of this version in its order, as acts.versions writes it; each with its number.
    types: Mapped[list[dict[str, Any]]] = mapped_column(JSON)
    account_id: Mapped[int | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))
    # What became of the types since the version before: a list of {"type", "what", "into"}.
    step: Mapped[list[dict[str, Any]]] = mapped_column(JSON)
