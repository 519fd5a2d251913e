"""Spans as columns against counting them one by one."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from math import log, sqrt

import pytest
from hypothesis import given
from hypothesis import strategies as st

from urdaten.core.findings import (
    Found,
    FoundSpan,
    found_of,
    log_odds,
    over_bins,
    stand_together,
    value_counts,
)

# Text, sentence within it, type, words.
SPANS = st.lists(
    st.tuples(
        st.integers(1, 4),
        st.integers(0, 2),
        st.sampled_from(["VES", "PRT"]),
        st.sampled_from(["Pellin", "PELLIN", "Amber  Quay", "Amber Quay", "Lindmoor", "Ström", "STRÖM"]),
    ),
    max_size=25,
)


def found_in(rows: Iterable[tuple[int, int, str, str]]) -> Found:
    return found_of(
        FoundSpan(text=text, sentence=sentence, type=code, start=k, end=k + 1, words=words, maker=f"m{k % 2}")
        for k, (text, sentence, code, words) in enumerate(rows)
    )


def rows_of(spans: list[tuple[int, int, str, str]]) -> list[tuple[int, int, str, str]]:
    return [(text, 10 * text + sentence, code, words) for text, sentence, code, words in spans]


def name(words: str) -> str:
    return " ".join(words.casefold().split())


@given(SPANS)
def test_values_are_counted_however_they_are_written(spans: list[tuple[int, int, str, str]]) -> None:
    rows = rows_of(spans)
    found = found_in(rows)
    assert len(found) == len(rows)
    for code in ("VES", "PRT", "DAT"):
        told = value_counts(found.of(code))
        mine = [(text, sentence, name(words), words) for text, sentence, kind, words in rows if kind == code]
        assert {name(one.value): one.spans for one in told} == Counter(value for *_, value, _ in mine)
        for one in told:
            value = name(one.value)
            assert one.sentences == len({s for _, s, v, _ in mine if v == value})
            assert one.texts == len({t for t, _, v, _ in mine if v == value})
            assert len(found.of(code, one.value.upper())) == one.spans
        assert [one.spans for one in told] == sorted((one.spans for one in told), reverse=True)


def test_a_value_goes_by_how_it_is_written_most_often() -> None:
    words = ["PELLIN", "Pellin", "Pellin", "amber\nquay"]
    told = value_counts(found_in((1, k, "VES", form) for k, form in enumerate(words)).of("VES"))
    assert [(one.value, one.spans) for one in told] == [("Pellin", 3), ("amber quay", 1)]


@given(SPANS, st.sampled_from(["sentence", "text"]), st.sampled_from([("VES", "PRT"), ("VES", "VES")]))
def test_values_that_stand_together(
    spans: list[tuple[int, int, str, str]], scope: str, pair: tuple[str, str]
) -> None:
    rows = rows_of(spans)
    place = {"sentence": 1, "text": 0}[scope]
    one, other = pair
    counted: Counter[tuple[str, str]] = Counter()
    for where in {row[place] for row in rows}:
        here = [row for row in rows if row[place] == where]
        ones = {name(row[3]) for row in here if row[2] == one}
        others = {name(row[3]) for row in here if row[2] == other}
        counted.update((a, b) for a in ones for b in others if one != other or a != b)
    told = stand_together(found_in(rows), one, other, scope, 99)  # type: ignore[arg-type]
    seen = {
        (name(row), name(column)): count
        for row, counts in zip(told.rows, told.counts, strict=True)
        for column, count in zip(told.columns, counts, strict=True)
        if count
    }
    assert seen == dict(counted)
    few = stand_together(found_in(rows), one, other, scope, 1)  # type: ignore[arg-type]
    assert few.rows == told.rows[:1]
    assert len(few.counts) == len(few.rows)


def test_spans_fall_into_the_bins_of_their_texts() -> None:
    found = found_in([(1, 1, "VES", "a"), (1, 2, "VES", "a"), (2, 3, "VES", "b"), (3, 4, "PRT", "a")])
    assert over_bins(found.of("VES"), {1: 0, 2: 2, 3: 1}, 3) == [2, 0, 1]
    assert over_bins(found, {3: 1}, 2) == [0, 1]


def test_what_is_typical_of_a_part_by_hand() -> None:
    one, other = {"tug": 30, "salt": 5}, {"tug": 2, "salt": 40, "buoy": 1}
    prior = {"tug": 32, "salt": 45, "buoy": 1, "else": 22}
    told = {d.name: d for d in log_odds(one, other, prior)}
    weight = 10 * 32 / 100
    by_hand = log((30 + weight) / (35 + 10 - 30 - weight)) - log((2 + weight) / (43 + 10 - 2 - weight))
    by_hand /= sqrt(1 / (30 + weight) + 1 / (2 + weight))
    assert told["tug"].z == pytest.approx(by_hand)
    assert (told["tug"].one, told["tug"].other) == (30, 2)
    assert told["tug"].z > 0 > told["buoy"].z > told["salt"].z
    assert [d.name for d in log_odds(one, other, prior)] == ["tug", "buoy", "salt"]


@given(
    st.dictionaries(st.sampled_from("abc"), st.integers(1, 9)),
    st.dictionaries(st.sampled_from("abc"), st.integers(1, 9)),
)
def test_a_comparison_turned_round_is_its_negative(one: dict[str, int], other: dict[str, int]) -> None:
    prior = dict(Counter(one) + Counter(other))
    there = {d.name: d.z for d in log_odds(one, other, prior)}
    back = {d.name: d.z for d in log_odds(other, one, prior)}
    assert back == {n: pytest.approx(-z) for n, z in there.items()}
    assert all(abs(z) < 1e-9 for z in (d.z for d in log_odds(one, one, one)))


@given(SPANS, st.integers(1, 4), st.sampled_from(["sentence", "text"]))
def test_spans_are_narrowed(spans: list[tuple[int, int, str, str]], text: int, scope: str) -> None:
    rows = rows_of(spans)
    found = found_in(rows)
    assert found.within([text]).sentences() == sorted({s for t, s, *_ in rows if t == text})
    assert found.texts() == sorted({t for t, *_ in rows})
    assert [span.start for span in found.by("m1").spans()] == sorted(
        (k for k in range(1, len(rows), 2)), key=lambda k: (rows[k][0], k)
    )
    place = {"sentence": 1, "text": 0}[scope]
    there = {row[place] for row in rows if row[2] == "PRT"}
    beside = found.of("VES").beside(found.of("PRT"), scope)  # type: ignore[arg-type]
    assert len(beside) == sum(row[2] == "VES" and row[place] in there for row in rows)
    assert len(found.inside([10 * text])) == sum(row[1] == 10 * text for row in rows)
    assert len(found.spans(2)) == min(2, len(rows))
