"""Texts that are nearly the same are found, and their likeness is exact."""

from __future__ import annotations

import random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from urdaten.core.text import Like, fold, like_earlier, token_forms

WORDS = st.lists(
    st.sampled_from("amber quay in from lindmoor salt the ship Ship waits at two".split()), max_size=12
)


def runs(body: str) -> set[tuple[str, ...]]:
    """Every run of three words, or all that there are."""
    words = [fold(form) for form in token_forms(body)]
    if len(words) < 3:
        return {tuple(words)} if words else set()
    return {tuple(words[n : n + 3]) for n in range(len(words) - 2)}


def share(one: str, other: str) -> float:
    a, b = runs(one), runs(other)
    return len(a & b) / len(a | b) if a and b else 0.0


@given(st.lists(WORDS.map(" ".join), max_size=12))
def test_likeness_is_what_a_slow_count_says(bodies: list[str]) -> None:
    found = like_earlier(bodies, least=0.999)
    for like in found:
        assert like.share == pytest.approx(share(bodies[like.text], bodies[like.earlier]))
    # Those that are the same are found for certain: their sketches are.
    same = {
        n: next(m for m in range(n) if runs(bodies[m]) == runs(body))
        for n, body in enumerate(bodies)
        if runs(body) and any(runs(bodies[m]) == runs(body) for m in range(n))
    }
    assert {like.text: like.earlier for like in found} == same


def test_texts_with_a_few_changed_words_are_found() -> None:
    chance = random.Random(7)
    words = [f"word{n}" for n in range(4000)]
    bodies = [" ".join(chance.choices(words, k=80)) for _ in range(300)]
    changed = []
    for body in bodies:
        own = body.split()
        own[chance.randrange(80)] = "another"
        changed.append(" ".join(own))
    found = like_earlier([*bodies, *changed], least=0.8, since=300)
    assert [(like.text, like.earlier) for like in found] == [(300 + n, n) for n in range(300)]
    for like in found:
        assert like.share == pytest.approx(share(bodies[like.earlier], changed[like.text - 300]))
        assert like.share > 0.9


def test_texts_of_their_own_are_like_none() -> None:
    assert like_earlier(["one two three four", "five six seven eight"]) == []
    assert like_earlier([]) == []
    assert like_earlier(["", " ", "?"]) == []
    # Half of the runs are not enough.
    assert like_earlier(["a b c d e f", "a b c d x y"]) == []


def test_the_likest_of_the_earlier_ones_is_named() -> None:
    long = " ".join(f"w{n}" for n in range(40))
    assert like_earlier([f"{long} x y", long, long.upper()]) == [
        Like(1, 0, pytest.approx(share(long, f"{long} x y"))),  # type: ignore[arg-type] # compares as a number
        Like(2, 1, 1.0),
    ]
    assert [like.text for like in like_earlier([long, long, long], since=2)] == [2]


def test_many_copies_of_one_text_are_found_in_good_time() -> None:
    found = like_earlier(["the very same words again and again"] * 3000)
    assert len(found) == 2999
    assert {like.share for like in found} == {1.0}
    assert all(like.earlier < like.text for like in found)
