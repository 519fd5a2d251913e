"""Every way of training and tagging once on a few words, so that what they need is compiled."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from urdaten.core.spans import Span
from urdaten.core.tagger.corpus import GoldText
from urdaten.core.tagger.explain import explain
from urdaten.core.tagger.inference import DOUBLE, Inference
from urdaten.core.tagger.layout import TaggerInput
from urdaten.core.tagger.model import Tagger
from urdaten.core.tagger.modelfile import from_bytes, to_bytes
from urdaten.core.tagger.settings import PRESETS, TrainingSettings
from urdaten.core.tagger.training import train
from urdaten.core.text import Vocabulary, analyse


def compile_ahead() -> None:
    """Compile the tagger's kernels, for whoever uses them later."""
    vocabulary = Vocabulary()
    texts = [
        GoldText(TaggerInput(analyse(body, vocabulary=vocabulary), ()), [Span(4, 4 + size, "VES")])
        for body, size in (("The Pellin sails.", 6), ("The Amber Quay sails.", 10))
    ]
    items = [text.item for text in texts]
    steps = TrainingSettings(epochs=1)
    for settings in (steps, replace(steps, optimiser="whole"), PRESETS["quick"]):
        tagger = from_bytes(to_bytes(train(texts, texts, vocabulary, ("VES",), settings)))
        tagger.tag(items, vocabulary)
        tagger.likely(items, vocabulary)
        explain(tagger, items[0], vocabulary, texts[0].gold[0])
        _in_double_precision(tagger, items, vocabulary)


def _in_double_precision(tagger: Tagger, items: Sequence[TaggerInput], vocabulary: Vocabulary) -> None:
    """What only scores far apart call for."""
    layer = tagger.layers[0]
    form_scores = np.zeros((len(vocabulary) + 1, layer.width), dtype=np.float32)
    layout, own = tagger.look(tagger.lay_out(items), vocabulary)
    inference = Inference(form_scores, layer.tokens, layer.chain(), layout, own, [DOUBLE])
    inference.spans(layer.coding, with_probabilities=True)
    list(inference.likely(layer.coding, 0.1))
