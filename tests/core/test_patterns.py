"""The machine behind patterns, against one that tries every way in turn."""

from __future__ import annotations

from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor

import pytest
import regex
from hypothesis import example, given, settings
from hypothesis import strategies as st

from urdaten.core.rules.pattern import OutOfSteps, Pattern
from urdaten.core.rules.pattern.syntax import read
from urdaten.core.rules.pattern.tree import may_be_empty
from urdaten.errors import BadPattern

ENOUGH = 10_000_000
# Few signs, so that a pattern drawn at random finds something.
SIGNS = "aaabbA1 \n\r\u2028"
TAKING = [*"aaaabbb",  "A", "1", " ", ".", "[ab]", "[ab]", "[^a ]", "[a-c1]", r"[^\w]", r"\w", r"\W", r"\d", r"\s", r"\p{Lu}", r"\P{Ll}"]  # fmt: skip
PLACES = [r"\b", r"\B", "^", "$", r"\A", r"\Z"]
TIMES = ["*", "+", "?", "{2}", "{1,2}", "{0,2}", "{,2}", "{1,}", "*?", "+?", "??", "{1,3}?"]


def _larger(inner: st.SearchStrategy[str]) -> st.SearchStrategy[str]:
    looks = st.sampled_from(["(?={})", "(?!{})", "(?<={})", "(?<!{})"])
    groups = st.sampled_from(["({})", "(?:{})", "(?i:{})", "(?P<other{}>"])
    return st.one_of(
        st.lists(inner, min_size=2, max_size=3).map("".join),
        st.lists(inner, min_size=2, max_size=3).map(lambda options: f"(?:{'|'.join(options)})"),
        # Something is taken each time: what empty rounds of a repetition mean is not settled anywhere.
        st.tuples(st.sampled_from(TAKING), inner, st.sampled_from(TIMES)).map(lambda p: f"(?:{p[0]}{p[1]}){p[2]}"),
        st.tuples(st.sampled_from(TAKING), st.sampled_from(TIMES)).map("".join),
        st.tuples(looks, inner).map(lambda p: p[0].format(p[1])),
        st.tuples(groups, inner).map(lambda p: p[0].format(p[1]) if "other" not in p[0] else f"(?P<other>{p[1]})"),
    )  # fmt: skip


parts = st.recursive(st.sampled_from(TAKING + PLACES), _larger, max_leaves=8)
patterns = st.one_of(
    parts, st.tuples(parts, st.sampled_from(TAKING), parts).map(lambda p: f"{p[0]}(?P<mark>{p[1]}{p[2]})")
)
texts = st.lists(st.sampled_from(SIGNS), max_size=24).map("".join)


def slowly(pattern: str, text: str) -> list[tuple[int, int, int, int]]:
    """Line by line, as a machine does that goes back; matches and what they mark, without those of no sign."""
    slow = regex.compile(pattern, regex.V1)
    group = "mark" if "mark" in slow.groupindex else 0
    found = []
    for line in regex.finditer(r"([^\r\n]*)(?:\r\n|\r|\n|\Z)", text):
        for match in slow.finditer(line[1]):
            if match.end() > match.start():
                found.append(tuple(at + line.start() for at in (*match.span(), *match.span(group))))
    return found


def quickly(pattern: str, text: str) -> Iterator[tuple[int, int, int, int]]:
    for match in Pattern(pattern, "r").find(text, ENOUGH)[0]:
        assert match.marked
        yield (match.start, match.end, *match.marked)


@settings(max_examples=800, deadline=None)
@example(r"(?<!a(?=b).{0,2})b(?P<mark>a+?)(?=b|$)", "baab abab\nbaa")
@example(r"(?:a|ab)(?:c|bcd)?(?:d*)", "abcd")
@example("a.*b|a", "aac")
@example("a(?=bc)", "abc acb")
@example("(?!$)|a", "aa")
@given(patterns, texts)
def test_it_finds_what_a_slow_machine_finds(pattern: str, text: str) -> None:
    if may_be_empty(read(pattern, "r")):
        with pytest.raises(BadPattern, match="nothing at all"):
            Pattern(pattern, "r")
    else:
        assert list(quickly(pattern, text)) == slowly(pattern, text)


@pytest.mark.parametrize(
    ("pattern", "text", "found"),
    [
        ("(?i)été", "ÉTÉ Été ete", ["ÉTÉ", "Été"]),
        ("(?i)[à-ï]+", "É x ï", ["É", "ï"]),
        ("(?i)[^é ]+", "Éa x", ["a", "x"]),
        (r"(?i)\p{Lu}+", "aB 1", ["aB"]),
        (r"\p{Greek}+", "abc αβγ", ["αβγ"]),
        (r"\w+", "naïve 東京", ["naïve", "東京"]),
        (r"[\p{Lu}\d-]+", "SW-4 x", ["SW-4"]),
        (r"[]a]+[^]]", "]a]b", ["]a]b"]),
        (r"\x41\u00e9\U0001F6A2", "Aé🚢", ["Aé🚢"]),
        ("(?x) a  b # and no more\n c", "abc", ["abc"]),
        ("a(?i)b|c", "aB C", ["aB", "C"]),
        ("(?:(?i)a)b", "Ab AB", ["Ab"]),
        ("(?i:a(?-i:b))", "Ab AB", ["Ab"]),
        ("a(?#whatever)b", "ab", ["ab"]),
        ("a{,2}b", "aaab", ["aab"]),
        ("a{b", "a{b", ["a{b"]),
        ("a+.b", "aa\nb aa b", ["aa b"]),
        ("[^x]+", "a\nb\r\nc\rd", ["a", "b", "c", "d"]),
        # Other signs that some programs break lines at stand within one.
        (".+", "a\u2028b\vc\x85d\x0ce", ["a\u2028b\vc\x85d\x0ce"]),
        (r"\w$|^\w", "ab\u2028cd\vef", ["a", "f"]),
        (r"^\w|\w$", "ab\r\ncd", ["a", "b", "c", "d"]),
        ("(?<=every (?:other )?)day", "every day, every other day, one day", ["day", "day"]),
        ("x", "", []),
        ("\ud800", "a\ud800", ["\ud800"]),
    ],
)
def test_what_patterns_know(pattern: str, text: str, found: list[str]) -> None:
    assert [text[m.start : m.end] for m in Pattern(pattern, "r").find(text, ENOUGH)[0]] == found


