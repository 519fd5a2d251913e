"""Small invented corpora and every way to learn from them, for tests."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from urdaten.core.spans import Span
from urdaten.core.tagger import PRESETS, GoldText, TaggerInput, TrainingSettings
from urdaten.core.text import Vocabulary, analyse

TYPES = ("VES", "PRT")
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
# Every way to learn.
WAYS = {
    "steps": QUICK,
    "BILOU": replace(QUICK, coding="BILOU"),
    "whole": replace(QUICK, optimiser="whole", epochs=30),
    "sparse": replace(QUICK, optimiser="whole", epochs=60, l1=0.05),
    "perceptron": replace(PRESETS["quick"], epochs=6),
}
