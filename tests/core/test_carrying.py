"""What was marked in one version of a text is found again in another, or is told to be left."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from urdaten.core.spans import Carried, Span, Stood, carry


def marked(words: str, *quotes: str, signed: bool = True) -> Stood:
    """A sentence in which these words are marked; TYPE:words where it is no vessel."""
    spans = []
    for quote in quotes:
        type_, _, named = quote.rpartition(":")
        start = words.index(named)
        spans.append(Span(start, start + len(named), type_ or "VES"))
    return Stood(words, tuple(sorted(spans)), signed)


def told(made: dict[int, Carried], now: list[str]) -> dict[int, tuple[int, bool, list[str]]]:
    return {
        new: (one.before, one.whole, [now[new][s.start : s.end] for s in one.spans])
        for new, one in made.items()
    }


def test_the_same_sentence_takes_over_what_stood_in_it() -> None:
    before = [
        marked("Ketta sails at noon.", "Ketta"),
        marked("Nobody saw it."),
        marked("Mira is in.", "Mira", signed=False),
    ]
    now = ["It rains.", "Nobody saw it.", "Mira is in.", "Ketta sails at noon."]
    made, left = carry(before, now)
    assert told(made, now) == {1: (1, True, []), 3: (0, True, ["Ketta"])}
    assert left == []


def test_other_white_space_moves_spans_with_their_words() -> None:
    before = [marked("The Amber\nQuay of  Lindmoor sails.", "Amber\nQuay", "PRT:Lindmoor")]
    now = ["The Amber   Quay of\nLindmoor sails."]
    made, left = carry(before, now)
    assert told(made, now) == {0: (0, True, ["Amber   Quay", "Lindmoor"])}
    assert left == []


def test_a_changed_sentence_is_begun_with_the_words_that_are_found_again() -> None:
    before = [
        marked("Ketta brings 200 t of amber to Lindmoor.", "Ketta", "QTY:200 t", "CGO:amber", "PRT:Lindmoor")
    ]
    now = ["Ketta brings 250 t of amber to Lindmoor today."]
    made, left = carry(before, now)
    assert told(made, now) == {0: (0, False, ["Ketta", "amber", "Lindmoor"])}
    (one,) = left
    assert (one.before, one.why, one.now, [s.type for s in one.spans]) == (0, "changed", 0, ["QTY"])


def test_a_quotation_that_stands_twice_goes_by_the_words_beside_it() -> None:
    before = [marked("She leaves Lindmoor for Tarn.", "PRT:Lindmoor", "PRT:Tarn")]
    now = ["She leaves Lindmoor for Tarn, not Lindmoor."]
    made, left = carry(before, now)
    assert [(s.start, s.end) for s in made[0].spans] == [(11, 19), (24, 28)]
    assert left[0].spans == ()
    # Nothing beside them tells which one it was.
    made, left = carry([marked("Tarn Lindmoor Spit", "PRT:Lindmoor")], ["Lindmoor and Lindmoor, Tarn, Spit"])
    assert made[0].spans == ()
    assert [s.type for s in left[0].spans] == ["PRT"]


def test_words_within_longer_ones_are_not_found() -> None:
    made, left = carry([marked("Tarn is full today.", "PRT:Tarn")], ["Tarnmoor is full today."])
    assert made[0].spans == ()
    assert len(left[0].spans) == 1


def test_spans_keep_how_they_lie_to_each_other() -> None:
    nested = Stood("The Amber Quay lies at berth six.", (Span(4, 9, "CGO"), Span(4, 14, "VES")), True)
    made, _ = carry([nested], ["Now the Amber Quay lies at berth nine, and Amber Vane too."])
    assert [(s.start, s.end, s.type) for s in made[0].spans] == [(8, 13, "CGO"), (8, 18, "VES")]
    # One would come to lie within the other: neither is taken for certain.
    apart = Stood("The oil fills an oil tank.", (Span(4, 7, "CGO"), Span(17, 25, "BTH")), True)
    made, left = carry([apart], ["She fills an oil tank."])
    assert made[0].spans == ()
    assert len(left[0].spans) == 2


@pytest.mark.parametrize("extra", [False, True])
def test_a_sentence_that_stands_often_goes_by_its_neighbours(extra: bool) -> None:
    before = [
        marked("Ketta first."),
        marked("She sails.", "She"),
        marked("Mira next."),
        marked("She sails."),
        marked("That is all."),
    ]
    now = ["Mira next.", "She sails.", "That is all."] + (["She sails."] if extra else [])
    made, left = carry(before, now)
    assert told(made, now)[1] == (3, True, [])
    assert 3 not in made
    assert [(one.before, one.why) for one in left] == [(0, "gone"), (1, "repeated")]


def test_what_held_the_same_everywhere_needs_no_neighbours_unless_it_stands_oftener_now() -> None:
    before = [marked("None today."), marked("Ketta in."), marked("None today.")]
    made, left = carry(before, ["Other.", "None today.", "More."])
    assert (list(made), [one.why for one in left]) == ([1], ["gone"])
    made, _ = carry(before, ["A.", "None today.", "B.", "None today.", "C.", "None today.", "D."])
    assert made == {}


def test_one_that_is_not_signed_lends_nothing_and_leaves_doubt() -> None:
    before = [marked("She sails.", "She"), marked("Then."), marked("She sails.", signed=False)]
    made, left = carry(before, ["Else.", "She sails.", "Other."])
    assert made == {}
    assert [(one.before, one.why) for one in left] == [(0, "repeated"), (1, "gone")]


def test_the_nearest_neighbours_of_one_that_is_not_signed_lend_nothing() -> None:
    before = [
        marked("She sails.", "She"),
        marked("Then fog.", signed=False),
        marked("She sails.", signed=False),
    ]
    made, _ = carry(before, ["Else.", "Then fog.", "She sails."])
    assert made == {}


def test_what_is_hardly_alike_is_gone() -> None:
    before = [marked("Ketta brings 200 t of amber to Lindmoor on Friday.", "Ketta")]
    made, left = carry(before, ["Ketta is a good ship, they say."])
    assert (made, left[0].why) == ({}, "gone")


@pytest.mark.parametrize("signed", [True, False])
def test_a_changed_sentence_is_of_the_one_that_is_most_like_it(signed: bool) -> None:
    before = [
        marked("Ketta brings amber to Tarn.", "Ketta", signed=signed),
        marked("Ketta brings oil and amber to Tarn at noon.", "PRT:Tarn"),
    ]
    made, left = carry(before, ["Ketta brings amber to Tarn now."])
    assert [(one.before, one.why) for one in left][-1] == (1, "gone")
    assert {one.before for one in made.values()} == ({0} if signed else set())


def test_a_changed_sentence_that_could_be_either_is_gone() -> None:
    before = [marked("Ketta brings amber to Tarn.", "Ketta")]
    made, left = carry(before, ["Ketta brings amber to Spit.", "Ketta brings amber to Mole."])
    assert made == {}
    assert left[0].why == "gone"


WORDS = st.lists(st.sampled_from(["Ketta", "sails", "at", "noon", "Tarn"]), min_size=1, max_size=4).map(
    " ".join
)


@st.composite
def stood(draw: st.DrawFn) -> Stood:
    words = draw(WORDS)
    parts = words.split()
    at = draw(st.integers(0, len(parts) - 1))
    start = len(" ".join(parts[:at])) + (at > 0)
    spans = (Span(start, start + len(parts[at]), "VES"),) if draw(st.booleans()) else ()
    return Stood(words, spans, draw(st.booleans()))


@given(st.lists(stood(), max_size=8), st.lists(WORDS, max_size=8))
def test_every_signed_sentence_is_carried_whole_or_told(before: list[Stood], now: list[str]) -> None:
    made, left = carry(before, now)
    lost = {one.before for one in left}
    whole = {_held(before[one.before]) for one in made.values() if one.whole}
    for number, stood in enumerate(before):
        if number not in lost:
            assert not stood.signed or _held(stood) in whole
    for new, one in made.items():
        old = before[one.before]
        assert old.signed
        assert one.whole == (old.words == now[new]) == (one.before not in lost)
        quoted = {(s.type, old.words[s.start : s.end]) for s in old.spans}
        assert {(s.type, now[new][s.start : s.end]) for s in one.spans} <= quoted
        if one.whole:
            assert one.spans == old.spans


def _held(one: Stood) -> tuple[str, tuple[Span, ...]]:
    return one.words, one.spans


@given(st.lists(stood(), max_size=8))
def test_a_text_carries_all_of_itself(before: list[Stood]) -> None:
    """To its own words everything comes over, wherever neighbours tell which is which or the same stands everywhere."""
    made, left = carry(before, [one.words for one in before])
    assert all(one.why == "repeated" for one in left)
    for new, one in made.items():
        assert before[new].signed or before[new].words == before[one.before].words
