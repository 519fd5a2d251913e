"""Rules held against their own examples."""

from __future__ import annotations

from collections.abc import Hashable, Sequence

from sqlalchemy.orm import Session

from urdaten.core.rules import CompiledRule, ExampleResult, WordBase, aloud, try_examples
from urdaten.core.spans import SpanTable
from urdaten.core.text import batch_of
from urdaten.errors import BadPattern
from urdaten.places.lists import acts as lists
from urdaten.places.rules.acts.reading import PLACE, Rule, RuleDraft, fragment_texts, read_rules
from urdaten.places.rules.acts.rules import compile_draft
from urdaten.places.rules.acts.words import words_of
from urdaten.places.team.acts import Project
from urdaten.places.types import acts as types
from urdaten.platform.database import has_written
from urdaten.platform.revisions import revisions

PORTION = 16
_LOOKS_AT = (PLACE, lists.PLACE, types.PLACE)


def rules_before(db: Session, project_id: int, rule_id: int | None) -> list[CompiledRule]:
    """Rules that are on and stand before one, or all of them for one that is not saved yet; what cannot be read is left out."""
    fragments, words = fragment_texts(db, project_id), words_of(db, project_id)
    found = []
    for rule in read_rules(db, project_id):
        if rule.id == rule_id:
            break
        if rule.on and (made := compiled_or_none(rule, fragments, words)):
            found.append(made)
    return found


def compiled_or_none(
    rule: RuleDraft, fragments: dict[str, str], words: WordBase | None
) -> CompiledRule | None:
    """A rule as it is kept; None for one that cannot be read any more."""
    try:
        return rule.written().compiled(fragments, words)
    except BadPattern:
        return None


def unreadable(rule: RuleDraft, fragments: dict[str, str], words: WordBase | None) -> str | None:
    """Why a rule as it is kept cannot be read any more, as in a project of a language without parts of speech; None for one
    that can."""
    try:
        rule.written().compiled(fragments, words)
    except BadPattern as fault:
        return fault.message
    return None


def read_aloud(rule: RuleDraft) -> list[str]:
    """What its pattern says; nothing where it cannot be read any more."""
    try:
        return aloud(rule.pattern, rule.type)
    except BadPattern:
        return []


def try_rule(
    db: Session, project: Project, draft: RuleDraft, rule_id: int | None = None
) -> list[ExampleResult]:
    """How a rule does on its own examples: those that it must find something in, then the others. Raises BadPattern."""
    rule = compile_draft(db, project.id, draft)
    return _tried(db, project, rule, draft.must_find, draft.must_not_find, rule_id)


def _tried(
    db: Session,
    project: Project,
    rule: CompiledRule,
    must_find: Sequence[str],
    must_not_find: Sequence[str],
    rule_id: int | None,
) -> list[ExampleResult]:
    wanted = [(text, True) for text in must_find] + [(text, False) for text in must_not_find]
    looks = bool(rule.lists or rule.found or rule.removal)
    names = lists.gazetteer(db, project) if looks else None
    before = rules_before(db, project.id, rule_id) if rule.found or rule.removal else []
    results: list[ExampleResult] = []
    # A few at a time: nobody waits longer for a hostile rule than for it to take too long on some of them.
    for at in range(0, len(wanted), PORTION):
        portion = wanted[at : at + PORTION]
        batch = batch_of([text for text, _ in portion], project.language)
        spans = SpanTable.empty() if names is None else names.read(batch).table
        results += try_examples([*before, rule], batch, spans, [is_wanted for _, is_wanted in portion])
    return results


# How many examples fail, by what that hangs on; nothing of a request is kept with it.
_failing: dict[tuple[Hashable, ...], int] = {}
_MOST_KEPT = 1024


def failing(db: Session, project: Project, rule: Rule) -> int:
    """How many of its own examples a rule fails; all of them when it cannot be read or takes too long on one."""
    numbers = revisions(db, project.id)
    database = db.connection().engine.url.database
    key = (database, project.id, project.language, rule, *(numbers.get(place, 0) for place in _LOOKS_AT))
    if key in _failing:
        return _failing[key]
    try:
        found = sum(not result.holds for result in try_rule(db, project, rule, rule.id))
    except BadPattern:
        found = len(rule.must_find) + len(rule.must_not_find)
    # What a transaction has changed itself may be rolled back, and its revision be given again.
    if not has_written(db):
        if len(_failing) >= _MOST_KEPT:
            _failing.clear()
        _failing[key] = found
    return found
