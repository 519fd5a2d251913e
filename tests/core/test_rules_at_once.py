"""Rules held against many texts at once find what they find text by text."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from urdaten.core.rules import LineRule, line_rule, many, match_rules
from urdaten.core.text import batch_of
from urdaten.errors import BadPattern

PATTERNS = (
    r"^a",
    r"b$",
    r"\d+",
    r"a(?P<mark>\s?b)",
    r"(?<=a )b|a(?=\d)",
    r"(?<!a)\d",
    r"\bb\b",
    r" +",
    r"\d{2}(?: t)?",
    r"(?P<mark>t)?a",
    "(?:a|aa|a?b?a)+b",
)
BODIES = st.lists(st.text(alphabet="ab 1t2.\r\n\u2028", max_size=30), max_size=6)


def one_by_one(rule: LineRule, bodies: list[str]) -> tuple[list[tuple[int, int, int]], dict[int, str]]:
    found = []
    troubles = {}
    for k, analysis in enumerate(batch_of(bodies).analyses):
        try:
            found += [(k, s.start, s.end) for s in rule.match(analysis)]
        except BadPattern as fault:
            troubles[k] = fault.message
    return found, troubles


def at_once(
    rules: list[LineRule], bodies: list[str]
) -> list[tuple[list[tuple[int, int, int]], dict[int, str]]]:
    batch = batch_of(bodies)
    return [
        (
            list(
                zip(
                    batch.text[made.first].tolist(),
                    batch.start[made.first].tolist(),
                    batch.end[made.last - 1].tolist(),
                    strict=True,
                )
            ),
            made.troubles,
        )
        for made in match_rules(rules, batch)
    ]


RULES = [LineRule(name=f"r{k}", type="QTY", pattern=pattern) for k, pattern in enumerate(PATTERNS)]


@pytest.mark.parametrize("block", [1, 25, 10_000])
@settings(deadline=None)
@given(bodies=BODIES, steps=st.sampled_from([2_000_000, 700, 250, 30]))
def test_they_find_what_they_find_text_by_text(block: int, bodies: list[str], steps: int) -> None:
    with pytest.MonkeyPatch.context() as small:
        small.setattr(many, "BLOCK", block)
        small.setattr(many, "STEPS", steps)
        small.setattr(line_rule, "STEPS", steps)
        small.setattr(line_rule, "STEPS_A_SIGN", 5)
        assert at_once(RULES, bodies) == [one_by_one(rule, bodies) for rule in RULES]


def test_no_texts_and_no_rules() -> None:
    assert match_rules(RULES[:1], batch_of([]))[0].troubles == {}
    assert match_rules([], batch_of(["a"])) == []
