"""Tables of the rules place."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import ARRAY, ForeignKey, Index, String, UniqueConstraint
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column

from urdaten.platform.database import JSON, Base, Stamped


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
    # Where its finds meet those of other rules: one of core.pipeline.PRIORITIES.
    priority: Mapped[str] = mapped_column(default="usual")
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


class RuleActRow(Base, Stamped):
    """Something that was done to a rule or a fragment, so that it can be undone."""

    __tablename__ = "rule_act"
    __table_args__ = (Index("ix_rule_act_project_id_id", "project_id", "id"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"))
    account_id: Mapped[int | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))
    # In words, as in "Undone: …".
    said: Mapped[str]
    of_fragment: Mapped[bool]
    # Of the rule or fragment; it may be gone.
    number: Mapped[int]
    # The columns that were touched, as they were and as they became; null for not there.
    before: Mapped[Any] = mapped_column(JSON)
    after: Mapped[Any] = mapped_column(JSON)
    undone_at: Mapped[datetime | None]
