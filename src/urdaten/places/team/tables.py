"""Tables of the team place."""

from __future__ import annotations

from sqlalchemy import ARRAY, String
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
