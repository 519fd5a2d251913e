"""Which parts of a rule let wrong finds through, and what it finds that other rules do not."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy.orm import Session

from urdaten.core.rules import Explained, Place, match_rules, places_of
from urdaten.core.spans import SpanTable
from urdaten.places.desk import acts as desk
from urdaten.places.pipeline.acts.makers import read_makers
from urdaten.places.pipeline.acts.trial import TRIAL_SIGNS, spans_before
from urdaten.places.rules import acts as rules
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts

# So many finds are aligned with the rule.
MOST = 500


@dataclass(frozen=True, kw_only=True)
class Slots:
    """What each part of a rule took in its judged finds, the first ones of them; and how many those are. Of the right ones, how
    many no other rule that is on finds, and by rule how many others find too, most first."""

    places: Sequence[Place]
    finds: int
    right: int
    alone: int
    shared: Sequence[tuple[str, int]]


def slots(db: Session, project: Project, rule_id: int) -> Slots:
    """Of a rule as it is kept. Raises NotFound, and BadPattern for one that cannot be read any more."""
    rule = rules.compile_draft(db, project.id, rules.read_rule(db, project.id, rule_id))
    read, _ = texts.first_texts(db, project.id, TRIAL_SIGNS)
    quiet = desk.quiet_among(db, project, read)
    read = [text for text in read if text.id not in quiet]
    if not read:
        return Slots(places=(), finds=0, right=0, alone=0, shared=())
    makers = read_makers(db, project)
    before = spans_before(db, project, makers, read, rule_id)
    batch = texts.batch_of(db, read, project.language)
    (found,) = match_rules([rule], batch, before)
    sentences = texts.sentences_of(db, [text.id for text in read])
    states = desk.states_of(db, [one.id for own in sentences.values() for one in own])
    gold = {
        (k, s.start, s.end, s.type)
        for k, text in enumerate(read)
        for sentence in sentences[text.id]
        if sentence.id in states
        for s in states[sentence.id].spans
    }
    signed = [
        (k, sentence.start, sentence.end)
        for k, text in enumerate(read)
        for sentence in sentences[text.id]
        if sentence.id in states and states[sentence.id].state == desk.SIGNED
    ]
    judged = batch.tokens_within(signed)
    finds: list[tuple[int, int, bool]] = []
    for first, last, kind in zip(found.first.tolist(), found.last.tolist(), found.kind.tolist(), strict=True):
        if first in judged and len(finds) < MOST:
            bounds = int(batch.text[first]), int(batch.start[first]), int(batch.end[last - 1])
            finds.append((first, last, (*bounds, rule.types[kind]) in gold))
    others = _by_others(spans_before(db, project, makers, read, None), len(read), rule.rule.name)
    shared: Counter[str] = Counter()
    right = alone = 0
    for first, last, is_right in finds:
        if is_right:
            found_by = others.get(
                (int(batch.text[first]), int(batch.start[first]), int(batch.end[last - 1])), set()
            )
            right, alone = right + 1, alone + (not found_by)
            shared.update(found_by)
    return Slots(
        places=places_of(Explained(rule, batch, before), finds),
        finds=len(finds),
        right=right,
        alone=alone,
        shared=shared.most_common(),
    )


def _by_others(spans: SpanTable, count: int, own: str) -> dict[tuple[int, int, int], set[str]]:
    """Other rules that find something, by text and bounds."""
    found: dict[tuple[int, int, int], set[str]] = {}
    for k, mine in enumerate(spans.of_sources(("rules",)).spans(count)):
        for span in mine:
            if span.maker != own:
                found.setdefault((k, span.start, span.end), set()).add(span.maker)
    return found
