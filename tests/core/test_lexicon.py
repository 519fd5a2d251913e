"""The general lexicon: reading its data, what it tells of words and phrases, and a tagger with it and without."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.invented import QUICK, TYPES, invented
from urdaten.core.lexicon import KINDS, PHRASE_KINDS, GeneralLexicon, Senses, read_nouns, read_senses
from urdaten.core.tagger import TaggerInput, explain, from_bytes, to_bytes, train
from urdaten.core.tagger.features import Lexicon, TokenTable, form_attributes
from urdaten.core.tagger.features.forms import AttributeTable
from urdaten.core.tagger.layout import lay_out
from urdaten.core.text import Vocabulary, analyse, fold
from urdaten.errors import BadFile

DATA = """  1 Here stands a licence.
00000001 18 n 02 pilot 0 harbour_pilot 0 001 @ 00000009 n 0000 | who knows the way in
00000002 06 n 01 pilot 1 000 | a small lamp
00000003 15 n 03 Varnby 0 Varnby-on-Sea 0 Old_Harbour_of_Varnby 0 002 @i 00000009 n 0000 #p 00000004 n 0000 | a port
00000004 15 n 01 old_harbour 0 001 @ 00000009 n 0000 | what its name says
00000005 14 n 01 ferry 0 000 | some
00000006 28 n 01 six_of_the_clock_in_all_weathers 0 000 | too long a phrase
"""


@pytest.fixture(scope="module")
def general() -> GeneralLexicon:
    return GeneralLexicon.of(read_nouns(DATA.splitlines()))


def test_nouns_are_read_with_their_kind() -> None:
    nouns = [(n.words, KINDS[n.kind], n.is_name) for n in read_nouns(DATA.splitlines())]
    assert nouns[:4] == [
        ("pilot", "person", False),
        ("harbour pilot", "person", False),
        ("pilot", "artefact", False),
        ("Varnby", "place", True),
    ]


@pytest.mark.parametrize(
    "line", ["x", "1 99 n 01 a 0 000 | b", "1 18 n 02 a 0 000 | b", "1 18 n zz a 0 000 | b"]
)
def test_a_line_that_is_amiss_is_named(line: str) -> None:
    with pytest.raises(BadFile, match="Line 2") as caught:
        list(read_nouns(["  licence", line]))
    assert caught.value.detail["line"] == 2


@pytest.mark.parametrize(
    ("form", "told"),
    [
        ("pilot", {"lexicon person", "lexicon artefact", "lexicon several"}),
        ("PILOTS", {"lexicon person", "lexicon artefact", "lexicon several"}),
        ("ferries", {"lexicon group"}),
        ("Varnby", {"lexicon name of place"}),
        # A name is one with a capital alone.
        ("varnby", set()),
        ("Varnbys", set()),
        ("gull", set()),
        ("s", set()),
    ],
)
def test_words_tell_their_kinds(general: GeneralLexicon, form: str, told: set[str]) -> None:
    assert set(general.attributes(form)) == told
    found = set(form_attributes(form, ("words", "lexicon"), None, general))
    assert told <= found
    assert not any(name.startswith("lexicon") for name in form_attributes(form, ("words",), None, general))


def phrases(general: GeneralLexicon, *bodies: str) -> list[tuple[str, str]]:
    """Words with what a phrase tells of them."""
    vocabulary = Vocabulary()
    items = [TaggerInput(analyse(body, vocabulary=vocabulary), []) for body in bodies]
    layout = lay_out(items, TYPES, ())
    lexicon = Lexicon(AttributeTable(("lexicon",), [], None, general), vocabulary)
    at, kind = general.phrases(vocabulary, layout.word, lexicon.is_capital)
    return [
        (vocabulary.forms[word - 1], PHRASE_KINDS[k].removeprefix("lexicon "))
        for word, k in zip(layout.word[at].tolist(), kind.tolist(), strict=True)
    ]


def test_the_longest_phrase_tells_of_its_words(general: GeneralLexicon) -> None:
    assert phrases(general, "The Old  Harbour of Varnby. An old harbour.", "Harbour pilot") == [
        ("Old", "name of place, begins"),
        ("Harbour", "name of place, inside"),
        ("of", "name of place, inside"),
        ("Varnby", "name of place, inside"),
        ("old", "place, begins"),
        ("harbour", "place, inside"),
        ("Harbour", "person, begins"),
        ("pilot", "person, inside"),
    ]
    # Names begin with a capital, and no phrase runs from one sentence or text into the next.
    assert phrases(general, "the old harbour of varnby") == []
    assert phrases(general, "The old. Harbour ahead.", "an old", "harbour") == []


WORDS = st.lists(st.sampled_from(["old", "Old", "harbour", "of", "Varnby", "pilot", "the"]), max_size=9)


@given(WORDS)
def test_phrases_are_those_that_a_slow_search_finds(words: list[str]) -> None:
    general = GeneralLexicon.of(read_nouns(DATA.splitlines()))
    known = {
        ("harbour", "pilot"): ("", "person"),
        ("old", "harbour"): ("", "place"),
        ("old", "harbour", "of", "varnby"): ("name of ", "place"),
    }
    runs = [
        (first, last)
        for first in range(len(words))
        for last in range(first + 1, len(words) + 1)
        if tuple(map(fold, words[first:last])) in known
    ]
    taken: set[int] = set()
    wanted: list[tuple[int, str]] = []
    for first, last in sorted(runs, key=lambda run: (run[0] - run[1], run[0])):
        if taken.isdisjoint(range(first, last)):
            taken.update(range(first, last))
            sort, kind = known[tuple(map(fold, words[first:last]))]
            if not sort or words[first][0].isupper():
                wanted += [
                    (at, f"lexicon {sort}{kind}, {'inside' if at > first else 'begins'}")
                    for at in range(first, last)
                ]
    vocabulary = Vocabulary()
    row = np.array([0, *(vocabulary.add(word) + 1 for word in words), 0], dtype=np.int64)
    capital = np.array([False, *(form[0].isupper() for form in vocabulary.forms)])
    places, kinds = general.phrases(vocabulary, row, capital)
    found = [(at - 1, PHRASE_KINDS[k]) for at, k in zip(places.tolist(), kinds.tolist(), strict=True)]
    assert sorted(found) == sorted(wanted)


def test_it_is_kept_and_read_back(general: GeneralLexicon) -> None:
    again = GeneralLexicon.from_bytes(general.to_bytes())
    assert again.digest == general.digest
    assert again.attributes("Varnby") == general.attributes("Varnby")
    assert phrases(again, "An old harbour") == phrases(general, "An old harbour") != []
    other = GeneralLexicon.of(read_nouns(DATA.splitlines()[:-2]))
    assert other.digest != general.digest


@pytest.mark.parametrize("data", [b"", b"PK\x03\x04", b"nothing of the kind"])
def test_another_file_is_refused(data: bytes) -> None:
    with pytest.raises(BadFile, match="no general lexicon"):
        GeneralLexicon.from_bytes(data)


def test_a_tagger_names_its_lexicon_and_works_without(general: GeneralLexicon) -> None:
    vocabulary = Vocabulary()
    texts = invented(60, 3, vocabulary)
    items = [text.item for text in texts]
    tagger = train(texts, [], vocabulary, TYPES, QUICK, general=general)
    assert tagger.manifest["lexicon"] == general.digest
    assert "lexicon name of place" in tagger.table.names
    kept = to_bytes(tagger)
    again = from_bytes(kept, general)
    assert again.tag(items, vocabulary) == tagger.tag(items, vocabulary)
    assert to_bytes(again) == kept
    other = GeneralLexicon.of(read_nouns(DATA.splitlines()[:-2]))
    for held in (None, other):
        bare = from_bytes(kept, held)
        assert bare.table.general is None
        assert any(bare.tag(items, Vocabulary(vocabulary.forms)))
        assert to_bytes(bare) == kept
    text = next(text for text in texts if "Varnby" in text.item.analysis.body)
    why = explain(again, text.item, vocabulary, next(span for span in text.gold if span.type == "PRT"))
    assert any(part.feature.startswith("lexicon") for part in why.contributions)
    off = train(texts, [], vocabulary, TYPES, QUICK.without(["lexicon"]), general=general)
    without = train(texts, [], vocabulary, TYPES, QUICK)
    assert off.manifest["lexicon"] is without.manifest["lexicon"] is None
    assert to_bytes(off) == to_bytes(without)
    assert "lexicon" not in without.manifest["settings"]["features"]


def test_phrases_are_learnt(general: GeneralLexicon) -> None:
    vocabulary = Vocabulary()
    items = [
        TaggerInput(analyse(f"An old harbour {word}.", vocabulary=vocabulary), []) for word in ("lies", "is")
    ]
    layout = lay_out(items, TYPES, ())
    lexicon = Lexicon(AttributeTable.learn(vocabulary.forms, ("words", "lexicon"), None, general), vocabulary)
    learnt = TokenTable.learn(("lexicon",), TYPES, (), lexicon, layout)
    assert [str(feature) for feature in learnt.features] == ["lexicon place, begins", "lexicon place, inside"]
    pointer, column = learnt.columns(lexicon, layout)
    counts = np.diff(pointer)
    assert counts.sum() == len(column) == 4
    assert TokenTable.learn(("pairs",), TYPES, (), lexicon, layout).features != learnt.features


WORLD = """  1 Here stands a licence.
00000010 15 n 01 place 0 000 | where something is
00000020 15 n 02 port 0 harbour 0 001 @ 00000010 n 0000 | where ships lie
00000030 15 n 01 free_port 0 001 @ 00000020 n 0000 | a port without duties
00000040 15 n 02 Varnby 0 Varnby-on-Sea 0 002 @i 00000030 n 0000 #p 00000010 n 0000 | a port; "he sails for Varnby"
00000050 15 n 01 Osk 0 002 @i 00000020 n 0000 @i 00000060 n 0000 | a port on a rock
00000060 17 n 01 rock 0 001 @ 00000999 n 0000 | hard
00000070 06 n 01 port_wine 0 001 @ 00000010 n 0000 | not in this one
"""


@pytest.fixture(scope="module")
def senses() -> Senses:
    return Senses.from_bytes(Senses.of(read_senses(WORLD.splitlines())).to_bytes())


def written(senses: Senses, rows: list[int]) -> list[str]:
    return [senses.words(row)[0] for row in rows]


def test_meanings_know_their_words_and_what_they_mean(senses: Senses) -> None:
    row = senses.row_of(40)
    assert row is not None
    assert senses.words(row) == ("Varnby", "Varnby-on-Sea")
    assert senses.meaning(row) == 'a port; "he sails for Varnby"'
    assert bool(senses.is_name[row])
    assert senses.row_of(41) is None
    assert senses.row_of(10**8) is None


@pytest.mark.parametrize(
    ("number", "sort", "beneath"),
    [
        (20, "both", ["free port", "Varnby", "Osk"]),
        (20, "names", ["Varnby", "Osk"]),
        (20, "words", ["free port"]),
        (10, "words", ["port", "free port", "port wine"]),
        (60, "names", ["Osk"]),
        (50, "both", []),
    ],
)
def test_what_falls_under_a_meaning_by_whatever_steps(
    senses: Senses, number: int, sort: str, beneath: list[str]
) -> None:
    row = senses.row_of(number)
    assert row is not None
    assert written(senses, senses.beneath(row, sort).tolist()) == beneath


def test_a_kind_is_taken_whole_and_narrowed(senses: Senses) -> None:
    place = list(KINDS.values()).index("place")
    rows = senses.of_kind(place, "names")
    assert written(senses, rows.tolist()) == ["Varnby", "Osk"]
    narrower = senses.narrower([*senses.of_kind(place, "both").tolist()], 2)
    assert [(senses.words(one.row)[0], one.count) for one in narrower] == [("port", 2), ("place", 1)]
    assert senses.narrower([], 5) == []


def test_meanings_are_searched_by_how_they_are_written(senses: Senses) -> None:
    # Nothing falls under Port wine; what is written just so comes before what only begins so.
    assert written(senses, senses.search(" PORT ", 9)) == ["port", "free port"]
    assert written(senses, senses.search("arbour", 9)) == []
    assert senses.search("port", 1) == senses.search("harbour", 9)
    assert senses.search("  ", 9) == []
    # However much falls under what only begins so.
    lines = [
        "00000001 15 n 01 bay_of_all 0 000 | x",
        "00000002 15 n 01 bay 0 000 | x",
        *(f"0000001{k} 15 n 01 c{k} 0 001 @ 0000000{1 + (k == 9)} n 0000 | x" for k in range(10)),
    ]
    bays = Senses.of(read_senses(lines))
    assert written(bays, bays.search("bay", 9)) == ["bay", "bay of all"]
    every = senses.beneath(0, "both")
    assert written(senses, senses.containing(every, "on-sea").tolist()) == ["Varnby"]
    assert senses.containing(every, "").tolist() == every.tolist()


def test_a_circle_of_meanings_is_gone_round_once() -> None:
    lines = [
        "00000001 15 n 01 a 0 001 @ 00000002 n 0000 | x",
        "00000002 15 n 01 b 0 001 @ 00000001 n 0000 | y",
    ]
    senses = Senses.of(read_senses(lines))
    assert written(senses, senses.beneath(0, "both").tolist()) == ["a", "b"]


def test_what_is_no_file_of_meanings_is_refused() -> None:
    with pytest.raises(BadFile):
        Senses.from_bytes(b"PK no")
