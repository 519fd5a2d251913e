"""Features of forms and of single tokens, and word classes."""

from __future__ import annotations

from collections import Counter

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from urdaten.core.lexicon import KINDS, GeneralLexicon
from urdaten.core.lexicon.reading import Noun
from urdaten.core.spans import Span
from urdaten.core.tagger import GoldText, Neighbours, TaggerInput, list_classes, neighbours
from urdaten.core.tagger.classes import learn_classes
from urdaten.core.tagger.features import (
    AttributeTable,
    Lexicon,
    TokenTable,
    class_key,
    form_attributes,
    forms,
    outline,
    shape,
)
from urdaten.core.tagger.features.pieces import Pieces
from urdaten.core.tagger.features.writing import Writing
from urdaten.core.tagger.layout import lay_out
from urdaten.core.text import Vocabulary, analyse, batch_of, fold

TYPES = ("VES", "PRT")


def test_attributes_of_a_form() -> None:
    assert shape("SW-4b") == "AA-9a"
    assert outline("Lindmoor") == "Aa+"
    names = form_attributes("Quays", ("words", "shapes", "affixes", "grams"))
    assert {
        "word=quays",
        "form=Quays",
        "shape=Aaaaa",
        "outline=Aa+",
        "capital",
        "begins=q",
        "ends=uays",
        "holds=uay",
    } <= set(names)
    assert "all capitals" in form_attributes("SW", ("shapes",))
    assert form_attributes("A", ("shapes",)) == ["shape=A", "outline=A", "capital"]
    assert form_attributes("Quay", ("words",)) == ["word=quay", "form=Quay"]
    assert form_attributes("Quay", ("classes",), {"quay": (3, 17)}) == ["class 0=3", "class 1=17"]


def test_parts_of_words_count_only_when_shared() -> None:
    table = AttributeTable.learn(["salt", "salted", "coal"], ("words", "affixes"))
    assert "begins=sal" in table.names
    assert "begins=coa" not in table.names
    columns, ends = table.rows(Writing(Vocabulary(["salt", "unseen"])))
    assert {"word=salt", "begins=sal"} <= {table.names[k] for k in columns[: ends[0]]}
    assert [table.names[k] for k in columns[ends[0] :]] == []


def test_a_form_counts_where_its_word_has_another() -> None:
    table = AttributeTable.learn(["Amber", "amber", "Pellin"], ("words",))
    assert table.names == [forms.BEYOND, "word=amber", "form=Amber", "word=pellin"]


def test_a_lexicon_grows_with_its_vocabulary() -> None:
    vocabulary = Vocabulary(["salt", "Salt"])
    lexicon = Lexicon(AttributeTable.learn(["salt", "coal"], ("words",)), vocabulary)
    assert len(lexicon) == 3
    assert lexicon.folded[1] == lexicon.folded[2] > 0
    vocabulary.add("coal")
    lexicon.grow()
    whole = Lexicon(lexicon.table, vocabulary)
    np.testing.assert_array_equal(lexicon.pointer, whole.pointer)
    np.testing.assert_array_equal(lexicon.column, whole.column)
    assert [lexicon.name(k) for k in lexicon.folded.tolist()] == ["", "salt", "salt", "coal"]


def features_at(token: int, body: str, groups: tuple[str, ...], *evidence: Span, again: int = 1) -> set[str]:
    """Names of the token features that a word of a text has; `again` times the same text teaches pairs."""
    vocabulary = Vocabulary()
    items = [TaggerInput(analyse(body, vocabulary=vocabulary), evidence) for _ in range(again)]
    lexicon = Lexicon(AttributeTable(("words",), ["word=none"]), vocabulary)
    layout = lay_out(items, TYPES, ("lists", "rules"))
    table = TokenTable.learn(groups, TYPES, ("lists", "rules"), lexicon, layout)
    pointer, column = table.columns(lexicon, layout)
    at = layout.position[token]
    return {str(table.features[k]) for k in column[pointer[at] : pointer[at + 1]]}


SIGNS = st.sampled_from("aAbBcÉéßẞǅ0９²-’'‐漢あ\u0301\u00ad\U0001d400") | st.characters(
    exclude_categories=["Cs", "Cc"]
)
FORMS = st.lists(
    st.text(SIGNS, min_size=1, max_size=9) | st.text(SIGNS, min_size=22, max_size=27), max_size=12
)
ALL_GROUPS = ("words", "shapes", "affixes", "grams", "classes", "lexicon")


