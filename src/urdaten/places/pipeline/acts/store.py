"""The evidence store: rows of texts, read with what still holds of them, and kept.

A row is a memory of what can be found again. So nobody waits to write one: whoever does not get at the store leaves it to
the next who finds the same.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, NamedTuple

import psycopg
from sqlalchemy import (
    JSON,
    Boolean,
    ColumnElement,
    Integer,
    String,
    cast,
    delete,
    func,
    not_,
    or_,
    select,
    update,
)
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from urdaten.core.lists import EntryReason
from urdaten.core.pipeline import RuleReason
from urdaten.core.spans import Span
from urdaten.places.lists import acts as lists
from urdaten.places.pipeline.acts.makers import Makers, RuleOn, digest_of
from urdaten.places.pipeline.tables import EvidenceRow
from urdaten.places.texts import acts as texts
from urdaten.platform.database import among, columns_of, copy_rows, table_of

_LOCK = 0xE71DE
_TABLE = table_of(EvidenceRow)
Match = list[list[int]] | str


class ListFind(NamedTuple):
    """What a list finds, as it is kept: the number of the list, that of the entry, and what EntryReason says."""

    start: int
    end: int
    list: int
    entry: int
    preferred: str
    written: str
    how: int
    also: Sequence[str]

    @classmethod
    def of(cls, start: int, end: int, number: int, why: EntryReason) -> ListFind:
        return cls(start, end, number, why.entry, why.preferred, why.written, why.how, why.also)


@dataclass(frozen=True, kw_only=True)
class Held:
    """What the store has of one text. The columns are those of EvidenceRow."""

    text_id: int
    stamp: str
    cut: int
    # ListFinds; [entry, how often] of those that stand in small letters.
    lists: Sequence[Sequence[Any]]
    small: Sequence[Sequence[int]]
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
        return [span for _, span in self.by_entries(makers)]

    def by_entries(self, makers: Makers) -> list[tuple[int, Span]]:
        """The finds of lists, in order, each with the number of its entry."""
        found = []
        for row in self.lists:
            find = ListFind(*row)
            one = makers.lists.get(find.list)
            if one is not None:
                why = _why(one.name, find.preferred, find.written, find.how, tuple(find.also))
                found.append((find.entry, Span(find.start, find.end, one.type, "lists", None, why, one.name)))
        return sorted(found, key=lambda pair: _place(pair[1]))

    def by_rules(self, makers: Makers) -> list[Span]:
        """The finds of rules, in order, but those that later rules took away; rules that took too long have none."""
        found: list[Span] = []
        for one in makers.rules:
            gone = self._gone(one)
            found = [span for span in found if not gone(span)] + self.by_rule(one)
        return sorted(found, key=_place)

    def finds_of_lists(self, makers: Makers) -> dict[str, list[Span]]:
        """What each list finds."""
        found: dict[str, list[Span]] = {}
        for span in self.by_lists(makers):
            found.setdefault(span.maker, []).append(span)
        return found

    def finds_of_rules(self, makers: Makers) -> dict[str, list[Span]]:
        """What each rule that is on finds: what it marks and no later one took away; of one that only takes spans away, those,
        with the type that they had."""
        found: dict[str, list[Span]] = {}
        for span in self.by_rules(makers):
            found.setdefault(span.maker, []).append(span)
        for one, span in self.taken(makers):
            if not one.rule.marks:
                found.setdefault(one.name, []).append(span)
        return found

    def by_rule(self, one: RuleOn) -> list[Span]:
        """What one rule marks."""
        why = RuleReason(one.name).words
        return [
            Span(start, end, one.rule.types[kind], "rules", None, why, one.name)
            for start, end, kind in (self._matches(one.fingerprint) if one.rule.marks else ())
        ]

    def left_of_lists(self, makers: Makers) -> list[Span]:
        """The finds of lists but those that rules took away."""
        found = self.by_lists(makers)
        for one in makers.rules:
            gone = self._gone(one)
            found = [span for span in found if not gone(span)]
        return found

    def after(self, makers: Makers, rules: Sequence[RuleOn]) -> list[Span]:
        """What lists and these rules, one after the other, have left."""
        left = self.by_lists(makers)
        for one in rules:
            gone = self._gone(one)
            left = [span for span in left if not gone(span)] + self.by_rule(one)
        return left

    def taken(self, makers: Makers) -> list[tuple[RuleOn, Span]]:
        """What rules took away of the finds of lists and of rules before them, each with the rule."""
        left = self.by_lists(makers)
        taken = []
        for one in makers.rules:
            gone = self._gone(one)
            taken += [(one, span) for span in left if gone(span)]
            left = [span for span in left if not gone(span)] + self.by_rule(one)
        return taken

    def _gone(self, one: RuleOn) -> Callable[[Span], bool]:
        """Which earlier spans a rule takes away."""
        if one.rule.removal is None:
            return lambda _: False
        types = one.rule.removes
        places = {(start, end) for start, end, _ in self._matches(one.fingerprint)}
        return lambda span: (span.start, span.end) in places and (types is None or span.type in types)

    def by_tagger(self, makers: Makers) -> list[Span]:
        """The tagger's spans, but those of types that the scheme has no more."""
        return [
            Span(start, end, makers.codes[kind], "tagger", probability, "sequence tagger")
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
        spans = [*self.left_of_lists(makers), *self.by_rules(makers)]
        return digest_of(
            self.cut, [(s.start, s.end, makers.numbers[s.type], s.source, s.maker) for s in spans]
        )


@lru_cache(maxsize=100_000)
def _why(name: str, preferred: str, written: str, how: int, also: tuple[str, ...]) -> str:
    return EntryReason(name, preferred, written, how, also).words


def _place(span: Span) -> tuple[int, int, str]:
    return span.start, span.end, span.type


def fresh(text: texts.Text) -> Held:
    """Nothing yet."""
    return Held(
        text_id=text.id,
        stamp="",
        cut=text.cut,
        lists=(),
        small=(),
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
            EvidenceRow.small,
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


def unheard(db: Session, project_id: int, makers: Makers) -> list[int]:
    """Texts of which the tagger may have something else to say, once lists and rules are held against all: those that lists
    or rules have been held against anew, or all where anything else has changed."""
    query = select(EvidenceRow.text_id).where(EvidenceRow.project_id == project_id)
    return list(db.scalars(query.where(not_(EvidenceRow.stamp.startswith(makers.base, autoescape=True)))))


# How long whoever reads figures waits for another request that is counting, which is little work.
PATIENCE_MS = 3000


def get_hold(db: Session, project_id: int, *, wait: bool = False) -> bool:
    """May this transaction write to the project's rows? Nobody else may until it ends."""
    if wait:
        db.execute(select(func.pg_advisory_xact_lock(_LOCK, project_id)))
        return True
    lock = func.pg_try_advisory_xact_lock(_LOCK, project_id, type_=Boolean)
    return bool(db.scalar(select(lock)))


def get_hold_soon(db: Session, project_id: int) -> bool:
    """As get_hold, and waits a little while for whoever has it."""
    if get_hold(db, project_id):
        return True
    try:
        with db.begin_nested():
            before = db.scalar(select(func.current_setting("lock_timeout")))
            db.execute(select(func.set_config("lock_timeout", f"{PATIENCE_MS}ms", True)))
            get_hold(db, project_id, wait=True)
            db.execute(select(func.set_config("lock_timeout", before, True)))
    except DBAPIError as fault:
        if not isinstance(fault.orig, psycopg.errors.LockNotAvailable):
            raise
        return False
    return True


def keep_matches(
    db: Session, project_id: int, makers: Makers, found: Sequence[tuple[Held, Sequence[int]]]
) -> None:
    """Keep what lists and rules found, with the marks of each text's words. Its finds have yet to be counted."""
    there = texts.hold(db, [held.text_id for held, _ in found])
    db.execute(delete(_TABLE).where(among(_TABLE.c.text_id, there)))
    columns = [column.name for column in _TABLE.c]
    copy_rows(
        db,
        _TABLE.name,
        columns,
        (
            [row[name] for name in columns]
            for held, words in found
            if held.text_id in there and (row := _row(project_id, makers, held, words))
        ),
    )


def _row(project_id: int, makers: Makers, held: Held, words: Sequence[int]) -> dict[str, Any]:
    return {
        "text_id": held.text_id,
        "project_id": project_id,
        "stamp": "",
        "made_with": makers.made_with,
        "cut": held.cut,
        "words": list(words),
        "lists_at": makers.list_change,
        "lists": json.dumps(held.lists),
        "small": json.dumps(held.small),
        "patterns": sorted(held.matches),
        "matches": json.dumps(held.matches),
        "tagger_key": held.tagger_key,
        "tagger": json.dumps(held.tagger),
        "counted": "",
    }


_SPOKEN = columns_of(number=Integer(), key=String(), spans=String())
_SPEAK = (
    update(_TABLE)
    .where(_TABLE.c.text_id == _SPOKEN.c.number)
    .values(tagger_key=_SPOKEN.c.key, tagger=cast(_SPOKEN.c.spans, JSON))
)


def keep_tagger(db: Session, makers: Makers, found: Sequence[Held], numbers: Iterable[int]) -> None:
    """Keep what the tagger found in texts that have a row; of all these numbers everything holds now."""
    columns = {
        "number": [held.text_id for held in found],
        "key": [held.tagger_key for held in found],
        "spans": [json.dumps(held.tagger) for held in found],
    }
    db.execute(_SPEAK, columns)
    keep_stamp(db, makers, numbers)


def keep_stamp(db: Session, makers: Makers, numbers: Iterable[int]) -> None:
    """All of these rows hold now."""
    query = update(EvidenceRow).where(among(_TABLE.c.text_id, numbers))
    db.execute(
        query.where(EvidenceRow.stamp != makers.stamp).values(stamp=makers.stamp),
        execution_options={"synchronize_session": False},
    )
