"""Which texts are read together."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy.orm import Session

from urdaten.places.texts import acts as texts

# The tagger reads a group of texts at once, for names that one of them gives away. Larger groups would keep whoever opens
# one text waiting, so their texts are read one by one.
LARGEST_GROUP = 300


def reading_groups(db: Session, project_id: int) -> frozenset[str]:
    """The groups whose texts the tagger reads together."""
    sizes = texts.group_sizes(db, project_id)
    return frozenset(group for group, size in sizes.items() if 1 < size <= LARGEST_GROUP)


def units_of(
    db: Session, project_id: int, wanted: Sequence[tuple[int, str]], groups: frozenset[str]
) -> list[tuple[int, ...]]:
    """Numbers of texts that are read together, for texts by their number and group; each text is in one."""
    members = texts.members_of(db, project_id, {group for _, group in wanted} & groups)
    units: dict[tuple[int, ...], None] = {}
    for number, group in wanted:
        units[tuple(members[group]) if number in members.get(group, ()) else (number,)] = None
    return list(units)
