"""The linear chain against brute force, and training."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
from hypothesis import given
from hypothesis import settings as examples
from hypothesis import strategies as st
from numpy.typing import NDArray

from urdaten.core.spans import Span
from urdaten.core.tagger import GoldText, Progress, Tagger, TaggerInput, TrainingSettings, chain, train
from urdaten.core.tagger.features import AttributeTable, evidence_columns, form_attributes, lay_out, shape
from urdaten.core.tagger.model import Weights
from urdaten.core.tagger.training import chain_gradient
from urdaten.core.text import Vocabulary, analyse
from urdaten.errors import BadFile, BadInput, BadSettings, Stopped

TYPES = ("VES", "PRT")
LABELS = 5


def random_chain(seed: int, spread: float = 1.0) -> tuple[Weights, np.random.Generator]:
    random = np.random.default_rng(seed)
    weights = Weights.zeros(1, 0, TYPES)
    for part in (weights.transition, weights.start):
        allowed = part > chain.FORBIDDEN / 2
        part[allowed] = random.normal(size=int(allowed.sum())) * spread
    return weights, random


def path_score(weights: Weights, scores: NDArray[np.float64], path: tuple[int, ...]) -> float:
    total = weights.start[path[0]] + scores[0, path[0]]
    for t in range(1, len(path)):
        total += weights.transition[path[t - 1], path[t]] + scores[t, path[t]]
    return float(total)


def every_path(weights: Weights, scores: NDArray[np.float64]) -> dict[tuple[int, ...], float]:
    paths = itertools.product(range(LABELS), repeat=len(scores))
    scored = {path: path_score(weights, scores, path) for path in paths}
    return {path: value for path, value in scored.items() if value > chain.FORBIDDEN / 2}


@given(
    st.integers(0, 10_000),
    st.lists(st.integers(1, 4), min_size=1, max_size=3),
    st.sampled_from([0.1, 1.0, 8.0]),
)
@examples(max_examples=40, deadline=None)
def test_inference_agrees_with_enumeration(seed: int, lengths: list[int], spread: float) -> None:
    weights, random = random_chain(seed, spread)
    length = np.array(sorted(lengths, reverse=True))
    first = np.cumsum(length) - length
    scores = random.normal(size=(int(length.sum()), LABELS)) * spread
    block = chain.make_block(scores, first, length)
    passes = chain.forward_backward(block, weights.start, weights.transition)
    best = chain.best_paths(block, weights.start, weights.transition)
    moves = chain.expected_transitions(block, passes, weights.transition)
    expected_moves = np.zeros((LABELS, LABELS))
    for s, (begin, size) in enumerate(zip(first, length, strict=True)):
        mine = scores[begin : begin + size]
        paths = every_path(weights, mine)
        log_total = np.logaddexp.reduce(list(paths.values()))
        assert passes.log_partition[s] == pytest.approx(log_total, abs=1e-8)
        assert path_score(weights, mine, tuple(best[s].tolist())) == pytest.approx(
            max(paths.values()), abs=1e-9
        )
        node = np.zeros((size, LABELS))
        for path, value in paths.items():
            weight = np.exp(value - log_total)
            for t, label in enumerate(path):
                node[t, label] += weight
                if t:
                    expected_moves[path[t - 1], label] += weight
        np.testing.assert_allclose(passes.node()[:size, s], node, atol=1e-9)
        for a, b, k in [(0, 1, 1), (0, size, 3), (size - 1, size, 1)]:
            wanted = sum(
                np.exp(value - log_total)
                for path, value in paths.items()
                if path[a] == k
                and all(x == k + 1 for x in path[a + 1 : b])
                and (b == size or path[b] != k + 1)
            )
            got = chain.span_probability(passes, weights.transition, s, int(size), a, b, k)
            assert got == pytest.approx(wanted, abs=1e-9)
    np.testing.assert_allclose(moves, expected_moves, atol=1e-9)


def test_gradients_agree_with_finite_differences() -> None:
    weights, random = random_chain(3)
    length = np.array([4, 3, 1])
    scores = random.normal(size=(8, LABELS))
    labels = np.array([0, 1, 2, 0, 3, 4, 1, 0])
    _, error, moves, starts = chain_gradient(scores, labels, length, weights)
    step = 1e-6

    def slope(values: NDArray[np.float64], at: tuple[int, ...]) -> float:
        kept = values[at]
        losses = []
        for sign in (1, -1):
            values[at] = kept + sign * step
            losses.append(chain_gradient(scores, labels, length, weights)[0])
        values[at] = kept
        return (losses[0] - losses[1]) / (2 * step)

    for at in np.ndindex(scores.shape):
        assert error[at] == pytest.approx(slope(scores, at), abs=1e-6)
    for values, gradient in ((weights.transition, moves), (weights.start, starts)):
        for at in np.ndindex(values.shape):
            if values[at] > chain.FORBIDDEN / 2:
                assert gradient[at] == pytest.approx(slope(values, at), abs=1e-6)


NAMES = ("Amber Quay", "Corrie Lindmoor", "Pellin", "Ostvar II", "Marna Bell")
PORTS = ("Lindmoor", "Varnby", "Harrow Ness", "Kessing")


def invented(count: int, seed: int, vocabulary: Vocabulary) -> list[GoldText]:
    """Sentences in which a vessel and a port are told apart by the words around them."""
    random = np.random.default_rng(seed)
    texts = []
    for _ in range(count):
        name, port = NAMES[random.integers(len(NAMES))], PORTS[random.integers(len(PORTS))]
        body = f"The {name} sailed from {port} at 0{random.integers(100, 999)} with salt."
        start = body.index(f"{port} at")
        gold = [Span(4, 4 + len(name), "VES"), Span(start, start + len(port), "PRT")]
        texts.append(GoldText(TaggerInput(analyse(body, vocabulary=vocabulary), []), gold))
    return texts


QUICK = TrainingSettings(epochs=6, patience=6)


def test_training_learns_tags_and_survives_being_kept() -> None:
    vocabulary = Vocabulary()
    texts = invented(60, 1, vocabulary)
    seen: list[Progress] = []
    tagger = train(texts[:50], texts[50:], vocabulary, TYPES, QUICK, seen.append)
    assert [p.epoch for p in seen] == list(range(1, len(seen) + 1))
    assert seen[0].objective > seen[-1].objective
    assert seen[-1].dev_f1 == 1.0
    body = "The Grey Mallard sailed from Skelby at 0400 with salt."
    other = Vocabulary()
    kept = Tagger.from_bytes(tagger.to_bytes())
    (spans,) = kept.tag([TaggerInput(analyse(body, vocabulary=other), [])], other)
    assert [(body[s.start : s.end], s.type) for s in spans] == [("Grey Mallard", "VES"), ("Skelby", "PRT")]
    assert all(s.probability is not None and 0.5 < s.probability <= 1 for s in spans)
    assert kept.manifest["sentences"] == 50


def test_same_input_and_seed_same_tagger_and_another_seed_another() -> None:
    def made(seed: int) -> bytes:
        vocabulary = Vocabulary()
        texts = invented(30, 2, vocabulary)
        chosen = TrainingSettings(epochs=2, patience=2, seed=seed)
        return Tagger.to_bytes(train(texts, [], vocabulary, TYPES, chosen))

    first, again, other = (Tagger.from_bytes(made(seed)) for seed in (7, 7, 8))
    np.testing.assert_array_equal(first.weights.attribute, again.weights.attribute)
    assert first.weights.attribute.shape != other.weights.attribute.shape or not np.array_equal(
        first.weights.attribute, other.weights.attribute
    )


def test_evidence_decides_where_words_cannot() -> None:
    """The same sentence either way: only the list knows which name is a vessel."""
    vocabulary = Vocabulary()
    random = np.random.default_rng(5)
    texts = []
    for i in range(80):
        name = "".join(random.choice(list("aeioulmnrst"), size=7)).title()
        body = f"Then {name} was seen."
        span = Span(5, 12, "VES", "lists")
        analysis = analyse(body, vocabulary=vocabulary)
        texts.append(GoldText(TaggerInput(analysis, [span] if i % 2 else []), [span] if i % 2 else []))
    words = TrainingSettings(epochs=8, features=("words", "shapes", "affixes"))
    scores: dict[bool, float] = {}
    for chosen, with_lists in ((TrainingSettings(epochs=8), True), (words, False)):
        last: list[Progress] = []
        train(texts[:60], texts[60:], vocabulary, ("VES",), chosen, last.append)
        scores[with_lists] = max(p.dev_f1 or 0 for p in last)
    assert scores[True] > 0.85
    assert scores[False] < 0.75


def test_only_named_sentences_are_learnt_from_and_scored() -> None:
    vocabulary = Vocabulary()
    analysis = analyse("Pellin sailed. Haldis stayed.", vocabulary=vocabulary)
    data = lay_out([TaggerInput(analysis, [], [1])], TYPES, (), len(vocabulary))
    words = [vocabulary.forms[w] for w in data.word[data.position]]
    assert words == ["Haldis", "stayed", "."]
    text = GoldText(TaggerInput(analysis, [], [1]), [Span(0, 6, "VES"), Span(15, 21, "VES")])
    seen: list[Progress] = []
    train([text], [text], vocabulary, TYPES, TrainingSettings(epochs=12, patience=12), seen.append)
    assert seen[-1].dev_f1 == 1.0


def test_stopping_keeps_the_best_so_far() -> None:
    vocabulary = Vocabulary()
    texts = invented(20, 3, vocabulary)
    seen: list[Progress] = []
    tagger = train(
        texts,
        [],
        vocabulary,
        TYPES,
        TrainingSettings(epochs=500, patience=500),
        seen.append,
        lambda: len(seen) >= 2,
    )
    assert tagger.manifest["stopped"]
    assert tagger.manifest["epochs_run"] == 2
    with pytest.raises(Stopped, match="nothing to keep"):
        train(texts, [], vocabulary, TYPES, QUICK, should_stop=lambda: True)


def test_patience_ends_training() -> None:
    vocabulary = Vocabulary()
    texts = invented(40, 4, vocabulary)
    seen: list[Progress] = []
    train(texts, texts, vocabulary, TYPES, TrainingSettings(epochs=500, patience=3), seen.append)
    assert len(seen) == seen[-1].best_epoch + 3


def test_nothing_to_learn_from_is_said() -> None:
    vocabulary = Vocabulary()
    with pytest.raises(BadInput, match="No sentence"):
        train([], [], vocabulary, TYPES, QUICK)
    with pytest.raises(BadInput, match="entity type"):
        train(invented(2, 1, vocabulary), [], vocabulary, (), QUICK)


@pytest.mark.parametrize("data", [b"", b"PK\x03\x04 damaged", b"not a tagger at all"])
def test_a_damaged_model_is_refused(data: bytes) -> None:
    with pytest.raises(BadFile, match="damaged"):
        Tagger.from_bytes(data)


@pytest.mark.parametrize(
    ("values", "field", "words"),
    [
        ({"epochs": 0}, "epochs", "between 1 and 1000"),
        ({"rate": -1.0}, "rate", "between"),
        ({"features": ["words", "stars"]}, "features", "'stars'"),
        ({"features": ["lists"]}, "features", "not enough"),
        ({"epoch": 3}, "epoch", "no setting"),
    ],
)
def test_bad_settings_name_the_field(values: dict[str, object], field: str, words: str) -> None:
    with pytest.raises(BadSettings, match=words) as fault:
        TrainingSettings.from_dict(values)
    assert fault.value.detail["field"] == field


def test_settings_survive_being_kept() -> None:
    chosen = TrainingSettings(epochs=3, features=("words", "rules"))
    assert TrainingSettings.from_dict(chosen.as_dict()) == chosen


def test_attributes_of_a_form() -> None:
    assert shape("SW-4b") == "AA-9a"
    names = form_attributes("Quay", ("words", "shapes", "affixes"))
    assert {"word=quay", "form=Quay", "shape=Aaaa", "outline=Aa+", "capital", "begins=q", "ends=uay"} <= set(
        names
    )
    assert form_attributes("Quay", ("words",)) == ["word=quay", "form=Quay"]


def test_affixes_count_only_when_shared() -> None:
    table = AttributeTable.learn(["salt", "salted", "coal"], ("words", "affixes"))
    assert "begins=sal" in table.names
    assert "begins=coa" not in table.names
    matrix = table.matrix(["salt", "never seen"]).toarray()
    assert matrix.shape == (3, len(table))
    assert matrix[2, 0] == 1
    assert matrix[2].sum() == 1


def test_evidence_columns_mark_beginning_and_inside() -> None:
    analysis = analyse("the Amber Quay sails")
    spans = [Span(4, 14, "VES", "lists"), Span(4, 9, "CGO", "lists"), Span(4, 14, "VES", "elsewhere")]
    columns = evidence_columns(analysis, spans, TYPES, ("lists", "rules"))
    assert columns.shape == (4, 8)
    assert np.argwhere(columns).tolist() == [[1, 0], [2, 1]]
