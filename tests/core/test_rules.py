"""Rules held against lines."""

from __future__ import annotations

import pytest

from urdaten.core.rules import LineRule, try_examples
from urdaten.core.text import analyse
from urdaten.errors import BadPattern


def rule(pattern: str) -> LineRule:
    return LineRule(name="tried", type="QTY", pattern=pattern)


def found(pattern: str, body: str) -> list[str]:
    return [body[s.start : s.end] for s in rule(pattern).match(analyse(body))]


def test_matches_on_every_line() -> None:
    assert found(r"\d+ t\b", "with 400 t\r\nand 20 t more\n") == ["400 t", "20 t"]


def test_a_line_is_a_world_of_its_own() -> None:
    assert found(r"400\s+t", "400\nt") == []
    assert found(r"^in \d+", "in 5\nout 6\nin 7") == ["in 5", "in 7"]
    assert found(r"\d+$", "in 5\nout 6") == ["5", "6"]


def test_only_the_marked_group_becomes_the_span() -> None:
    assert found(r"pilot (?P<mark>\p{Lu}\w+)", "pilot Vane aboard, pilot nobody") == ["Vane"]


def test_a_match_within_a_token_is_widened_to_it() -> None:
    assert found(r"\d{2}", "at 0415 sharp") == ["0415"]


def test_where_widened_matches_overlap_the_longest_stays() -> None:
    assert found(r"\d{2}(?: t)?", "at 0415 t") == ["0415 t"]


def test_a_match_of_white_space_alone_is_no_span() -> None:
    assert found(r" +", "a  b") == []


@pytest.mark.parametrize("pattern", ["(", "[", "*", "(?P<mark>", r"\p{Nope}"])
def test_a_broken_pattern_says_where(pattern: str) -> None:
    with pytest.raises(BadPattern, match="does not compile") as fault:
        rule(pattern).compiled()
    assert fault.value.detail["field"] == "pattern"


def test_a_pattern_that_matches_nothing_is_refused() -> None:
    with pytest.raises(BadPattern, match="nothing at all"):
        rule("a*").compiled()


def test_a_pattern_is_held_against_a_text_in_steps_that_are_bounded() -> None:
    assert found(r"(?:a|aa|a?b?a)+(?:a|aa)+$", "a" * 400 + "b") == []
    ambiguous = rule("(?:" + "|".join(f"a{{{n},200}}" for n in range(1, 25)) + ")b")
    assert len(ambiguous.match(analyse("a" * 100 + " ab"))) == 1
    with pytest.raises(BadPattern, match="took more than 3000000 steps on one text"):
        ambiguous.match(analyse("a" * 2000))


def test_examples_hold_or_fail() -> None:
    results = try_examples(rule(r"\d+ t\b"), ["with 400 t", "with much"], ["crane 2", "only 3 t"])
    assert [(r.text, r.holds) for r in results] == [
        ("with 400 t", True),
        ("with much", False),
        ("crane 2", True),
        ("only 3 t", False),
    ]


@pytest.mark.parametrize(
    ("pattern", "words"),
    [
        ("(a(?R)?b)", "calls itself"),
        ("(a)(?1)", "calls itself"),
        ("(?P<x>a)(?&x)", "calls itself"),
        ("(?a)(?u)x", "the flag “a”"),
        ("(?V0)(?V1)x", "the flag “V”"),
        ("(" * 1500 + "a" + ")" * 1500, "deep"),
        ("a{1000000}", "repeats a part"),
        ("(?:(?:a{100}){100}){100}", "repeats a part"),
        ("(?:x(?:[)]a{1,200})y){,200}", "repeats a part"),
        ("x{99999999999999999999}", "repeats a part"),
    ],
)
def test_a_pattern_that_would_become_too_large_is_refused_before_it_is_compiled(
    pattern: str, words: str
) -> None:
    with pytest.raises(BadPattern, match=words) as caught:
        LineRule(name="r", type="VES", pattern=pattern).compiled()
    assert caught.value.detail["field"] == "pattern"


@pytest.mark.parametrize(
    "pattern",
    [
        r"\({70}a",
        r"[({]{3}[]}]{2}",
        r"(?:\d{1,4}[.,]){0,40}\d{1,4}",
        "(?P<mark>a{2,3}b?)+c",
        "a{,3}{",
        "(a|b){1,5}" * 50,
        "[^]]{2}x",
    ],
)
def test_a_pattern_of_a_bearable_size_passes(pattern: str) -> None:
    LineRule(name="r", type="VES", pattern=pattern).compiled()
