"""Other ways to write a name, and names that may be of one thing."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from urdaten.core.lists import Kindred, ListOptions, kinship, spelling_key, touch_marks
from urdaten.core.lists.slips import one_slip
from urdaten.core.lists.ways import HYPHEN, MOST_WAYS, PLURAL, POSSESSIVE, ways
from urdaten.core.text import marks_of, plurals


@pytest.mark.parametrize(
    ("word", "made"),
    [
        ("berth", ("berths",)),
        ("wharf", ("wharfs", "wharves")),
        ("ferry", ("ferries",)),
        ("quay", ("quays",)),
        ("box", ("boxes",)),
        ("lens", ()),
        ("gas", ("gases",)),
        ("pass", ("passes",)),
        ("knife", ("knives", "knifes")),
        ("cargo", ("cargos", "cargoes")),
        ("Seaman", ("Seamen", "Seamans")),
        ("child", ("children",)),
        ("SHIP", ("SHIPS",)),
        ("TM-1", ()),
        ("x", ()),
    ],
)
def test_plurals(word: str, made: tuple[str, ...]) -> None:
    assert plurals(word, "en") == made
    assert plurals(word, "neutral") == ()


def test_a_name_is_written_in_other_ways() -> None:
    assert ways("Mill Stage", "en", endings=True, hyphens=False) == {"Mill Stage": 0, "Mill Stages": PLURAL}
    assert ways("Diver's Guild", "en", endings=True, hyphens=False) == {
        "Diver's Guild": 0,
        "Diver's Guilds": PLURAL,
        "Divers Guild": POSSESSIVE,
        "Divers’ Guild": POSSESSIVE,
        "Divers Guilds": PLURAL | POSSESSIVE,
        "Divers’ Guilds": PLURAL | POSSESSIVE,
    }
    assert list(ways("Divers Guild", "en", endings=True, hyphens=False))[1:3] == [
        "Diver’s Guild",
        "Divers’ Guild",
    ]
    assert ways("Lay-by East", "en", endings=False, hyphens=True) == {
        "Lay-by East": 0,
        "Lay by East": HYPHEN,
        "Lay-by-East": HYPHEN,
        "Lay by-East": HYPHEN,
    }
    assert ways("Lay-by", "en", endings=False, hyphens=False) == {"Lay-by": 0}
    assert ways(" ", "en", endings=True, hyphens=True) == {" ": 0}


def test_so_many_ways_and_no_more() -> None:
    many = ways("Fisher's Widow's Pilot's Mate's Guild", "en", endings=True, hyphens=True)
    assert len(many) == MOST_WAYS
    assert next(iter(many)) == "Fisher's Widow's Pilot's Mate's Guild"
    long = ways("a b c d e f g", "en", endings=False, hyphens=True)
    assert list(long) == ["a b c d e f g", "a-b-c-d-e-f-g"]


@pytest.mark.parametrize(
    ("one", "other", "kind"),
    [
        ("Lay-by", "Lay by", "signs"),
        ("ORRÉ", "Orre", "signs"),
        ("Amber Quay", "amber quay's", "signs"),
        ("Haldis", "Hadlis", "slip"),
        ("Amber Haldis", "Amber Haldiss", "slip"),
        ("Amber Quay", "Amber Quai", None),
        ("A. Quay", "Amber Quay", "initials"),
        ("Amber Q", "A. Quay", None),
        ("A. B.", "Amber Bell", "first letters"),
        ("Hask Bros", "Hask Brothers", "short words"),
        ("B. Hask Bros", "Bell Hask Brothers", "short words"),
        ("Hask", "Hask Brothers", "fewer words"),
        ("Brothers", "Hask Brothers", "fewer words"),
        ("the", "Fund of the", None),
        ("A&F", "Alder & Finch", "first letters"),
        ("FW", "Fisher of Widows", "first letters"),
        ("FOW", "Fisher of Widows", "first letters"),
        ("FX", "Fisher of Widows", None),
        ("Amber Tide", "Amber Quay", None),
        ("", "Amber Quay", None),
        ("’s", "Amber", None),
    ],
)
def test_kinship(one: str, other: str, kind: str | None) -> None:
    assert kinship(one, other) == kinship(other, one) == kind


def test_the_nearest_kin_come_first() -> None:
    names = ["Hask Brothers", "Hask Line", "Hask", "Hasks Bros", "Amber Quay", "Haldis"]
    kindred = Kindred(names)
    assert [(names[kin.place], kin.kind) for kin in kindred.of("HASK")] == [
        ("Hask", "signs"),
        ("Hask Brothers", "fewer words"),
        ("Hask Line", "fewer words"),
    ]
    assert [names[kin.place] for kin in kindred.of("HASK", most=1)] == ["Hask"]
    assert [names[kin.place] for kin in kindred.of("A Q")] == ["Amber Quay"]
    assert [names[kin.place] for kin in kindred.of("Hladis")] == ["Haldis"]
    assert [names[kin.place] for kin in kindred.of("Halids")] == ["Haldis"]
    assert kindred.of("Osk") == []


WORD = st.sampled_from(
    ["amber", "quay", "haldis", "hadlis", "haldiss", "a", "q", "bros", "brothers", "of", "aq", "lay-by"]
)
NAME = st.lists(WORD, min_size=1, max_size=3).map(" ".join)


@given(st.lists(NAME, max_size=6), NAME)
def test_kin_are_found_as_if_every_name_were_looked_at(names: list[str], name: str) -> None:
    found = {kin.place for kin in Kindred(names).of(name, most=100)}
    # What begins alike may be a shortening of any length, and shares no word: that alone is found by another of its words.
    assert found == {place for place, other in enumerate(names) if kinship(name, other) is not None}


@pytest.mark.parametrize(
    ("one", "other", "is_slip"),
    [
        ("abcd", "abd", True),
        ("abd", "abcd", True),
        ("abcd", "abxd", True),
        ("abcd", "acbd", True),
        ("abcd", "bcd", True),
        ("abcd", "abcde", True),
        ("abcd", "acdb", False),
        ("abcd", "ab", False),
        ("abcd", "badc", False),
        ("abcd", "axcx", False),
    ],
)
def test_one_slip(one: str, other: str, is_slip: bool) -> None:
    assert one_slip(one, other) is is_slip


def test_marks_are_of_all_words_that_a_text_must_hold() -> None:
    plain = touch_marks(["Amber Quay", "AQ"], ListOptions(), "en")
    assert plain == {tuple(marks_of("amber quay")), tuple(marks_of("aq"))}
    slips = touch_marks(["Amber Haldis", "Haldis"], ListOptions(slips=True), "en")
    assert slips == {tuple(marks_of("amber")), ()}
    bare = touch_marks(["Orré"], ListOptions(accents=False), "en")
    assert bare == {tuple(marks_of("orre"))}
    hyphens = touch_marks(["Lay by"], ListOptions(hyphens=True), "en")
    assert hyphens == {tuple(marks_of("lay by")), tuple(marks_of("lay-by"))}
    assert touch_marks([" "], ListOptions(), "en") == set()


def test_names_that_look_alike_share_a_key() -> None:
    assert spelling_key("Amber  Quay") == spelling_key(" amber quay ") == spelling_key("AMBER\u00a0QUAY")
    assert spelling_key("Orré") == spelling_key("Orre\u0301") != spelling_key("Orre")
    assert -(2**63) <= spelling_key("Haldis") < 2**63
