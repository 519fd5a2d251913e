"""How weights are fitted: objective, gradient, steps, threads."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import pytest

from core.invented import QUICK, TYPES, WAYS, invented
from urdaten.core.spans import Coding, Span
from urdaten.core.tagger import (
    GoldText,
    TrainingSettings,
    learner,
    to_bytes,
    train,
    training,
)
from urdaten.core.tagger.corpus import label_texts
from urdaten.core.tagger.features import AttributeTable, Lexicon, TokenTable
from urdaten.core.tagger.kernels.adagrad import descend
from urdaten.core.tagger.layout import lay_out
from urdaten.core.tagger.learner import AdaGrad, LayerData
from urdaten.core.tagger.training import _Trainer
from urdaten.core.tagger.whole import Objective
from urdaten.core.text import Vocabulary


def matter_of(texts: list[GoldText], vocabulary: Vocabulary) -> LayerData:
    coding = Coding("BIO", TYPES)
    layout = lay_out([text.item for text in texts], TYPES, ())
    lexicon = Lexicon(AttributeTable.learn(vocabulary.forms, ("words", "shapes", "affixes")), vocabulary)
    tokens = TokenTable.learn(("pairs",), TYPES, (), lexicon, layout)
    own = tokens.columns(lexicon, layout)
    labels = label_texts(texts, layout, coding)
    return LayerData(lexicon, layout, own, labels, coding, len(lexicon.table), len(tokens))


def test_the_whole_objective_has_the_gradient_it_says() -> None:
    vocabulary = Vocabulary()
    data = matter_of(invented(12, 5, vocabulary), vocabulary)
    objective = Objective(data, replace(QUICK, l2=0.5))
    random = np.random.default_rng(1)
    at = random.normal(0, 0.3, objective.size).astype(np.float32)
    _, slope = objective(at)
    for _ in range(8):
        way = random.normal(size=objective.size).astype(np.float32)
        way /= np.linalg.norm(way)
        step = np.float32(0.02)
        rise = (objective(at + step * way)[0] - objective(at - step * way)[0]) / (2 * float(step))
        assert float(slope @ way) == pytest.approx(rise, rel=0.01, abs=0.02)


def test_small_steps_come_near_the_whole_optimum() -> None:
    """Both ways of fitting are of one objective: the averaged steps end close to its least value."""
    vocabulary = Vocabulary()
    data = matter_of(invented(40, 5, vocabulary), vocabulary)
    settings = TrainingSettings(l2=1.0)
    objective = Objective(data, settings)
    learner = AdaGrad(data, settings, threads=1)
    random = np.random.default_rng(1)
    for _ in range(30):
        learner.epoch(random.permutation(len(data.layout)), lambda: False)
    stepped = objective(np.concatenate([a.ravel() for a in learner.weights().arrays]).astype(np.float32))[0]
    from urdaten.core.tagger.whole import evaluations

    *_, (least, _) = evaluations(data, replace(settings, optimiser="whole", epochs=200), lambda: False)
    least *= len(data.layout)
    begin = objective(np.zeros(objective.size, dtype=np.float32))[0]
    assert least <= stepped + 1e-3
    assert stepped - least < 0.02 * (begin - least)


@pytest.mark.parametrize("kinds", [2, 30])
def test_two_threads_change_no_weight(kinds: int) -> None:
    """Whether moves between labels are multiplied in a loop or by the library."""
    vocabulary = Vocabulary()
    types = tuple(f"T{k:02d}" for k in range(kinds))
    texts = []
    for k, text in enumerate(invented(60, 4, vocabulary)):
        spans = [replace(span, type=types[(k * 7 + n) % len(types)]) for n, span in enumerate(text.gold)]
        texts.append(GoldText(text.item, spans))
    one, two = (to_bytes(train(texts, [], vocabulary, types, QUICK, threads=threads)) for threads in (1, 2))
    assert one == two


def test_an_interrupted_part_leaves_no_other_waiting(monkeypatch: pytest.MonkeyPatch) -> None:
    """Ctrl-C may strike between the start of the second thread and the first one's work."""
    vocabulary = Vocabulary()
    data = matter_of(invented(40, 4, vocabulary), vocabulary)
    learner_of = AdaGrad(data, QUICK, 2)
    done: list[int] = []

    def interrupted(order: object, batch: int, part: int, *rest: object) -> None:
        if part == 0:
            raise KeyboardInterrupt
        descend(order, batch, part, *rest)
        done.append(part)

    monkeypatch.setattr(learner, "descend", interrupted)
    with pytest.raises(KeyboardInterrupt):
        learner_of.epoch(np.arange(40), lambda: False)
    assert learner_of._pool is not None
    learner_of._pool.shutdown(wait=True)
    assert done == [1]


def test_a_layer_that_has_converged_waits_for_the_others(monkeypatch: pytest.MonkeyPatch) -> None:
    vocabulary = Vocabulary()
    texts = invented(20, 1, vocabulary)
    nested = [GoldText(t.item, [*t.gold, Span(0, t.gold[0].end, "INC")]) for t in texts]
    trainer = _Trainer(nested, [], vocabulary, (*TYPES, "INC"), WAYS["whole"], None, None, 1)
    runs = iter([iter([(1.0, "a1")]), iter([(2.0, "b1"), (0.5, "b2"), (0.25, "b3")])])
    monkeypatch.setattr(training, "evaluations", lambda *_: next(runs))
    made: list[Any] = list(trainer.epochs(lambda: False))
    assert made == [
        (3.0, ["a1", "b1"]),
        (1.5, ["a1", "b2"]),
        (1.25, ["a1", "b3"]),
    ]
