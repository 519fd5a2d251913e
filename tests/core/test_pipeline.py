"""Resolution of lanes."""

from __future__ import annotations

from urdaten.core.pipeline import resolve
from urdaten.core.spans import Span

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
