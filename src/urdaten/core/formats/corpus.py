"""Texts of a corpus with everything that a file says of them, as JSON Lines: one object a line.

`{"text": …, "spans": [{"start": …, "end": …, "type": …}], "sentences": [{"start": …, "end": …, "signed": true}]}` with, where
wanted, `id`, `title`, `group`, `date`, `split`, `fold` and `meta`. Offsets are code points, half-open. Spans may nest and cross,
and a type is whatever the file calls it.
"""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date
from typing import Any

from urdaten.core.formats.samples import read_json
from urdaten.core.spans import Span
from urdaten.core.text import analyse_many
from urdaten.errors import BadFile

LONGEST_LABEL = 100
Bounds = tuple[int, int]


@dataclass(frozen=True)
class CorpusSentence:
    """Bounds of a sentence in its text, and whether somebody stands for what is marked in it."""

    start: int
    end: int
    signed: bool = True


@dataclass(frozen=True, kw_only=True)
class CorpusText:
    """A text with its spans in order. Without sentences nothing is known of them."""

    body: str
    spans: tuple[Span, ...] = ()
    sentences: tuple[CorpusSentence, ...] = ()
    # Bounds of its tokens, where the file has them.
    tokens: tuple[Bounds, ...] = ()
    # A part of speech for each token, likewise; Universal POS where the file says so.
    tags: tuple[str, ...] = ()
    id: str = ""
    title: str = ""
    group: str = ""
    dated: date | None = None
    split: str = ""
    fold: int | None = None
    meta: Mapping[str, Any] = field(default_factory=dict)


def analysed(
    texts: Sequence[CorpusText], language: str = "en", abbreviations: frozenset[str] = frozenset()
) -> list[CorpusText]:
    """The texts with tokens, and with sentences where they had none; a token is cut where a span begins or ends within it."""
    cut: list[CorpusText] = []
    analyses = analyse_many([text.body for text in texts], language, abbreviations=abbreviations)
    for text, analysis in zip(texts, analyses, strict=True):
        bounds = text.tokens or tuple(zip(analysis.start.tolist(), analysis.end.tolist(), strict=True))
        marks = sorted({mark for span in text.spans for mark in (span.start, span.end)})
        sentences = text.sentences or tuple(CorpusSentence(*one) for one in analysis.sentence_bounds())
        cut.append(replace(text, tokens=tuple(_cut(bounds, marks)), sentences=sentences))
    return cut


def placed(words: Iterable[str], body: str, at: int) -> Iterator[Bounds]:
    """Bounds of words that stand in the body from `at` on, with nothing but white space before each. Raises BadFile."""
    for word in words:
        while at < len(body) and body[at].isspace():
            at += 1
        if not word or not body.startswith(word, at):
            raise BadFile(f"the word {word!r} is not what stands next in its text: {body[at : at + 30]!r}.")
        yield at, at + len(word)
        at += len(word)


def blocks(text: CorpusText) -> Iterator[tuple[CorpusSentence, range, bool]]:
    """Each sentence of a text with the numbers of its tokens; and do words stand before it that are in none?"""
    first = at = 0
    for sentence in text.sentences:
        while first < len(text.tokens) and text.tokens[first][0] < sentence.start:
            first += 1
        last = first
        while last < len(text.tokens) and text.tokens[last][1] <= sentence.end:
            last += 1
        yield sentence, range(first, last), not _is_blank(text.body[at : sentence.start])
        first, at = last, sentence.end


def _is_blank(words: str) -> bool:
    return not words or words.isspace()


def _cut(bounds: Iterable[Bounds], marks: Sequence[int]) -> Iterator[Bounds]:
    at = 0
    for start, end in bounds:
        while at < len(marks) and marks[at] <= start:
            at += 1
        while at < len(marks) and marks[at] < end:
            yield start, marks[at]
            start = marks[at]
            at += 1
        yield start, end


def head_of(text: CorpusText) -> dict[str, Any]:
    """What is said of a text besides its body, spans and bounds; what is empty is left out."""
    head: dict[str, Any] = {"id": text.id, "title": text.title, "group": text.group}
    head |= {"date": text.dated.isoformat() if text.dated else "", "split": text.split}
    told = {name: value for name, value in head.items() if value}
    if text.fold is not None:
        told["fold"] = text.fold
    if text.meta:
        told["meta"] = dict(text.meta)
    return told


