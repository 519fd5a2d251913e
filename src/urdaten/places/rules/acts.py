"""Acts on rules."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from functools import lru_cache

from sqlalchemy import func, select, update
from sqlalchemy.orm import Session

from urdaten.core.rules import ExampleResult, LineRule, try_examples
from urdaten.errors import BadInput, BadPattern, Clash, NotFound
from urdaten.places.rules.tables import RuleRow
from urdaten.places.types import acts as types
from urdaten.platform.revisions import bump
from urdaten.platform.versions import check_seen

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

    def line_rule(self) -> LineRule:
        return LineRule(name=self.name, type=self.type, pattern=self.pattern)


@dataclass(frozen=True, kw_only=True)
class Rule(RuleDraft):
    """A rule as other places see it."""

    id: int
    version: int


def read_rules(db: Session, project_id: int) -> list[Rule]:
    """Every rule, in its order."""
    codes = types.type_codes(db, project_id)
    query = select(RuleRow).where(RuleRow.project_id == project_id).order_by(RuleRow.position, RuleRow.id)
    return [
        Rule(
            id=row.id,
            name=row.name,
            type=codes[row.type_id],
            pattern=row.pattern,
            must_find=tuple(row.must_find),
            must_not_find=tuple(row.must_not_find),
            about=row.about,
            on=row.on,
            version=row.version,
        )
        for row in db.scalars(query)
    ]


def read_rule(db: Session, project_id: int, rule_id: int) -> Rule:
    found = next((rule for rule in read_rules(db, project_id) if rule.id == rule_id), None)
    if found is None:
        raise NotFound(f"There is no rule {rule_id} in this project; it may have been removed.")
    return found


def _check(db: Session, project_id: int, draft: RuleDraft, own_id: int | None) -> int:
    if not draft.name.strip():
        raise BadInput("A rule needs a name.", field="name")
    taken = select(RuleRow.id).where(RuleRow.project_id == project_id, RuleRow.name == draft.name.strip())
    if db.scalar(taken) not in (None, own_id):
        raise Clash(f"There is already a rule “{draft.name.strip()}”; choose another name.", field="name")
    draft.line_rule().compiled()
    return types.type_numbers(db, project_id, [draft.type])[draft.type]


def _fill(row: RuleRow, draft: RuleDraft, type_id: int) -> None:
    row.name, row.type_id, row.pattern, row.on = draft.name.strip(), type_id, draft.pattern, draft.on
    row.about = draft.about.strip()
    row.must_find, row.must_not_find = list(draft.must_find), list(draft.must_not_find)


def add_rule(db: Session, project_id: int, draft: RuleDraft) -> Rule:
    """A new rule at the end. Raises BadPattern for a pattern that does not compile, Clash for a name."""
    type_id = _check(db, project_id, draft, None)
    last = db.scalar(select(func.max(RuleRow.position)).where(RuleRow.project_id == project_id))
    row = RuleRow(project_id=project_id, position=0 if last is None else last + 1)
    _fill(row, draft, type_id)
    db.add(row)
    db.flush()
    bump(db, project_id, PLACE)
    return read_rule(db, project_id, row.id)


def change_rule(db: Session, project_id: int, rule_id: int, draft: RuleDraft, version: int) -> Rule:
    """Raises BadPattern, Clash, and StaleWrite when the rule is not in the version that was seen."""
    row = db.get(RuleRow, rule_id, with_for_update=True)
    now = read_rule(db, project_id, rule_id)
    assert row is not None
    check_seen(f"“{now.name}”", asdict(now), asdict(draft), version)
    _fill(row, draft, _check(db, project_id, draft, rule_id))
    row.version += 1
    db.flush()
    bump(db, project_id, PLACE)
    return read_rule(db, project_id, rule_id)


def remove_rule(db: Session, project_id: int, rule_id: int) -> None:
    read_rule(db, project_id, rule_id)
    db.delete(db.get_one(RuleRow, rule_id))
    db.flush()
    bump(db, project_id, PLACE)


def try_rule(draft: RuleDraft, language: str) -> list[ExampleResult]:
    """How a rule does on its own examples. Raises BadPattern."""
    return try_examples(draft.line_rule(), list(draft.must_find), list(draft.must_not_find), language)


@lru_cache(maxsize=1024)
def failing(rule: RuleDraft, language: str) -> int:
    """How many of its own examples a rule fails; all of them when it takes too long on one."""
    try:
        return sum(not result.holds for result in try_rule(rule, language))
    except BadPattern:
        return len(rule.must_find) + len(rule.must_not_find)


def _touched(db: Session, project_id: int, type_id: int) -> list[types.Touched]:
    query = select(RuleRow.name).where(RuleRow.project_id == project_id, RuleRow.type_id == type_id)
    names = tuple(db.scalars(query.order_by(RuleRow.position)))
    return [types.Touched(where="rules", noun="rule", count=len(names), names=names, bars=True)]


def _merge(db: Session, project_id: int, _account_id: int | None, type_id: int, into: int) -> None:
    mine = (RuleRow.project_id == project_id) & (RuleRow.type_id == type_id)
    changed = update(RuleRow).where(mine).values(type_id=into, version=RuleRow.version + 1)
    if db.scalars(changed.returning(RuleRow.id)).all():
        bump(db, project_id, PLACE)


types.register_user("rules", types.TypeUser(touched=_touched, merge=_merge, retire=lambda *_: None))
