"""Lists and their matching."""

from __future__ import annotations

from dataclasses import replace

import pytest

from urdaten.core.lists import Entry, Gazetteer, ListOptions, NameList
from urdaten.core.text import Vocabulary, analyse, batch_of

VESSELS = NameList(
    name="vessels",
    type="VES",
    entries=(
        Entry(preferred="Amber Quay", variants=("A. Quay",)),
        Entry(preferred="Lindmoor"),
        Entry(preferred="Corrie Lindmoor"),
        Entry(preferred="Seamen's Rest"),
    ),
)
PORTS = NameList(name="ports", type="PRT", entries=(Entry(preferred="Lindmoor", variants=("LMR",)),))
CARGO = NameList(name="cargo", type="CGO", entries=(Entry(preferred="amber"), Entry(preferred="steel coil")))


def found(body: str, *lists: NameList) -> list[tuple[str, str]]:
    spans = Gazetteer(lists or (VESSELS, PORTS, CARGO)).match(analyse(body))
    return [(span.type, body[span.start : span.end]) for span in spans]


def test_the_longest_name_of_a_type_is_found_at_each_place() -> None:
    assert found("Corrie Lindmoor sailed", VESSELS) == [("VES", "Corrie Lindmoor")]


def test_types_do_not_stand_in_each_others_way() -> None:
    assert found("Corrie Lindmoor sailed") == [("VES", "Corrie Lindmoor"), ("PRT", "Lindmoor")]


def test_case_does_not_count_but_a_capital_is_not_given_up() -> None:
    assert found("AMBER QUAY with STEEL COIL", VESSELS, CARGO) == [
        ("CGO", "AMBER"),
        ("VES", "AMBER QUAY"),
        ("CGO", "STEEL COIL"),
    ]
    assert found("the amber quay of the harbour", VESSELS) == []


def test_apostrophes_are_alike() -> None:
    assert found("at the Seamen’s Rest") == [("VES", "Seamen’s Rest")]


def test_a_name_does_not_run_over_the_end_of_a_sentence() -> None:
    assert found("He saw Corrie. Lindmoor was next.", VESSELS) == [("VES", "Lindmoor")]


def test_a_span_names_entry_and_variant() -> None:
    (span,) = Gazetteer([PORTS]).match(analyse("ex LMR today"))
    assert span.why == "list ports, entry “Lindmoor”, variant “LMR”"
    assert (span.source, span.maker) == ("lists", "ports")


def test_preferred_names() -> None:
    gazetteer = Gazetteer([VESSELS, PORTS])
    assert gazetteer.preferred("A. QUAY", "VES") == "Amber Quay"
    assert gazetteer.preferred("lmr", "PRT") == "Lindmoor"
    assert gazetteer.preferred("LMR", "VES") is None
    assert gazetteer.preferred("nowhere", "PRT") is None


def test_two_entries_for_one_writing_give_no_preferred_name() -> None:
    twice = NameList(
        name="agents",
        type="ORG",
        entries=(Entry(preferred="North", variants=("NB",)), Entry(preferred="New", variants=("NB",))),
    )
    assert Gazetteer([twice]).preferred("NB", "ORG") is None


def test_an_empty_gazetteer_finds_nothing() -> None:
    assert Gazetteer([]).match(analyse("Amber Quay")) == []
    blank = NameList(name="x", type="VES", entries=(Entry(preferred=" "),))
    assert Gazetteer([blank]).match(analyse("Amber Quay")) == []


def test_lists_of_one_type_find_each_for_itself() -> None:
    other = NameList(name="others", type="VES", entries=(Entry(preferred="Corrie"),))
    spans = Gazetteer([VESSELS, other]).match(analyse("Corrie Lindmoor sailed"))
    assert [(s.maker, s.start, s.end) for s in spans] == [("others", 0, 6), ("vessels", 0, 15)]


def test_of_names_that_overlap_the_first_is_found() -> None:
    names = NameList(name="x", type="VES", entries=(Entry(preferred="A B"), Entry(preferred="B C D")))
    assert found("A B C D", names) == [("VES", "A B")]


