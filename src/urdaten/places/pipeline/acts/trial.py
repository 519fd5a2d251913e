"""A rule tried while it is typed."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy.orm import Session

from urdaten.core.pipeline import RuleStage
from urdaten.core.rules import CompiledRule
from urdaten.core.spans import SpanTable
from urdaten.errors import BadPattern
from urdaten.places.desk import acts as desk
from urdaten.places.pipeline.acts.finds import Finds, tally
from urdaten.places.pipeline.acts.lanes import held_of
from urdaten.places.pipeline.acts.makers import read_makers
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts

# On so many code points, the last text whole.
TRIAL_SIGNS = 500_000


@dataclass(frozen=True)
class Count:
    """How often a rule finds something in so many texts, how that stands against gold, and whether these are all texts that are
    not quiet."""

    finds: Finds
    texts: int
    all: bool


def count_rule(db: Session, project: Project, rule: CompiledRule, rule_id: int | None = None) -> Count:
    """How a rule that is not saved yet would do in the first texts, after lists and the rules before it: all others, or those
    before the one that it is to replace. Raises BadPattern where it takes too long on one."""
    read, every = texts.first_texts(db, project.id, TRIAL_SIGNS)
    quiet = desk.quiet_among(db, project, read)
    read = [text for text in read if text.id not in quiet]
    batch = texts.batch_of(db, read, project.language)
    before = SpanTable.empty()
    if rule.lists or rule.found or rule.removal:
        makers = read_makers(db, project)
        earlier = [one.id for one in makers.rules]
        if rule_id in earlier:
            earlier = earlier[: earlier.index(rule_id)]
        names = {one.name for one in makers.rules if one.id in earlier}
        held = held_of(db, project, makers, read)
        before = SpanTable.of_spans(
            [
                [*one.by_lists(makers), *(span for span in one.by_rules(makers) if span.maker in names)]
                for one in held
            ]
        )
    changes = RuleStage((rule,)).apply(batch, before)
    if changes.troubles:
        raise BadPattern(changes.troubles[0].said, field="pattern")
    sentences = texts.sentences_of(db, [text.id for text in read])
    states = desk.states_of(db, [one.id for own in sentences.values() for one in own])
    finds = right = judged = 0
    for text, spans in zip(read, changes.added.spans(len(batch)), strict=True):
        counted = tally(spans, sentences[text.id], states)
        finds, right, judged = finds + counted.finds, right + counted.right, judged + counted.judged
    return Count(Finds(finds, right, judged), len(read), every)
