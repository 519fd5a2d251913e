"""When a training ends, what it keeps then, and what is refused before it begins."""

from __future__ import annotations

import re
from dataclasses import replace

import pytest

from core.invented import QUICK, TYPES, WAYS, invented
from urdaten.core.spans import Span
from urdaten.core.tagger import (
    GoldText,
    Progress,
    TaggerInput,
    TrainingSettings,
    train,
)
from urdaten.core.tagger.training import _Trainer
from urdaten.core.text import Vocabulary, analyse
from urdaten.errors import BadInput, BadSettings, Stopped


def test_too_little_memory_is_said_before_training() -> None:
    vocabulary = Vocabulary()
    texts = []
    for k in range(400):
        body = f"Ship{k} of Port{k * 7} and Town{k * 13} sailed{k}."
        texts.append(
            GoldText(TaggerInput(analyse(body, vocabulary=vocabulary), ()), [Span(0, len(f"Ship{k}"), "T0")])
        )
    many = [f"T{k}" for k in range(40)]
    with pytest.raises(BadSettings, match="megabytes allows 10"):
        train(texts, [], vocabulary, many, replace(QUICK, megabytes=10))
    # Fitting over the whole at once holds many more numbers for each weight, with l1 twice as many.
    whole = replace(QUICK, optimiser="whole", megabytes=10)
    needed = []
    for settings in (replace(QUICK, megabytes=10), whole, replace(whole, l1=0.5)):
        with pytest.raises(BadSettings) as caught:
            train(texts, [], vocabulary, many, settings)
        needed.append(int(re.findall(r"about (\d+) MB", caught.value.message)[0]))
    assert needed[1] > 8 * needed[0]
    assert needed[2] == pytest.approx(2 * needed[1], abs=1)


def test_time_that_is_up_keeps_the_best_so_far() -> None:
    vocabulary = Vocabulary()
    tagger = train(
        invented(60, 9, vocabulary),
        [],
        vocabulary,
        TYPES,
        TrainingSettings(epochs=1000, patience=1000, seconds=1),
    )
    assert tagger.manifest["stopped"]
    assert tagger.manifest["epochs_run"] < 1000


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


@pytest.mark.parametrize("way", WAYS)
def test_every_way_can_be_stopped_and_keeps_what_it_has(way: str) -> None:
    vocabulary = Vocabulary()
    texts = invented(40, 3, vocabulary)
    seen: list[Progress] = []
    chosen = replace(WAYS[way], epochs=900, patience=900)
    tagger = train(texts, texts[:5], vocabulary, TYPES, chosen, seen.append, lambda: len(seen) >= 1)
    assert tagger.manifest["epochs_run"] == len(seen) == 1
    assert tagger.manifest["stopped"]
    with pytest.raises(Stopped, match="nothing to keep"):
        train(texts, [], vocabulary, TYPES, chosen, should_stop=lambda: True)


def test_patience_ends_training() -> None:
    vocabulary = Vocabulary()
    texts = invented(40, 4, vocabulary)
    seen: list[Progress] = []
    train(texts, texts, vocabulary, TYPES, TrainingSettings(epochs=500, patience=3), seen.append)
    assert len(seen) == seen[-1].best_epoch + 3


def test_a_rise_too_small_to_tell_is_kept_but_not_waited_for(monkeypatch: pytest.MonkeyPatch) -> None:
    rising = iter([0.5, 0.5004, 0.5008, 0.5012, 0.5016, 0.502])
    monkeypatch.setattr(_Trainer, "f1", lambda _self, _weights: (None, next(rising)))
    vocabulary = Vocabulary()
    texts = invented(40, 4, vocabulary)
    seen: list[Progress] = []
    train(texts, texts, vocabulary, TYPES, TrainingSettings(epochs=50, patience=2), seen.append)
    # The fourth is a thousandth above the first, and two more are not a thousandth above the fourth.
    assert [p.best_epoch for p in seen] == [1, 2, 3]


def test_nothing_to_learn_from_is_said() -> None:
    vocabulary = Vocabulary()
    with pytest.raises(BadInput, match="No sentence"):
        train([], [], vocabulary, TYPES, QUICK)
    with pytest.raises(BadInput, match="entity type"):
        train(invented(2, 1, vocabulary), [], vocabulary, (), QUICK)