def with_head(text: CorpusText, row: Mapping[str, Any]) -> CorpusText:
    """The text with what `head_of` said of it. Raises BadFile for a member that is none of that kind."""
    dated, fold, meta = row.get("date"), row.get("fold"), row.get("meta") or {}
    if not isinstance(meta, dict):
        raise BadFile("“meta” is no object.")
    if fold is not None and (type(fold) is not int or fold < 1):
        raise BadFile(f"“fold” is a whole number from 1 on, not {fold!r}.")
    try:
        day = date.fromisoformat(dated) if dated else None
    except (TypeError, ValueError):
        raise BadFile(f"“date” is a day such as 2026-03-01, not {dated!r}.") from None
    named = {name: "" if row.get(name) is None else str(row[name]) for name in ("title", "group", "split")}
    return replace(
        text,
        id=text.id if row.get("id") is None else str(row["id"]),
        title=named["title"],
        group=named["group"],
        dated=day,
        split=named["split"],
        fold=fold,
        meta=meta,
    )


def write_corpus(texts: Iterable[CorpusText]) -> Iterator[str]:
    """A line for each text."""
    for text in texts:
        row: dict[str, Any] = {"text": text.body} | head_of(text)
        row["spans"] = [span_row(span) for span in text.spans]
        row |= told_sentences(text)
        yield json.dumps(row, ensure_ascii=False) + "\n"


def told_sentences(text: CorpusText) -> dict[str, Any]:
    """Its sentences and whether somebody stands for each, as a member; none where nothing is known of them."""
    told = [{"start": s.start, "end": s.end, "signed": s.signed} for s in text.sentences]
    return {"sentences": told} if told else {}


def span_row(span: Span) -> dict[str, Any]:
    row: dict[str, Any] = {"start": span.start, "end": span.end, "type": span.type}
    return row if span.probability is None else row | {"probability": span.probability}


def read_corpus(lines: Iterable[str]) -> Iterator[CorpusText]:
    """The texts of a file, one after another; empty lines are passed over. Raises BadFile with the line."""
    for number, line in enumerate(lines, start=1):
        if not line.strip():
            continue
        try:
            yield _text(read_json(line))
        except BadFile as fault:
            raise BadFile(f"Line {number}: {fault.message}", line=number) from fault


def _text(row: object) -> CorpusText:
    if not isinstance(row, dict) or not isinstance(body := row.get("text"), str):
        raise BadFile("an object with “text” is wanted.")
    spans = tuple(sorted(_span(values, body) for values in _listed(row, "spans")))
    return with_head(CorpusText(body=body, spans=spans, sentences=sentences_of(row, body)), row)


def sentences_of(row: Mapping[str, Any], body: str) -> tuple[CorpusSentence, ...]:
    """Those that `told_sentences` said. Raises BadFile where they do not lie in the body one after the other."""
    sentences = []
    last = 0
    for values in _listed(row, "sentences"):
        start, end = bounds_of(values, body, "sentence")
        if start < last:
            raise BadFile(f"the sentence {start}–{end} begins before the one before it ends.")
        last = end
        sentences.append(CorpusSentence(start, end, bool(values.get("signed", True))))
    return tuple(sentences)


def _listed(row: Mapping[str, Any], name: str) -> list[Any]:
    found = row.get(name) or []
    if not isinstance(found, list):
        raise BadFile(f"“{name}” is no list.")
    return found


def _span(values: object, body: str) -> Span:
    start, end = bounds_of(values, body, "span")
    assert isinstance(values, dict)
    probability = values.get("probability")
    if probability is not None and (type(probability) not in (int, float) or not 0 <= probability <= 1):
        raise BadFile(f"a span's “probability” lies between 0 and 1; it is {probability!r}.")
    return Span(start, end, checked_label(values.get("type")), probability=probability)


def bounds_of(values: object, body: str, what: str) -> Bounds:
    """Start and end of a span or sentence. Raises BadFile where they do not lie in the body."""
    if not isinstance(values, dict):
        raise BadFile(f"a {what} is an object with “start” and “end”.")
    start, end = values.get("start"), values.get("end")
    if type(start) is not int or type(end) is not int:
        raise BadFile(f"a {what}'s “start” and “end” are whole numbers.")
    if not 0 <= start < end <= len(body):
        raise BadFile(
            f"the {what} {start}–{end} does not lie within the {len(body)} code points of its text."
        )
    return start, end


def checked_label(label: object) -> str:
    """A span's type as a file calls it. Raises BadFile for what is no word."""
    if not isinstance(label, str) or not label or len(label) > LONGEST_LABEL or label.split() != [label]:
        raise BadFile(f"a span's type is one word of at most {LONGEST_LABEL} characters, not {label!r}.")
    return label
