"""Parts of speech and lemmas: what lexicons tell of words, what is learnt, and what stands in files."""

from __future__ import annotations

from functools import cache

import numpy as np
import pytest

from urdaten.core.lexicon import GeneralLexicon, read_nouns
from urdaten.core.tags import (
    Parts,
    TaggedSentence,
    WordForms,
    Words,
    folds,
    found_tags,
    held_out,
    learn,
    read_lemmas,
    read_tagged,
    read_words,
)
from urdaten.core.text import TAGS, Vocabulary, batch_of
from urdaten.errors import BadFile

INDEX = {
    "noun": "  1 licence\nsail n 1\nboat n 1\nglass n 1\nfox n 1\nlady n 1\ncrewman n 1\nshelf n 1\nworks n 1\nneed n 1\nneeds n 1\nport_side n 1\nleft n 1\nto n 1\n",
    "verb": "sail v 1\nneed v 1\nstop v 1\nmoor v 1\ncarry v 1\nload v 1\nlie v 1\nlay v 1\nleave v 1\ntie v 1\nsing v 1\n",
    "adjective": "wet a 1\nheavy a 1\nwide a 1\nlow a 1\nlower a 1\nleft a 1\nup a 1\nupper a 1\n",
    "adverb": "  1 licence\nsoon r 1\n",
}
IRREGULAR = {
    "noun": "geese goose\n",
    "verb": "lay lie\nleft leave\n",
    "adjective": "worst bad\n",
    "adverb": "",
}
COUNTS = "sail%2:38:00:: 1 30\nsail%1:06:00:: 1 2\nneed%1:00:00:: 1 9\nlow%3:00:00:: 1 5\nwet%5:00:00:: 1 1\nleave%2:00:00:: 1 9\n"


def lexicon() -> WordForms:
    index, irregular = (
        {name: text.splitlines() for name, text in part.items()} for part in (INDEX, IRREGULAR)
    )
    return read_words(index, irregular, COUNTS.splitlines())


@pytest.mark.parametrize(
    ("form", "tag", "lemma"),
    [
        ("Boats", "NOUN", "boat"),
        ("glasses", "NOUN", "glass"),
        ("glass", "NOUN", "glass"),
        ("foxes", "NOUN", "fox"),
        ("ladies", "NOUN", "lady"),
        ("crewmen", "NOUN", "crewman"),
        ("shelves", "NOUN", "shelf"),
        ("geese", "NOUN", "goose"),
        # It is a word of its own, and not the plural of another here.
        ("works", "NOUN", "works"),
        # Met less often than the word that it is the plural of.
        ("needs", "NOUN", "need"),
        ("sailed", "VERB", "sail"),
        ("stopped", "VERB", "stop"),
        ("carries", "VERB", "carry"),
        ("tied", "VERB", "tie"),
        ("loading", "VERB", "load"),
        ("sing", "VERB", "sing"),
        ("left", "VERB", "leave"),
        ("left", "ADJ", "left"),
        ("wetter", "ADJ", "wet"),
        ("heaviest", "ADJ", "heavy"),
        ("wider", "ADJ", "wide"),
        ("lower", "ADJ", "low"),
        # Met as often as what it could be a form of.
        ("upper", "ADJ", "upper"),
        ("worst", "ADJ", "bad"),
        ("was", "AUX", "be"),
        ("An", "DET", "a"),
        ("them", "PRON", "they"),
        ("Boats", "PROPN", "boats"),
        # What no lexicon has is guessed by its ending.
        ("frobbers", "NOUN", "frobber"),
        ("grommetted", "VERB", "grommet"),
        ("undulating", "VERB", "undulate"),
        ("floating", "VERB", "float"),
        ("reseized", "VERB", "reseize"),
        ("tossing", "VERB", "toss"),
        ("oats", "NOUN", "oats"),
    ],
)
def test_the_lemma_of_a_form_follows_from_its_tag(form: str, tag: str, lemma: str) -> None:
    assert small().lemma(form, tag) == lemma


def test_what_is_told_of_a_form() -> None:
    words = lexicon()
    assert set(words.attributes("Sails")) == {
        "lexicon noun, several",
        "lexicon verb in s",
        "lexicon mostly verb",
    }
    assert set(words.attributes("sail")) == {"lexicon noun", "lexicon verb", "lexicon mostly verb"}
    assert set(words.attributes("moored")) == {"lexicon verb in the past"}
    assert set(words.attributes("loading")) == {"lexicon verb in ing"}
    assert "lexicon adjective, compared" in words.attributes("heavier")
    # Of a word of closed classes other classes are told only where it is most often of them.
    assert set(words.attributes("to")) == {"lexicon may be ADP", "lexicon may be PART"}
    assert words.attributes("Varnby") == ()
    folded = Vocabulary(["sail", "to", "varnby"])
    told = folded.column(words.meanings).tolist()
    assert [words.told(bits) for bits in told] == [words.attributes(form) for form in folded.forms]


