"""Which part of a rule took which words: an alignment of what the machine found."""

from __future__ import annotations

from itertools import pairwise

import pytest
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

from core.slow_rules import ends_of
from core.test_rule_matching import _SPANS, BASE, RULES, TEXTS, _held, _listed, _made
from urdaten.core.rules import Explained, Rule, match_rules, places_of, tree
from urdaten.core.spans import SpanTable
from urdaten.core.text import batch_of


def slots(text: str, body: str, find: int = 0) -> list[tuple[int, str, bool, str]]:
    """Of one find of a rule: place, what is said of the part, whether it is marked, and the words that it took."""
    rule = Rule(name="r", type="PER", text=text).compiled(None, BASE)
    batch = batch_of([body])
    (finds,) = match_rules([rule], batch, SpanTable.empty())
    explained = Explained(rule, batch, SpanTable.empty())
    own = explained.slots(int(finds.first[find]), int(finds.last[find]))
    return [(one.place, one.said, one.marked, explained.words(one.first, one.last)) for one in own]


def test_every_part_has_the_words_that_it_took() -> None:
    assert slots("'pilot' [ optional initial 1 to 3 capital ] up to 3 any 'boarded'", "Then pilot J. Amber Vane has boarded.") == [
        (0, "“pilot”", False, "pilot"),
        (1, "an initial", True, "J"),
        (2, "“.” written just so", True, "."),
        (3, "a word with a capital", True, "Amber"),
        (3, "a word with a capital", True, "Vane"),
        (4, "any word", False, "has"),
        (5, "“boarded”", False, "boarded"),
    ]  # fmt: skip


def test_marks_before_and_behind_are_of_the_match() -> None:
    text = "[ capital ] 'from' [ capital ] as PRT 'to' [ capital ] as PRT"
    body = "Tern from Varnby to Ostvar sails."
    whole = [(0, "Tern"), (1, "from"), (2, "Varnby"), (3, "to"), (4, "Ostvar")]
    for find in range(3):
        assert [(place, words) for place, _, _, words in slots(text, body, find)] == whole
    assert [marked for _, _, marked, _ in slots(text, body)] == [True, False, True, False, True]


def test_what_is_left_out_of_a_mark_is_part_of_it() -> None:
    text = "'with' [ 1 to 5 letters minus 'of' ] ','"
    body = "Comes with oats of Varnby, sails."
    for find in range(2):
        assert [words for *_, words in slots(text, body, find)] == ["with", "oats", "of", "Varnby", ","]


def test_edges_take_no_words_and_the_line_that_matched_is_told() -> None:
    body = "Tern sails. She waits"
    rule = Rule(
        name="r", type="PER", text="'never' [ any ]\nsentence start [ capital ] 'waits' sentence end"
    ).compiled()
    batch = batch_of([body])
    (finds,) = match_rules([rule], batch, SpanTable.empty())
    own = Explained(rule, batch, SpanTable.empty()).slots(int(finds.first[0]), int(finds.last[0]))
    assert [(one.line, one.place, one.last - one.first) for one in own] == [
        (1, 0, 0),
        (1, 1, 1),
        (1, 2, 1),
        (1, 3, 0),
    ]


def test_what_would_take_too_long_is_not_explained(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("urdaten.core.rules.slots.STEPS", 20)
    assert slots("[ 1 or more (capital, 1 or more small) ]", "a b c d e f g h") == []


def test_places_tell_what_wrong_finds_have_in_common() -> None:
    rule = Rule(name="r", type="PER", text="('pilot' or 'crane') [ capital ]").compiled()
    batch = batch_of(["pilot Vane", "pilot Marsh", "crane Otto", "crane Vane", "pilot Vane"])
    (finds,) = match_rules([rule], batch, SpanTable.empty())
    right = [True, True, False, False, True]
    judged = zip(finds.first.tolist(), finds.last.tolist(), right, strict=True)
    before, marked = places_of(Explained(rule, batch, SpanTable.empty()), judged)
    assert (before.said, before.marked, before.values) == (
        "“pilot” or “crane”",
        False,
        (("crane", 0, 2), ("pilot", 3, 0)),
    )
    assert (marked.line, marked.place, marked.marked) == (0, 1, True)
    assert marked.values == (("Vane", 2, 1), ("Otto", 0, 1), ("Marsh", 1, 0))


@settings(
    max_examples=150, deadline=None, suppress_health_check=[HealthCheck.filter_too_much, HealthCheck.too_slow]
)
@given(
    rule=RULES, bodies=st.lists(TEXTS, min_size=1, max_size=2), spans=st.lists(_SPANS, min_size=2, max_size=2)
)
def test_slots_stand_one_behind_the_other_and_each_can_be_what_it_took(
    rule: str, bodies: list[str], spans: list[list[tuple[int, int, str]]]
) -> None:
    made = _made(rule)
    assume(made is not None)
    assert made is not None
    batch = batch_of(bodies)
    listed = _listed(batch, spans[: len(bodies)])
    (found,) = match_rules([made], batch, listed)
    assume(len(found.first))
    explained = Explained(made, batch, listed)
    for first, last in zip(found.first.tolist(), found.last.tolist(), strict=True):
        own = explained.slots(first, last)
        assert own, rule
        text = int(batch.text[first])
        begin = int(batch.first[text])
        held = _held(batch, listed, text)
        unit = next((a, b) for a, b in held.units(made.whole.across) if a <= first - begin < b)
        for one, after in pairwise(own):
            assert one.last == after.first
        leaves = [
            leaf for k, line in enumerate(made.whole.lines) if k == own[0].line for leaf in _leaves(line)
        ]
        for one in own:
            assert one.last - begin in ends_of(leaves[one.place], held, one.first - begin, unit)
        # What is marked is among what marked parts took.
        assert any(one.marked and one.first <= first < one.last for one in own)


def _leaves(line: tree.Line) -> list[tree.Node]:
    parts = [
        node for pair in zip(line.contexts, line.marks, strict=False) for node in (pair[0], pair[1].part)
    ]
    return [leaf for node in (*parts, line.contexts[-1]) for leaf in _flat(node)]


def _flat(node: tree.Node) -> list[tree.Node]:
    match node:
        case tree.Row(parts) | tree.Choice(parts):
            return [leaf for part in parts for leaf in _flat(part)]
        case tree.Repeat(part):
            return _flat(part)
        case _:
            return [node]
