"""Tables of the lists place."""

from __future__ import annotations

from sqlalchemy import ARRAY, ForeignKey, Integer, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from urdaten.platform.database import Base, Stamped


class ListRow(Base, Stamped):
    """A list (gazetteer)."""

    __tablename__ = "list"
    __table_args__ = (UniqueConstraint("project_id", "name"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"))
    name: Mapped[str]
    type_id: Mapped[int] = mapped_column(ForeignKey("entity_type.id"))
    on: Mapped[bool]
    # Rises with every change, so that nobody overwrites what they have not seen.
    version: Mapped[int] = mapped_column(default=1)


class EntryRow(Base, Stamped):
    """One name of a list."""

    __tablename__ = "list_entry"
    __table_args__ = (UniqueConstraint("list_id", "preferred"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    list_id: Mapped[int] = mapped_column(ForeignKey("list.id", ondelete="CASCADE"))
    preferred: Mapped[str]
    variants: Mapped[list[str]] = mapped_column(ARRAY(String))
    note: Mapped[str]
    # Rises with every change, so that nobody overwrites what they have not seen.
    version: Mapped[int] = mapped_column(default=1)


class ListChangeRow(Base):
    """What a change of lists can have touched: texts that hold all of these words, by their marks; no words, every text.

    Numbers rise in the order in which changes are committed.
    """

    __tablename__ = "list_change"

    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    words: Mapped[list[int]] = mapped_column(ARRAY(Integer))