def test_words_come_back_from_their_file() -> None:
    words = lexicon()
    again = WordForms.from_bytes(words.to_bytes())
    # Of what it tells, and not of when it was written.
    assert again.to_bytes() == words.to_bytes()
    assert (
        again.digest
        == words.digest
        != read_words(dict.fromkeys(INDEX, ()), dict.fromkeys(INDEX, ()), []).digest
    )
    assert again.lemma("left", "verb") == "leave"
    assert again.attributes("sails") == words.attributes("sails")
    with pytest.raises(BadFile, match="no word forms"):
        WordForms.from_bytes(small().to_bytes())


@pytest.mark.parametrize("line", ["left", ""])
def test_a_line_of_irregular_forms_that_is_amiss_is_told_of(line: str) -> None:
    index = {name: text.splitlines() for name, text in INDEX.items()}
    with pytest.raises(BadFile, match="Line 2"):
        read_words(index, {**dict.fromkeys(INDEX, ()), "verb": ["lay lie", line]}, [])


@pytest.mark.parametrize(
    "line", ["sail%9:38:00:: 1 30", "sail 1 30", "sail%2:38:00:: 1 many", "sail%2:38:00:: 1"]
)
def test_a_line_of_counts_that_is_amiss_is_told_of(line: str) -> None:
    with pytest.raises(BadFile, match="Line 1: this is no line of counts"):
        read_words(dict.fromkeys(INDEX, ()), dict.fromkeys(INDEX, ()), [line])


TAGGED = """27/1 2, night log | The/DET boat/NOUN sails/VERB ./PUNCT
27/2 1, night log | A/DET boat/NOUN sailed/VERB |/PUNCT 1/2/NUM boats/NOUN
28/1 1, notice | They/PRON load/VERB the/DET boats/NOUN ./PUNCT
29/1 1, notice | The/DET load/NOUN sails/VERB soon/ADV ./PUNCT
30/1 1, notice | They/PRON need/VERB the/DET load/NOUN ./PUNCT
"""


def tagged() -> list[TaggedSentence]:
    return list(read_tagged(TAGGED.splitlines()))


@cache
def small() -> Parts:
    return learn(tagged(), lexicon(), {"sources": {}})


def test_tagged_sentences_are_read() -> None:
    second = tagged()[1]
    assert (second.group, second.origin) == ("27", "27/2 1, night log")
    assert second.words == ("A", "boat", "sailed", "|", "1/2", "boats")
    assert second.tags == ("DET", "NOUN", "VERB", "PUNCT", "NUM", "NOUN")


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("27/1 The/DET", "Line 1: words with their tags"),
        ("27/1 | The", "Line 1: words with their tags"),
        ("27/1 | ", "Line 1: words with their tags"),
        ("27/1 | The/ARTICLE", "Line 1: there is no tag ARTICLE"),
    ],
)
def test_a_line_of_tagged_words_that_is_amiss_is_told_of(line: str, said: str) -> None:
    with pytest.raises(BadFile, match=said):
        list(read_tagged([line]))


def test_lemmas_are_read() -> None:
    assert read_lemmas(["sailed VERB sail"]) == {("sailed", "VERB"): "sail"}
    for line in ("sailed VERB", "sailed V sail", "a b c d"):
        with pytest.raises(BadFile, match="Line 1: a form, its tag and its lemma"):
            read_lemmas([line])


def test_folds_part_groups_and_hold_every_sentence_once() -> None:
    parts = folds(tagged(), 3)
    assert len(parts) == 3
    assert sorted(one.origin for _, judged in parts for one in judged) == [one.origin for one in tagged()]
    for learnt, judged in parts:
        assert len(learnt) + len(judged) == 5
        assert not {one.group for one in learnt} & {one.group for one in judged}


def test_what_is_learnt_is_found_again() -> None:
    assert found_tags(small(), tagged()) == [list(one.tags) for one in tagged()]
    assert found_tags(small(), []) == []
    # In capitals as well.
    loud = [TaggedSentence("", tuple(word.upper() for word in one.words), one.tags) for one in tagged()]
    assert found_tags(small(), loud) == [list(one.tags) for one in tagged()]


