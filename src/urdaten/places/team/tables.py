"""Tables of the team place."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import ARRAY, ForeignKey, String
from sqlalchemy.orm import Mapped, mapped_column

from urdaten.platform.database import Base, Stamped


class ProjectRow(Base, Stamped):
    """A scheme, its texts and all that is made from them."""

    __tablename__ = "project"

    id: Mapped[int] = mapped_column(primary_key=True)
    slug: Mapped[str] = mapped_column(unique=True)
    name: Mapped[str]
    language: Mapped[str]
    # Folded and without their stop; they add to those of the language.
    abbreviations: Mapped[list[str]] = mapped_column(ARRAY(String))
    # How spans of one sentence may stand to each other; see core.spans.Overlap.
    overlap: Mapped[str]
    # After how many signings the tagger is trained anew in the background; 0 for never.
    retrain_after: Mapped[int]
    # Since when it lies in the bin.
    removed_at: Mapped[datetime | None]


class MembershipRow(Base, Stamped):
    """Somebody belongs to a project."""

    __tablename__ = "membership"

    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"), primary_key=True)
    account_id: Mapped[int] = mapped_column(
        ForeignKey("account.id", ondelete="CASCADE"), primary_key=True, index=True
    )
    role: Mapped[str]


class InvitationRow(Base, Stamped):
    """A link that makes somebody a member, once. Its token is kept as a hash."""

    __tablename__ = "invitation"

    id: Mapped[int] = mapped_column(primary_key=True)
    token_hash: Mapped[str] = mapped_column(unique=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"), index=True)
    role: Mapped[str]
    # For whom, as the lead noted it.
    note: Mapped[str]
    made_by: Mapped[int | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))
    expires_at: Mapped[datetime]
    used_at: Mapped[datetime | None]
    used_by: Mapped[int | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))