@given(FORMS, FORMS, FORMS, st.sets(st.sampled_from(ALL_GROUPS)), st.data())
def test_attributes_found_at_once_are_those_named_one_by_one(
    learnt: list[str], seen: list[str], later: list[str], groups: set[str], data: st.DataObject
) -> None:
    general = GeneralLexicon.of(
        Noun(words=form, kind=data.draw(st.sampled_from(sorted(KINDS))), is_name=data.draw(st.booleans()))
        for form in learnt[:4]
    )
    classes = {class_key(form): (number % 3, number % 5) for number, form in enumerate(learnt[2:])}
    # Some words with figures as they are written, as taggers of before have them.
    classes |= {form.lower(): (1, number) for number, form in enumerate(seen[:1])}
    chosen = [group for group in ALL_GROUPS if group in groups]
    written = {way for form in learnt for way in (form, form.lower(), form.title(), form.upper())}
    names = {name for form in written for name in form_attributes(form, ALL_GROUPS, classes, general)}
    # Also names that no word gives, so that nothing too much is found.
    parts = {fold(form)[a:b] for form in written for a in range(len(form)) for b in range(a + 1, a + 6)}
    names |= {kind + part for kind in ("begins=", "ends=", "holds=", "form=", "word=") for part in parts}
    table = AttributeTable(chosen, sorted(names), classes, general)
    vocabulary = Vocabulary(seen)
    lexicon = Lexicon(table, vocabulary)
    for form in (*later, *learnt):
        vocabulary.add(form)
    lexicon.grow()
    for row, form in enumerate(vocabulary.forms, start=1):
        found = lexicon.column[lexicon.pointer[row] : lexicon.pointer[row + 1]].tolist()
        wanted = [name for name in form_attributes(form, chosen, classes, general) if name in table.names]
        assert sorted(table.names[k] for k in found) == sorted(wanted), form


def test_of_too_many_signs_pieces_with_the_rarest_are_not_found() -> None:
    common = [chr(0x4E00 + k) for k in range(20_000)] + [chr(0x20000 + k) for k in range(12_766)]
    names = [kind + sign for kind in ("begins=", "ends=") for sign in common]
    pieces = Pieces(["begins=x", *names, *names])
    word, found = pieces.affixes([common[0] + "y", common[-1] + "y", "xy"])
    assert len(common) == 32_766
    assert (word.tolist(), found.tolist()) == ([0, 1], [1, len(common)])


def test_hidden_letters_leave_shapes() -> None:
    vocabulary = Vocabulary()
    analyse("Salt B12 to", vocabulary=vocabulary)
    groups = ("words", "shapes", "affixes", "grams")
    lexicon = Lexicon(AttributeTable.learn(vocabulary.forms, groups), vocabulary)
    pointer, column = lexicon.with_blanks()

    def names(row: int) -> set[str]:
        return {lexicon.table.names[k] for k in column[pointer[row] : pointer[row + 1]].tolist()}

    size = len(lexicon)
    assert len(pointer) == 2 * size + 1
    assert names(size) == names(0) == {"beyond the sentence"}
    for row in range(1, size):
        assert names(row) == {
            lexicon.table.names[k] for k in lexicon.column[lexicon.pointer[row] : lexicon.pointer[row + 1]]
        }
    assert names(size + 1) == {"shape=Aaaa", "outline=Aa+", "capital"}
    assert names(size + 2) == {"shape=A99", "outline=A9+", "all capitals", "figure"}
    assert names(size + 3) == {"shape=aa", "outline=a+"}


def test_a_lexicon_of_fewer_attributes_says_the_same_of_those() -> None:
    vocabulary = Vocabulary()
    analyse("salt and salted coal", vocabulary=vocabulary)
    whole = Lexicon(AttributeTable.learn(vocabulary.forms, ("words", "affixes")), vocabulary)
    kept = np.arange(0, len(whole.table), 2)
    fewer = whole.only(kept)
    again = Lexicon(whole.table.only(kept), vocabulary)
    assert fewer.table.names == again.table.names == whole.table.names[::2]
    assert fewer.pointer.tolist() == again.pointer.tolist()
    assert fewer.column.tolist() == again.column.tolist()
    analyse("barley", vocabulary=vocabulary)
    fewer.grow()
    assert len(fewer) == len(whole) + 1
    assert fewer.symbol("barley") > 0 > whole.symbol("barley")  # as it has not grown yet


def test_pairs_of_words_count_when_met_twice() -> None:
    assert features_at(1, "the Amber Quay sails", ("pairs",)) == set()
    assert features_at(1, "the Amber Quay sails", ("pairs",), again=2) == {
        "pair before=the amber",
        "pair after=amber quay",
        "outlines before=a+ Aa+",
        "outlines after=Aa+ Aa+",
    }


def test_evidence_is_seen_by_the_words_around_it() -> None:
    hit = Span(4, 14, "VES", "lists")
    crossing = [hit, Span(4, 9, "CGO", "lists"), Span(4, 14, "VES", "elsewhere")]
    body = "the Amber Quay sails. Salt is in."
    assert features_at(1, body, (), *crossing) == {"lists VES begins", "lists VES inside +1"}
    assert features_at(3, body, (), *crossing) == {"lists VES begins -2", "lists VES inside -1"}
    # The next sentence does not look back into this one.
    assert features_at(5, body, (), hit) == set()


