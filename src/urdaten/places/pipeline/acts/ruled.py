"""Why rules set a span, or took it away."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import groupby

from sqlalchemy.orm import Session

from urdaten.core.rules import Explained, conditions_aloud
from urdaten.core.spans import Span
from urdaten.places.desk import acts as desk
from urdaten.places.pipeline.acts.lanes import held_of
from urdaten.places.pipeline.acts.makers import Makers, RuleOn, read_makers
from urdaten.places.pipeline.acts.store import Held
from urdaten.places.pipeline.acts.trial import spans_before
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts


@dataclass(frozen=True, kw_only=True)
class Took:
    """A part of a pattern, in words, and what it took."""

    said: str
    marked: bool
    words: str


@dataclass(frozen=True, kw_only=True)
class RuleWhy:
    """A rule that set a span, or took it away, and what its parts took; none where that would take too long to find."""

    id: int
    name: str
    takes: bool
    slots: Sequence[Took]
    # That held, in words.
    conditions: Sequence[str]


def why_ruled(db: Session, project: Project, sentence_id: int, span: Span) -> list[RuleWhy]:
    """Of a span of a sentence the rules that set it, and those that took it away, in their order; as the rules are now.

    Raises NotFound for a sentence that there is not, NotAllowed in quiet texts.
    """
    text, _ = texts.read_sentence(db, project.id, sentence_id)
    desk.refuse_where_quiet(db, project, text)
    makers = read_makers(db, project)
    (held,) = held_of(db, project, makers, [text])
    return [_why(db, project, makers, text, one, span, takes) for one, takes in _speak_of(held, makers, span)]


def _speak_of(held: Held, makers: Makers, span: Span) -> Iterator[tuple[RuleOn, bool]]:
    """Rules that set a span, and those that took it away."""
    takers = {one.id for one, gone in held.taken(makers) if gone == span}
    for one in makers.rules:
        if span in held.by_rule(one):
            yield one, False
        if one.id in takers:
            yield one, True


def _why(
    db: Session, project: Project, makers: Makers, text: texts.Text, one: RuleOn, span: Span, takes: bool
) -> RuleWhy:
    batch = texts.batch_of(db, [text], project.language)
    explained = Explained(one.rule, batch, spans_before(db, project, makers, [text], one.id))
    first, last = batch.start.tolist().index(span.start), batch.end.tolist().index(span.end) + 1
    slots = []
    # What is repeated is one part.
    for _, run in groupby(explained.slots(first, last), key=lambda slot: (slot.line, slot.place)):
        own = list(run)
        words = explained.words(own[0].first, own[-1].last)
        slots.append(Took(said=own[0].said, marked=own[0].marked, words=words))
    return RuleWhy(
        id=one.id, name=one.name, takes=takes, slots=slots, conditions=conditions_aloud(one.rule.rule.text)
    )
