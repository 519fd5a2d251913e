"""Settings of a training, and what follows from them for corpora of other sizes."""

from __future__ import annotations

import pytest

from urdaten.core.tagger import (
    TrainingSettings,
)
from urdaten.core.tagger.learner import batch_size, settled_rate
from urdaten.core.tagger.training import patience_in_epochs
from urdaten.errors import BadSettings


@pytest.mark.parametrize(
    ("patience", "sentences", "epochs"), [(6, 1000, 6), (6, 6000, 3), (6, 90_000, 2), (1, 90_000, 1)]
)
def test_large_corpora_are_waited_for_less(patience: int, sentences: int, epochs: int) -> None:
    assert patience_in_epochs(patience, sentences) == epochs


@pytest.mark.parametrize(
    ("values", "field", "words"),
    [
        ({"epochs": 0}, "epochs", "between 1 and 1000"),
        ({"rate": -1.0}, "rate", "between"),
        ({"features": ["words", "shape"]}, "features", "did you mean 'shapes'"),
        ({"features": ["lists"]}, "features", "not enough"),
        ({"epoch": 3}, "epoch", "did you mean 'epochs'"),
        ({"method": "magic"}, "method", "crf or perceptron"),
    ],
)
def test_bad_settings_name_the_field(values: dict[str, object], field: str, words: str) -> None:
    with pytest.raises(BadSettings, match=words) as fault:
        TrainingSettings.from_dict(values)
    assert fault.value.detail["field"] == field


def test_settings_survive_being_kept() -> None:
    chosen = TrainingSettings(epochs=3, features=("words", "rules"))
    assert TrainingSettings.from_dict(chosen.as_dict()) == chosen


@pytest.mark.parametrize(
    ("most", "sentences", "size"), [(32, 60, 4), (32, 800, 20), (32, 15_000, 32), (2, 800, 2)]
)
def test_small_corpora_are_learnt_in_smaller_batches(most: int, sentences: int, size: int) -> None:
    assert batch_size(most, sentences) == size


def test_many_sentences_for_each_type_are_learnt_in_smaller_steps() -> None:
    assert settled_rate(0.1, 20) == settled_rate(0.1, 300) == 0.1
    assert settled_rate(0.1, 1200) == pytest.approx(0.05)
