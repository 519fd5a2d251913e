"""Rules offered from gold: what is offered is what it says it is, and nothing is learnt from what nobody has signed."""

from __future__ import annotations

from hypothesis import given, settings
from hypothesis import strategies as st

from core.test_rule_matching import BASE
from urdaten.core.rules import Offer, Offers, Rule, match_rules
from urdaten.core.rules.material import LEAST
from urdaten.core.spans import Span, SpanTable
from urdaten.core.text import Batch, batch_of

Range = tuple[int, int, int]
PILOTS = (
    "The pilot Vane boarded at 0410.",
    "Then pilot Marsh boarded.",
    "No pilot Hask boarded here.",
    "Our pilot Lindley boarded at noon.",
    "Captain Vane slept.",
    "The ship Marsh sailed.",
    "The ship Hask sailed at 0500.",
)


def ranges_of(bodies: tuple[str, ...], words: str) -> list[Range]:
    """Where words stand, once in each text that has them."""
    return [(k, at, at + len(words)) for k, body in enumerate(bodies) if (at := body.find(words)) >= 0]


def pilots(bodies: tuple[str, ...] = PILOTS) -> list[Range]:
    found = []
    for k, body in enumerate(bodies):
        words = body.split()
        for before, name, after in zip(words, words[1:], words[2:], strict=False):
            if before == "pilot" and after.startswith("boarded"):
                found.append((k, body.index(name), body.index(name) + len(name)))
    return found


def offered(
    bodies: tuple[str, ...],
    gold: list[Range],
    *,
    signed: list[Range] | None = None,
    spans: list[list[Span]] | None = None,
    lists: tuple[str, ...] = (),
    most: int = 5,
) -> list[Offer]:
    batch = batch_of(bodies)
    table = SpanTable.of_spans(spans or [[] for _ in bodies])
    whole = [(k, 0, len(body)) for k, body in enumerate(bodies)] if signed is None else signed
    return list(Offers(batch, table, whole, gold, type="PER", lists=lists).found(most))


def test_what_stands_around_gold_is_offered_with_what_it_finds() -> None:
    first = offered(PILOTS, pilots())[0]
    assert (first.right, first.wrong, first.adds) == (4, 0, 4)
    assert first.pattern in ("'pilot' [ capital ]", "[ capital ] 'boarded'")
    # Everything is found by it, so nothing is left to offer.
    assert len(offered(PILOTS, pilots())) == 1


def test_without_gold_nothing_is_offered() -> None:
    assert offered(PILOTS, []) == []
    assert offered((), []) == []
    assert offered(PILOTS, pilots()[: LEAST - 1]) == []
    assert offered(PILOTS, pilots(), most=0) == []


def test_what_nobody_has_signed_counts_for_nothing() -> None:
    # Two of the four are in unsigned sentences: too few are left.
    signed = [(k, 0, len(PILOTS[k])) for k in (0, 1, 4, 5, 6)]
    assert offered(PILOTS, pilots()[:2], signed=signed) == []
    # A wrong find in an unsigned sentence is none.
    more = PILOTS + PILOTS[:4]
    signed = [(k, 0, len(body)) for k, body in enumerate(PILOTS)]
    assert [(one.right, one.wrong) for one in offered(more, pilots(), signed=signed)] == [(4, 0)]
    assert offered(more, pilots()) == []


def test_what_rules_find_already_is_not_offered_again() -> None:
    found = [[] for _ in PILOTS]  # type: list[list[Span]]
    for k, start, end in pilots():
        found[k].append(Span(start, end, "PER", "rules", None, "", "a rule"))
    assert offered(PILOTS, pilots(), spans=found) == []
    # Where they find one of four, three are added.
    one = [own if k == 0 else [] for k, own in enumerate(found)]
    assert [(x.right, x.adds) for x in offered(PILOTS, pilots(), spans=one)] == [(4, 3)]
    # What only a list finds is.
    listed = [[Span(s.start, s.end, s.type, "lists", None, "", "people") for s in own] for own in found]
    first = offered(PILOTS, pilots(), spans=listed, lists=("people",))[0]
    assert (first.adds, first.wrong) == (4, 0)


def test_names_of_lists_and_spans_before_may_be_asked_for() -> None:
    bodies = tuple(
        f"{name} {verb} off the mole." for name in ("Tern", "Mud Lark", "Ada") for verb in ("lies", "rides")
    )
    spans = [
        [
            Span(
                0,
                body.index(" off") - body.split(" off")[0][::-1].index(" ") - 1,
                "VES",
                "lists",
                None,
                "",
                "ships",
            )
        ]
        for body in bodies
    ]
    gold = [(k, own[0].start, own[0].end) for k, own in enumerate(spans)]
    first = offered(bodies, gold, spans=spans, lists=("ships",))[0]
    assert first.right == 6
    assert "list(ships)" in first.pattern or "capital" in first.pattern
    # A list that may not be named is not.
    assert all("list(" not in one.pattern for one in offered(bodies, gold, spans=spans))


