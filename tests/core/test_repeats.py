"""What was marked elsewhere: against a plain search, and what it is good for."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from urdaten.core.spans import Span
from urdaten.core.tagger import GoldText, Tagger, TaggerInput, TrainingSettings, explain, train
from urdaten.core.tagger.features import AttributeTable, Lexicon
from urdaten.core.tagger.layout import Layout, lay_out
from urdaten.core.tagger.repeats import LONGEST, SOURCE, with_repeats
from urdaten.core.text import Vocabulary, analyse

TYPES = ("PRT", "VES")


def laid_out(texts: list[tuple[str, str | None]]) -> tuple[Layout, Lexicon]:
    vocabulary = Vocabulary()
    items = [TaggerInput(analyse(body, vocabulary=vocabulary), (), group=group) for body, group in texts]
    return lay_out(items, TYPES, (SOURCE,)), Lexicon(AttributeTable((), []), vocabulary)


words = st.lists(st.sampled_from(["Ripe", "ear", "Ear", "sails", "in. The"]), min_size=1, max_size=9)
spans = st.lists(st.tuples(st.integers(0, 30), st.integers(1, 3), st.integers(0, 1)), max_size=6)


@settings(max_examples=200, deadline=None)
@given(st.lists(st.tuples(words, st.sampled_from(["week 1", "week 2", None])), min_size=1, max_size=4), spans)
def test_places_are_those_that_a_plain_search_finds(
    texts: list[tuple[list[str], str | None]], marked: list[tuple[int, int, int]]
) -> None:
    layout, lexicon = laid_out([(" ".join(held), group) for held, group in texts])
    position = layout.position.tolist()
    form = lexicon.folded[layout.word[position]].tolist()
    group = layout.group[layout.text[position]].tolist()

    def stands(first: int, last: int) -> bool:
        return last <= len(position) and position[last - 1] - position[first] == last - 1 - first

    found = sorted({(a, a + n, kind) for a, n, kind in marked if a < len(position) and stands(a, a + n)})
    expected = set()
    for a, b, kind in found:
        for at in range(len(position)):
            last = at + b - a
            same = stands(at, last) and form[at:last] == form[a:b] and group[at] == group[a]
            if same and at != a:
                expected |= {(position[t], 2 * kind + (t > at)) for t in range(at, last)}
    columns = np.array(found, dtype=np.int64).reshape(-1, 3).T
    made = with_repeats(layout, lexicon.folded, (columns[0], columns[1], columns[2]), 2, 0)
    pairs = list(zip(made.evidence_position.tolist(), made.evidence_kind.tolist(), strict=True))
    assert sorted(expected) == sorted(pairs)
    if not pairs:
        assert made is layout


def test_names_beyond_a_length_and_hidden_ones_are_left_out() -> None:
    name = "one two three four five six seven eight nine"
    layout, lexicon = laid_out([(f"{name} and {name}", None), ("Pellin met Pellin and Pellin", None)])

    def places(first: list[int], size: int, hidden_by: np.random.Generator | None = None) -> int:
        start = np.array(first)
        found = (start, start + size, np.zeros(len(first), dtype=np.int64))
        return len(with_repeats(layout, lexicon.folded, found, 2, 0, hidden_by).evidence_position)

    assert places([0], LONGEST) == LONGEST
    assert places([0], LONGEST + 1) == 0
    # A name is hidden wholly or not at all, and about every other one.
    seen = [places([19], 1, np.random.default_rng(seed)) for seed in range(60)]
    assert set(seen) == {0, 2}
    assert 15 <= seen.count(0) <= 45


def test_which_names_are_hidden_does_not_hang_on_how_words_are_numbered() -> None:
    names = [f"Name{sign}" for sign in "abcdefghijklmnop"]
    body = " ".join(f"{name} met {name}." for name in names)

    def shown(*before: str) -> list[int]:
        vocabulary = Vocabulary(before)
        layout = lay_out([TaggerInput(analyse(body, vocabulary=vocabulary), ())], TYPES, (SOURCE,))
        folded = Lexicon(AttributeTable((), []), vocabulary).folded
        place = np.flatnonzero([vocabulary.forms[word - 1] in names for word in layout.word[layout.position]])
        found = (place, place + 1, np.zeros(len(place), dtype=np.int64))
        made = with_repeats(layout, folded, found, 2, 0, np.random.default_rng(4))
        return [int(at) for at in made.evidence_position]

    assert 0 < len(shown()) < 2 * len(names)
    assert shown() == shown(*reversed(names), "else")


PLACES = (
    "Lindmoor",
    "Varnby",
    "Kessing",
    "Skelby",
    "Garsby",
    "Ostvar",
    "Brannow",
    "Stave",
    "Harrow",
    "Denhav",
)


@pytest.fixture(scope="module")
def taught() -> tuple[Tagger, Vocabulary]:
    """In half of the sentences nothing tells what a name is but another text of the same group."""
    vocabulary = Vocabulary()
    random = np.random.default_rng(3)
    texts = []
    for k in range(120):
        name = "".join(random.choice(list("aeioulmnrst"), size=6)).title()
        code = TYPES[k % 2]
        told = f"The {name} sailed." if code == "VES" else f"They lay in {name}."
        for body in (told, f"Then {name} again."):
            at = body.index(name)
            item = TaggerInput(analyse(body, vocabulary=vocabulary), (), group=f"group {k}")
            texts.append(GoldText(item, [Span(at, at + len(name), code)]))
    chosen = TrainingSettings(epochs=8, features=("words", "shapes", "repeats"))
    return train(texts, texts[200:], vocabulary, TYPES, chosen), vocabulary


@pytest.mark.parametrize("code", TYPES)
def test_a_name_that_one_text_gives_away_is_known_in_the_others(
    taught: tuple[Tagger, Vocabulary], code: str
) -> None:
    tagger, vocabulary = taught
    told = "The Zuzek sailed." if code == "VES" else "They lay in Zuzek."
    items = [
        TaggerInput(analyse(body, vocabulary=vocabulary), (), group="new")
        for body in ("Then Zuzek again.", told)
    ]
    together = tagger.tag(items, vocabulary)
    assert [[s.type for s in found] for found in together] == [[code], [code]]
    (likelier,) = together[0]
    apart = tagger.tag([replace(item, group=None) for item in items], vocabulary)[0]
    assert not [s for s in apart if s.type == code and (s.probability or 0) >= (likelier.probability or 0)]
    assert tagger.likely(items, vocabulary)[0][0] == likelier
    why = explain(tagger, items[0], vocabulary, likelier, items[1:])
    assert why.difference > 0
    assert any(c.feature == f"repeats {code} begins" and c.value > 0 for c in why.contributions)
    alone = explain(tagger, items[0], vocabulary, likelier)
    assert alone.difference < why.difference
