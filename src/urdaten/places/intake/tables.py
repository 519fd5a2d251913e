"""Tables of imports."""

from __future__ import annotations

from typing import Any

from sqlalchemy import BigInteger, ForeignKey, LargeBinary, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from urdaten.platform.database import JSON, Base, Stamped


class IntakeRow(Base, Stamped):
    """An import: its plan, what was found in its files, and what came of it."""

    __tablename__ = "intake"

    id: Mapped[int] = mapped_column(primary_key=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"), index=True)
    account_id: Mapped[int | None] = mapped_column(ForeignKey("account.id", ondelete="SET NULL"))
    state: Mapped[str]
    plan: Mapped[dict[str, Any]] = mapped_column(JSON)
    looked: Mapped[dict[str, Any] | None] = mapped_column(JSON)
    report: Mapped[dict[str, Any] | None] = mapped_column(JSON)
    job_id: Mapped[int | None] = mapped_column(ForeignKey("job.id", ondelete="SET NULL"))
    # Rises with its plan and its files: what was found holds for one version.
    version: Mapped[int] = mapped_column(default=1)


class IntakeFileRow(Base):
    """A file as it was sent. Its parts go when it has been kept."""

    __tablename__ = "intake_file"

    id: Mapped[int] = mapped_column(primary_key=True)
    intake_id: Mapped[int] = mapped_column(ForeignKey("intake.id", ondelete="CASCADE"), index=True)
    name: Mapped[str]
    size: Mapped[int] = mapped_column(BigInteger)


class IntakePartRow(Base):
    """A part of a file's bytes."""

    __tablename__ = "intake_part"

    file_id: Mapped[int] = mapped_column(ForeignKey("intake_file.id", ondelete="CASCADE"), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True)
    content: Mapped[bytes] = mapped_column(LargeBinary)


class IntakeRefusalRow(Base):
    """What of an import was not kept, and why."""

    __tablename__ = "intake_refusal"

    id: Mapped[int] = mapped_column(primary_key=True)
    intake_id: Mapped[int] = mapped_column(ForeignKey("intake.id", ondelete="CASCADE"), index=True)
    source: Mapped[str]
    place: Mapped[str]
    why: Mapped[str]
    content: Mapped[str]


class IntakePlanRow(Base, Stamped):
    """A plan that is kept under a name, to be used again."""

    __tablename__ = "intake_plan"
    __table_args__ = (UniqueConstraint("project_id", "name"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"))
    name: Mapped[str]
    plan: Mapped[dict[str, Any]] = mapped_column(JSON)
