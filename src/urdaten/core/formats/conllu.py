"""CoNLL-U (version 2): words with their tags; spans as BIO labels in the last column, one `Span`, `Span2`, … for each layer.

`# newdoc id = …` begins a text. `# whole = {…}` says what is known of it, as JSON: with `body` the offsets are those of the
body, without it words are joined as `SpaceAfter=No` has it and sentences by a space, paragraphs by a line break. Without any
`# newdoc` each sentence is a text. `# signed = no` stands above a sentence that nobody has signed, `# from = 57` above one
before which words of the body are left out, with its offset.
"""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import regex

from urdaten.core.formats.corpus import (
    Bounds,
    CorpusSentence,
    CorpusText,
    blocks,
    head_of,
    placed,
    with_head,
)
from urdaten.core.formats.labels import OUTSIDE, labels_of, layers_of, spans_of
from urdaten.core.formats.samples import read_json
from urdaten.errors import BadFile

_COLUMNS = 10
_FORM, _TAG, _MISC = 1, 3, 9
_WORD = regex.compile(r"[1-9]\d{0,8}")
_RANGE = regex.compile(r"([1-9]\d{0,8})-([1-9]\d{0,8})")
_EMPTY = regex.compile(r"\d{1,9}\.[1-9]\d{0,8}")
_SPAN = regex.compile(r"Span([2-9]|[1-9]\d)?")
_OFFSET = regex.compile(r"\d{1,9}")
_NONE = "_"


def write_conllu(texts: Iterable[CorpusText]) -> Iterator[str]:
    """Lines of analysed texts."""
    for number, text in enumerate(texts, start=1):
        yield f"# newdoc id = {_one_line(text.id or text.title) or number}\n"
        yield f"# whole = {json.dumps(head_of(text) | {'body': text.body}, ensure_ascii=False)}\n"
        columns = [labels_of(spans, text.tokens, "BIO") for spans in layers_of(text.spans)]
        for at, (sentence, numbers, is_apart) in enumerate(blocks(text), start=1):
            yield f"# sent_id = {_one_line(text.id or text.title) or number}-{at}\n"
            yield f"# text = {_one_line(text.body[sentence.start : sentence.end])}\n"
            if not sentence.signed:
                yield "# signed = no\n"
            if is_apart:
                yield f"# from = {sentence.start}\n"
            for word, i in enumerate(numbers, start=1):
                start, end = text.tokens[i]
                misc = [
                    f"Span{'' if layer == 0 else layer + 1}={column[i]}"
                    for layer, column in enumerate(columns)
                    if column[i] != OUTSIDE
                ]
                if i + 1 < len(text.tokens) and text.tokens[i + 1][0] == end:
                    misc.append("SpaceAfter=No")
                row = [_NONE] * _COLUMNS
                row[0], row[_FORM], row[_MISC] = str(word), text.body[start:end], "|".join(misc) or _NONE
                if text.tags:
                    row[_TAG] = text.tags[i] or _NONE
                yield "\t".join(row) + "\n"
            yield "\n"


def _one_line(words: str) -> str:
    return " ".join(words.split())


@dataclass
class _Sentence:
    """A sentence as its lines are read."""

    line: int = 0
    words: list[str] = field(default_factory=list)
    tags: list[str] = field(default_factory=list)
    # Of each word: layer → label.
    labels: list[dict[int, str]] = field(default_factory=list)
    glued: list[bool] = field(default_factory=list)
    signed: bool = True
    paragraph: bool = False
    # Where it begins in its body, where words before it are left out.
    begins: int = 0
    # Words up to this number are part of the one before.
    inside: int = 0


@dataclass
class _Document:
    """A text as its sentences are read."""

    line: int
    id: str = ""
    head: dict[str, Any] | None = None
    sentences: list[_Sentence] = field(default_factory=list)


def read_conllu(lines: Iterable[str]) -> Iterator[CorpusText]:
    """The texts of a file, one after another. Raises BadFile with the line."""
    document: _Document | None = None
    sentence = _Sentence()
    for number, raw in enumerate(lines, start=1):
        line = raw.rstrip("\r\n")
        if line.startswith("#"):
            name, _, value = (part.strip() for part in line[1:].partition("="))
            if name.split()[:1] == ["newdoc"]:
                yield from _closed(document, sentence)
                document, sentence = _Document(number, value), _Sentence()
            elif name == "whole" and document and not document.sentences:
                document.head = _head(value, number)
            elif name.split()[:1] == ["newpar"]:
                sentence.paragraph = True
            elif name == "from" and _OFFSET.fullmatch(value):
                sentence.begins = int(value)
            elif (name, value) == ("signed", "no"):
                sentence.signed = False
        elif line.strip():
            try:
                _add(sentence, line, number)
            except BadFile as fault:
                raise BadFile(f"Line {number}: {fault.message}", line=number) from fault
        elif sentence.words:
            if document:
                document.sentences.append(sentence)
            else:
                yield _made(_Document(sentence.line, sentences=[sentence]))
            sentence = _Sentence()
    yield from _closed(document, sentence)


