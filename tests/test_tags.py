"""Sentences with parts of speech: each is what the tokeniser makes of it, and has tags that there are."""

from __future__ import annotations

from collections import Counter
from pathlib import Path

import pytest

from urdaten.core.tags import SOURCES, TaggedSentence, found_tags, read_lemmas, read_tagged
from urdaten.core.text import batch_of, fold, token_forms
from urdaten.demo.files import read_demo
from urdaten.installed import words

FOLDER = Path(__file__).parents[1] / "data" / "tags"


def rows(name: str) -> list[TaggedSentence]:
    return list(read_tagged((FOLDER / name).read_text(encoding="utf-8").splitlines()))


@pytest.mark.parametrize(("name", "sentences"), [("bulletins.txt", 520), ("other.txt", 150)])
def test_every_word_has_a_tag_that_there_is(name: str, sentences: int) -> None:
    held = rows(name)
    assert len(held) == sentences
    counts = Counter(tag for one in held for tag in one.tags)
    assert len(counts) >= 15
    signs = {word for one in held for word, tag in zip(one.words, one.tags, strict=True) if tag == "PUNCT"}
    assert signs < set('. , : ; ! ? | > "'.split()) | {"-"}


def test_sentences_of_bulletins_are_those_of_the_demo_and_none_of_its_test_weeks() -> None:
    demo = {one.title: one for one in read_demo().bulletins}
    for one in rows("bulletins.txt"):
        place, voice = one.origin.split(", ")
        title, number = place.split()
        bulletin = demo[title]
        assert (bulletin.split in {"train", "dev"}, bulletin.voice) == (True, voice)
        assert one.group == title.split("/")[0]
        batch = batch_of([bulletin.body])
        own = batch.word[batch.sentence == int(number) - 1].tolist()
        assert tuple(batch.vocabulary.forms[k] for k in own) == one.words


def test_other_sentences_are_cut_as_they_stand() -> None:
    for one in rows("other.txt"):
        assert tuple(token_forms(" ".join(one.words))) == one.words


def test_lemmas_are_of_words_that_stand_in_the_sentences() -> None:
    lemmas = read_lemmas((FOLDER / "lemmas.txt").read_text(encoding="utf-8").splitlines())
    there = {
        (fold(word), tag)
        for name in SOURCES.values()
        for one in rows(name)
        for word, tag in zip(one.words, one.tags, strict=True)
    }
    assert len(lemmas) > 400
    assert set(lemmas) <= there
    assert all(form != lemma for (form, _), lemma in lemmas.items())


def test_what_was_installed_is_as_good_as_it_is_said_to_be() -> None:
    known = words("en")
    assert known is not None
    assert known.has_kinds == known.parts.knows_its_words
    for own in known.parts.figures["sources"].values():
        if known.has_kinds:
            assert own["right"] / own["words"] > 0.93
            assert own["lemmas_right"] / own["words"] > 0.98
    sentences = [one for name in SOURCES.values() for one in rows(name)]
    right = [
        found == gold
        for one, tags in zip(sentences, found_tags(known.parts, sentences), strict=True)
        for found, gold in zip(tags, one.tags, strict=True)
    ]
    # It has learnt from these.
    assert sum(right) / len(right) > 0.98