def test_a_vocabulary_that_grows_is_followed() -> None:
    gazetteer = Gazetteer([VESSELS])
    vocabulary = Vocabulary()
    for body, count in (("nothing", 0), ("Corrie Lindmoor sails", 1), ("The Amber Quay", 1), ("Lindmoor", 1)):
        assert len(gazetteer.match(analyse(body, vocabulary=vocabulary))) == count


def test_a_list_has_slips_for_itself() -> None:
    strict = NameList(name="strict", type="PRT", entries=(Entry(preferred="Lindmoor"),))
    lax = NameList(
        name="lax", type="VES", entries=(Entry(preferred="Lindmoor"),), options=ListOptions(slips=True)
    )
    assert found("Lindmor, Lindmoor", strict, lax) == [
        ("VES", "Lindmor"),
        ("PRT", "Lindmoor"),
        ("VES", "Lindmoor"),
    ]
    bare = replace(strict, options=ListOptions(accents=False))
    assert found("Lindmor, Lindmoor", bare, lax) == found("Lindmor, Lindmoor", strict, lax)
    (span, _) = Gazetteer([lax]).match(analyse("Lindmor, Lindmoor"))
    assert span.why == "list lax, entry “Lindmoor”, with a slip"


def test_places_in_small_letters_are_told() -> None:
    names = NameList(
        name="x",
        type="VES",
        entries=(
            Entry(preferred="Amber", variants=("Amber Quay",), number=5),
            Entry(preferred="coal", number=6),
            Entry(preferred="7 Sisters", number=7),
        ),
    )
    for options in (ListOptions(), ListOptions(case="any")):
        small = (
            Gazetteer([replace(names, options=options)])
            .read(batch_of(["Amber and coal", "amber quay, amber, 7 sisters, Coal"]))
            .small
        )
        assert list(small) == [(1, 5)] * 3
    exact = replace(names, options=ListOptions(case="exact"))
    assert not Gazetteer([exact]).read(batch_of(["amber"])).small


def test_accents_count_for_a_list_though_they_do_not_for_another() -> None:
    strict = NameList(name="strict", type="PRT", entries=(Entry(preferred="Orré"),))
    lax = NameList(
        name="lax", type="VES", entries=(Entry(preferred="Orré"),), options=ListOptions(accents=False)
    )
    assert found("Orre, Orré", strict, lax) == [("VES", "Orre"), ("PRT", "Orré"), ("VES", "Orré")]


@pytest.mark.parametrize(
    ("word", "is_found"),
    [
        ("Haldis", True),
        ("Hladis", True),
        ("Haldsi", True),
        ("Haldi", True),
        ("aldis", True),
        ("Haldiss", True),
        ("xHaldis", True),
        ("Haldes", True),
        ("Haldess", False),
        ("Hlaids", False),
        ("Hald1s", False),
        ("Hals", False),
    ],
)
def test_one_slip_and_no_more(word: str, is_found: bool) -> None:
    names = NameList(
        name="x",
        type="VES",
        entries=(Entry(preferred="Haldis"),),
        options=ListOptions(slips=True, case="any"),
    )
    assert found(word, names) == ([("VES", word)] if is_found else [])
    assert found("Quai", replace(names, entries=(Entry(preferred="Quay"),))) == []


@pytest.mark.parametrize(
    ("body", "count"),
    [
        ("a b c n", 1),
        ("a b c x n", 0),
        ("b x n", 1),
        ("b x x n", 0),
        ("n x b", 1),
        ("n x x b", 0),
        ("n a b c", 1),
        ("b.\n\nn", 0),
        ("n.\n\nb", 0),
        ("x n", 0),
    ],
)
def test_words_that_have_to_be_near(body: str, count: int) -> None:
    names = NameList(
        name="x",
        type="VES",
        entries=(Entry(preferred="n"),),
        options=ListOptions(near=("b", "a b c"), within=2, not_after=("x x",)),
    )
    # The phrase of three tokens lies within two of nothing; its b does.
    assert len(found(body, names)) == count