@pytest.mark.parametrize(
    ("pattern", "words", "at"),
    [
        ("a(b", "no \\) for this \\(", 1),
        ("ab)", "no \\( for this \\)", 2),
        ("a[b", "no \\] for this \\[", 1),
        ("a[b-", "no \\] for this \\[", 1),
        ("*a", "nothing to repeat", 0),
        ("a|{2}", "nothing to repeat", 2),
        ("a{3,1}", "least number is above", 0),
        ("a{e<=1}", "no count", 1),
        ("ab++", "never gives back", 3),
        ("(?>a)", "this kind of group", 0),
        ("(?|a|b)", "this kind of group", 0),
        ("(a)(?(1)b)", "this kind of group", 3),
        (r"(a)\1", "repeated as it was matched", 3),
        ("(?P<x>a)(?P=x)", "this kind of group", 8),
        (r"a\K", "do not know .K", 1),
        (r"a\q", "do not know .q", 1),
        ("a\\", "a backslash at the end", 1),
        (r"a\x4", "hexadecimal", 1),
        (r"\U00110000", "no such code point", 0),
        (r"\p{Nope}", "no property", 0),
        (r"\pl", "a property is written", 0),
        ("[a-\\d]", "from sign to sign", 1),
        ("[z-a]", "runs backwards", 1),
        ("[a[b]]", "a class made of classes", 2),
        ("[a--b]", "a class made of classes", 2),
        ("(?P<1>a)", "group’s name is a word", 4),
        ("(?=(?P<mark>a))b", "only looked at cannot be marked", 3),
        ("(?f)a", "the flag “f”", 0),
        ("(?i-i:a)", "set and taken away", 0),
        ("(?#a", "comment has no end", 0),
    ],
)
def test_what_cannot_be_read_says_why_and_where(pattern: str, words: str, at: int) -> None:
    with pytest.raises(BadPattern, match=f"does not compile: .*{words}.* at character {at}") as fault:
        Pattern(pattern, "r")
    assert fault.value.detail["offset"] == at


@pytest.mark.parametrize(
    ("pattern", "sign"),
    [
        ("(?:a|aa|a?b?a)+(?:a|aa)+$", "a"),
        ("(?:(?:a*b?)*c?)*d", "a"),
        (r"(?:\w+\s?)+(?=x)", "b"),
        ("(?=(?:a+)+b)a", "a"),
        ("a(?<=(?:a+)+b)", "a"),
    ],
)
def test_the_time_grows_as_the_text_does(pattern: str, sign: str) -> None:
    made = Pattern(pattern, "r")
    once, twice = (made.find(sign * n + "!", ENOUGH)[1] for n in (2000, 4000))
    assert once < twice <= 2.01 * once


def test_steps_are_those_of_pattern_and_text_alone_and_never_more_than_the_limit() -> None:
    made, again = Pattern("(?<!b)(?:a{1,20}){1,20}c|b", "r"), Pattern("(?<!b)(?:a{1,20}){1,20}c|b", "r")
    text = "a" * 300 + "b"
    found, steps = made.find(text, ENOUGH)
    again.find("élan " * 20, ENOUGH)
    assert again.find(text, steps) == (found, steps)
    for limit in (steps // 2, 10, 0):
        with pytest.raises(OutOfSteps):
            made.find(text, limit)


def test_many_matches_are_all_found() -> None:
    found, _ = Pattern("a", "r").find("ab" * 5000, ENOUGH)
    assert [m.start for m in found] == list(range(0, 10000, 2))


def test_a_class_of_many_signs_is_one_set_however_often_it_is_repeated() -> None:
    signs = "".join(map(chr, range(0x4E00, 0x4E00 + 3900)))
    made = Pattern(f"[{signs}]{{6000}}|(?:(?=[{signs}])一){{1000}}", "r")
    assert (len(made._program.sets), len(made._program.looks)) == (2, 1)
    assert len(made.find("一" * 1000, ENOUGH)[0]) == 1


def test_signs_of_a_large_script_are_told_apart() -> None:
    text = "".join(map(chr, range(0x4E00, 0x4E00 + 20_000)))
    made = Pattern("[一-丏]|" + "|".join("αβγδεζηθικλμ"), "r")
    for part, found in ((text[:10], 10), (text, 16), (text[12:40], 4), ("a" + text[:3], 3)):
        assert len(made.find(part, ENOUGH)[0]) == found


def test_one_pattern_serves_many_threads() -> None:
    made = Pattern(r"\p{Lu}\w+", "r")
    texts = [chr(0x391 + i % 17) + "x" * i for i in range(200)]
    with ThreadPoolExecutor(8) as pool:
        found = list(pool.map(lambda text: made.find(text, ENOUGH)[0], texts))
    assert [len(matches) for matches in found] == [int(i > 0) for i in range(200)]
