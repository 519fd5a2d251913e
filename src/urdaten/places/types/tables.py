"""Tables of the types place."""

from __future__ import annotations

from typing import Any

from sqlalchemy import ARRAY, ForeignKey, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from urdaten.platform.database import JSON, Base, Stamped


class EntityTypeRow(Base, Stamped):
    """One entity type of a scheme."""

    __tablename__ = "entity_type"
    __table_args__ = (UniqueConstraint("project_id", "code"), UniqueConstraint("project_id", "key"))

    id: Mapped[int] = mapped_column(primary_key=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"))
    code: Mapped[str]
    name: Mapped[str]
    key: Mapped[str]
    hue: Mapped[int]
    definition: Mapped[str]
    counts: Mapped[list[str]] = mapped_column(ARRAY(String))
    counts_not: Mapped[list[str]] = mapped_column(ARRAY(String))
    rulings: Mapped[list[str]] = mapped_column(ARRAY(String))
    position: Mapped[int]


class SchemeChangeRow(Base, Stamped):
    """One change of a scheme; the number of changes is its version."""

    __tablename__ = "scheme_change"

    id: Mapped[int] = mapped_column(primary_key=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"), index=True)
    account_id: Mapped[int | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))
    kind: Mapped[str]
    before: Mapped[dict[str, Any] | None] = mapped_column(JSON)
    after: Mapped[dict[str, Any] | None] = mapped_column(JSON)
