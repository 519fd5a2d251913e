"""The evidence store: rows of texts, read with what still holds of them, and kept.

A row is a memory of what can be found again. So nobody waits to write one: whoever does not get at the store leaves it to
the next who finds the same.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import Boolean, ColumnElement, func, or_, select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from urdaten.core.lists import EntryReason
from urdaten.core.spans import Span
from urdaten.places.lists import acts as lists
from urdaten.places.pipeline.acts.makers import Makers, digest_of
from urdaten.places.pipeline.tables import EvidenceRow
from urdaten.places.texts import acts as texts
from urdaten.platform.database import among, table_of

_LOCK = 0xE71DE
_TABLE = table_of(EvidenceRow)
Match = list[list[int]] | str


@dataclass(frozen=True, kw_only=True)
class Held:
    """What the store has of one text. The columns are those of EvidenceRow."""

    text_id: int
    stamp: str
    cut: int
    lists: Sequence[Sequence[Any]]
    matches: dict[str, Match]
    tagger_key: str
    tagger: Sequence[Sequence[Any]]
    # Can another change of lists have touched it?
    touched: bool

    def lacks(self, makers: Makers) -> bool:
        """Is there a list or a rule that has yet to be held against the text?"""
        return self.touched or any(rule.fingerprint not in self.matches for rule in makers.rules)

    def by_lists(self, makers: Makers) -> list[Span]:
        """The finds of lists, in order."""
        found = []
        for start, end, number, preferred, written in self.lists:
            one = makers.lists.get(number)
            if one is not None:
                why = EntryReason(one.name, preferred, written).words
                found.append(Span(start, end, one.type, "lists", None, why, one.name))
        return sorted(found)

    def by_rules(self, makers: Makers) -> list[Span]:
        """The finds of rules, in order; those that took too long have none."""
        return sorted(
            Span(start, end, one.rule.type, "rules", None, f"rule “{one.rule.name}”", one.rule.name)
            for one in makers.rules
            for start, end in self._matches(one.fingerprint)
        )

    def by_tagger(self, makers: Makers) -> list[Span]:
        """The tagger's spans, but those of types that the scheme has no more."""
        return [
            Span(start, end, makers.codes[kind], "tagger", probability)
            for start, end, kind, probability in self.tagger
            if kind in makers.codes
        ]

    def _matches(self, fingerprint: str) -> list[list[int]]:
        found = self.matches.get(fingerprint, "")
        return [] if isinstance(found, str) else found

    def troubles(self, makers: Makers) -> Iterator[tuple[int, str]]:
        """Rules that took too long, by number, and what was said."""
        for one in makers.rules:
            said = self.matches.get(one.fingerprint)
            if isinstance(said, str):
                yield one.id, said

    def seen_by_tagger(self, makers: Makers) -> str:
        """Of what lists and rules say to a tagger, by the numbers of types."""
        spans = [*self.by_lists(makers), *self.by_rules(makers)]
        return digest_of(
            self.cut, [(s.start, s.end, makers.numbers[s.type], s.source, s.maker) for s in spans]
        )


def fresh(text: texts.Text) -> Held:
    """Nothing yet."""
    return Held(
        text_id=text.id,
        stamp="",
        cut=text.cut,
        lists=(),
        matches={},
        tagger_key="",
        tagger=(),
        touched=True,
    )


def touched(project_id: int, makers: Makers) -> ColumnElement[bool]:
    """For queries of EvidenceRow: can a change of lists have touched the text since?"""
    return or_(
        lists.touched_since(project_id, _TABLE.c.lists_at, _TABLE.c.words),
        EvidenceRow.lists_at > makers.list_change,
    )


def read(db: Session, project_id: int, makers: Makers, numbers: Iterable[int]) -> dict[int, Held]:
    """What the store has of these texts that may still be of use, by text."""
    index = texts.text_index(project_id)
    query = (
        select(
            EvidenceRow.text_id,
            EvidenceRow.stamp,
            EvidenceRow.cut,
            EvidenceRow.lists,
            EvidenceRow.matches,
            EvidenceRow.tagger_key,
            EvidenceRow.tagger,
            touched(project_id, makers).label("touched"),
        )
        .join(index, index.c.id == EvidenceRow.text_id)
        .where(among(_TABLE.c.text_id, numbers))
        .where(EvidenceRow.made_with == makers.made_with, EvidenceRow.cut == index.c.cut)
    )
    return {row.text_id: Held(**row._asdict()) for row in db.execute(query)}


def get_hold(db: Session, project_id: int, *, wait: bool = False) -> bool:
    """May this transaction write to the project's rows? Nobody else may until it ends."""
    if wait:
        db.execute(select(func.pg_advisory_xact_lock(_LOCK, project_id)))
        return True
    lock = func.pg_try_advisory_xact_lock(_LOCK, project_id, type_=Boolean)
    return bool(db.scalar(select(lock)))


def keep_matches(
    db: Session, project_id: int, makers: Makers, found: Sequence[tuple[Held, Sequence[int]]]
) -> None:
    """Keep what lists and rules found, with the marks of each text's words. Its finds have yet to be counted."""
    there = texts.hold(db, [held.text_id for held, _ in found])
    rows = [
        {
            "text_id": held.text_id,
            "project_id": project_id,
            "stamp": "",
            "made_with": makers.made_with,
            "cut": held.cut,
            "words": list(words),
            "lists_at": makers.list_change,
            "lists": held.lists,
            "patterns": sorted(held.matches),
            "matches": held.matches,
            "tagger_key": held.tagger_key,
            "tagger": held.tagger,
            "counted": "",
        }
        for held, words in found
        if held.text_id in there
    ]
    if not rows:
        return
    added = insert(EvidenceRow)
    left = ("text_id", "project_id")
    db.execute(
        added.on_conflict_do_update(
            index_elements=["text_id"],
            set_={name: added.excluded[name] for name in rows[0] if name not in left},
        ),
        rows,
    )


def keep_tagger(db: Session, found: Sequence[Held]) -> None:
    """Keep what the tagger found in texts that have a row."""
    changed = [{"text_id": x.text_id, "tagger_key": x.tagger_key, "tagger": x.tagger} for x in found]
    if changed:
        db.execute(update(EvidenceRow), changed)


def keep_stamp(db: Session, makers: Makers, numbers: Iterable[int]) -> None:
    """All of these rows hold now."""
    query = update(EvidenceRow).where(among(_TABLE.c.text_id, numbers))
    db.execute(
        query.where(EvidenceRow.stamp != makers.stamp).values(stamp=makers.stamp),
        execution_options={"synchronize_session": False},
    )
