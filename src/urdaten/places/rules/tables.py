"""Tables of the rules place."""

from __future__ import annotations

from typing import Any

from sqlalchemy import ARRAY, ForeignKey, String, UniqueConstraint
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column

from urdaten.platform.database import Base, Stamped


class RuleRow(Base, Stamped):
    """A rule with its examples."""

    __tablename__ = "rule"
    __table_args__ = (UniqueConstraint("project_id", "name"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"))
    name: Mapped[str]
    type_id: Mapped[int] = mapped_column(ForeignKey("entity_type.id"))
    about: Mapped[str]
    # As it was last written; what it names may have other names by now.
    pattern: Mapped[str]
    # {"types": {code: number}, "lists": {name: number}} of what the pattern names.
    refers: Mapped[dict[str, Any]] = mapped_column(JSONB)
    must_find: Mapped[list[str]] = mapped_column(ARRAY(String))
    must_not_find: Mapped[list[str]] = mapped_column(ARRAY(String))
    on: Mapped[bool]
    position: Mapped[int]
    # Rises with every change, so that nobody overwrites what they have not seen.
    version: Mapped[int] = mapped_column(default=1)


class FragmentRow(Base, Stamped):
    """A part of patterns that rules use by its name."""

    __tablename__ = "fragment"
    __table_args__ = (UniqueConstraint("project_id", "name"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"))
    name: Mapped[str]
    about: Mapped[str]
    # As RuleRow has them.
    pattern: Mapped[str]
    refers: Mapped[dict[str, Any]] = mapped_column(JSONB)
    version: Mapped[int] = mapped_column(default=1)
