"""Names of gold that no list has, with the entries that may be of the same thing."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from sqlalchemy import func, or_, select
from sqlalchemy.orm import Session

from urdaten.core.lists import Kindred, spelling_key
from urdaten.core.text import fold, token_forms
from urdaten.places.lists.acts.lists import own_list
from urdaten.places.lists.acts.pages import shares_a_key
from urdaten.places.lists.tables import EntryRow, ListRow

# Of longer lists only entries that share a word with a name are looked at.
ALL_OF = 20_000
MOST_ALIKE = 300
_WORD = 4


@dataclass(frozen=True, kw_only=True)
class GoldName:
    """Words of gold spans of one type."""

    words: str
    spans: int
    # How many texts they stand in; one in which they are written in several ways counts for each.
    texts: int
    # One of the sentences.
    sentence_id: int


@dataclass(frozen=True, kw_only=True)
class KinEntry:
    """An entry that may be of the same thing, and what speaks for it."""

    entry_id: int
    preferred: str
    kind: str


@dataclass(frozen=True, kw_only=True)
class MissingName:
    """A name of gold that no list of its type has."""

    name: GoldName
    kin: tuple[KinEntry, ...]


def missing_names(db: Session, project_id: int, list_id: int, gold: Sequence[GoldName]) -> list[GoldName]:
    """Those that no list of this one's type has, be the entry on or off; the most frequent ones first, the ways to write one name together
    under the first of them."""
    named = own_list(db, project_id, list_id)
    keys: dict[int, GoldName] = {}
    for name in gold:
        first = keys.setdefault(spelling_key(name.words), name)
        if first is not name:
            keys[spelling_key(name.words)] = replace(
                first, spans=first.spans + name.spans, texts=first.texts + name.texts
            )
    held = func.unnest(EntryRow.keys).label("key")
    query = (
        select(held)
        .join(ListRow, ListRow.id == EntryRow.list_id)
        .where(
            ListRow.project_id == project_id, ListRow.removed_at.is_(None), ListRow.type_id == named.type_id
        )
        .where(shares_a_key(keys))
    )
    known = set(db.scalars(query))
    missing = [name for key, name in keys.items() if key not in known]
    return sorted(missing, key=lambda name: -name.spans)


def with_kin(db: Session, project_id: int, list_id: int, missing: Sequence[GoldName]) -> list[MissingName]:
    """Each with the entries of this list that may be of the same thing, the nearest first."""
    named = own_list(db, project_id, list_id)
    query = select(EntryRow.id, EntryRow.preferred, EntryRow.variants).where(EntryRow.list_id == list_id)
    if named.size > ALL_OF:
        words = {
            word for name in missing for word in map(fold, token_forms(name.words)) if len(word) >= _WORD
        }
        query = query.where(
            or_(*(EntryRow.written.icontains(word, autoescape=True) for word in sorted(words)))
        )
        query = query.limit(MOST_ALIKE * max(1, len(missing)))
    rows = db.execute(query.order_by(EntryRow.id)).all()
    names = [
        (row, name) for row, (_, preferred, variants) in enumerate(rows) for name in (preferred, *variants)
    ]
    kindred = Kindred(name for _, name in names)
    found = []
    for name in missing:
        kin: dict[int, KinEntry] = {}
        for one in kindred.of(name.words):
            entry_id, preferred, _ = rows[names[one.place][0]]
            kin.setdefault(entry_id, KinEntry(entry_id=entry_id, preferred=preferred, kind=one.kind))
        found.append(MissingName(name=name, kin=tuple(kin.values())))
    return found
