"""Acts on fragments: parts of patterns that rules use by their names."""

from __future__ import annotations

from dataclasses import asdict

from sqlalchemy import select
from sqlalchemy.orm import Session

from urdaten.core.rules import check_fragment, renamed
from urdaten.errors import BadInput, Clash
from urdaten.places.rules.acts.names import read_names, refers_of
from urdaten.places.rules.acts.noting import note, state_of
from urdaten.places.rules.acts.reading import (
    PLACE,
    Fragment,
    FragmentDraft,
    fragment_rows,
    fragment_texts,
    read_fragment,
    read_rules,
)
from urdaten.places.rules.acts.words import words_of
from urdaten.places.rules.tables import FragmentRow, RuleRow
from urdaten.platform.revisions import bump
from urdaten.platform.versions import check_seen


def _fill(db: Session, row: FragmentRow, draft: FragmentDraft, before: str | None) -> None:
    """Raises BadInput, Clash and BadPattern."""
    name = " ".join(draft.name.split())
    if not name:
        raise BadInput("A fragment needs a name.", field="name")
    if set(name) & set('(),"#'):
        raise BadInput("The name of a fragment has no brackets, commas, quotation marks or #.", field="name")
    texts = fragment_texts(db, row.project_id)
    if name != before and name in texts:
        raise Clash(f"There is already a fragment “{name}”; choose another name.", field="name")
    if before is not None:
        texts.pop(before, None)
    # One that uses itself is told of as a circle, and not as one that there is not.
    texts[name] = draft.pattern
    row.refers = refers_of(read_names(db, row.project_id), draft.pattern, texts)
    check_fragment(name, draft.pattern, tuple(sorted(texts.items())), words_of(db, row.project_id))
    row.name, row.pattern, row.about = name, draft.pattern, draft.about.strip()


def add_fragment(
    db: Session, project_id: int, draft: FragmentDraft, account_id: int | None = None
) -> Fragment:
    """Raises BadInput, Clash for a name, and BadPattern."""
    row = FragmentRow(project_id=project_id)
    _fill(db, row, draft, None)
    db.add(row)
    db.flush()
    note(db, account_id, f"the new fragment “{row.name}”", row, None, state_of(row))
    bump(db, project_id, PLACE)
    return read_fragment(db, project_id, row.id)


def change_fragment(
    db: Session,
    project_id: int,
    fragment_id: int,
    draft: FragmentDraft,
    version: int,
    account_id: int | None = None,
) -> Fragment:
    """Also in all that use it, which have its new name then. Raises StaleWrite, Clash, and BadPattern, also where a rule could
    not be read any more."""
    row = db.get(FragmentRow, fragment_id, with_for_update=True)
    now = read_fragment(db, project_id, fragment_id)
    assert row is not None
    check_seen(f"“{now.name}”", asdict(now), asdict(draft), version)
    before = state_of(row)
    _fill(db, row, draft, now.name)
    row.version += 1
    db.flush()
    if row.name != now.name:
        rename_uses(db, project_id, now.name, row.name)
    check_users(db, project_id)
    note(db, account_id, f"the change of the fragment “{now.name}”", row, before, state_of(row))
    bump(db, project_id, PLACE)
    return read_fragment(db, project_id, fragment_id)


def rename_uses(db: Session, project_id: int, old: str, new: str) -> None:
    """Whatever uses a fragment names it anew."""
    rules = db.scalars(select(RuleRow).where(RuleRow.project_id == project_id))
    for row in [*rules, *fragment_rows(db, project_id)]:
        pattern = renamed(row.pattern, {("fragment", old): new})
        if pattern != row.pattern:
            row.pattern = pattern
            row.version += 1
    db.flush()


def check_users(db: Session, project_id: int) -> None:
    """Every rule and fragment can be read still. Raises BadPattern."""
    texts = tuple(sorted(fragment_texts(db, project_id).items()))
    words = words_of(db, project_id)
    for name, pattern in texts:
        check_fragment(name, pattern, texts, words)
    for rule in read_rules(db, project_id):
        rule.written().compiled(dict(texts), words)


def remove_fragment(db: Session, project_id: int, fragment_id: int, account_id: int | None = None) -> None:
    """Raises Clash while something uses it."""
    one = read_fragment(db, project_id, fragment_id)
    if one.used_by:
        users = ", ".join(f"“{name}”" for name in one.used_by)
        raise Clash(f"“{one.name}” is used by {users}; change those first.")
    row = db.get_one(FragmentRow, fragment_id)
    note(db, account_id, f"deleting the fragment “{row.name}”", row, state_of(row), None)
    db.delete(row)
    db.flush()
    bump(db, project_id, PLACE)