def test_words_are_looked_up_elsewhere_in_their_text() -> None:
    body = "Amber is aboard. The pilot Amber left, amber was lost."
    found = features_at(6, body, ("texts",), again=2)
    assert {"small elsewhere in the text", "repeated in the text", "elsewhere after=is"} <= found
    assert "capital within a sentence elsewhere" in features_at(0, body, ("texts",))
    assert "capital within a sentence elsewhere" not in features_at(6, body, ("texts",))


def test_word_classes_hold_words_that_stand_alike() -> None:
    vocabulary = Vocabulary()
    random = np.random.default_rng(1)
    ships, goods, ports = (
        tuple(f"{group}{sign}" for sign in "abcdefghijklmnop") for group in ("sh", "go", "po")
    )
    bodies = [
        f"the {random.choice(ships)} sailed to {random.choice(ports)} with {random.choice(goods)} and {random.choice(goods)} aboard"
        f" before {random.integers(1, 9)}00 h under master of the {random.choice(ships)} from {random.choice(ports)} ."
        for _ in range(300)
    ]
    analyses = [analyse(body, vocabulary=vocabulary) for body in bodies]
    counted, few = Neighbours(), Neighbours()
    counted.add(analyses)
    classes = learn_classes(counted, seed=3)
    assert classes == learn_classes(counted, seed=3)
    for group in (ships, goods, ports):
        numbers = {classes[word][0] for word in group}
        others = {classes[w][0] for other in (ships, goods, ports) if other != group for w in other}
        assert not numbers & others
    gold = [Span(4, body.index(" sailed"), "VES") for body in bodies]
    texts = [GoldText(TaggerInput(a, ()), [span]) for a, span in zip(analyses, gold, strict=True)]
    first = list_classes(classes, texts, level=0)[0]
    assert set(first.words) <= set(ships)
    assert (first.type, first.size) == ("VES", len(first.words))
    few.add(analyses[:1])
    assert learn_classes(few, seed=3) == {}


WORDS = st.lists(
    st.sampled_from(["the", "The", "Pellin", "0410", "0520", "sails", ".", "é", "É"]), max_size=8
).map(" ".join)


@given(st.lists(st.lists(WORDS, max_size=3), max_size=3), st.lists(WORDS, max_size=2))
def test_neighbours_are_counted_however_the_texts_come(portions: list[list[str]], more: list[str]) -> None:
    made = Neighbours()
    for portion in portions:
        made.add_batch(batch_of(portion))
    whole = made.with_texts(batch_of(more).analyses)
    everything = [body for portion in portions for body in portion]
    assert (made.texts, made.tokens) == (
        sum(map(len, portions)),
        sum(len(batch_of(p).word) for p in portions),
    )
    for counted, bodies in ((made, everything), (whole, everything + more)):
        wanted: dict[str, Counter[tuple[str, str]]] = {"before": Counter(), "after": Counter()}
        for body in bodies:
            analysis = analyse(body)
            keys = [class_key(analysis.vocabulary.forms[word]) for word in analysis.word]
            for at, key in enumerate(keys):
                for side, other in (("before", at - 1), ("after", at + 1)):
                    same = 0 <= other < len(keys) and analysis.sentence[other] == analysis.sentence[at]
                    wanted[side][key, keys[other] if same else ""] += 1
        names = [*counted.keys.forms, ""]
        for side, table in zip(wanted, counted.tables(), strict=True):
            pairs = table.tocoo()
            found = {
                (names[row], names[column]): int(count)
                for row, column, count in zip(pairs.row, pairs.col, pairs.data, strict=True)
            }
            assert found == wanted[side]


def test_of_too_many_pairs_the_rarest_are_let_go(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(neighbours, "MOST_PAIRS", 40)
    made = Neighbours()
    for number in range(30):
        made.add_batch(
            batch_of([f"the Pellin sails w{'abcdefghij'[number % 10]}{'klmnopq'[number % 7]} off"])
        )
    before, _ = made.tables()
    assert before.nnz <= 40
    keys = made.keys
    # What is met every time is there with every time.
    assert before[[keys.get("pellin")], [keys.get("the")]].tolist() == [30]


def test_words_with_figures_are_of_one_class_also_new_ones() -> None:
    classes = {class_key("0410"): (3,), "quay": (5,)}
    assert form_attributes("1999", ("classes",), classes) == ["class 0=3"]
    assert form_attributes("Quay", ("classes",), classes) == ["class 0=5"]
    # Taggers of before kept words with figures as they were written.
    assert form_attributes("B2", ("classes",), {"b2": (7,)}) == ["class 0=7"]
