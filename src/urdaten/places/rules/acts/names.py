"""What patterns name: kept by number, so that a pattern follows when a type or a list gets another name."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from sqlalchemy.orm import Session

from urdaten.core.rules import Mention, Named, fail, mentions, nearest, renamed
from urdaten.places.lists import acts as lists
from urdaten.places.types import acts as types

_KEPT: dict[Named, str] = {"type": "types", "list": "lists"}


@dataclass(frozen=True)
class Names:
    """The names of now, by number."""

    types: Mapping[int, str]
    lists: Mapping[int, str]

    def of(self, kind: Named) -> Mapping[int, str]:
        return self.types if kind == "type" else self.lists


def read_names(db: Session, project_id: int) -> Names:
    return Names(
        types.type_codes(db, project_id), {one.id: one.name for one in lists.read_lists(db, project_id)}
    )


def refers_of(names: Names, pattern: str, fragments: Iterable[str]) -> dict[str, dict[str, int]]:
    """The numbers of what a pattern names. Raises BadPattern for what there is not, with the nearest that there is."""
    found: dict[str, dict[str, int]] = {}
    known = set(fragments)
    for one in mentions(pattern):
        if one.kind == "fragment":
            if one.name not in known:
                _unknown(one, known)
            continue
        numbers = {name: number for number, name in names.of(one.kind).items()}
        if one.name not in numbers:
            _unknown(one, numbers)
        found.setdefault(_KEPT[one.kind], {})[one.name] = numbers[one.name]
    return found


def _unknown(one: Mention, known: Iterable[str]) -> None:
    near = nearest(one.name, (), known)
    fail(f"there is no {one.kind} “{one.name}”" + (f"; did you mean {near}?" if near else ""), one.at)


def pattern_of_now(names: Names, pattern: str, refers: Mapping[str, Any]) -> tuple[str, str | None]:
    """A pattern with the names of now, and what is to be said of those that are gone."""
    new: dict[tuple[Named, str], str] = {}
    gone = []
    for kind, kept in _KEPT.items():
        for name, number in refers.get(kept, {}).items():
            now = names.of(kind).get(number)
            if now is None:
                gone.append(f"the {kind} “{name}”")
            elif now != name:
                new[kind, name] = now
    said = f"It names {' and '.join(gone)}, which is not there any more." if gone else None
    return (renamed(pattern, new) if new else pattern), said


def merged(refers: Mapping[str, Any], type_id: int, into: int) -> dict[str, Any]:
    """What is named, after a type has become part of another."""
    of_types = {
        code: into if number == type_id else number for code, number in refers.get("types", {}).items()
    }
    return {**refers, "types": of_types} if of_types else dict(refers)


def names_type(refers: Mapping[str, Any], type_id: int) -> bool:
    return type_id in refers.get("types", {}).values()
