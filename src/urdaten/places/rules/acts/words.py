"""What is known of the words of a project's language."""

from __future__ import annotations

from typing import Any

from sqlalchemy.orm import Session

from urdaten.core.tags import Words
from urdaten.core.text import KINDS, PARTS
from urdaten.installed import words
from urdaten.places.team import acts as team


def told_of_words(db: Session, project_id: int) -> dict[str, Any]:
    """What patterns may ask of words: tags with how often they were right, by tag and by source, and kinds of things."""
    words = words_of(db, project_id)
    if words is None:
        return {"tags": [], "held_out": [], "kinds": []}
    figures = words.parts.figures
    return {
        "tags": [
            {"tag": tag, "about": about, "gold": gold, "found": found, "right": right}
            for tag, about in PARTS.items()
            for gold, found, right in [figures["tags"].get(tag, (0, 0, 0))]
        ],
        "held_out": [{"source": source, **counts} for source, counts in figures["sources"].items()],
        "kinds": sorted(KINDS) if words.has_kinds else [],
    }


def words_of(db: Session, project_id: int) -> Words | None:
    """None where nothing is: rules that ask for it cannot be read then, and say so."""
    return words(team.project_by_id(db, project_id).language)
