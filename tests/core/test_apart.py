"""Sentences without what stands aside."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from urdaten.core.text import apart_from

Bounds = tuple[int, int]


def words(body: str, bounds: list[Bounds]) -> list[str]:
    return [body[a:b] for a, b in bounds]


def test_a_sentence_is_parted_where_something_stands_aside() -> None:
    body = "I agree,\n> he said no.\nwith that. Yours, Vane"
    aside = [(9, 22), (34, 45)]
    assert words(body, apart_from([(0, 33), (34, 45)], aside, body)) == ["I agree,", "with that."]
    assert words(body, apart_from([(0, 33), (34, 45)], [], body)) == [body[:33], body[34:]]
    assert apart_from([(9, 22)], aside, body) == []


@st.composite
def apart(draw: st.DrawFn, length: int) -> list[Bounds]:
    cuts = sorted(draw(st.sets(st.integers(0, length), max_size=8)))
    return [(a, b) for a, b in zip(cuts[::2], cuts[1::2], strict=False)]


@given(st.data())
def test_every_sign_stays_that_does_not_stand_aside(data: st.DataObject) -> None:
    body = data.draw(st.text("ab ", max_size=30))
    sentences, aside = data.draw(apart(len(body))), data.draw(apart(len(body)))
    made = apart_from(sentences, aside, body)
    held = [k for a, b in made for k in range(a, b) if not body[k].isspace()]
    assert held == [
        k
        for a, b in sentences
        for k in range(a, b)
        if not body[k].isspace() and not any(c <= k < d for c, d in aside)
    ]
    assert all(body[a:b] == body[a:b].strip() != "" for a, b in made)
