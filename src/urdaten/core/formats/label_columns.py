"""Texts of a corpus as columns: a token a line with its labels, an empty line after each sentence.

Columns are parted by tabs. The first is the token, the last ones are labels (BIO or BILOU), one column for each layer of spans
that overlap. `# text: {…}` says what the sentences below belong to, as JSON: with `body` the offsets are those of the body,
without it tokens are joined by single spaces. `# group: NAME` says the group alone. `# open` stands above a sentence that
nobody has signed, `# from: 57` above one before which words of the body are left out, with its offset.
"""

from __future__ import annotations

import json
import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from urdaten.core.formats.corpus import Bounds, CorpusSentence, CorpusText, blocks, head_of, placed, with_head
from urdaten.core.formats.labels import labels_of, layers_of, spans_of
from urdaten.core.formats.samples import read_json
from urdaten.core.spans import CodingKind
from urdaten.errors import BadFile, BadSpan

_TEXT, _GROUP, _OPEN = "# text:", "# group:", "# open"
_FROM = re.compile(r"# from: (\d{1,9})")


def write_label_columns(
    texts: Iterable[CorpusText], kind: CodingKind = "BIO", *, layers: int = 1, bare: bool = False
) -> Iterator[str]:
    """Lines of analysed texts, with as many columns of labels as there are layers.

    Sentences that are not signed are left out where the file is to be bare, of tokens and labels alone. Raises BadSpan where
    spans of a text need more layers.
    """
    for text in texts:
        found = layers_of(text.spans)
        if len(found) > layers:
            raise BadSpan(
                f"Spans overlap in {text.title or 'a text'}: they need {len(found)} columns of labels.",
                start=found[layers][0].start,
                end=found[layers][0].end,
            )
        columns = [labels_of(spans, text.tokens, kind) for spans in found]
        columns += [["O"] * len(text.tokens)] * (layers - len(found))
        if not bare:
            yield f"{_TEXT} {json.dumps(head_of(text) | {'body': text.body}, ensure_ascii=False)}\n"
        for sentence, numbers, is_apart in blocks(text):
            if not sentence.signed:
                if bare:
                    continue
                yield f"{_OPEN}\n"
            if is_apart and not bare:
                yield f"# from: {sentence.start}\n"
            for i in numbers:
                start, end = text.tokens[i]
                yield "\t".join([text.body[start:end], *(column[i] for column in columns)]) + "\n"
            yield "\n"


@dataclass
class _Block:
    """A sentence as its lines are read."""

    line: int = 0
    words: list[str] = field(default_factory=list)
    labels: list[list[str]] = field(default_factory=list)
    signed: bool = True
    # Where it begins in its body, where words before it are left out.
    begins: int | None = None


@dataclass
class _Open:
    """A text whose sentences are being read."""

    line: int
    head: dict[str, Any]
    blocks: list[_Block] = field(default_factory=list)


def read_label_columns(lines: Iterable[str], columns: Sequence[int] | None = None) -> Iterator[CorpusText]:
    """The texts of a file: those it names with their bodies, otherwise one a sentence.

    columns: which columns hold labels, counted from 0; the last one unless said. Raises BadFile with the line.
    """
    text: _Open | None = None
    group = ""
    block = _Block()
    number = 0
    for number, line in enumerate(lines, start=1):
        if line.startswith(_TEXT):
            yield from _closed(text, block, group)
            text, block = _Open(number, _head(line, number)), _Block()
        elif line.startswith(_GROUP):
            yield from _closed(text, block, group)
            text, block, group = None, _Block(), line[len(_GROUP) :].strip()
        elif line.rstrip("\r\n") == _OPEN and not block.words:
            block.signed = False
        elif (found := _FROM.fullmatch(line.rstrip("\r\n"))) and not block.words:
            block.begins = int(found[1])
        elif not line.strip():
            if text and block.words:
                text.blocks.append(block)
            elif block.words:
                yield _alone(block, group)
            block = _Block()
        else:
            _add(block, line, number, columns)
    yield from _closed(text, block, group)


def _head(line: str, number: int) -> dict[str, Any]:
    try:
        head = read_json(line[len(_TEXT) :])
        if not isinstance(head, dict) or not isinstance(head.get("body"), str):
            raise BadFile("an object with “body” is wanted after “# text:”.")
    except BadFile as fault:
        raise BadFile(f"Line {number}: {fault.message}", line=number) from fault
    return head


def _add(block: _Block, line: str, number: int, columns: Sequence[int] | None) -> None:
    cells = line.rstrip("\r\n").split("\t")
    if len(cells) == 1:
        cells = line.split()
    wanted = columns or [len(cells) - 1]
    if len(cells) <= max(1, *wanted) or min(wanted) < 1:
        raise BadFile(
            f"Line {number}: a token and its labels are wanted, parted by tabs; there are {len(cells)} columns.",
            line=number,
        )
    block.line = block.line or number
    block.words.append(cells[0])
    block.labels.append([cells[i] for i in wanted])


def _closed(text: _Open | None, block: _Block, group: str) -> Iterator[CorpusText]:
    if text:
        if block.words:
            text.blocks.append(block)
        yield _whole(text)
    elif block.words:
        yield _alone(block, group)


def _alone(block: _Block, group: str) -> CorpusText:
    body = " ".join(block.words)
    text = CorpusText(body=body, group=group, sentences=(CorpusSentence(0, len(body), block.signed),))
    return _labelled(text, [block])


def _whole(text: _Open) -> CorpusText:
    try:
        made = with_head(CorpusText(body=text.head["body"]), text.head)
    except BadFile as fault:
        raise BadFile(f"Line {text.line}: {fault.message}", line=text.line) from fault
    return _labelled(made, text.blocks)


def _labelled(text: CorpusText, read: Sequence[_Block]) -> CorpusText:
    tokens: list[Bounds] = []
    sentences: list[CorpusSentence] = []
    at = 0
    for block in read:
        try:
            here = list(placed(block.words, text.body, max(at, block.begins or 0)))
        except BadFile as fault:
            raise BadFile(f"Line {block.line}: {fault.message}", line=block.line) from fault
        at = here[-1][1]
        tokens += here
        sentences.append(CorpusSentence(here[0][0], at, block.signed))
    rows = [labels for block in read for labels in block.labels]
    width = {len(row) for row in rows}
    first = read[0].line if read else 0
    try:
        if len(width) > 1:
            raise BadFile("sentences of one text have different numbers of columns.")
        spans = sorted({span for column in zip(*rows, strict=True) for span in spans_of(column, tokens)})
    except BadFile as fault:
        raise BadFile(f"Line {first} and below: {fault.message}", line=first) from fault
    return replace(text, tokens=tuple(tokens), sentences=tuple(sentences), spans=tuple(spans))
