"""Marked text and flat tables."""

from __future__ import annotations

import csv
import io
import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from urdaten.core.formats import read_bounds, read_marked, write_csv, write_json_lines, write_marked
from urdaten.core.spans import Span
from urdaten.errors import BadFile


def test_reading_marks() -> None:
    body, spans = read_marked("[VES Corrie [PRT Lindmoor]] is in \\[sic\\]")
    assert body == "Corrie Lindmoor is in [sic]"
    assert spans == [Span(0, 15, "VES"), Span(7, 15, "PRT")]


@pytest.mark.parametrize(
    ("source", "words", "line"),
    [
        ("a\n[ves x]", "type code", 2),
        ("one ] two", "closes nothing", 1),
        ("\n\n[VES ] x", "empty", 3),
        ("a [VES b\nc", "never closed", 1),
    ],
)
def test_a_fault_is_named_with_its_line(source: str, words: str, line: int) -> None:
    with pytest.raises(BadFile, match=words) as fault:
        read_marked(source)
    assert fault.value.detail["line"] == line


@st.composite
def nested(draw: st.DrawFn) -> tuple[str, list[Span]]:
    body = draw(st.text(alphabet="ab []\\\nÄ🚢", min_size=1, max_size=30))
    spans: set[Span] = set()
    for _ in range(draw(st.integers(0, 4))):
        start = draw(st.integers(0, len(body) - 1))
        end = draw(st.integers(start + 1, len(body)))
        span = Span(start, end, draw(st.sampled_from(["VES", "PRT"])))
        crossing = any(s.start < start < s.end < end or start < s.start < end < s.end for s in spans)
        if not crossing and not any((s.start, s.end) == (start, end) for s in spans):
            spans.add(span)
    return body, sorted(spans)


@given(nested())
def test_writing_and_reading_marks(text: tuple[str, list[Span]]) -> None:
    body, spans = text
    assert read_marked(write_marked(body, spans)) == (body, spans)


def test_csv_is_read_back_and_carries_no_formula() -> None:
    rows = [["27/1", 'say "hi", twice'], ["a\nb", "=1+1"], ["-", "@x"]]
    written = "".join(write_csv(["text", "value"], rows))
    assert written.startswith("text,value\r\n")
    assert list(csv.reader(io.StringIO(written)))[1:] == [
        ["27/1", 'say "hi", twice'],
        ["a\nb", "'=1+1"],
        ["'-", "'@x"],
    ]


def test_json_lines() -> None:
    lines = list(write_json_lines([{"a": "ü"}, {"a": "x\ny"}]))
    assert [json.loads(line) for line in lines] == [{"a": "ü"}, {"a": "x\ny"}]
    assert all(line.count("\n") == 1 for line in lines)


def test_checked_bounds_are_read_into_a_body_and_its_bounds() -> None:
    source = "# a remark\n0015 wind ~. ⏎ ⏎\nIt goes on ↩\nand on ~( ~! ~)\n\n“ ~Yes ~” ⏎\n"
    first, second = read_bounds(source)
    assert first.body == "0015 wind.\n\nIt goes on\nand on(!)"
    assert [first.body[a:b] for a, b in first.tokens] == "0015 wind . It goes on and on ( ! )".split()
    assert [first.body[a:b] for a, b in first.sentences] == ["0015 wind.", "It goes on\nand on(!)"]
    assert second.body == "“Yes”"


@pytest.mark.parametrize("source", ["~. begins", "a\n\nIn ⏎\n~, on", "a ~ b"])
def test_a_joint_without_two_sides_is_refused_with_its_line(source: str) -> None:
    with pytest.raises(BadFile, match=r"Line [14]: nothing stands before or after"):
        read_bounds(source)
