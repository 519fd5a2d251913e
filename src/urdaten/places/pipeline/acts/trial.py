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


class Trial:
    """A rule that is not saved yet, held against texts after lists and the rules before it: all others, or those before the one
    that it is to replace."""

    def __init__(self, db: Session, project: Project, rule: CompiledRule, rule_id: int | None) -> None:
        self._rule, self._rule_id = rule, rule_id
        looks = rule.lists or rule.found or rule.removal
        self._makers = read_makers(db, project) if looks else None
        self._hits: dict[str, list[Hit]] = {"wrong": [], "right": [], "open": []}
        self.steps = self.texts = 0
        self.finds = Finds()

    @property
    def takes(self) -> bool:
        """Does it only take spans away?"""
        return not self._rule.marks

    @property
    def hits(self) -> list[Hit]:
        """The first of each outcome, the wrong ones first."""
        return [hit for own in self._hits.values() for hit in own]

    def take(self, db: Session, project: Project, portion: Sequence[texts.Text]) -> None:
        """Hold it against more texts, but those without suggestions. Raises BadPattern where it takes too long on one."""
        quiet = desk.quiet_among(db, project, portion)
        portion = [text for text in portion if text.id not in quiet]
        if not portion:
            return
        rule, before = self._rule, SpanTable.empty()
        if self._makers is not None:
            before = spans_before(db, project, self._makers, portion, self._rule_id)
        batch = texts.batch_of(db, portion, project.language)
        (found,) = match_rules([rule], batch, before)
        for said in found.troubles.values():
            raise BadPattern(said, field="pattern")
        self.steps += found.steps
        self.texts += len(portion)
        table = SpanTable.of_tokens(batch, found.first, found.last, found.kind, rule.types, source="rules")
        sentences = texts.sentences_of(db, [text.id for text in portion])
        states = desk.states_of(db, [one.id for own in sentences.values() for one in own])
        takes = self.takes
        own = _taken(rule, table, before, len(batch)) if takes else table.spans(len(batch))
        for text, spans in zip(portion, own, strict=True):
            counted = tally(spans, sentences[text.id], states, takes=takes)
            self.finds = Finds(
                self.finds.finds + counted.finds,
                self.finds.right + counted.right,
                self.finds.judged + counted.judged,
            )
            for hit in _hits(text, spans, sentences[text.id], states, takes) if spans else ():
                if len(self._hits[hit.outcome]) < SHOWN:
                    self._hits[hit.outcome].append(hit)


def count_rule(db: Session, project: Project, rule: CompiledRule, rule_id: int | None = None) -> Count:
    """How a rule would do in the first texts. Raises BadPattern where it takes too long on one, or on all of them together."""
    read, every = texts.first_texts(db, project.id, TRIAL_SIGNS)
    trial = Trial(db, project, rule, rule_id)
    for at in range(0, len(read), PORTION):
        trial.take(db, project, read[at : at + PORTION])
        if trial.steps > TRIAL_STEPS:
            raise BadPattern(
                f"“{rule.rule.name}” took more than its share of steps when it was tried; make its repetitions shorter or less "
                "ambiguous.",
                field="pattern",
            )
    return Count(trial.finds, trial.texts, every, trial.hits)


def _hits(
    text: texts.Text,
    spans: Sequence[Span],
    sentences: Sequence[texts.Sentence],
    states: Mapping[int, desk.Annotation],
    takes: bool,
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
        right = all((span in annotation.spans) != takes for span in own)
        yield Hit(text, sentence, "right" if right else "wrong", own, annotation.spans)


def _taken(rule: CompiledRule, places: SpanTable, before: SpanTable, count: int) -> list[list[Span]]:
    """What a rule takes away at these places of so many texts, text by text."""
    wanted = [{(span.start, span.end) for span in spans} for spans in places.spans(count)]
    return [
        [s for s in spans if (s.start, s.end) in own and (rule.removes is None or s.type in rule.removes)]
        for spans, own in zip(before.spans(count), wanted, strict=True)
    ]


def spans_before(
    db: Session, project: Project, makers: Makers, portion: Sequence[texts.Text], rule_id: int | None
) -> SpanTable:
    """What lists and the rules before one, or all rules, find in texts."""
    numbers = [one.id for one in makers.rules]
    earlier = makers.rules[: numbers.index(rule_id)] if rule_id in numbers else makers.rules
    held = held_of(db, project, makers, portion)
    return SpanTable.of_spans([one.after(makers, earlier) for one in held])
