"""What can be asked of the spans in the texts."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Literal

import regex
from sqlalchemy.orm import Session

from urdaten.core.findings import (
    Difference,
    Found,
    Scope,
    Together,
    ValueCount,
    log_odds,
    over_bins,
    stand_together,
    value_counts,
)
from urdaten.core.spans import Span
from urdaten.core.text import batch_of, fold, word_counts
from urdaten.errors import BadInput
from urdaten.places.findings import gathering
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts

Step = Literal["day", "week", "month", "year"]
# Longer stretches are told in longer steps.
MOST_BINS = 400
# What is read of a text on either side of a word, in code points; and how many places at most.
BESIDE, MOST_PLACES = 80, 5000


@dataclass(frozen=True, kw_only=True)
class Asked:
    """Which spans: of a type, and of a value of it if one is named; in texts of a stretch of time."""

    type: str
    value: str = ""
    since: date | None = None
    until: date | None = None
    # Another value that stands in the same sentence or text.
    with_type: str = ""
    with_value: str = ""
    scope: Scope = "sentence"
    text: int | None = None


@dataclass(frozen=True, kw_only=True)
class TypeSummary:
    """A type in the texts: its spans and values, and the most frequent values."""

    type: str
    spans: int
    values: int
    texts: int
    examples: Sequence[ValueCount]


def summarise(found: Found, codes: Iterable[str], examples: int) -> list[TypeSummary]:
    """Every type, in this order."""
    made = []
    for code in codes:
        held = found.of(code)
        counted = value_counts(held)
        made.append(
            TypeSummary(
                type=code,
                spans=len(held),
                values=len(counted),
                texts=len(held.texts()),
                examples=counted[:examples],
            )
        )
    return made


@dataclass(frozen=True, kw_only=True)
class Bin:
    """A stretch of time, by its first day, and the spans in it."""

    since: date
    until: date
    spans: int


def over_time(found: Found, heads: Sequence[texts.Head], asked: Asked, step: Step) -> list[Bin]:
    """How many of these spans are in the texts of each stretch, from the first date to the last; texts without a date are left
    out. Raises BadInput where that would be more than MOST_BINS stretches."""
    days = {head.id: head.dated for head in heads if head.dated}
    if not days:
        return []
    bounds = [first_day(min(days.values()), step)]
    last = max(days.values())
    while bounds[-1] <= last:
        if len(bounds) > MOST_BINS:
            raise BadInput(f"That is more than {MOST_BINS} stretches; choose a longer one.", field="step")
        bounds.append(_next_day(bounds[-1], step))
    place = {first: k for k, first in enumerate(bounds)}
    bin_of = {number: place[first_day(day, step)] for number, day in days.items()}
    counts = over_bins(_meant(found, asked), bin_of, len(bounds) - 1)
    return [
        Bin(since=first, until=after - timedelta(days=1), spans=count)
        for first, after, count in zip(bounds[:-1], bounds[1:], counts, strict=True)
    ]


def first_day(day: date, step: Step) -> date:
    """Of the stretch that a day lies in; weeks begin on Mondays."""
    if step == "day":
        return day
    if step == "week":
        return day - timedelta(days=day.weekday())
    return day.replace(day=1) if step == "month" else day.replace(month=1, day=1)


def _next_day(first: date, step: Step) -> date:
    days = {"day": 1, "week": 7, "month": 31, "year": 366}[step]
    return first_day(first + timedelta(days=days), step)


def together(found: Found, one: str, other: str, scope: Scope, most: int) -> Together:
    """Which values of two types stand together."""
    return stand_together(found, one, other, scope, most)


def compare_values(one: Found, other: Found, whole: Found, type: str) -> list[Difference]:
    """Values of a type in two slices of the texts, the most typical of the one first."""
    counts = [
        {fold(count.value): count for count in value_counts(held.of(type))} for held in (one, other, whole)
    ]
    spans = [Counter({name: count.spans for name, count in held.items()}) for held in counts]
    # Of what is read in samples, each slice may have names that the whole has not.
    made = log_odds(spans[0], spans[1], spans[2] | (spans[0] + spans[1]))
    called = counts[0] | counts[1] | counts[2]
    return [
        Difference(name=called[each.name].value, one=each.one, other=each.other, z=each.z) for each in made
    ]


def compare_words(db: Session, project: Project, one: texts.Which, other: texts.Which) -> list[Difference]:
    """Words of two slices of the texts, of which MOST_READ are read at most, the most typical of the one first."""
    counts = [
        _words(db, project, texts.sampled(db, project.id, which, gathering.MOST_READ))
        for which in (one, other)
    ]
    return log_odds(counts[0], counts[1], counts[0] + counts[1])


def _words(db: Session, project: Project, which: texts.Which) -> Counter[str]:
    found: Counter[str] = Counter()
    for portion in texts.in_portions(db, project.id, which):
        found.update(word_counts(batch_of([text.body for text in portion], project.language)))
    return found


@dataclass(frozen=True, kw_only=True)
class Place:
    """Words in their context: what stands before and after them in their text, in one line."""

    text: int
    title: str
    sentence: int
    start: int
    before: str
    words: str
    after: str


def context_of_words(
    db: Session, project: Project, words: str, which: texts.Which
) -> list[tuple[texts.Text, int, int]]:
    """Where these words stand as whole words, whatever their case and the spaces between them."""
    parts = words.split()
    if not parts:
        raise BadInput("Say which words to look for.", field="words")
    run = r"\s+".join(regex.escape(part) for part in parts)
    pattern = regex.compile(
        rf"(?<![\p{{L}}\p{{N}}]){run}(?![\p{{L}}\p{{N}}])", regex.IGNORECASE | regex.FULLCASE
    )
    found: list[tuple[texts.Text, int, int]] = []
    for portion in texts.in_portions(db, project.id, which):
        for text in portion:
            found += [(text, match.start(), match.end()) for match in pattern.finditer(text.body)]
            if len(found) > MOST_PLACES:
                return found
    return found


def context_of_spans(
    db: Session, project: Project, found: Found, asked: Asked, maker: str
) -> list[tuple[texts.Text, int, int]]:
    """Where spans of a type stand; given a maker those alone that it set."""
    meant = _meant(found, asked)
    spans = (meant.by(maker) if maker else meant).spans(MOST_PLACES + 1)
    held = {text.id: text for text in texts.read_texts(db, project.id, {span.text for span in spans})}
    return [(held[span.text], span.start, span.end) for span in spans if span.text in held]


def in_context(db: Session, found: Sequence[tuple[texts.Text, int, int]], sort: str) -> list[Place]:
    """Places with what stands beside them, sorted by the words to the left from the nearest on, to the right, by the words
    themselves, or as they come."""
    sentences = texts.sentences_of(db, {text.id for text, _, _ in found})
    made = []
    for text, start, end in found:
        holder = next((s.id for s in sentences[text.id] if s.start <= start < s.end), None)
        if holder is not None:
            made.append(
                Place(
                    text=text.id,
                    title=text.title,
                    sentence=holder,
                    start=start,
                    before=_line(text.body[max(0, start - BESIDE) : start]),
                    words=_line(text.body[start:end]),
                    after=_line(text.body[end : end + BESIDE]),
                )
            )
    keys: Mapping[str, Callable[[Place], object]] = {
        "left": lambda one: [fold(word) for word in reversed(one.before.split())],
        "right": lambda one: [fold(word) for word in one.after.split()],
        "words": lambda one: fold(one.words),
    }
    if sort in keys:
        made.sort(key=lambda one: keys[sort](one))  # type: ignore[arg-type, return-value]
    return made


def _line(words: str) -> str:
    return " ".join(words.split()) if words.strip() else ""


def sentences_behind(found: Found, heads: Sequence[texts.Head], asked: Asked) -> list[int]:
    """Numbers of the sentences with such spans, in no order."""
    meant = _meant(found, asked)
    if asked.since or asked.until:
        meant = meant.within(
            [
                head.id
                for head in heads
                if head.dated
                and (asked.since is None or head.dated >= asked.since)
                and (asked.until is None or head.dated <= asked.until)
            ]
        )
    if asked.text is not None:
        meant = meant.within([asked.text])
    if asked.with_type:
        meant = meant.beside(found.of(asked.with_type, asked.with_value or None), asked.scope)
    return meant.sentences()


def _meant(found: Found, asked: Asked) -> Found:
    return found.of(asked.type, asked.value or None) if asked.type else found


def values_by_text(found: Found) -> dict[int, dict[str, list[str]]]:
    """Of each text and type its values, each once, in the order of the text."""
    made: dict[int, dict[str, list[str]]] = {}
    for span in found.spans():
        held = made.setdefault(span.text, {}).setdefault(span.type, [])
        if span.words not in held:
            held.append(span.words)
    return made


def spans_of_sentences(found: Found, numbers: Sequence[int]) -> dict[int, list[Span]]:
    """The spans of each of these sentences."""
    made: dict[int, list[Span]] = {}
    for span in found.inside(numbers).spans():
        made.setdefault(span.sentence, []).append(Span(span.start, span.end, span.type, maker=span.maker))
    return made
