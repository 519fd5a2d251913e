"""What becomes of names that come into a list."""

from __future__ import annotations

from itertools import product

from hypothesis import given
from hypothesis import strategies as st

from urdaten.core.lists import Arrival, Arrivals, spelling_key

HELD = [
    (7, Arrival(name="Amber Quay", variants=("A. Quay",), identifier="V1")),
    (9, Arrival(name="Haldis", note="tug", on=False)),
]


def test_each_fate() -> None:
    arrivals = Arrivals(HELD)
    told = [
        arrivals.take(Arrival(name="amber  quay")),
        arrivals.take(Arrival(name="Haldis", variants=("Hald.",), identifier="V2", note="ship")),
        arrivals.take(Arrival(name="a. quay")),
        arrivals.take(Arrival(name="Osk")),
        arrivals.take(Arrival(name="OSK", variants=("O.",))),
        arrivals.take(Arrival(name="Quay of Amber", identifier="V1")),
    ]
    assert [fate for fate, _ in told] == ["changed", "changed", "variant", "new", "double", "double"]
    assert arrivals.added == [Arrival(name="Osk", variants=("OSK", "O."))]
    assert arrivals.changed == {
        7: Arrival(name="Amber Quay", variants=("A. Quay", "amber  quay", "Quay of Amber"), identifier="V1"),
        9: Arrival(name="Haldis", variants=("Hald.",), identifier="V2", note="tug", on=False),
    }
    assert arrivals.unmet == []


def test_what_has_not_come_is_told() -> None:
    arrivals = Arrivals(HELD)
    assert arrivals.take(Arrival(name="Amber Quay"))[0] == "same"
    assert arrivals.unmet == [9]
    assert (arrivals.added, arrivals.changed) == ([], {})


NAME = st.sampled_from(["Amber", "amber", "Quay", "A. Q.", "Osk", "Haldis", "HALDIS", "é"])
ARRIVAL = st.builds(
    lambda name, variants, identifier, note: Arrival(
        name=name,
        variants=tuple(v for v in dict.fromkeys(variants) if v != name),
        identifier=identifier,
        note=note,
    ),
    NAME,
    st.lists(NAME, max_size=2),
    st.sampled_from(["", "", "1", "2"]),
    st.sampled_from(["", "x"]),
)


@given(st.lists(ARRIVAL, max_size=8), st.lists(ARRIVAL, max_size=8))
def test_what_came_once_changes_nothing_when_it_comes_again(
    first: list[Arrival], second: list[Arrival]
) -> None:
    arrivals = Arrivals([])
    for one in first:
        arrivals.take(one)
    held = dict(enumerate(arrivals.added, start=1))
    # No two of one name, whatever came.
    keys = [spelling_key(one.name) for one in held.values()]
    assert len(set(keys)) == len(keys)
    again = Arrivals(held.items())
    fates = [again.take(one)[0] for one in first]
    assert (again.added, again.changed) == ([], {})
    assert "new" not in fates
    assert "changed" not in fates
    # Every way in which a name came is in the list then, under one of its names.
    written = {spelling_key(way) for one in held.values() for way in (one.name, *one.variants)}
    assert {spelling_key(one.name) for one in first} <= written
    for one in second:
        again.take(one)
    for number, one in held.items():
        now = again.changed.get(number, one)
        assert (now.name, now.on) == (one.name, one.on)
        assert set(one.variants) <= set(now.variants)
        assert now.identifier == (one.identifier or now.identifier)


def test_of_two_that_are_told_apart_elsewhere_each_is_a_name_of_its_own() -> None:
    arrivals = Arrivals([(1, Arrival(name="Amber", variants=("Quay",), identifier="1"))])
    assert arrivals.take(Arrival(name="quay"))[0] == "variant"
    assert arrivals.take(Arrival(name="Quay", identifier="2")) == ("new", None)


def test_files_that_contradict_themselves_change_nothing_when_they_come_again() -> None:
    """One name with two identifiers, one identifier with two names, names that are each other's variants: every run of three."""
    names = ("Amber", "Quay", "Osk")
    every = [
        Arrival(name=name, variants=variants, identifier=identifier)
        for name in names
        for variants in ((), *((other,) for other in names if other != name))
        for identifier in ("", "1", "2")
    ]
    for run in product(every, repeat=3):
        arrivals = Arrivals([])
        for one in run:
            arrivals.take(one)
        again = Arrivals(enumerate(arrivals.added, start=1))
        for one in run:
            again.take(one)
        assert (again.added, again.changed) == ([], {}), run
