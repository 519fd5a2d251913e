"""What a rule sees in a text: its words with what is known of them, and the names, spans and phrases in it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy.orm import Session

from urdaten.core.pipeline import RuleStage
from urdaten.core.rules import Rule, WordBase, match_rules, shapes_of
from urdaten.core.spans import Span, SpanTable
from urdaten.core.tags import Words
from urdaten.core.text import TAGS, Batch, batch_of
from urdaten.errors import BadPattern
from urdaten.places.lists import acts as lists
from urdaten.places.rules.acts.reading import fragment_texts
from urdaten.places.rules.acts.ready import READY_MADE
from urdaten.places.rules.acts.trying import rules_before
from urdaten.places.rules.acts.words import words_of
from urdaten.places.team.acts import Project

PHRASES = "phrases"


@dataclass(frozen=True, kw_only=True)
class Word:
    """One token of a text. Tag and lemma are empty where the language has none."""

    start: int
    end: int
    # Number of its sentence, from 0.
    sentence: int
    tag: str
    lemma: str
    shapes: tuple[str, ...]
    kinds: tuple[str, ...]


@dataclass(frozen=True, kw_only=True)
class Look:
    """A text as rules see it."""

    words: Sequence[Word]
    lists: Sequence[Span]
    rules: Sequence[Span]
    # What fragments match; the type is the name of the fragment.
    phrases: Sequence[Span]


def look(db: Session, project: Project, text: str) -> Look:
    """What lists and all rules that are on find in a text, what is known of its words, and what fragments match: those of the
    project, and ready-made ones that it has not taken yet."""
    batch = batch_of([text], project.language, abbreviations=project.abbreviations)
    known = words_of(db, project.id)
    found = lists.gazetteer(db, project).read(batch).table
    rules = RuleStage(tuple(rules_before(db, project.id, None))).apply(batch, found)
    ready = {one.name: one.pattern for one in READY_MADE}
    return Look(
        words=_words(batch, known),
        lists=found.spans(1)[0],
        rules=rules.added.spans(1)[0],
        phrases=_phrases(batch, {**ready, **fragment_texts(db, project.id)}, known, found),
    )


def _words(batch: Batch, known: Words | None) -> list[Word]:
    forms = [batch.vocabulary.forms[k] for k in batch.word.tolist()]
    tags = [""] * len(forms) if known is None else [TAGS[k] for k in known.tags(batch).tolist()]
    columns = zip(batch.start.tolist(), batch.end.tolist(), batch.sentence.tolist(), forms, tags, strict=True)
    return [
        Word(
            start=start,
            end=end,
            sentence=sentence,
            tag=tag,
            lemma="" if known is None else known.parts.lemma(form, tag),
            shapes=tuple(shapes_of(form)),
            kinds=() if known is None else tuple(known.kinds(form)),
        )
        for start, end, sentence, form, tag in columns
    ]


def _phrases(
    batch: Batch, fragments: Mapping[str, str], known: WordBase | None, spans: SpanTable
) -> list[Span]:
    found: list[Span] = []
    for name in fragments:
        try:
            rule = Rule(name=name, type=name, text=f"use({name})").compiled(fragments, known)
        except BadPattern:
            continue
        (own,) = match_rules([rule], batch, spans)
        table = SpanTable.of_tokens(batch, own.first, own.last, own.kind, rule.types, source=PHRASES)
        found += table.spans(1)[0]
    return sorted(found)
