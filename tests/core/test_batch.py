"""Batches: the same texts whether they come together, one by one, or joined; and columns over a vocabulary that grows."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from urdaten.core.text import Analysis, Batch, FormColumn, Vocabulary, analyse, batch_of, fold

BODIES = ["The Pellin sails. She is late.", "", "Pellin again!", " \n", "A. Quay, 0600. The end"]
WORDS = st.sampled_from(["Pellin", "pellin", "quay", "é", "E\u0301", "0600", ".", "\n\n", "’s", "The"])
TEXTS = st.lists(st.lists(WORDS, max_size=12).map(" ".join), max_size=5)


def same(one: Analysis, other: Analysis) -> None:
    assert one.body == other.body
    for name in ("start", "end", "sentence"):
        assert getattr(one, name).tolist() == getattr(other, name).tolist(), name
    forms = [[a.vocabulary.forms[word] for word in a.word] for a in (one, other)]
    assert forms[0] == forms[1]


@given(TEXTS)
def test_texts_of_a_batch_are_what_each_is_alone(bodies: list[str]) -> None:
    batch = batch_of(bodies)
    assert len(batch) == len(batch.analyses) == len(bodies)
    for body, analysis in zip(bodies, batch.analyses, strict=True):
        same(analysis, analyse(body))
    assert (np.diff(batch.text) >= 0).all()
    # No sentence reaches from one text into another, and none is left out.
    assert set(batch.sentence.tolist()) == set(range(batch.sentence.max(initial=-1) + 1))
    pairs = set(zip(batch.sentence.tolist(), batch.text.tolist(), strict=True))
    assert len(pairs) == len({sentence for sentence, _ in pairs})


@given(TEXTS.filter(bool))
def test_joined_texts_are_a_batch_like_any_other(bodies: list[str]) -> None:
    vocabulary = Vocabulary()
    joined = Batch.joined([analyse(body, vocabulary=vocabulary) for body in bodies])
    whole = batch_of(bodies)
    assert joined.bodies == whole.bodies
    for name in ("first", "start", "end", "word", "sentence", "text"):
        assert getattr(joined, name).tolist() == getattr(whole, name).tolist(), name


@pytest.mark.parametrize(
    "starts",
    [
        [[0, 18], [0], [0], [0], [0]],
        [[4], [0], [0, 7], [1], [3, 9, 15]],
    ],
)
def test_sentences_can_begin_elsewhere(starts: Sequence[Sequence[int]]) -> None:
    batch = batch_of(BODIES).with_sentences(starts)
    for body, own, analysis in zip(BODIES, starts, batch.analyses, strict=True):
        wanted = analyse(body).with_sentences(own)
        assert np.diff(analysis.sentence).tolist() == np.diff(wanted.sentence).tolist()
    assert (np.diff(batch.sentence)[np.diff(batch.text) > 0] > 0).all()


@given(st.lists(st.lists(st.text("aAéÉ’'", min_size=1, max_size=3), max_size=20), max_size=4))
def test_a_column_is_made_once_for_each_form(portions: list[list[str]]) -> None:
    asked: list[str] = []

    def lengths(forms: Sequence[str]) -> np.ndarray:
        asked.extend(forms)
        return np.array([len(form) for form in forms], dtype=np.int32)

    vocabulary, column = Vocabulary(), FormColumn(lengths)
    for portion in portions:
        for form in portion:
            assert vocabulary.forms[vocabulary.add(form)] == form
        assert vocabulary.column(column).tolist() == [len(form) for form in vocabulary.forms]
        folds, numbers = vocabulary.image(fold)
        assert [folds.forms[k] for k in numbers] == [fold(form) for form in vocabulary.forms]
        assert len(set(folds.forms)) == len(folds)
    assert asked == list(vocabulary.forms)


def test_a_column_that_nobody_holds_goes() -> None:
    vocabulary = Vocabulary(["a"])
    vocabulary.column(FormColumn(lambda forms: np.zeros(len(forms))))
    assert len(vocabulary._columns) == 0