def _closed(document: _Document | None, sentence: _Sentence) -> Iterator[CorpusText]:
    if document:
        if sentence.words:
            document.sentences.append(sentence)
        if document.sentences or document.head:
            yield _made(document)
    elif sentence.words:
        yield _made(_Document(sentence.line, sentences=[sentence]))


def _head(value: str, number: int) -> dict[str, Any]:
    try:
        head = read_json(value)
        if not isinstance(head, dict) or not isinstance(head.get("body"), str):
            raise BadFile("an object with “body” is wanted after “# whole =”.")
    except BadFile as fault:
        raise BadFile(f"Line {number}: {fault.message}", line=number) from fault
    return head


def _add(sentence: _Sentence, line: str, number: int) -> None:
    cells = line.split("\t")
    if len(cells) != _COLUMNS:
        raise BadFile(f"a word has {_COLUMNS} columns, parted by tabs; there are {len(cells)}.")
    if _EMPTY.fullmatch(cells[0]):
        return
    span = _RANGE.fullmatch(cells[0])
    if not span and not _WORD.fullmatch(cells[0]):
        raise BadFile(f"a word's number is such as 1, 1-2 or 1.1, not {cells[0]!r}.")
    misc = dict(part.partition("=")[::2] for part in cells[_MISC].split("|")) if cells[_MISC] != _NONE else {}
    labels = {
        int(found[1] or 1) - 1: label for name, label in misc.items() if (found := _SPAN.fullmatch(name))
    }
    tag = "" if cells[_TAG] == _NONE else cells[_TAG]
    if span:
        # What is written as one and read as several words stands there once.
        sentence.inside = int(span[2])
    elif int(cells[0]) <= sentence.inside:
        sentence.labels[-1] = labels | sentence.labels[-1]
        sentence.tags[-1] = sentence.tags[-1] or tag
        return
    if not cells[_FORM].strip():
        raise BadFile("a word without letters has no place in its text.")
    sentence.line = sentence.line or number
    sentence.words.append(cells[_FORM])
    sentence.tags.append(tag)
    sentence.labels.append(labels)
    sentence.glued.append(misc.get("SpaceAfter") == "No")


def _made(document: _Document) -> CorpusText:
    head = document.head or {}
    if document.head:
        text = CorpusText(body=head["body"])
    else:
        text = CorpusText(body=_joined(document.sentences), id=document.id)
    try:
        text = with_head(text, head)
    except BadFile as fault:
        raise BadFile(f"Line {document.line + 1}: {fault.message}", line=document.line + 1) from fault
    tokens: list[Bounds] = []
    sentences: list[CorpusSentence] = []
    at = 0
    for sentence in document.sentences:
        try:
            here = list(placed(sentence.words, text.body, max(at, sentence.begins)))
        except BadFile as fault:
            raise BadFile(f"Line {sentence.line}: {fault.message}", line=sentence.line) from fault
        at = here[-1][1]
        tokens += here
        sentences.append(CorpusSentence(here[0][0], at, sentence.signed))
    labels = [row for sentence in document.sentences for row in sentence.labels]
    layers = sorted({layer for row in labels for layer in row})
    try:
        spans = {
            span for layer in layers for span in spans_of((row.get(layer, OUTSIDE) for row in labels), tokens)
        }
    except BadFile as fault:
        raise BadFile(f"Line {document.line} and below: {fault.message}", line=document.line) from fault
    tags = tuple(tag for sentence in document.sentences for tag in sentence.tags)
    return replace(
        text,
        tokens=tuple(tokens),
        sentences=tuple(sentences),
        spans=tuple(sorted(spans)),
        tags=tags if any(tags) else (),
    )


def _joined(sentences: Sequence[_Sentence]) -> str:
    pieces: list[str] = []
    for sentence in sentences:
        if pieces and sentence.paragraph:
            pieces[-1] = "\n"
        for word, glued in zip(sentence.words, sentence.glued, strict=True):
            pieces += [word, "" if glued else " "]
    return "".join(pieces).rstrip()
