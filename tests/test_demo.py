"""The demo files keep their own rules."""

from __future__ import annotations

from pathlib import Path

import pytest

from urdaten.core.text import analyse
from urdaten.demo.files import FOLDER, Demo, read_demo
from urdaten.demo.measures import measure
from urdaten.errors import BadFile


def test_the_demo_holds_what_it_promises(demo: Demo) -> None:
    figures, faults = measure(demo)
    assert faults == []
    assert figures["bulletins"] == 60
    assert (len(demo.types), len(demo.lists), len(demo.rules), len(demo.templates)) == (10, 3, 5, 2)
    assert figures["bulletins, unsigned"] == 8


def test_splits_go_by_week(demo: Demo) -> None:
    by_week: dict[str, set[str]] = {}
    for bulletin in demo.bulletins:
        by_week.setdefault(bulletin.group, set()).add(bulletin.split)
    assert {week: len(splits) for week, splits in by_week.items()} == dict.fromkeys(by_week, 1)
    assert {next(iter(s)) for s in by_week.values()} == {"train", "dev", "test"}


def test_dates_follow_the_order(demo: Demo) -> None:
    dates = [b.dated for b in demo.bulletins if b.group != "week-27"]
    assert len({b.title for b in demo.bulletins}) == 60
    assert min(dates) > max(b.dated for b in demo.bulletins if b.group == "week-27")


def test_every_gold_span_lies_on_tokens(demo: Demo) -> None:
    for bulletin in demo.bulletins:
        analysis = analyse(bulletin.body)
        for span in bulletin.gold:
            assert analysis.widen(span.start, span.end) == (span.start, span.end), bulletin.title


@pytest.mark.parametrize(
    ("source", "words"),
    [
        ("no head\n", "line 1: a bulletin begins with"),
        ("=== 1/1 | 2026-07-06 | x\nfine\n\n=== 1/2 | 2026-07-06 | x\nbad [VES\n", "line 5"),
    ],
)
def test_a_broken_file_is_named_with_its_line(tmp_path: Path, source: str, words: str) -> None:
    for name in ("project.toml", "types.toml", "rules.toml", "records.toml"):
        (tmp_path / name).write_text((FOLDER / name).read_text())
    (tmp_path / "bulletins").mkdir()
    (tmp_path / "bulletins" / "week-01.txt").write_text(source)
    with pytest.raises(BadFile, match=words):
        read_demo(tmp_path)


def test_measures_notice_what_is_wrong(demo: Demo) -> None:
    from dataclasses import replace

    from urdaten.core.spans import Span

    first = demo.bulletins[0]
    broken = replace(first, gold=(Span(1, 3, "VES"), Span(0, 4, "XYZ"), Span(0, len(first.body), "VES")))
    _, faults = measure(replace(demo, bulletins=(broken, first)))
    text = "\n".join(faults)
    for words in (
        "token bounds",
        "unknown type XYZ",
        "end of a sentence",
        "stands there 2 times",
        "no gold span",
    ):
        assert words in text
