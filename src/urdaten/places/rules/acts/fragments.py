"""Acts on fragments: parts of patterns that rules use by their names."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from urdaten.core.rules import check_fragment, mentions, renamed
from urdaten.errors import BadInput, Clash, NotFound
from urdaten.places.rules.acts.names import pattern_of_now, read_names, refers_of
from urdaten.places.rules.acts.words import words_of
from urdaten.places.rules.tables import FragmentRow, RuleRow
from urdaten.platform.revisions import bump
from urdaten.platform.versions import check_seen

_PLACE = "rules"


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


def _rows(db: Session, project_id: int) -> list[FragmentRow]:
    query = select(FragmentRow).where(FragmentRow.project_id == project_id).order_by(FragmentRow.name)
    return list(db.scalars(query))


def fragment_texts(db: Session, project_id: int) -> dict[str, str]:
    """The pattern of each fragment by its name."""
    rows = _rows(db, project_id)
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
        for row in _rows(db, project_id)
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


def add_fragment(db: Session, project_id: int, draft: FragmentDraft) -> Fragment:
    """Raises BadInput, Clash for a name, and BadPattern."""
    row = FragmentRow(project_id=project_id)
    _fill(db, row, draft, None)
    db.add(row)
    db.flush()
    bump(db, project_id, _PLACE)
    return read_fragment(db, project_id, row.id)


def change_fragment(
    db: Session, project_id: int, fragment_id: int, draft: FragmentDraft, version: int
) -> Fragment:
    """Also in all that use it, which have its new name then. Raises StaleWrite, Clash, and BadPattern, also where a rule could
    not be read any more."""
    row = db.get(FragmentRow, fragment_id, with_for_update=True)
    now = read_fragment(db, project_id, fragment_id)
    assert row is not None
    check_seen(f"“{now.name}”", asdict(now), asdict(draft), version)
    _fill(db, row, draft, now.name)
    row.version += 1
    db.flush()
    if row.name != now.name:
        _rename(db, project_id, now.name, row.name)
    _check_users(db, project_id)
    bump(db, project_id, _PLACE)
    return read_fragment(db, project_id, fragment_id)


def _rename(db: Session, project_id: int, old: str, new: str) -> None:
    rules = db.scalars(select(RuleRow).where(RuleRow.project_id == project_id))
    for row in [*rules, *_rows(db, project_id)]:
        pattern = renamed(row.pattern, {("fragment", old): new})
        if pattern != row.pattern:
            row.pattern = pattern
            row.version += 1
    db.flush()


def _check_users(db: Session, project_id: int) -> None:
    """Every rule and fragment can be read still. Raises BadPattern."""
    from urdaten.places.rules.acts.rules import read_rules

    texts = tuple(sorted(fragment_texts(db, project_id).items()))
    words = words_of(db, project_id)
    for name, pattern in texts:
        check_fragment(name, pattern, texts, words)
    for rule in read_rules(db, project_id):
        rule.written().compiled(dict(texts), words)


def remove_fragment(db: Session, project_id: int, fragment_id: int) -> None:
    """Raises Clash while something uses it."""
    one = read_fragment(db, project_id, fragment_id)
    if one.used_by:
        users = ", ".join(f"“{name}”" for name in one.used_by)
        raise Clash(f"“{one.name}” is used by {users}; change those first.")
    db.delete(db.get_one(FragmentRow, fragment_id))
    db.flush()
    bump(db, project_id, _PLACE)
