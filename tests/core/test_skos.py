"""Schemes as SKOS: what is written is read back the same; what comes from elsewhere becomes a scheme or is refused."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from rdflib import SKOS, Graph, URIRef

from urdaten.core.formats import Scheme, SchemeType, SkosFormat, free_code, read_skos, write_skos
from urdaten.errors import BadFile

FORMS: tuple[SkosFormat, ...] = ("turtle", "json-ld")
# What no text of ours holds: surrogates, and NUL.
WORDS = st.text(st.characters(exclude_categories=["Cs", "Cc"]), min_size=1, max_size=12).filter(
    lambda words: words.strip() != ""
)
LISTED = st.lists(WORDS, max_size=3, unique=True).map(tuple)


@st.composite
def schemes(draw: st.DrawFn) -> Scheme:
    codes = draw(st.lists(st.sampled_from(["VES", "PRT", "AB", "ZEDD", "QTY"]), unique=True))
    types = []
    for number, code in enumerate(codes):
        types.append(
            SchemeType(
                code=code,
                name=draw(WORDS),
                key="abcde"[number],
                hue=draw(st.integers(0, 23)),
                definition=draw(st.just("") | WORDS),
                counts=draw(LISTED),
                counts_not=draw(LISTED),
                rulings=draw(LISTED),
                parent=draw(st.sampled_from(["", *codes[:number]])),
                value_kind=draw(st.sampled_from(["none", "date", "code"])),
            )
        )
    return Scheme(types=tuple(types), overlap=draw(st.sampled_from(["apart", "nested", "free"])))


@pytest.mark.parametrize("form", FORMS)
@settings(deadline=None, max_examples=40)
@given(schemes().filter(lambda scheme: scheme.types != ()))
def test_what_is_written_is_read_back_the_same(form: SkosFormat, scheme: Scheme) -> None:
    assert read_skos(write_skos(scheme, form), form) == scheme


def test_it_says_in_the_words_of_skos_what_it_can() -> None:
    ship = SchemeType(code="SHP", name="ship", key="s", hue=1, definition="It floats.", counts=("a tug",))
    boat = SchemeType(code="BOT", name="boat", key="b", hue=2, parent="SHP", counts_not=("a raft",))
    graph = Graph().parse(data=write_skos(Scheme(types=(ship, boat)), "turtle"), format="turtle")
    one, other = URIRef("urn:urdaten:scheme:SHP"), URIRef("urn:urdaten:scheme:BOT")
    assert str(graph.value(one, SKOS.prefLabel)) == "ship"
    assert str(graph.value(one, SKOS.example)) == "a tug"
    assert graph.value(other, SKOS.broader) == one
    assert str(graph.value(other, SKOS.scopeNote)) == "a raft"


ELSEWHERE = """
@prefix skos: <http://www.w3.org/2004/02/skos/core#> .
@prefix : <http://harbour.invalid/> .
:ship a skos:Concept ; skos:prefLabel "Schiff"@de, "ship"@en ; skos:definition "It floats."@en .
:boat a skos:Concept ; skos:prefLabel "boat" ; skos:broader :ship, :thing ; skos:notation "too long for a code" .
:Tug a skos:Concept ; skos:prefLabel "tug boat" ; skos:broader :boat ; skos:example "pusher", "hauler" .
"""


def test_concepts_from_elsewhere_become_types() -> None:
    scheme = read_skos(ELSEWHERE, "turtle")
    assert [(one.code, one.name, one.parent) for one in scheme.types] == [
        ("TUG", "tug boat", "BOAT"),
        ("BOAT", "boat", "SHIP"),
        ("SHIP", "ship", ""),
    ]
    assert scheme.types[0].counts == ("hauler", "pusher")
    assert scheme.types[2].definition == "It floats."
    assert scheme.overlap == "apart"


def test_words_that_were_changed_elsewhere_count() -> None:
    ours = Scheme(types=(SchemeType(code="SHP", name="ship", key="s", hue=1, counts=("b", "a")),))
    file = write_skos(ours, "turtle")
    assert read_skos(file, "turtle").types[0].counts == ("b", "a")
    more = file + '<urn:urdaten:scheme:SHP> <http://www.w3.org/2004/02/skos/core#example> "c" .'
    assert read_skos(more, "turtle").types[0].counts == ("a", "b", "c")


@pytest.mark.parametrize(
    ("source", "form", "told"),
    [
        ("<a> <b> <c>", "turtle", "no Turtle"),
        ("<urn:a> <urn:b> <urn:c> .", "turtle", "no skos:Concept"),
        ("{", "json-ld", "JSON"),
        ('{"@context": "http://harbour.invalid/context"}', "json-ld", "stands elsewhere"),
        ('[{"a": [{"@context": [{}, "https://harbour.invalid/c"]}]}]', "json-ld", "stands elsewhere"),
        ('{"@context": {"@import": "https://harbour.invalid/c"}}', "json-ld", "stands elsewhere"),
        (
            "<urn:a> a <http://www.w3.org/2004/02/skos/core#Concept> .",
            "turtle",
            "urn:a has no skos:prefLabel",
        ),
    ],
)
def test_what_is_no_scheme_is_refused(source: str, form: SkosFormat, told: str) -> None:
    with pytest.raises(BadFile, match=told):
        read_skos(source, form)


@given(st.sets(st.from_regex(r"[A-C]{2,4}", fullmatch=True)), WORDS)
def test_codes_are_free_and_made_of_letters(taken: set[str], words: str) -> None:
    code = free_code(words, taken)
    assert code not in taken
    assert 2 <= len(code) <= 4
    assert code.isascii()
    assert code.isupper()
