"""Tokens and sentences."""

from __future__ import annotations

import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st

from urdaten.core.text import Vocabulary, analyse
from urdaten.errors import BadSpan


def tokens(body: str) -> list[str]:
    analysis = analyse(body)
    return [body[a:b] for a, b in zip(analysis.start, analysis.end, strict=True)]


def sentences(body: str) -> list[str]:
    return [body[a:b] for a, b in analyse(body).sentence_bounds()]


@pytest.mark.parametrize(
    ("body", "expected"),
    [
        ("berthed 0410 at SW-4.", ["berthed", "0410", "at", "SW-4", "."]),
        ("3,200 t, 7.2 m", ["3,200", "t", ",", "7.2", "m"]),
        ("abt 3200t by 14:30h", ["abt", "3200", "t", "by", "14:30", "h"]),
        ("J. Marsh's hat", ["J", ".", "Marsh", "'s", "hat"]),
        ("e.g. Vane & Daughters", ["e.g.", "Vane", "&", "Daughters"]),
        ("ask duty@port.example today", ["ask", "duty@port.example", "today"]),
        ("see www.port.example/tides.", ["see", "www.port.example/tides", "."]),
        ("N'gate O’Hara l'eau", ["N'gate", "O’Hara", "l'eau"]),
        ("told!! now...", ["told", "!", "!", "now", "..."]),
        ("a\u0301b 1\u20e3", ["a\u0301b", "1\u20e3"]),
        ("", []),
        (" \r\n\t", []),
    ],
)
def test_tokens(body: str, expected: list[str]) -> None:
    assert tokens(body) == expected


@given(st.text(max_size=200))
def test_every_code_point_is_in_one_token_or_one_gap(body: str) -> None:
    analysis = analyse(body)
    before = 0
    for start, end in zip(analysis.start.tolist(), analysis.end.tolist(), strict=True):
        assert before <= start < end <= len(body)
        gap = body[before:start]
        assert all(sign.isspace() or not sign.isprintable() for sign in gap), repr(gap)
        before = end
    assert all(sign.isspace() or not sign.isprintable() for sign in body[before:])


@given(st.text(alphabet="Ab1 .!?\n\r>-", max_size=120))
def test_sentences_follow_each_other_and_hold_every_token(body: str) -> None:
    analysis = analyse(body)
    bounds = analysis.sentence_bounds()
    assert all(a < b for a, b in bounds)
    assert all(left[1] <= right[0] for left, right in itertools.pairwise(bounds))
    assert sum(len(tokens(body[a:b])) for a, b in bounds) == len(analysis)


@pytest.mark.parametrize(
    ("body", "expected"),
    [
        ("No. 4 hold is dry. Work goes on.", ["No. 4 hold is dry.", "Work goes on."]),
        ("Pilot J. Marsh came. He left.", ["Pilot J. Marsh came.", "He left."]),
        ("By approx. 400 t more.", ["By approx. 400 t more."]),
        ("All fast. still raining", ["All fast. still raining"]),
        ("0015 wind SW 5\n0040 Pellin in", ["0015 wind SW 5", "0040 Pellin in"]),
        ("One para.\n\nAnother one", ["One para.", "Another one"]),
        (
            "Velda Rose | from Skelby Sound | Fish Quay 2 | 0340 | fishmeal 310 t\nHaldis | from Denhaven",
            [
                "Velda Rose | from Skelby Sound | Fish Quay 2 | 0340 | fishmeal 310 t",
                "Haldis | from Denhaven",
            ],
        ),
        ("> quoted line\nanswer", ["> quoted line", "answer"]),
        (
            "This line is so long that it can only have been wrapped by the program\nthat sent it.",
            ["This line is so long that it can only have been wrapped by the program\nthat sent it."],
        ),
        ("“Hoppers.” That was all.", ["“Hoppers.”", "That was all."]),
    ],
)
def test_sentences(body: str, expected: list[str]) -> None:
    assert sentences(body) == expected


def test_texts_share_word_numbers_through_the_vocabulary() -> None:
    vocabulary = Vocabulary()
    first = analyse("salt and coal", vocabulary=vocabulary)
    second = analyse("coal and timber", vocabulary=vocabulary)
    assert first.word.tolist() == [0, 1, 2]
    assert second.word.tolist() == [2, 1, 3]
    assert vocabulary.forms == ["salt", "and", "coal", "timber"]
    assert vocabulary.get("grain") == -1


def test_widen_takes_whole_tokens() -> None:
    analysis = analyse("at Sill Wharf 4.")
    assert analysis.widen(5, 10) == (3, 13)
    with pytest.raises(BadSpan, match="no word"):
        analysis.widen(2, 3)


def test_a_long_line_and_nul_are_no_obstacle() -> None:
    body = "salt " * 20_000 + "\0 end"
    assert len(analyse(body)) == 20_001
