"""The memory of signed names, also against counting everything anew."""

from __future__ import annotations

from collections import Counter

from hypothesis import given
from hypothesis import strategies as st

from urdaten.core.memory import Name, NameMemory, Told, places_of

PELLIN = "the Pellin sailed".split()


def memory(*sentences: tuple[str, list[tuple[int, int, str]]]) -> NameMemory:
    made = NameMemory()
    for number, (words, marked) in enumerate(sentences):
        made.learn(number, words.split(), marked)
    return made


def test_a_name_signed_twice_is_told_at_once() -> None:
    held = memory(("the Pellin sailed", [(1, 2, "VES")]))
    assert held.names_in(["Pellin", "sails"]) == []
    held.learn(7, ["PELLIN", "stays"], [(0, 1, "VES")])
    assert held.names_in(["Pellin", "sails"]) == [Name(0, 1, "VES", 2)]


def test_a_name_that_was_ever_otherwise_is_not_told() -> None:
    twice = [("the Pellin sailed", [(1, 2, "VES")])] * 2
    for words, marked in (
        ("Pellin came", [(0, 1, "PRT")]),  # another type
        ("Pellin came", []),  # bare
        ("Pellin Star came", [(0, 2, "VES")]),  # part of a longer one
    ):
        assert memory(*twice, (words, marked)).names_in(PELLIN) == []
    assert memory(*twice, ("Star came", [])).names_in(PELLIN) == [Name(1, 2, "VES", 2)]


def test_the_longer_of_two_names_is_told() -> None:
    held = memory(
        *[("Sill Wharf 4 and Ness", [(0, 3, "BTH"), (4, 5, "PRT")])] * 2, *[("Ness", [(0, 1, "PRT")])] * 2
    )
    held.learn(9, ["Ness", "Wharf"], [(0, 2, "ORG")])
    held.learn(10, ["Ness", "Wharf"], [(0, 2, "ORG")])
    # Ness alone was part of a longer name too.
    assert held.names_in("at Sill Wharf 4 , Ness Wharf and Ness".split()) == [
        Name(1, 4, "BTH", 2),
        Name(5, 7, "ORG", 2),
    ]


def test_a_sentence_suggests_nothing_to_itself() -> None:
    held = memory(*[("the Pellin sailed", [(1, 2, "VES")])] * 2)
    assert held.names_in(PELLIN, besides=0) == []
    held.learn(2, PELLIN, [(1, 2, "VES")])
    assert held.names_in(PELLIN, besides=0) == [Name(1, 2, "VES", 2)]
    held.learn(0, PELLIN, [(1, 2, "ORG")])
    assert held.names_in(PELLIN, besides=0) == [Name(1, 2, "VES", 2)]
    assert held.names_in(PELLIN, besides=1) == []


def test_what_is_forgotten_counts_no_more() -> None:
    held = memory(*[("the Pellin sailed", [(1, 2, "VES")])] * 2, ("Pellin waits", []))
    held.forget(2)
    held.forget(99)
    assert held.names_in(PELLIN) == [Name(1, 2, "VES", 2)]
    held.learn(1, PELLIN, [])
    assert held.tell(["pellin"]) == Told(Counter(VES=1), Counter(), 1, [0, 1])
    assert 1 in held
    assert 2 not in held
    assert len(held) == 2


def test_words_are_told_as_span_as_part_and_bare() -> None:
    held = memory(
        ("Sill Wharf , Sill Wharf 4 and Sill", [(0, 2, "ORG"), (3, 6, "BTH")]),
        ("no sill wharf", []),
    )
    assert held.tell(["Sill", "Wharf"]) == Told(Counter(ORG=1), Counter(BTH=1), 1, [0, 1])
    assert held.tell(["Wharf", "Sill"]) == Told()
    assert held.tell([]) == Told()


def test_the_share_of_known_words() -> None:
    held = memory(("the Pellin sailed", []))
    assert held.share_known(["THE", "Haldis"]) == 0.5
    assert held.share_known([]) == 1.0


WORDS = st.lists(st.sampled_from("abc"), min_size=1, max_size=6)


@st.composite
def sentences(draw: st.DrawFn) -> tuple[list[str], list[tuple[int, int, str]]]:
    words = draw(WORDS)
    ends = sorted(draw(st.sets(st.integers(0, len(words)), max_size=4)))
    marked = [(a, b, draw(st.sampled_from("XY"))) for a, b in zip(ends[::2], ends[1::2], strict=False)]
    return words, marked


@given(
    st.lists(sentences(), max_size=6), st.lists(st.tuples(st.integers(0, 5), sentences()), max_size=6), WORDS
)
def test_learning_by_and_by_is_learning_at_once(
    first: list[tuple[list[str], list[tuple[int, int, str]]]],
    later: list[tuple[int, tuple[list[str], list[tuple[int, int, str]]]]],
    asked: list[str],
) -> None:
    one, standing = NameMemory(), dict(enumerate(first))
    for number, (words, marked) in [*enumerate(first), *later]:
        one.learn(number, words, marked)
    standing.update(later)
    whole = NameMemory()
    for number, (words, marked) in standing.items():
        whole.learn(number, words, marked)
    assert one.names_in(asked) == whole.names_in(asked)
    told, expected = one.tell(asked), whole.tell(asked)
    assert (told.as_span, told.inside, told.bare) == (expected.as_span, expected.inside, expected.bare)
    for name in one.names_in(asked):
        alone = whole.tell(asked[name.first : name.last])
        assert (alone.as_span, sum(alone.inside.values()), alone.bare) == ({name.type: name.times}, 0, 0)


def test_places_of_a_run_are_found_whatever_their_case() -> None:
    words = "the TUG Pellin and the tug pellin met a tug".split()
    assert places_of(["tug", "Pellin"], words) == [(1, 3), (5, 7)]
    assert places_of(["a", "a"], ["a", "a", "A"]) == [(0, 2), (1, 3)]
    assert places_of([], words) == []
    assert places_of(words, ["tug"]) == []
