"""Sentences with parts of speech: each is what the tokeniser makes of it, and has tags that there are."""

from __future__ import annotations

from collections import Counter
from pathlib import Path

import pytest

from urdaten.core.text import batch_of, token_forms
from urdaten.demo.files import read_demo

FOLDER = Path(__file__).parents[1] / "data" / "tags"
TAGS = frozenset("ADJ ADP ADV AUX CCONJ DET INTJ NOUN NUM PART PRON PROPN PUNCT SCONJ SYM VERB X".split())


def rows(name: str) -> list[tuple[list[str], list[str], list[str]]]:
    """What stands before the words, the words, and their tags."""
    found = []
    for line in (FOLDER / name).read_text(encoding="utf-8").splitlines():
        *head, tagged = line.split(" | ", 2 if name == "bulletins.txt" else 1)
        pairs = [pair.rsplit("/", 1) for pair in tagged.split()]
        found.append((head, [word for word, _ in pairs], [tag for _, tag in pairs]))
    return found


@pytest.mark.parametrize(("name", "sentences"), [("bulletins.txt", 520), ("other.txt", 150)])
def test_every_word_has_a_tag_that_there_is(name: str, sentences: int) -> None:
    held = rows(name)
    assert len(held) == sentences
    counts = Counter(tag for _, _, tags in held for tag in tags)
    assert set(counts) <= TAGS
    assert len(counts) >= 15
    assert {
        word for _, words, tags in held for word, tag in zip(words, tags, strict=True) if tag == "PUNCT"
    } < set('. , : ; ! ? | > "'.split()) | {"-"}


def test_sentences_of_bulletins_are_those_of_the_demo_and_none_of_its_test_weeks() -> None:
    demo = {one.title: one for one in read_demo().bulletins}
    for (place, voice), words, _ in rows("bulletins.txt"):
        title, number = place.split()
        bulletin = demo[title]
        assert (bulletin.split in {"train", "dev"}, bulletin.voice) == (True, voice)
        batch = batch_of([bulletin.body])
        own = batch.word[batch.sentence == int(number) - 1].tolist()
        assert [batch.vocabulary.forms[k] for k in own] == words


def test_other_sentences_are_cut_as_they_stand() -> None:
    for _, words, _ in rows("other.txt"):
        assert token_forms(" ".join(words)) == words
