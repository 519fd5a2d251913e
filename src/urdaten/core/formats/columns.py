"""Texts with their spans as BIO columns: a token a line, its label last, an empty line after each sentence.

Columns are parted by tabs or spaces; what stands between token and label is passed over. A label is O,
B-TYPE where a span begins, or I-TYPE where it goes on. "# group: NAME" says which text the sentences below
belong to.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence

import regex

from urdaten.core.formats.samples import Sample
from urdaten.core.spans import TYPE_CODE, Span, without_overlaps
from urdaten.core.text import analyse_many
from urdaten.errors import BadFile, BadSpan

_LABEL = regex.compile(rf"O|([BI])-({TYPE_CODE})")
_GROUP = "# group:"
Row = tuple[int, str, str]


def read_columns(lines: Iterable[str], *, keep_good: bool = False) -> tuple[list[Sample], list[str]]:
    """One sample a sentence, its tokens joined by single spaces, and what is wrong with bad sentences.

    An I- that does not continue a span of its type begins one. Raises BadFile for the first bad line,
    unless the good sentences are to be kept all the same.
    """
    samples: list[Sample] = []
    problems: list[str] = []
    group = ""
    rows: list[Row] = []
    fault = ""
    # The line that the fault is in.
    faulty = 0

    def close() -> None:
        nonlocal rows, fault
        if fault:
            if not keep_good:
                raise BadFile(fault, line=faulty)
            problems.append(fault)
        elif rows:
            samples.append(_sample(rows, group))
        rows, fault = [], ""

    for number, line in enumerate(lines, start=1):
        if not line.strip():
            close()
        elif line.startswith(_GROUP):
            close()
            group = line[len(_GROUP) :].strip()
        elif not fault:
            parts = line.split()
            if len(parts) < 2:
                faulty = number
                fault = f"Line {number}: a token and its label are wanted, parted by a tab or a space."
            elif not _LABEL.fullmatch(parts[-1]):
                faulty = number
                fault = f"Line {number}: a label is O, B-TYPE or I-TYPE with a code in capitals, not {parts[-1]!r}."
            else:
                rows.append((number, parts[0], parts[-1]))
    close()
    return samples, problems


def _sample(rows: Sequence[Row], group: str) -> Sample:
    spans: list[Span] = []
    at = 0
    open_type = ""
    for _, token, label in rows:
        if label == "O":
            open_type = ""
        elif label[0] == "I" and label[2:] == open_type:
            spans[-1] = Span(spans[-1].start, at + len(token), open_type)
        else:
            open_type = label[2:]
            spans.append(Span(at, at + len(token), open_type))
        at += len(token) + 1
    return Sample(text=" ".join(token for _, token, _ in rows), spans=tuple(spans), group=group)


def write_columns(
    samples: Sequence[Sample], found: Iterable[Sequence[Span]], group: str = ""
) -> Iterator[str]:
    """Lines of the samples, cut into sentences and tokens, with the spans that were found in them. `group` is that of what
    stands before them.

    Of spans that overlap, columns can hold the longest alone. Raises BadSpan for a span that begins or ends within a token.
    """
    analyses = analyse_many([sample.text for sample in samples])
    for sample, analysis, spans in zip(samples, analyses, found, strict=True):
        if sample.group != group:
            group = sample.group
            yield f"{_GROUP} {group}\n"
        labels = ["O"] * len(analysis)
        for span in without_overlaps(spans):
            first, last = analysis.token_range(span.start, span.end)
            if first == last or (analysis.start[first], analysis.end[last - 1]) != (span.start, span.end):
                raise BadSpan(
                    f"Columns have no place for the {span.type} “{sample.text[span.start : span.end]}”, which begins or ends "
                    "within a token; write JSON Lines instead.",
                    start=span.start,
                    end=span.end,
                )
            labels[first:last] = [f"B-{span.type}", *[f"I-{span.type}"] * (last - first - 1)]
        columns = (analysis.start.tolist(), analysis.end.tolist(), analysis.sentence.tolist(), labels)
        before = 0
        for start, end, sentence, label in zip(*columns, strict=True):
            if sentence != before:
                yield "\n"
            before = sentence
            yield f"{sample.text[start:end]}\t{label}\n"
        yield "\n"
