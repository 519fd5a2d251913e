"""Tables of the lists place."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import BigInteger, ForeignKey, Index, Integer, LargeBinary, String, UniqueConstraint
from sqlalchemy.dialects.postgresql import ARRAY
from sqlalchemy.orm import Mapped, mapped_column

from urdaten.platform.database import JSON, Base, Stamped


class ListRow(Base, Stamped):
    """A list (gazetteer)."""

    __tablename__ = "list"
    __table_args__ = (
        Index(
            "uq_list_project_id_name",
            "project_id",
            "name",
            unique=True,
            postgresql_where="removed_at IS NULL",
        ),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"))
    name: Mapped[str]
    type_id: Mapped[int] = mapped_column(ForeignKey("entity_type.id"))
    on: Mapped[bool]
    # How its names are looked for: what differs from core.lists.ListOptions as they are by default.
    options: Mapped[dict[str, Any]] = mapped_column(JSON, default=dict)
    # How many entries it has; kept by every act on them.
    size: Mapped[int] = mapped_column(default=0)
    # Rises with every change, so that nobody overwrites what they have not seen.
    version: Mapped[int] = mapped_column(default=1)
    # Deleted lists stay as long as that can be undone: as long as the project is there.
    removed_at: Mapped[datetime | None]


class EntryRow(Base, Stamped):
    """One name of a list."""

    __tablename__ = "list_entry"
    __table_args__ = (
        UniqueConstraint("list_id", "preferred"),
        Index(
            "ix_list_entry_written",
            "list_id",
            "written",
            postgresql_using="gin",
            postgresql_ops={"written": "gin_trgm_ops"},
        ),
        Index("ix_list_entry_keys", "keys", postgresql_using="gin"),
        Index("ix_list_entry_off", "list_id", "preferred", "id", postgresql_where='NOT "on"'),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    list_id: Mapped[int] = mapped_column(ForeignKey("list.id", ondelete="CASCADE"))
    preferred: Mapped[str]
    variants: Mapped[list[str]] = mapped_column(ARRAY(String))
    note: Mapped[str]
    # What the thing is called elsewhere for good; "" without.
    identifier: Mapped[str] = mapped_column(default="")
    on: Mapped[bool] = mapped_column(default=True)
    # Where it came from, in words; "" where somebody typed it.
    source: Mapped[str] = mapped_column(default="")
    # Every way it is written, a line each, for the search.
    written: Mapped[str]
    # core.lists.spelling_key of each of these.
    keys: Mapped[list[int]] = mapped_column(ARRAY(BigInteger))
    # Rises with every change, so that nobody overwrites what they have not seen.
    version: Mapped[int] = mapped_column(default=1)


class ListActRow(Base, Stamped):
    """Something that was done to a list or its entries, so that it can be undone."""

    __tablename__ = "list_act"
    __table_args__ = (Index("ix_list_act_project_id_id", "project_id", "id"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"))
    list_id: Mapped[int] = mapped_column(ForeignKey("list.id", ondelete="CASCADE"))
    account_id: Mapped[int | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))
    # In words, as in "… can be undone".
    said: Mapped[str]
    # How many entries it touched; none where it was the list itself.
    entries: Mapped[int]
    # Of the list, what it was and what it became; null where it was not touched.
    of_list: Mapped[Any] = mapped_column(JSON)
    # Of each entry [number, what it was, what it became], null for not there; "added" for what a new one is, and behind it the number of
    # the last where it is of several.
    steps: Mapped[list[Any]] = mapped_column(JSON)
    undone_at: Mapped[datetime | None]


class ListImportRow(Base, Stamped):
    """A file of names that comes into a list: as it was sent, how it is read, and what would come of it."""

    __tablename__ = "list_import"

    id: Mapped[int] = mapped_column(primary_key=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"), index=True)
    list_id: Mapped[int] = mapped_column(ForeignKey("list.id", ondelete="CASCADE"), index=True)
    account_id: Mapped[int | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))
    # open · kept
    state: Mapped[str]
    name: Mapped[str]
    data: Mapped[bytes] = mapped_column(LargeBinary, deferred=True)
    # Of entries that come by it, where they come from.
    source: Mapped[str]
    # acts.importing.NamesPlan.
    plan: Mapped[dict[str, Any]] = mapped_column(JSON)
    # What was found by this plan; null where nobody has looked since it was changed.
    looked: Mapped[dict[str, Any] | None] = mapped_column(JSON)
    # The names as they were read by this plan, so that nobody reads them twice; null where nobody has, or they are in the list.
    rows: Mapped[bytes | None] = mapped_column(LargeBinary, deferred=True)
    # Of the act that it became.
    act_id: Mapped[int | None] = mapped_column(ForeignKey("list_act.id", ondelete="SET NULL"))
    job_id: Mapped[int | None] = mapped_column(ForeignKey("job.id", ondelete="SET NULL"))


class ListChangeRow(Base):
    """What a change of lists can have touched: texts that hold all of these words, by their marks; no words, every text.

    Numbers rise in the order in which changes are committed.
    """

    __tablename__ = "list_change"

    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    words: Mapped[list[int]] = mapped_column(ARRAY(Integer))
    # Entries that were added, changed or deleted, told once for a change.
    entries: Mapped[list[int]] = mapped_column(ARRAY(Integer), default=list)


class CompiledRow(Base):
    """A project's lists as they were compiled last, when they are so many that it takes a while."""

    __tablename__ = "compiled_lists"

    project_id: Mapped[int] = mapped_column(
        ForeignKey("project.id", ondelete="CASCADE"), primary_key=True, autoincrement=False
    )
    # The last change that is in it.
    change: Mapped[int]
    # A file of core.lists.listfile; of the list by their numbers it says with what options they were compiled.
    data: Mapped[bytes] = mapped_column(LargeBinary, deferred=True)
