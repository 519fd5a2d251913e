"""The demo files keep their limits, and the measures notice when they do not."""

from __future__ import annotations

import json
from dataclasses import replace
from itertools import pairwise
from pathlib import Path

import pytest

from urdaten.core.spans import Span
from urdaten.core.text import analyse
from urdaten.demo import annotators
from urdaten.demo.files import FOLDER, Demo, DemoType, read_demo
from urdaten.demo.gold_records import GoldRecord, read_gold_records
from urdaten.demo.measures import Difficulty, Report, measure
from urdaten.demo.measures.difficulty import SHARES, how_hard
from urdaten.demo.measures.records import record_faults
from urdaten.demo.measures.repetition import common_openings, near_duplicates
from urdaten.demo.measures.surfaces import ambiguous_share, unseen_share
from urdaten.demo.stream import generate
from urdaten.errors import BadFile, BadInput


def test_the_demo_keeps_its_limits(demo: Demo) -> None:
    assert measure(demo).faults == []


def test_splits_go_by_week(demo: Demo) -> None:
    by_week: dict[str, set[tuple[str, bool]]] = {}
    for bulletin in demo.bulletins:
        by_week.setdefault(bulletin.group, set()).add((bulletin.split, bulletin.signed))
    assert len(by_week) == 16
    assert {len(kinds) for kinds in by_week.values()} == {1}
    assert {split for kinds in by_week.values() for split, _ in kinds} == {"train", "dev", "test", "none"}


def test_bulletins_stand_in_the_order_of_their_dates(demo: Demo) -> None:
    assert len({b.title for b in demo.bulletins}) == len(demo.bulletins)
    for earlier, later in pairwise(demo.bulletins):
        assert earlier.dated <= later.dated, later.title


def test_every_gold_span_lies_on_tokens(demo: Demo) -> None:
    for bulletin in demo.bulletins:
        analysis = analyse(bulletin.body)
        for span in bulletin.gold:
            assert analysis.widen(span.start, span.end) == (span.start, span.end), bulletin.title


def test_every_type_has_examples_both_ways_and_rulings(demo: Demo) -> None:
    def sides(t: DemoType) -> list[int]:
        return [len(t.counts), len(t.counts_not), len(set(t.counts) & set(t.counts_not))]

    assert all(sides(t)[0] >= 8 and sides(t)[1] >= 8 and sides(t)[2] == 0 for t in demo.types)
    assert all(len(t.rulings) >= 3 for t in demo.types)


