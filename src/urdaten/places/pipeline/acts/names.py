"""What lists, rules and types of a project are called now, by their numbers."""

from __future__ import annotations

from collections.abc import Mapping

from sqlalchemy.orm import Session

from urdaten.places.lists import acts as lists
from urdaten.places.rules import acts as rules
from urdaten.places.types import acts as types

# "lists", "rules" or "types" → number → name.
Known = Mapping[str, Mapping[int, str]]


def known_names(db: Session, project_id: int) -> Known:
    """Of everything that a plan may name its name of now, by number; a type that became part of another goes by that one's."""
    return {
        "lists": {one.id: one.name for one in lists.read_lists(db, project_id)},
        "rules": {one.id: one.name for one in rules.read_rules(db, project_id)},
        "types": types.present_codes(db, project_id),
    }
