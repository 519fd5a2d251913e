"""Makers that have mostly been wrong do not dispute what others agree on."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import binomtest

from urdaten.core.pipeline import Record, resolve, weigh
from urdaten.core.spans import Overlap, Span

NOISY = {("lists", "cargoes"): Record(3, 40)}
SURE = {("rules", "pilots"): Record(95, 96)}


def span(
    start: int, end: int, kind: str, source: str, maker: str = "", probability: float | None = None
) -> Span:
    return Span(start, end, kind, source, probability, maker=maker)


@given(st.integers(0, 400), st.integers(0, 400))
def test_the_interval_is_wilsons(right: int, wrong: int) -> None:
    record = Record(right, right + wrong)
    if record.judged == 0:
        assert record.bounds == (0.0, 1.0)
        return
    known = binomtest(right, record.judged).proportion_ci(0.95, method="wilson")
    assert record.bounds == pytest.approx((known.low, known.high), abs=1e-6)


@pytest.mark.parametrize(
    ("right", "judged", "say"), [(0, 0, True), (0, 3, True), (0, 4, False), (17, 40, True), (3, 40, False)]
)
def test_a_few_wrong_ones_condemn_nobody(right: int, judged: int, say: bool) -> None:
    assert Record(right, judged).has_say is say


def test_noise_is_overruled_where_others_are_sure() -> None:
    agreed = span(10, 20, "PER", "rules", "pilots")
    noise = [span(10, 15, "CGO", "lists", "cargoes"), span(16, 20, "CGO", "lists", "cargoes")]
    good = span(10, 20, "PER", "lists", "people")
    heard, answer = weigh({"rules": [agreed], "lists": [*noise, good]}, NOISY | SURE)
    assert answer == [agreed]
    assert [one.overruled_by for one in heard["lists"]] == [agreed, agreed, None]
    assert [one.has_say for one in heard["lists"]] == [False, False, True]
    assert "right 3 of 40 times" in NOISY["lists", "cargoes"].words


def test_what_may_stand_within_the_answer_is_not_overruled_by_it() -> None:
    # The tagger has left it out, so it is not in the answer; it does not contradict it either.
    lanes = {
        "tagger": [span(0, 9, "ORG", "tagger", probability=0.999)],
        "lists": [span(0, 4, "CGO", "lists", "cargoes")],
    }
    assert weigh(lanes, NOISY, "apart")[0]["lists"][0].overruled_by is not None
    assert weigh(lanes, NOISY, "nested")[0]["lists"][0].overruled_by is None


def test_a_source_that_is_right_half_the_time_disputes_a_likely_answer_and_not_a_sure_one() -> None:
    half = {("lists", "vessels"): Record(420, 848)}
    noise = span(0, 4, "VES", "lists", "vessels")
    for probability, overruled in ((0.8, False), (0.9, False), (0.96, True), (0.999, True)):
        lanes = {"tagger": [span(0, 9, "PER", "tagger", probability=probability)], "lists": [noise]}
        assert (weigh(lanes, half)[0]["lists"][0].overruled_by is not None) is overruled


def test_a_maker_without_figures_is_not_overruled_and_overrules_nobody() -> None:
    new = span(0, 9, "PER", "rules", "new")
    noise = span(0, 4, "CGO", "lists", "cargoes")
    assert weigh({"rules": [new], "lists": [noise]}, NOISY)[0]["lists"][0].overruled_by is None
    sure = span(0, 12, "PER", "rules", "pilots")
    assert weigh({"rules": [sure, new]}, SURE)[0]["rules"][1].overruled_by is None


def test_the_tagger_too_can_be_overruled() -> None:
    sure, guess = span(0, 9, "PER", "rules", "pilots"), span(0, 4, "VES", "tagger", probability=0.2)
    heard, answer = weigh({"rules": [sure], "tagger": [guess]}, SURE)
    # The tagger has seen the rule and goes before it.
    assert answer == [guess]
    assert heard["rules"][0].overruled_by is None


def test_noise_alone_is_in_doubt_and_not_overruled() -> None:
    noise = span(0, 4, "CGO", "lists", "cargoes")
    heard, answer = weigh({"lists": [noise], "rules": []}, NOISY)
    assert answer == [noise]
    assert (heard["lists"][0].overruled_by, heard["lists"][0].has_say) == (None, False)
    # The tagger has seen it and left it out.
    assert weigh({"lists": [noise], "tagger": []}, NOISY)[1] == []


def test_noise_that_says_what_others_say_is_not_overruled() -> None:
    lists, rules = [span(0, 4, "VES", "lists", "cargoes")], [span(0, 4, "VES", "rules", "pilots")]
    heard, answer = weigh({"lists": lists, "rules": rules}, NOISY | SURE)
    assert answer == rules
    assert heard["lists"][0].overruled_by is None


def test_the_longer_span_of_a_noisy_maker_gives_way() -> None:
    noise = span(0, 9, "CGO", "lists", "cargoes")
    good = span(0, 4, "VES", "lists", "vessels")
    assert resolve({"lists": [noise, good]}) == [noise]
    assert weigh({"lists": [noise, good]}, NOISY)[1] == [good]


def _lanes() -> st.SearchStrategy[dict[str, list[Span]]]:
    places = st.tuples(st.integers(0, 12), st.integers(1, 5), st.sampled_from(["VES", "PER"]))

    def made(source: str) -> st.SearchStrategy[list[Span]]:
        return st.lists(
            st.tuples(places, st.sampled_from(["good", "bad", "new"])).map(
                lambda x: span(x[0][0], x[0][0] + x[0][1], x[0][2], source, x[1])
            ),
            max_size=5,
        )

    return st.fixed_dictionaries(
        {"rules": made("rules"), "lists": made("lists")}, optional={"tagger": made("tagger")}
    )


RECORDS = {
    (s, m): r for s in ("rules", "lists") for m, r in (("good", Record(300, 300)), ("bad", Record(0, 100)))
}


@given(_lanes(), st.sampled_from(["apart", "nested", "free"]))
def test_without_records_it_is_resolution_and_with_them_what_has_a_say_is_answered_first(
    lanes: dict[str, list[Span]], overlap: Overlap
) -> None:
    heard, answer = weigh(lanes, {}, overlap)
    assert answer == resolve(lanes, overlap=overlap)
    assert not any(one.overruled_by for spans in heard.values() for one in spans)
    heard, answer = weigh(lanes, RECORDS, overlap)
    trusted = {
        name: [s for s in spans if s.maker != "bad" or name == "tagger"] for name, spans in lanes.items()
    }
    # Whoever has a say is answered as if the others were not there.
    assert set(resolve(trusted, overlap=overlap)) <= set(answer)
    for name, spans in heard.items():
        assert [one.span for one in spans] == lanes[name]
        for one in spans:
            assert one.has_say == ((name, one.span.maker) not in {("rules", "bad"), ("lists", "bad")})
            if one.overruled_by:
                assert one.span.maker == "bad"
                assert one.span not in answer
                assert one.overruled_by.overlaps(one.span)


def test_an_answer_that_was_given_stands_and_overrules_as_any_other() -> None:
    found = span(0, 9, "ORG", "tagger", probability=0.999)
    noise = span(0, 4, "CGO", "lists", "cargoes")
    lanes = {"tagger": [found], "lists": [noise]}
    heard, answer = weigh(lanes, NOISY, answered=[found])
    assert (answer, heard["lists"][0].overruled_by) == ([found], found)
    # Nothing is as good an answer as any: then nothing is overruled, and whoever reads it has all of it to look at.
    heard, answer = weigh(lanes, NOISY, answered=[])
    assert answer == []
    assert [one.overruled_by for own in heard.values() for one in own] == [None, None]