def test_a_small_part_of_the_corpus_teaches_less_than_all_of_it(
    demo: Demo, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("urdaten.demo.measures.difficulty.SEEDS", (1,))
    found = how_hard(demo, shares=(SHARES[0], SHARES[-1]))
    assert 0.65 < found.overall < 0.92
    assert min(found.types.values()) < 0.60
    assert found.curve[0.25] < found.curve[1.0]


@pytest.mark.parametrize(
    ("found", "words"),
    [
        (Difficulty(0.95, {"VES": 0.5}, {0.5: 0.8, 1.0: 0.95}), "at most 0.92"),
        (Difficulty(0.5, {"VES": 0.5}, {0.5: 0.4, 1.0: 0.5}), "at least 0.65"),
        (Difficulty(0.8, {"VES": 0.7, "INC": 0.65}, {0.5: 0.7, 1.0: 0.8}), "hardest type"),
        (Difficulty(0.8, {"VES": 0.5}, {0.5: 0.8, 1.0: 0.8}), "does not rise any more"),
        (Difficulty(0.8, {"VES": 0.5}, {0.5: 0.7, 0.75: 0.81, 1.0: 0.8}), "does not rise any more"),
    ],
)
def test_a_corpus_of_the_wrong_difficulty_is_noticed(found: Difficulty, words: str) -> None:
    report = Report()
    found.judge(report.hold, report.faults)
    assert len(report.faults) == 1
    assert words in report.faults[0]


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
    first, other = demo.bulletins[0], next(b for b in demo.bulletins if b.split == "test")
    broken = replace(first, gold=(Span(1, 3, "VES"), Span(0, 4, "XYZ"), Span(0, len(first.body), "VES")))
    copied = replace(other, body=first.body, gold=())
    text = "\n".join(measure(replace(demo, bulletins=(broken, copied), lists=())).faults)
    for words in (
        "token bounds",
        "unknown type XYZ",
        "end of a sentence",
        "stands there 2 times",
        "(train) and 38/1 (test) have nearly the same sentence",
        "sentences, all signed: ",
        "gold spans, INC: 0, and at least 150 is wanted",
        "bulletins, unsigned: 0, and at least 40",
        "list entries, vessels: 0, and at least 220",
    ):
        assert words in text


def test_near_duplicates_share_most_of_their_shingles() -> None:
    sentences = [
        "Pellin cleared North Mole 2 for Varnby at noon",
        "At noon a gull came",
        "Pellin cleared North Mole 2 for Varnby at dawn!",
        "Pellin lies at North Mole 2 for Varnby",
        "To: harbour office",
        "To: harbour office",
    ]
    assert near_duplicates(sentences) == [(0, 2)]


def test_openings_are_common_when_more_than_one_in_a_hundred_has_them() -> None:
    sentences = [f"word{i} comes on its own" for i in range(198)]
    assert common_openings([*sentences, "Nothing more to report.", "Nothing more to report: fog"]) == []
    assert common_openings([*sentences, *["Nothing more to report."] * 3]) == [("nothing more to report", 3)]


def test_surface_shares() -> None:
    assert unseen_share(["a", "b", "a", "c"], {"a"}) == 0.5
    assert ambiguous_share([("a", "VES"), ("a", "PRT"), ("b", "VES"), ("b", "VES")]) == 0.5


def record(text: str, template: str = "Port call", **values: str) -> GoldRecord:
    return GoldRecord(text=text, template=template, values=values)


@pytest.mark.parametrize(
    ("extra", "words"),
    [
        (record("41/1", vessel="Pellin"), "41/1 is no bulletin of the weeks"),
        (record("36/10", vessel="Haldis"), "no VES span gives vessel “Haldis”"),
        (record("36/10", vessel="Ripe Ear", weight="much"), "“much” is no figure"),
        (record("36/10", "Incident", what="fire"), "36/10: incidents {'fire': 1}, marked {}"),
    ],
)
def test_records_that_no_span_can_have_given_are_noticed(demo: Demo, extra: GoldRecord, words: str) -> None:
    gold = read_gold_records()
    assert record_faults(demo, gold) == []
    assert any(words in fault for fault in record_faults(demo, [*gold, extra]))


def test_a_moment_that_is_none_is_named_with_its_line(tmp_path: Path) -> None:
    (tmp_path / "records").mkdir()
    calls = tmp_path / "records" / "port-calls.csv"
    calls.write_text("text,vessel,arrives\n36/1,Pellin,2026-09-07T10:00\n36/2,Pellin,Monday\n")
    with pytest.raises(BadFile, match="line 3: “Monday” is no date"):
        read_gold_records(tmp_path)


def test_the_annotators_files_are_what_the_script_makes(demo: Demo) -> None:
    for who in annotators.ANNOTATORS:
        assert annotators.file_of(who).read_text() == annotators.written(demo, who), who.name


def test_each_annotator_has_a_habit_of_their_own(demo: Demo) -> None:
    gold = {b.title: b for b in annotators.chosen(demo)}
    assert len(gold) == 40
    words: dict[str, set[str]] = {}
    for who in annotators.ANNOTATORS:
        marked = annotators.read_annotator(who)
        words[who.name] = {gold[t].body[s.start : s.end] for t, spans in marked.items() for s in spans}
    assert "the Harbour Trust" in words["jo"] - words["wim"] - words["sol"]
    assert "Sill Wharf" in words["wim"] - words["jo"] - words["sol"]
    assert "harbour office" in words["sol"] - words["jo"] - words["wim"]


def test_agreement_varies_by_person_and_by_type(demo: Demo) -> None:
    figures = measure(demo).figures
    of = {name: float(str(value)) for name, value in figures.items() if name.startswith("annotators, ")}
    people = [value for name, value in of.items() if name.endswith("with gold")]
    types = [value for name, value in of.items() if "mean F1" in name]
    assert len(people) == 3
    assert max(people) - min(people) > 0.02
    assert max(types) - min(types) > 0.2


def test_the_stream_is_seeded_marked_and_of_any_length(demo: Demo) -> None:
    lines = list(generate(demo, 30, seed=3))
    assert lines == list(generate(demo, 30, seed=3))
    assert lines[:10] == list(generate(demo, 10, seed=3))
    assert lines != list(generate(demo, 30, seed=4))
    rows = [json.loads(line) for line in lines]
    assert all(row["meta"]["generated"] and row["group"] == "generated" and row["text"] for row in rows)
    assert len({row["id"] for row in rows}) == 30
    assert "{" not in "".join(row["text"] for row in rows)
    with pytest.raises(BadInput, match="1 to 1000000 bulletins, not 0"):
        next(generate(demo, 0, seed=3))
