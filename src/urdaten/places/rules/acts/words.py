"""What is known of the words of a project's language."""

from __future__ import annotations

from sqlalchemy.orm import Session

from urdaten.core.tags import Words
from urdaten.installed import words
from urdaten.places.team import acts as team


def words_of(db: Session, project_id: int) -> Words | None:
    """None where nothing is: rules that ask for it cannot be read then, and say so."""
    return words(team.project_by_id(db, project_id).language)
