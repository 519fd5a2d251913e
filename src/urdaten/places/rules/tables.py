"""Tables of the rules place."""

from __future__ import annotations

from sqlalchemy import ARRAY, ForeignKey, String, UniqueConstraint
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
    pattern: Mapped[str]
    must_find: Mapped[list[str]] = mapped_column(ARRAY(String))
    must_not_find: Mapped[list[str]] = mapped_column(ARRAY(String))
    on: Mapped[bool]
    position: Mapped[int]
    # Rises with every change, so that nobody overwrites what they have not seen.
    version: Mapped[int] = mapped_column(default=1)
