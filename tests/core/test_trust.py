"""Makers that have mostly been wrong do not dispute what others agree on."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import binomtest

from urdaten.core.pipeline import Record, resolve, weigh
from urdaten.core.spans import Span

NOISY = {("lists", "cargoes"): Record(3, 40)}


def span(start: int, end: int, kind: str, source: str, maker: str = "") -> Span:
    return Span(start, end, kind, source, maker=maker)


@given(st.integers(0, 400), st.integers(0, 400))
def test_the_interval_is_wilsons(right: int, wrong: int) -> None:
    record = Record(right, right + wrong)
    if record.judged == 0:
        assert record.deserves_say
        return
    high = binomtest(right, record.judged).proportion_ci(0.95, method="wilson").high
    assert record.deserves_say == (high >= 0.5)


@pytest.mark.parametrize(
    ("right", "judged", "deserves"),
    [(0, 0, True), (0, 3, True), (0, 4, False), (17, 40, True), (3, 40, False)],
)
def test_a_few_wrong_ones_condemn_nobody(right: int, judged: int, deserves: bool) -> None:
    assert Record(right, judged).deserves_say is deserves


def test_noise_is_overruled_where_others_agree() -> None:
    agreed = span(10, 20, "PER", "tagger")
    noise = [span(10, 15, "CGO", "lists", "cargoes"), span(16, 20, "CGO", "lists", "cargoes")]
    good = span(10, 20, "PER", "lists", "people")
    heard, answer = weigh({"tagger": [agreed], "rules": [], "lists": [*noise, good]}, NOISY)
    assert answer == [agreed]
    assert [one.overruled for one in heard["lists"]] == [True, True, False]
    assert [one.doubt for one in heard["lists"]] == [Record(3, 40), Record(3, 40), None]
    assert "right 3 of 40 times" in NOISY["lists", "cargoes"].words


def test_noise_alone_is_in_doubt_and_not_overruled() -> None:
    noise = span(0, 4, "CGO", "lists", "cargoes")
    heard, answer = weigh({"lists": [noise], "rules": []}, NOISY)
    assert answer == [noise]
    assert (heard["lists"][0].overruled, heard["lists"][0].doubt) == (False, Record(3, 40))
    # The tagger has seen it and left it out.
    assert weigh({"lists": [noise], "tagger": []}, NOISY)[1] == []


def test_noise_that_says_what_others_say_is_not_overruled() -> None:
    both = [span(0, 4, "VES", "lists", "cargoes")], [span(0, 4, "VES", "rules", "mv")]
    heard, answer = weigh({"lists": both[0], "rules": both[1]}, NOISY)
    assert answer == [span(0, 4, "VES", "rules")]
    assert not heard["lists"][0].overruled


def test_the_longer_span_of_a_noisy_maker_gives_way() -> None:
    noise = span(0, 9, "CGO", "lists", "cargoes")
    good = span(0, 4, "VES", "lists", "vessels")
    assert resolve({"lists": [noise, good]}) == [noise]
    assert weigh({"lists": [noise, good]}, NOISY)[1] == [good]


def _lanes() -> st.SearchStrategy[dict[str, list[Span]]]:
    places = st.tuples(st.integers(0, 12), st.integers(1, 5), st.sampled_from(["VES", "PER"]))

    def made(source: str) -> st.SearchStrategy[list[Span]]:
        return st.lists(
            st.tuples(places, st.sampled_from(["good", "bad"])).map(
                lambda x: Span(x[0][0], x[0][0] + x[0][1], x[0][2], source, maker=x[1])
            ),
            max_size=5,
        )

    return st.fixed_dictionaries(
        {"rules": made("rules"), "lists": made("lists")},
        optional={"tagger": made("tagger"), "learned": made("learned")},
    )


@given(_lanes(), st.sampled_from(["apart", "nested", "free"]))
def test_without_records_it_is_resolution_and_with_them_only_doubtful_spans_are_overruled(
    lanes: dict[str, list[Span]], overlap: str
) -> None:
    heard, answer = weigh(lanes, {}, overlap)  # type: ignore[arg-type]
    assert answer == resolve(lanes, overlap=overlap)  # type: ignore[arg-type]
    assert not any(one.doubt or one.overruled for spans in heard.values() for one in spans)
    records = {(source, "bad"): Record(0, 100) for source in ("rules", "lists")}
    heard, answer = weigh(lanes, records, overlap)  # type: ignore[arg-type]
    trusted = {name: [s for s in spans if (name, s.maker) not in records] for name, spans in lanes.items()}
    # Whoever has a say is answered as if the others were not there.
    assert set(resolve(trusted, overlap=overlap)) <= set(answer)  # type: ignore[arg-type]
    for name, spans in heard.items():
        assert [one.span for one in spans] == lanes[name]
        for one in spans:
            assert (one.doubt is not None) == ((name, one.span.maker) in records)
            assert one.doubt or not one.overruled
