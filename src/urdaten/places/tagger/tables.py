"""Tables of the tagger place."""

from __future__ import annotations

from typing import Any

from sqlalchemy import ForeignKey, Index, LargeBinary
from sqlalchemy.orm import Mapped, mapped_column

from urdaten.platform.database import JSON, Base, Stamped


class TrainingRow(Base, Stamped):
    """One training, with the model that came of it."""

    __tablename__ = "training"
    __table_args__ = (Index("uq_training_in_use", "project_id", unique=True, postgresql_where="in_use"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id", ondelete="CASCADE"), index=True)
    name: Mapped[str]
    settings: Mapped[dict[str, Any]] = mapped_column(JSON)
    job_id: Mapped[int | None] = mapped_column(ForeignKey("job.id", ondelete="SET NULL"))
    # One entry per epoch, as core.tagger.Progress.
    epochs: Mapped[list[dict[str, Any]]] = mapped_column(JSON)
    # The versions it was made from: revisions of places, newest act, fingerprint of its data.
    made_from: Mapped[dict[str, Any]] = mapped_column(JSON)
    in_use: Mapped[bool] = mapped_column(default=False)
    # Begun by signings, not by somebody.
    automatic: Mapped[bool] = mapped_column(default=False)
    model: Mapped[bytes | None] = mapped_column(LargeBinary, deferred=True)
