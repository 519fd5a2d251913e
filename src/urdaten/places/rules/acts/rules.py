"""Acts on rules."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import asdict

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from urdaten.core.rules import CompiledRule
from urdaten.errors import BadInput, Clash, NotFound
from urdaten.places.rules.acts.names import merged, names_type, read_names, refers_of
from urdaten.places.rules.acts.noting import note, state_of
from urdaten.places.rules.acts.reading import PLACE, Rule, RuleDraft, fragment_texts, read_rule, rule_rows
from urdaten.places.rules.acts.words import words_of
from urdaten.places.rules.tables import FragmentRow, RuleRow
from urdaten.places.types import acts as types
from urdaten.platform.revisions import bump
from urdaten.platform.versions import check_seen


def compile_draft(db: Session, project_id: int, draft: RuleDraft) -> CompiledRule:
    """Ready to be held against texts. Raises BadPattern with the place of the fault."""
    fragments = fragment_texts(db, project_id)
    refers_of(read_names(db, project_id), draft.pattern, fragments)
    return draft.written().compiled(fragments, words_of(db, project_id))


def _check(db: Session, project_id: int, draft: RuleDraft, own_id: int | None) -> int:
    if not draft.name.strip():
        raise BadInput("A rule needs a name.", field="name")
    taken = select(RuleRow.id).where(RuleRow.project_id == project_id, RuleRow.name == draft.name.strip())
    if db.scalar(taken) not in (None, own_id):
        raise Clash(f"There is already a rule “{draft.name.strip()}”; choose another name.", field="name")
    compile_draft(db, project_id, draft)
    return types.type_numbers(db, project_id, [draft.type])[draft.type]


def _fill(db: Session, row: RuleRow, draft: RuleDraft, type_id: int) -> None:
    row.name, row.type_id, row.pattern = draft.name.strip(), type_id, draft.pattern
    row.on, row.priority = draft.on, draft.priority
    row.refers = refers_of(read_names(db, row.project_id), draft.pattern, fragment_texts(db, row.project_id))
    row.about = draft.about.strip()
    row.must_find, row.must_not_find = list(draft.must_find), list(draft.must_not_find)


def add_rule(db: Session, project_id: int, draft: RuleDraft, account_id: int | None = None) -> Rule:
    """A new rule at the end. Raises BadPattern for a pattern that cannot be read, Clash for a name."""
    type_id = _check(db, project_id, draft, None)
    last = db.scalar(select(func.max(RuleRow.position)).where(RuleRow.project_id == project_id))
    row = RuleRow(project_id=project_id, position=0 if last is None else last + 1)
    _fill(db, row, draft, type_id)
    db.add(row)
    db.flush()
    note(db, account_id, f"the new rule “{row.name}”", row, None, state_of(row))
    bump(db, project_id, PLACE)
    return read_rule(db, project_id, row.id)


def change_rule(
    db: Session, project_id: int, rule_id: int, draft: RuleDraft, version: int, account_id: int | None = None
) -> Rule:
    """Raises BadPattern, Clash, and StaleWrite when the rule is not in the version that was seen."""
    row = db.get(RuleRow, rule_id, with_for_update=True)
    now = read_rule(db, project_id, rule_id)
    assert row is not None
    check_seen(f"“{now.name}”", asdict(now), asdict(draft), version)
    before = state_of(row)
    _fill(db, row, draft, _check(db, project_id, draft, rule_id))
    row.version += 1
    db.flush()
    note(db, account_id, f"the change of the rule “{now.name}”", row, before, state_of(row))
    bump(db, project_id, PLACE)
    return read_rule(db, project_id, rule_id)


def remove_rule(db: Session, project_id: int, rule_id: int, account_id: int | None = None) -> None:
    """Raises NotFound."""
    read_rule(db, project_id, rule_id)
    row = db.get_one(RuleRow, rule_id)
    place = [one.id for one in rule_rows(db, project_id)].index(rule_id)
    before = state_of(row) | {"position": place}
    note(db, account_id, f"deleting the rule “{row.name}”", row, before, None)
    db.delete(row)
    db.flush()
    bump(db, project_id, PLACE)


def move_rule(db: Session, project_id: int, rule_id: int, place: int, account_id: int | None = None) -> None:
    """Give a rule another place, from 0: it sees what those before it have found. Raises NotFound."""
    rows = rule_rows(db, project_id, to_change=True)
    row = next((one for one in rows if one.id == rule_id), None)
    if row is None:
        raise NotFound(f"There is no rule {rule_id} in this project; it may have been removed.")
    before = {"position": rows.index(row)}
    place_rule(db, rows, rule_id, place)
    note(db, account_id, f"moving the rule “{row.name}”", row, before, state_of(row, before))
    bump(db, project_id, PLACE)


def place_rule(db: Session, rows: Sequence[RuleRow], rule_id: int, place: int) -> None:
    """Number the rules anew, with one of them in another place."""
    rest = [one for one in rows if one.id != rule_id]
    (row,) = (one for one in rows if one.id == rule_id)
    rest.insert(min(place, len(rest)), row)
    for position, one in enumerate(rest):
        one.position = position
    db.flush()


def _touched(db: Session, project_id: int, type_id: int) -> list[types.Touched]:
    named = [
        row.name
        for row in rule_rows(db, project_id)
        if row.type_id == type_id or names_type(row.refers, type_id)
    ]
    fragments = db.scalars(
        select(FragmentRow).where(FragmentRow.project_id == project_id).order_by(FragmentRow.name)
    )
    used = [row.name for row in fragments if names_type(row.refers, type_id)]
    return [
        types.Touched(where="rules", noun="rule", count=len(named), names=tuple(named), bars=True),
        types.Touched(where="rules", noun="fragment", count=len(used), names=tuple(used), bars=True),
    ]


def _merge(db: Session, project_id: int, _account_id: int | None, type_id: int, into: int) -> None:
    changed = False
    rows: Iterable[RuleRow | FragmentRow] = [
        *db.scalars(select(RuleRow).where(RuleRow.project_id == project_id)),
        *db.scalars(select(FragmentRow).where(FragmentRow.project_id == project_id)),
    ]
    for row in rows:
        of_type = isinstance(row, RuleRow) and row.type_id == type_id
        if not (of_type or names_type(row.refers, type_id)):
            continue
        if isinstance(row, RuleRow) and of_type:
            row.type_id = into
        row.refers = merged(row.refers, type_id, into)
        row.version += 1
        changed = True
    db.flush()
    if changed:
        bump(db, project_id, PLACE)


types.register_user("rules", types.TypeUser(touched=_touched, merge=_merge, retire=lambda *_: None))
