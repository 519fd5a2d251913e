"""The one fold: what it makes alike, and what it keeps apart."""

from __future__ import annotations

import sys
import unicodedata

import pytest
from hypothesis import given
from hypothesis import strategies as st

from urdaten.core.lists import Entry, Gazetteer, NameList
from urdaten.core.memory import NameMemory
from urdaten.core.text import analyse, fold


@pytest.mark.parametrize(
    ("one", "other"),
    [
        ("PELLIN", "pellin"),
        ("Orré", "Orre\u0301"),
        ("Seamen’s", "Seamen's"),
        ("Lind\u00admoor", "Lindmoor"),
        ("Lind\u200bmoor", "LINDMOOR"),
        ("\ufeffPellin", "Pellin"),
        ("Harrow–Ness", "Harrow-Ness"),
        ("a\u00a0b", "a b"),
        ("STRASSE", "Straße"),
        ("ΟΔΟΣ", "οδος"),
        ("ǰ", "J\u030c"),
    ],
)
def test_what_differs_in_its_writing_alone_is_one_word(one: str, other: str) -> None:
    assert fold(one) == fold(other)


@pytest.mark.parametrize(
    ("one", "other"), [("Orré", "Orre"), ("Ä", "A"), ("ı", "i"), ("a b", "ab"), ("½", "1/2")]
)
def test_other_words_stay_apart(one: str, other: str) -> None:
    assert fold(one) != fold(other)


@given(st.text(max_size=8))
def test_folding_twice_is_folding_once(form: str) -> None:
    folded = fold(form)
    assert fold(folded) == folded
    assert bool(folded) == bool(form)
    for kind in ("NFC", "NFD"):
        assert fold(unicodedata.normalize(kind, form)) == folded


def test_every_sign_folds_alike_however_it_is_written() -> None:
    # The dotless i alone has a capital that is another letter's.
    signs = (chr(c) for c in range(0x30000) if unicodedata.category(chr(c)) not in ("Cn", "Cs", "Co"))
    for sign in signs:
        folded = fold(sign)
        assert fold(folded) == folded == fold(sign.lower()) == fold(unicodedata.normalize("NFD", sign)), sign
        assert sign == "ı" or len(sign.upper()) > 1 or fold(sign.upper()) == folded, sign


@pytest.mark.parametrize(
    "body", ["The Orre\u0301 sails.", "The Or\u00adré sails.", "\ufeffORRÉ sails.", "Or\u200dré sails."]
)
def test_lists_and_the_memory_compare_folded_words(body: str) -> None:
    names = Gazetteer([NameList(name="vessels", type="VES", entries=(Entry(preferred="Orré"),))])
    (span,) = names.match(analyse(body))
    found = body[span.start : span.end]
    assert fold(found) == "orré"
    assert names.preferred(found, "VES") == "Orré"
    memory = NameMemory()
    memory.learn(1, ["Orré"], [(0, 1, "VES")])
    assert memory.share_known([found]) == 1


def test_every_space_of_unicode_is_one_space() -> None:
    """The table is made of the first planes alone, because looking at all signs takes a third of a second."""
    spaces = [chr(code) for code in range(sys.maxunicode + 1) if unicodedata.category(chr(code)) == "Zs"]
    assert len(spaces) > 10
    assert {fold(f"a{space}é") for space in spaces} == {"a é"}
