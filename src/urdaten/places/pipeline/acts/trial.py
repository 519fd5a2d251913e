"""A rule tried while it is typed."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy.orm import Session

from urdaten.core.rules import CompiledRule, match_rules
from urdaten.core.spans import Span, SpanTable
from urdaten.errors import BadPattern
from urdaten.places.desk import acts as desk
from urdaten.places.pipeline.acts.finds import Finds, tally
from urdaten.places.pipeline.acts.lanes import held_of
from urdaten.places.pipeline.acts.makers import Makers, read_makers
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts

# On so many code points, the last text whole, and in so many steps; these are looked at after each portion of texts.
TRIAL_SIGNS = 500_000
TRIAL_STEPS = 100_000_000
PORTION = 64


# So many sentences of each outcome are shown.
SHOWN = 8


@dataclass(frozen=True)
class Hit:
    """A sentence in which a rule finds something. Its outcome is "wrong" where one find is, "right", or "open" where nobody has
    signed it."""

    text: texts.Text
    sentence: texts.Sentence
    outcome: str
    found: Sequence[Span]
    gold: Sequence[Span]


@dataclass(frozen=True)
class Count:
    """How often a rule finds something in so many texts, how that stands against gold, and whether these are all texts that are
    not quiet; and the first sentences of each outcome, the wrong ones first."""

    finds: Finds
    texts: int
    all: bool
    hits: Sequence[Hit]


def count_rule(db: Session, project: Project, rule: CompiledRule, rule_id: int | None = None) -> Count:
    """How a rule that is not saved yet would do in the first texts, after lists and the rules before it: all others, or those
    before the one that it is to replace. Raises BadPattern where it takes too long on one."""
    read, every = texts.first_texts(db, project.id, TRIAL_SIGNS)
    quiet = desk.quiet_among(db, project, read)
    read = [text for text in read if text.id not in quiet]
    makers = read_makers(db, project) if rule.lists or rule.found or rule.removal else None
    steps = finds = right = judged = 0
    hits: dict[str, list[Hit]] = {"wrong": [], "right": [], "open": []}
    for at in range(0, len(read), PORTION):
        portion = read[at : at + PORTION]
        before = SpanTable.empty()
        if makers is not None:
            before = spans_before(db, project, makers, portion, rule_id)
        batch = texts.batch_of(db, portion, project.language)
        (found,) = match_rules([rule], batch, before)
        for said in found.troubles.values():
            raise BadPattern(said, field="pattern")
        steps += found.steps
        if steps > TRIAL_STEPS:
            raise BadPattern(
                f"“{rule.rule.name}” took more than its share of steps when it was tried; make its repetitions shorter or less "
                "ambiguous.",
                field="pattern",
            )
        table = SpanTable.of_tokens(batch, found.first, found.last, found.kind, rule.types, source="rules")
        sentences = texts.sentences_of(db, [text.id for text in portion])
        states = desk.states_of(db, [one.id for own in sentences.values() for one in own])
        for text, spans in zip(portion, table.spans(len(batch)), strict=True):
            counted = tally(spans, sentences[text.id], states)
            finds, right, judged = finds + counted.finds, right + counted.right, judged + counted.judged
            for hit in _hits(text, spans, sentences[text.id], states) if spans else ():
                if len(hits[hit.outcome]) < SHOWN:
                    hits[hit.outcome].append(hit)
    return Count(Finds(finds, right, judged), len(read), every, [hit for own in hits.values() for hit in own])


def _hits(
    text: texts.Text,
    spans: Sequence[Span],
    sentences: Sequence[texts.Sentence],
    states: Mapping[int, desk.Annotation],
) -> Iterator[Hit]:
    found = texts.by_sentence(spans, sentences)
    for sentence in sentences:
        own = found[sentence.id]
        if not own:
            continue
        annotation = states.get(sentence.id)
        if annotation is None or annotation.state != desk.SIGNED:
            yield Hit(text, sentence, "open", own, ())
            continue
        right = all(span in annotation.spans for span in own)
        yield Hit(text, sentence, "right" if right else "wrong", own, annotation.spans)


def spans_before(
    db: Session, project: Project, makers: Makers, portion: Sequence[texts.Text], rule_id: int | None
) -> SpanTable:
    """What lists and the rules before one, or all rules, find in texts."""
    numbers = [one.id for one in makers.rules]
    earlier = makers.rules[: numbers.index(rule_id)] if rule_id in numbers else makers.rules
    names = {one.name for one in earlier}
    held = held_of(db, project, makers, portion)
    return SpanTable.of_spans(
        [
            [*one.by_lists(makers), *(span for span in one.by_rules(makers) if span.maker in names)]
            for one in held
        ]
    )
