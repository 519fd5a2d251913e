"""Rules and fragments as they are kept."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from urdaten.core.rules import Rule as WrittenRule
from urdaten.core.rules import mentions
from urdaten.errors import NotFound
from urdaten.places.rules.acts.names import pattern_of_now, read_names
from urdaten.places.rules.tables import FragmentRow, RuleRow
from urdaten.places.types import acts as types

PLACE = "rules"


@dataclass(frozen=True, kw_only=True)
class RuleDraft:
    """What a lead says of a rule."""

    name: str
    type: str
    pattern: str
    must_find: tuple[str, ...] = ()
    must_not_find: tuple[str, ...] = ()
    about: str = ""
    on: bool = True
    # One of core.pipeline.PRIORITIES.
    priority: str = "usual"

    def written(self) -> WrittenRule:
        return WrittenRule(name=self.name, type=self.type, text=self.pattern)


@dataclass(frozen=True, kw_only=True)
class Rule(RuleDraft):
    """A rule as other places see it."""

    id: int
    version: int
    # What it names and is not there any more, in words.
    gone: str | None = None


def rule_rows(db: Session, project_id: int, *, to_change: bool = False) -> list[RuleRow]:
    """In their order."""
    query = select(RuleRow).where(RuleRow.project_id == project_id).order_by(RuleRow.position, RuleRow.id)
    return list(db.scalars(query.with_for_update() if to_change else query))


def read_rules(db: Session, project_id: int) -> list[Rule]:
    """Every rule, in its order."""
    rows = rule_rows(db, project_id)
    if not rows:
        return []
    names = read_names(db, project_id)
    codes = types.type_codes(db, project_id)
    found = []
    for row in rows:
        pattern, gone = pattern_of_now(names, row.pattern, row.refers)
        found.append(
            Rule(
                id=row.id,
                name=row.name,
                type=codes[row.type_id],
                pattern=pattern,
                must_find=tuple(row.must_find),
                must_not_find=tuple(row.must_not_find),
                about=row.about,
                on=row.on,
                priority=row.priority,
                version=row.version,
                gone=gone,
            )
        )
    return found


def read_rule(db: Session, project_id: int, rule_id: int) -> Rule:
    """Raises NotFound."""
    found = next((rule for rule in read_rules(db, project_id) if rule.id == rule_id), None)
    if found is None:
        raise NotFound(f"There is no rule {rule_id} in this project; it may have been removed.")
    return found


@dataclass(frozen=True, kw_only=True)
class FragmentDraft:
    """What a lead says of a fragment."""

    name: str
    pattern: str
    about: str = ""


@dataclass(frozen=True, kw_only=True)
class Fragment(FragmentDraft):
    """A fragment as others see it."""

    id: int
    version: int
    # Names of rules and fragments that use it directly.
    used_by: tuple[str, ...] = ()


def fragment_rows(db: Session, project_id: int) -> list[FragmentRow]:
    """By name."""
    query = select(FragmentRow).where(FragmentRow.project_id == project_id).order_by(FragmentRow.name)
    return list(db.scalars(query))


def fragment_texts(db: Session, project_id: int) -> dict[str, str]:
    """The pattern of each fragment by its name."""
    rows = fragment_rows(db, project_id)
    if not rows:
        return {}
    names = read_names(db, project_id)
    return {row.name: pattern_of_now(names, row.pattern, row.refers)[0] for row in rows}


def read_fragments(db: Session, project_id: int) -> list[Fragment]:
    """Every fragment, by name."""
    now = fragment_texts(db, project_id)
    users = _users(db, project_id, now)
    return [
        Fragment(
            id=row.id,
            name=row.name,
            pattern=now[row.name],
            about=row.about,
            version=row.version,
            used_by=tuple(users.get(row.name, ())),
        )
        for row in fragment_rows(db, project_id)
    ]


def _users(db: Session, project_id: int, fragments: Mapping[str, str]) -> dict[str, list[str]]:
    query = select(RuleRow.name, RuleRow.pattern).where(RuleRow.project_id == project_id)
    found: dict[str, list[str]] = {}
    for name, pattern in [*db.execute(query.order_by(RuleRow.position)), *fragments.items()]:
        for used in dict.fromkeys(one.name for one in mentions(pattern) if one.kind == "fragment"):
            found.setdefault(used, []).append(name)
    return found


def read_fragment(db: Session, project_id: int, fragment_id: int) -> Fragment:
    """Raises NotFound."""
    found = next((one for one in read_fragments(db, project_id) if one.id == fragment_id), None)
    if found is None:
        raise NotFound(f"There is no fragment {fragment_id} in this project; it may have been removed.")
    return found