def test_words_that_hardly_are_anything_else_are_listed_together() -> None:
    bodies = tuple(f"All {word} is wet today." for word in ("salt", "salt", "coal", "coal", "coal", "rye"))
    gold = [(k, 4, 4 + len(body.split()[1])) for k, body in enumerate(bodies)]
    patterns = [one.pattern for one in offered((*bodies, "Then he is wet today."), gold)]
    assert patterns[0].startswith("'all' [")
    alone = tuple(f"{word} {word}" for word in ("salt", "coal", "rye", "salt", "coal", "rye"))
    gold = [(k, a, a + len(body) // 2) for k, body in enumerate(alone) for a in (0, len(body) // 2 + 1)]
    assert [one.pattern for one in offered((*alone, "the end"), gold)] == ["[ ('salt', 'coal', 'rye') ]"]
    # One that stands as often where it is nothing is left out.
    others = ("rye rye", "rye rye", "the end")
    assert [one.pattern for one in offered((*alone, *others), gold)] == ["[ ('salt', 'coal') ]"]


def test_what_is_wrong_too_often_is_not_offered_however_much_it_adds() -> None:
    bodies = ("The pilot Vane boarded.",) * 15
    assert [(one.right, one.wrong) for one in offered(bodies, pilots(bodies)[:13])] == [(13, 2)]
    assert offered(bodies, pilots(bodies)[:12]) == []


def _evaluated(pattern: str, batch: Batch, gold: set[Range], signed: set[int]) -> tuple[int, int]:
    rule = Rule(name="offer", type="PER", text=pattern).compiled(None, BASE)
    (finds,) = match_rules([rule], batch, SpanTable.empty())
    found = {
        (int(batch.text[a]), int(batch.start[a]), int(batch.end[b - 1]))
        for a, b in zip(finds.first.tolist(), finds.last.tolist(), strict=True)
    }
    judged = {one for one in found if one[0] in signed}
    return len(judged & gold), len(judged - gold)


WORDS = st.sampled_from(["pilot", "Ann", "Ben", "at", "12", "the", "salt", ","])


@settings(max_examples=60, deadline=None)
@given(
    bodies=st.lists(st.lists(WORDS, min_size=3, max_size=8).map(" ".join), min_size=6, max_size=14),
    picks=st.lists(
        st.tuples(st.integers(0, 13), st.integers(0, 7), st.integers(1, 2)), min_size=4, max_size=40
    ),
    signed=st.sets(st.integers(0, 13), min_size=6),
)
def test_every_figure_is_that_of_the_pattern_itself(
    bodies: list[str], picks: list[tuple[int, int, int]], signed: set[int]
) -> None:
    batch = batch_of(bodies)
    gold: set[Range] = set()
    for text, offset, length in picks:
        a = int(batch.first[text % len(bodies)]) + offset
        b = min(a + length, int(batch.first[text % len(bodies) + 1]))
        if b > a and text % len(bodies) in signed:
            gold.add((text % len(bodies), int(batch.start[a]), int(batch.end[b - 1])))
    whole = [(k, 0, len(body)) for k, body in enumerate(bodies) if k in signed]
    offers = list(Offers(batch, SpanTable.empty(), whole, sorted(gold), type="PER", base=BASE).found(4))
    again = list(Offers(batch, SpanTable.empty(), whole, sorted(gold), type="PER", base=BASE).found(4))
    assert offers == again
    for one in offers:
        right, wrong = _evaluated(one.pattern, batch, gold, signed)
        assert (one.right, one.wrong) == (right, wrong)
        assert LEAST <= one.adds <= one.right
        assert (right + 1) / (right + wrong + 2) >= 0.8
    assert sum(one.adds for one in offers) <= len(gold)
    assert len({one.pattern for one in offers}) == len(offers)


def test_a_rule_of_several_surroundings_is_found_where_one_is_not_enough() -> None:
    bodies = tuple(
        [f"from {name} with salt" for name in ("Varnby", "Denhaven", "Norrick", "Ostvar")]
        + [f"from {name} with regret" for name in ("Vane", "Marsh", "Hask", "Lindley")]
        + [f"for {name} with salt" for name in ("Averil", "Ostling", "Seltz", "Brack")]
    )
    gold = [(k, 5, 5 + len(body.split()[1])) for k, body in enumerate(bodies[:4])]
    first = offered(bodies, gold)[0]
    assert first.pattern == "'from' [ capital ] any 'salt'"
    assert (first.right, first.wrong) == (4, 0)
