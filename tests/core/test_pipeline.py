"""Resolution of lanes."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from urdaten.core.pipeline import ORDER, PRIORITIES, resolve
from urdaten.core.spans import OVERLAPS, Overlap, Span, forbidden_pairs

LISTS = [Span(0, 5, "CGO", "lists"), Span(0, 10, "VES", "lists"), Span(20, 25, "PRT", "lists")]
RULES = [Span(20, 27, "BTH", "rules"), Span(30, 34, "TIM", "rules")]
TAGGER = [Span(0, 10, "VES", "tagger", 0.9), Span(18, 22, "PRT", "tagger", 0.6)]


def test_without_a_tagger_rules_come_before_lists() -> None:
    assert resolve({"lists": LISTS, "rules": RULES}) == [
        Span(0, 10, "VES"),
        Span(20, 27, "BTH"),
        Span(30, 34, "TIM"),
    ]


def test_the_tagger_comes_first_and_rules_add_to_it() -> None:
    lanes = {"lists": LISTS, "rules": RULES, "tagger": TAGGER}
    assert resolve(lanes) == [Span(0, 10, "VES"), Span(18, 22, "PRT"), Span(30, 34, "TIM")]


def test_a_silent_tagger_still_turns_list_hits_down() -> None:
    assert resolve({"lists": LISTS, "rules": [], "tagger": []}) == []


def test_one_source_alone() -> None:
    assert resolve({"lists": LISTS}, ["lists"]) == [Span(0, 10, "VES"), Span(20, 25, "PRT")]
    assert resolve({}) == []


SPAN = st.builds(
    lambda start, size, kind, maker: Span(start, start + size, kind, maker=maker),
    st.integers(0, 12),
    st.integers(1, 6),
    st.sampled_from(["VES", "PRT"]),
    st.sampled_from(["one", "other", "third"]),
)


def _of(source: str) -> st.SearchStrategy[list[Span]]:
    return st.lists(SPAN.map(lambda span: replace(span, source=source)), max_size=6)


LANES = st.fixed_dictionaries({}, optional={name: _of(name) for name in ORDER})
RANKS = st.dictionaries(st.sampled_from(["one", "other"]), st.sampled_from(list(PRIORITIES.values())))


@pytest.mark.parametrize("overlap", OVERLAPS)
@given(lanes=LANES, ranks=RANKS)
def test_as_much_is_kept_as_the_scheme_lets_stand(
    overlap: Overlap, lanes: dict[str, list[Span]], ranks: dict[str, int]
) -> None:
    """Of rules those of a higher rank first, of one rank the longest."""
    wanted: list[Span] = []
    for name in ORDER:
        if name == "lists" and "tagger" in lanes:
            continue
        own = sorted(lanes.get(name, []), key=lambda s: (s.start - s.end, s.start, s.type))
        if name == "rules":
            own = [span for rank in (1, 0, -1) for span in own if ranks.get(span.maker, 0) == rank]
        for span in own:
            if span not in wanted and not forbidden_pairs([*wanted, span], overlap):
                wanted.append(span)
    assert resolve(lanes, overlap=overlap, ranks=ranks) == sorted(wanted)


def test_nested_spans_reach_the_answer_where_the_scheme_has_them() -> None:
    lanes = {
        "tagger": [Span(0, 20, "ORG"), Span(7, 15, "PRT")],
        "rules": [Span(10, 25, "BTH"), Span(7, 15, "VES")],
    }
    assert resolve(lanes) == [Span(0, 20, "ORG")]
    nested = [Span(0, 20, "ORG"), Span(7, 15, "PRT"), Span(7, 15, "VES")]
    assert resolve(lanes, overlap="nested") == nested
    assert resolve(lanes, overlap="free") == [*nested, Span(10, 25, "BTH")]
