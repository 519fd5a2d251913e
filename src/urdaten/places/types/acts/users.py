"""Whoever uses types says what a change of one would touch, and follows when one becomes part of another.

Places later than this one register here; this place knows none of them.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from sqlalchemy.orm import Session


@dataclass(frozen=True, kw_only=True)
class Touched:
    """What uses a type in one place: how many of what, and, where they have them, their names."""

    # "gold", a layer's name, "lists", "rules", "taggers", "templates".
    where: str
    # In the singular.
    noun: str
    count: int
    names: tuple[str, ...] = ()
    # Does it bar the type from being retired until somebody changes it?
    bars: bool = False


@dataclass(frozen=True, kw_only=True)
class TypeUser:
    """A place that uses types."""

    touched: Callable[[Session, int, int], list[Touched]]
    # (db, project, account, type, type that it becomes part of): all that names the first names the second.
    merge: Callable[[Session, int, int | None, int, int], None]
    # (db, project, account, type): what bars nothing lets go of the type.
    retire: Callable[[Session, int, int | None, int], None]


_users: dict[str, TypeUser] = {}


def register_user(place: str, user: TypeUser) -> None:
    """Take part in changes of types. Registering again takes the place of what was there."""
    _users[place] = user


def touched_by(db: Session, project_id: int, type_id: int) -> list[Touched]:
    """Everything that uses a type."""
    return [one for user in _users.values() for one in user.touched(db, project_id, type_id) if one.count]


def merge_everywhere(db: Session, project_id: int, account_id: int | None, type_id: int, into: int) -> None:
    for user in _users.values():
        user.merge(db, project_id, account_id, type_id, into)


def retire_everywhere(db: Session, project_id: int, account_id: int | None, type_id: int) -> None:
    for user in _users.values():
        user.retire(db, project_id, account_id, type_id)
