"""Texts with their spans as JSON Lines, for the command line: one object a line.

`{"text": …, "spans": [{"start": …, "end": …, "type": …}]}` with, where wanted, `id`, `group` (texts that
belong together) and `meta`. Offsets are code points, half-open. Without `spans` there are none.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import regex

from urdaten.core.spans import TYPE_CODE, Span, overlapping_pairs
from urdaten.errors import BadFile

_TYPE = regex.compile(TYPE_CODE)
_HALF = regex.compile(r"[\ud800-\udfff]")


@dataclass(frozen=True, kw_only=True)
class Sample:
    """A text with its spans, in order and without overlaps."""

    text: str
    spans: tuple[Span, ...] = ()
    id: str = ""
    group: str = ""
    meta: Mapping[str, Any] = field(default_factory=dict)


def read_samples(lines: Iterable[str], *, keep_good: bool = False) -> tuple[list[Sample], list[str]]:
    """The samples of a file, and what is wrong with bad lines, by number.

    Empty lines count and are passed over. Raises BadFile for the first bad line, unless good ones are
    to be kept all the same.
    """
    problems: list[str] = []
    return list(stream_samples(lines, problems.append if keep_good else None)), problems


def stream_samples(lines: Iterable[str], tell: Callable[[str], None] | None = None) -> Iterator[Sample]:
    """As read_samples, one after another; `tell` is told what is wrong with a bad line, which is passed over then."""
    for number, line in enumerate(lines, start=1):
        if not line.strip():
            continue
        try:
            sample = _sample(line)
        except BadFile as fault:
            problem = f"Line {number}: {fault.message}"
            if tell is None:
                raise BadFile(problem, line=number) from fault
            tell(problem)
        else:
            yield sample


def write_samples(samples: Iterable[Sample], found: Iterable[Sequence[Span]]) -> Iterator[str]:
    """Lines of samples with the spans that were found in them, each with its probability."""
    for sample, spans in zip(samples, found, strict=True):
        row: dict[str, Any] = {"text": sample.text}
        row |= {name: value for name in ("id", "group", "meta") if (value := getattr(sample, name))}
        row["spans"] = [
            {"start": s.start, "end": s.end, "type": s.type, "probability": s.probability} for s in spans
        ]
        yield json.dumps(row, ensure_ascii=False) + "\n"


def read_json(line: str) -> Any:
    """One line's value. Raises BadFile, also for what JSON has no word for and for what is no text."""
    try:
        value = json.loads(line, parse_constant=_no_number)
    except json.JSONDecodeError as fault:
        raise BadFile(f"not JSON: {fault.msg} at character {fault.pos + 1}.") from fault
    except RecursionError as fault:
        raise BadFile("values stand too deep within each other.") from fault
    except ValueError as fault:
        raise BadFile("a number in it is too large.") from fault
    # Half of a pair can be written as an escape alone; it is no character and can be kept nowhere.
    if "\\u" in line and _HALF.search(json.dumps(value, ensure_ascii=False)):
        raise BadFile("it holds half of a pair of surrogates, which is no character.")
    return value


def _no_number(name: str) -> None:
    raise BadFile(f"{name} is no JSON; leave it out or write null.")


def _sample(line: str) -> Sample:
    row = read_json(line)
    if not isinstance(row, dict):
        raise BadFile("an object with “text” is wanted.")
    text = row.get("text")
    if not isinstance(text, str):
        raise BadFile("“text” is missing or no string.")
    marked = row.get("spans") or []
    if not isinstance(marked, list):
        raise BadFile("“spans” is no list.")
    spans = sorted(_span(values, text) for values in marked)
    crossing = overlapping_pairs(spans)
    if crossing:
        one, other = crossing[0]
        raise BadFile(
            f"the spans {one.start}–{one.end} {one.type} and {other.start}–{other.end} {other.type} overlap."
        )
    meta = row.get("meta") or {}
    if not isinstance(meta, dict):
        raise BadFile("“meta” is no object.")
    names = {name: str(row[name]) for name in ("id", "group") if row.get(name) is not None}
    return Sample(text=text, spans=tuple(spans), meta=meta, **names)


def _span(values: object, text: str) -> Span:
    if not isinstance(values, dict):
        raise BadFile("a span is an object with “start”, “end” and “type”.")
    start, end, type_ = values.get("start"), values.get("end"), values.get("type")
    if type(start) is not int or type(end) is not int:
        raise BadFile("a span's “start” and “end” are whole numbers.")
    if not isinstance(type_, str) or not _TYPE.fullmatch(type_):
        raise BadFile(f"a span's “type” is a code in capitals such as VES, not {type_!r}.")
    if not 0 <= start < end <= len(text):
        raise BadFile(
            f"the span {start}–{end} {type_} does not lie within the {len(text)} code points of its text."
        )
    return Span(start, end, type_)