def test_the_same_sentences_give_the_same_file_and_it_comes_back() -> None:
    again = learn(tagged(), lexicon(), {"sources": {}})
    assert again.to_bytes() == small().to_bytes()
    back = Parts.from_bytes(small().to_bytes())
    assert (back.fingerprint, back.figures) == (small().fingerprint, {"sources": {}})
    assert found_tags(back, tagged()) == found_tags(small(), tagged())
    assert back.lemma("sailed", "VERB") == "sail"
    # With the words that it learnt with.
    assert back.knows_its_words
    assert learn(tagged()[:-1], lexicon(), {}).fingerprint != small().fingerprint
    damaged = bytearray(small().to_bytes())
    damaged[-1] ^= 1
    for data in (b"", bytes(damaged), lexicon().to_bytes()):
        with pytest.raises(BadFile, match="no file of parts of speech"):
            Parts.from_bytes(data)


def test_without_a_lexicon_it_works_and_guesses_lemmas() -> None:
    parts = Parts.from_bytes(learn(tagged(), None, {}).to_bytes())
    assert parts.words is None
    assert found_tags(parts, tagged()) == [list(one.tags) for one in tagged()]
    assert [parts.lemma(form, "VERB") for form in ("sailed", "sings", "is")] == ["sail", "sing", "is"]
    assert parts.lemma("is", "AUX") == "be"


def test_words_are_forms_of_a_lemma_by_their_tags() -> None:
    vocabulary = Vocabulary(["Sails", "sail", "left", "leaves", "Leave", "the"])
    held = small().of_lemmas(["leave", "Sail"], vocabulary)
    assert held.shape == (len(TAGS), 6)
    for k, form in enumerate(vocabulary.forms):
        for number, tag in enumerate(TAGS):
            assert held[number, k] == (small().lemma(form, tag) in ("leave", "sail"))
    assert held[TAGS.index("VERB")].tolist() == [True, True, True, True, True, False]
    # Forms that are met later are asked of as well.
    vocabulary.add("leaving")
    assert small().of_lemmas(["leave"], vocabulary)[TAGS.index("VERB"), -1]


def test_held_out_sentences_are_counted_by_source_and_by_tag() -> None:
    sources = {"one": tagged(), "other": tagged()}
    told = held_out(sources, lexicon(), {("sailed", "VERB"): "sail", ("boats", "NOUN"): "boat"})
    assert set(told["sources"]) == {"one", "other"}
    for own in told["sources"].values():
        assert own["words"] == 25 == own["known"] + own["unknown"]
        assert own["right"] == own["known_right"] + own["unknown_right"]
        assert 10 <= own["lemmas_right"] <= 25
    assert sum(gold for gold, _, _ in told["tags"].values()) == 50
    assert sum(found for _, found, _ in told["tags"].values()) == 50
    assert any(found != gold for gold, found, _ in told["tags"].values())
    right = sum(own["right"] for own in told["sources"].values())
    assert sum(both for _, _, both in told["tags"].values()) == right
    # A group is never learnt from where it judges: a sentence of its own words alone is not known then.
    alone = [*tagged(), TaggedSentence("31", ("Quixotic",), ("ADJ",))]
    assert held_out({"one": alone}, None, {})["sources"]["one"]["unknown"] >= 1


DATA = """00000001 18 n 01 pilot 0 000 | who leads ships
00000002 06 n 01 pilot 0 000 | a flame
00000003 15 n 01 Varnby 0 001 @i 00000004 n 0000 | a town
00000004 15 n 01 town 0 000 | a place
"""


def test_kinds_of_words_and_of_names() -> None:
    words = Words(small(), GeneralLexicon.of(read_nouns(DATA.splitlines())))
    vocabulary = Vocabulary(["pilots", "Varnby", "varnby", "town", "sails"])
    assert words.of_kinds(["person"], vocabulary).tolist() == [True, False, False, False, False]
    assert words.of_kinds(["place"], vocabulary).tolist() == [False, True, False, True, False]
    assert words.of_kinds(["artefact", "place"], vocabulary).tolist() == [True, True, False, True, False]
    batch = batch_of(["They load the boat."])
    assert [TAGS[k] for k in words.tags(batch).tolist()] == ["PRON", "VERB", "DET", "NOUN", "PUNCT"]
    bare = Words(small())
    assert (words.has_kinds, bare.has_kinds) == (True, False)
    assert not bare.of_kinds(["person"], vocabulary).any()
    assert words.fingerprint != bare.fingerprint
    np.testing.assert_array_equal(
        words.of_lemmas(["pilot"], vocabulary), small().of_lemmas(["pilot"], vocabulary)
    )
    assert len(words.tags(batch_of([""]))) == 0
