"""Tokens and sentences."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
import regex
from hypothesis import given
from hypothesis import strategies as st

from urdaten.core.text import Vocabulary, analyse, analyse_many, find_abbreviations, token_forms
from urdaten.core.text.chunks import ChunkTable
from urdaten.core.text.sentences import LONGEST
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
        ("10:30am or 5pm", ["10:30", "am", "or", "5", "pm"]),
        ("5AM-7p.m. 9amps", ["5", "AM", "-", "7", "p.m.", "9amps"]),
        ("J. Marsh's hat", ["J", ".", "Marsh", "'s", "hat"]),
        ("e.g. Vane & Daughters", ["e.g.", "Vane", "&", "Daughters"]),
        ("ask duty@port.example today", ["ask", "duty@port.example", "today"]),
        ("see www.port.example/tides.", ["see", "www.port.example/tides", "."]),
        ("N'gate O’Hara l'eau", ["N'gate", "O’Hara", "l'eau"]),
        ("a.b+c@d.example; a@b", ["a.b+c@d.example", ";", "a", "@", "b"]),
        ("told!! now...", ["told", "!", "!", "now", "..."]),
        ("0600-0700, 4–5 men", ["0600", "-", "0700", ",", "4", "–", "5", "men"]),
        ("on 2026-07-06 or 06.07.2026", ["on", "2026-07-06", "or", "06.07.2026"]),
        ("58 °C, 9.4m, 66.7%", ["58", "°C", ",", "9.4", "m", ",", "66.7", "%"]),
        ("a\u0301b 1\u20e3", ["a\u0301b", "1\u20e3"]),
        ("", []),
        (" \r\n\t", []),
        # Signs without width belong to the word before them; where there is none, they are no word.
        ("\u200b", []),
        ("\ufeff\u2060 \ufe0f\u3164", []),
        ("\ufeffberthed\u2060 SW\u200b4", ["berthed\u2060", "SW", "4"]),
        ("\u200bduty@port.example", ["duty@port.example"]),
    ],
)
def test_tokens(body: str, expected: list[str]) -> None:
    assert tokens(body) == expected


@pytest.mark.parametrize(
    ("body", "expected"),
    [
        # Joined by the default rules of Unicode, in their order there: WB3c, WB4, WB6, WB7b, WB11, WB13, WB13a, WB15.
        ("x👩\u200d👩\u200d👧x", ["x", "👩\u200d👩\u200d👧", "x"]),
        ("a\u0308\u200db", ["a\u0308\u200db"]),
        ("l’eau l·l", ["l’eau", "l·l"]),
        ("ב״ב ב", ["ב״ב", "ב"]),
        ("٣٤٫٥", ["٣٤٫٥"]),
        ("カタカナ", ["カタカナ"]),
        ("a‿b_c", ["a‿b_c"]),
        ("🇫🇷🇩🇪🇮 x", ["🇫🇷", "🇩🇪", "🇮", "x"]),
        # Kept apart by them.
        ("漢字ひら", ["漢", "字", "ひ", "ら"]),
        ("한국어 नमस्ते", ["한국어", "नमस्ते"]),
        ("№5 $7 ²3", ["№", "5", "$", "7", "²", "3"]),
        ("☎\ufe0f☎", ["☎\ufe0f", "☎"]),
        # Our own rules on top: stops and colons join no words, hyphens do, a possessive ending stands alone.
        ("end.Next a:b", ["end", ".", "Next", "a", ":", "b"]),
        ("half-built ex-SW-4's", ["half-built", "ex-SW-4", "'s"]),
        ("-5 a- -b & c", ["-", "5", "a", "-", "-", "b", "&", "c"]),
    ],
)
def test_words_are_bounded_as_unicode_has_it(body: str, expected: list[str]) -> None:
    assert tokens(body) == expected


# Signs of every class that the rules tell apart, so that random runs of them meet each rule.
TELLING = "aB7\u200b\ufeff.,:;'’\"-–_&·‿ \n\u0301\u200d\xad\ufe0f🇫🇷👩אカ漢ひส한\u1100\u1161²№°\x00"

WIDTHLESS = regex.compile(r"\p{Default_Ignorable_Code_Point}")


def shows(sign: str) -> bool:
    # Variation selectors and fillers count as printable.
    return sign.isprintable() and not sign.isspace() and not WIDTHLESS.match(sign)


@given(st.one_of(st.text(max_size=200), st.text(alphabet=TELLING, max_size=40)))
def test_every_code_point_is_in_one_token_or_one_gap(body: str) -> None:
    analysis = analyse(body)
    before = 0
    for start, end in zip(analysis.start.tolist(), analysis.end.tolist(), strict=True):
        assert before <= start < end <= len(body)
        gap = body[before:start]
        assert not any(map(shows, gap)), repr(gap)
        assert not WIDTHLESS.match(body[start])
        before = end
    assert not any(map(shows, body[before:]))
    visible = [k for k, sign in enumerate(body) if shows(sign)]
    held = np.zeros(len(body), dtype=int)
    for start, end in zip(analysis.start.tolist(), analysis.end.tolist(), strict=True):
        held[start:end] += 1
    assert all(held[k] == 1 for k in visible)


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
        ("Kept in the U.R.D. They left.", ["Kept in the U.R.D.", "They left."]),
        (
            "In at 5 p.m. They left at 10:30 a.m. Pellin waits.",
            ["In at 5 p.m.", "They left at 10:30 a.m. Pellin waits."],
        ),
        ("The U.R.D. Port, i.e. The Spit, is dry.", ["The U.R.D. Port, i.e. The Spit, is dry."]),
        ("她走了。「他来了！」好。", ["她走了。", "「他来了！」", "好。"]),
        ("वह गया। वह आया॥ هل ذهب؟ نعم۔ x", ["वह गया।", "वह आया॥", "هل ذهب؟", "نعم۔ x"]),
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
        ("“Who?” asks the mate. He left.", ["“Who?” asks the mate.", "He left."]),
        ("With Brack & Co. They start. Co. and ship.", ["With Brack & Co.", "They start.", "Co. and ship."]),
        ("late again. pilot c. lindmoor came. ok", ["late again.", "pilot c. lindmoor came.", "ok"]),
        ("12 m x 9.4 m. Call now.", ["12 m x 9.4 m.", "Call now."]),
        ("1. Berths\n2. Tides", ["1. Berths", "2. Tides"]),
        ("STEEL 2800 T.\nENGINE ON ALL SIX.", ["STEEL 2800 T.", "ENGINE ON ALL SIX."]),
        (
            "told the Trust and the pilots of it by launch, twice over, today\nall wait",
            [
                "told the Trust and the pilots of it by launch, twice over, today",
                "all wait",
            ],
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


WRAPPED = """The meeting about the rudder stock lasted until a quarter past six
and came to nothing, since the owners had sent a clerk who was not
Allowed to agree to anything. On Thursday the owner comes in person."""


def test_wrapped_lines_run_on_and_others_do_not() -> None:
    assert [s.replace("\n", " ") for s in sentences(WRAPPED)] == [
        "The meeting about the rudder stock lasted until a quarter past six and came to nothing, "
        "since the owners had sent a clerk who was not Allowed to agree to anything.",
        "On Thursday the owner comes in person.",
    ]
    # A line that could have taken the next word was ended on purpose.
    assert "was allowed to agree to anything." in sentences(
        WRAPPED.replace("who was not\nAllowed", "he\nwas allowed")
    )
    # In a text with lines longer than any program wraps at, all were.
    assert len(sentences(WRAPPED + " " + "More of this was said before anybody left the room. " * 2)) == 6


@given(st.lists(st.text(alphabet="Ab1 .!?|\n\r>-\0", max_size=40), max_size=6))
def test_many_at_once_are_analysed_as_each_alone(bodies: list[str]) -> None:
    together = analyse_many(bodies)
    for body, analysis in zip(bodies, together, strict=True):
        alone = analyse(body)
        assert analysis.body == body
        assert analysis.start.tolist() == alone.start.tolist()
        assert analysis.end.tolist() == alone.end.tolist()
        assert analysis.sentence.tolist() == alone.sentence.tolist()
        forms = analysis.vocabulary.forms
        assert [forms[k] for k in analysis.word] == [
            body[a:b] for a, b in zip(alone.start, alone.end, strict=True)
        ]


def test_blocks_are_cut_between_texts(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("urdaten.core.text.batch.BLOCK", 10)
    bodies = ["Pellin is in.", "", "She lies at SW-4. Work goes on.", "out"]
    assert [[a.body[s:e] for s, e in a.sentence_bounds()] for a in analyse_many(bodies)] == [
        ["Pellin is in."],
        [],
        ["She lies at SW-4.", "Work goes on."],
        ["out"],
    ]
    assert analyse_many([]) == []


@pytest.mark.parametrize(("limit", "most"), [("MOST_CHUNKS", 3), ("MOST_CODE_POINTS", 3)])
def test_a_full_chunk_table_begins_anew(monkeypatch: pytest.MonkeyPatch, limit: str, most: int) -> None:
    monkeypatch.setattr(f"urdaten.core.text.chunks.{limit}", most)
    cuts: list[str] = []

    def cut(chunk: str) -> list[tuple[int, int]]:
        cuts.append(chunk)
        return [(0, len(chunk))] if chunk else []

    table = ChunkTable(cut)
    for body in ("a b a", "c d", "a c", "a c"):
        start, end, form, forms = table.tokens(body)
        assert [body[x:y] for x, y in zip(start, end, strict=True)] == body.split()
        assert [forms[k] for k in form] == body.split()
    assert sorted(cuts) == ["a", "a", "b", "c", "c", "d"]


def test_names_are_cut_as_bodies_are() -> None:
    assert token_forms("Vane & Daughters' SW-4") == tokens("Vane & Daughters' SW-4")


def test_abbreviations_are_found_and_used() -> None:
    bodies = [f"Hr. Prell came with {n} t. He saw Hrg. twelve, vis. good. The salt is in." for n in range(9)]
    vocabulary = Vocabulary()
    found = find_abbreviations([*analyse_many(bodies, vocabulary=vocabulary)])
    assert set(found) == {"hrg", "vis"}, "what only capitals follow may as well end a sentence"
    assert list(found.values()) == sorted(found.values(), reverse=True)
    assert find_abbreviations([]) == {}
    assert len(analyse("By hrg. Prell it was.").sentence_bounds()) == 2
    assert len(analyse("By hrg. Prell it was.", abbreviations=frozenset(found)).sentence_bounds()) == 1


def test_sentences_can_be_given() -> None:
    analysis = analyse("One. Two three. Four.")
    assert analysis.with_sentences([0, 9]).sentence_bounds() == [(0, 8), (9, 21)]
    bounds = analysis.sentence_bounds()
    assert analysis.with_sentences([a for a, _ in bounds]).sentence.tolist() == analysis.sentence.tolist()
    assert analysis.with_sentences([5]).sentence_bounds() == [(0, 21)], (
        "what stands before the first is of it"
    )


def test_what_goes_on_without_end_is_cut_between_words() -> None:
    body = "Short one.\n" + "half-way 3.5 of-it " * 2000 + "end. Another begins."
    analysis = analyse(body)
    bounds = analysis.sentence_bounds()
    assert (body[slice(*bounds[0])], body[slice(*bounds[-1])]) == ("Short one.", "Another begins.")
    counts = np.bincount(analysis.sentence)
    assert counts.max() <= LONGEST
    assert counts[1:-2].min() > LONGEST - 10
    # Nothing is lost, and no word is cut in two.
    words = [word for bound in bounds for word in body[slice(*bound)].split()]
    assert words == body.split()


def test_what_has_no_gap_at_all_is_cut_all_the_same() -> None:
    analysis = analyse("/a" * 3000)
    assert len(analysis) > 3 * LONGEST
    assert np.bincount(analysis.sentence).max() == LONGEST
