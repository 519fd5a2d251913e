"""Compile the kernels ahead of their first use: `python -m urdaten.core.warm`, run when installing."""

from __future__ import annotations

from dataclasses import replace

from urdaten.core.lists import Entry, Gazetteer, NameList
from urdaten.core.rules import LineRule
from urdaten.core.spans import Span
from urdaten.core.tagger import (
    PRESETS,
    GoldText,
    TaggerInput,
    TrainingSettings,
    explain,
    from_bytes,
    to_bytes,
    train,
)
from urdaten.core.text import Vocabulary, analyse


def warm() -> None:
    """Matching, and every way of training and tagging, once on a few words: what they need lies in the cache then."""
    LineRule(name="warm", type="VES", pattern="(?<=The )Pellin").match(analyse("The Pellin sails."))
    names = NameList(name="warm", type="VES", entries=(Entry(preferred="Amber Quay"),))
    Gazetteer([names]).match(analyse("The Amber Quay sails."))
    vocabulary = Vocabulary()
    texts = [
        GoldText(TaggerInput(analyse(body, vocabulary=vocabulary), ()), [Span(4, 4 + size, "VES")])
        for body, size in (("The Pellin sails.", 6), ("The Amber Quay sails.", 10))
    ]
    steps = TrainingSettings(epochs=1)
    for settings in (steps, replace(steps, optimiser="whole"), PRESETS["quick"]):
        tagger = from_bytes(to_bytes(train(texts, texts, vocabulary, ("VES",), settings)))
        tagger.tag([text.item for text in texts], vocabulary)
        tagger.likely([text.item for text in texts], vocabulary)
        explain(tagger, texts[0].item, vocabulary, texts[0].gold[0])


if __name__ == "__main__":
    warm()
