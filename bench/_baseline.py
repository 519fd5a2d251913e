"""What a practitioner would script with general tools: a linear classifier per token, labels repaired."""

from __future__ import annotations

import time
from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray
from scipy import sparse
from sklearn.feature_extraction import DictVectorizer
from sklearn.linear_model import SGDClassifier

from urdaten.core.spans import Coding, Span, span_ranges
from urdaten.core.tagger import GoldText
from urdaten.core.tagger.features import form_attributes

GROUPS = ("words", "shapes", "affixes", "grams")
WINDOW = 2
STRENGTHS = (1e-5, 1e-4, 1e-3)


def token_features(text: GoldText) -> Iterator[dict[str, float]]:
    """Features by name of every token in use: attributes of the words around it, and pairs of words."""
    analysis = text.item.analysis
    words = [analysis.body[a:b] for a, b in zip(analysis.start.tolist(), analysis.end.tolist(), strict=True)]
    hits: dict[int, list[str]] = {}
    for span in text.item.evidence:
        first, last = analysis.token_range(span.start, span.end)
        for t in range(first, last):
            part = "inside" if t > first else "begins"
            hits.setdefault(t, []).append(f"{span.source} {span.type} {part}")
    for first, last in text.item.token_ranges():
        named = [form_attributes(word, GROUPS) for word in words[first:last]]
        for t in range(first, last):
            found: dict[str, float] = {}
            for offset in range(-WINDOW, WINDOW + 1):
                at = t + offset
                if not first <= at < last:
                    found[f"{offset} beyond"] = 1
                    continue
                for name in named[at - first]:
                    found[f"{offset} {name}"] = 1
                for name in hits.get(at, ()):
                    found[f"{offset} {name}"] = 1
            if t > first:
                found[f"pair {words[t - 1].casefold()} {words[t].casefold()}"] = 1
            if t + 1 < last:
                found[f"pair after {words[t].casefold()} {words[t + 1].casefold()}"] = 1
            yield found


class Baseline:
    """Logistic regression by stochastic gradient descent, one label against the rest."""

    def __init__(self, types: Sequence[str], strength: float, seed: int) -> None:
        self.coding = Coding("BIO", tuple(types))
        self.vectorizer = DictVectorizer(dtype=np.float32)
        self.classifier = SGDClassifier(loss="log_loss", alpha=strength, random_state=seed)

    def labels(self, texts: Sequence[GoldText]) -> list[int]:
        found: list[int] = []
        for text in texts:
            analysis = text.item.analysis
            ranges = span_ranges(text.gold, analysis, self.coding.types)
            columns = np.array(ranges, dtype=np.int32).reshape(-1, 3).T
            labels = self.coding.encode(columns[0], columns[1], columns[2], len(analysis))
            for a, b in text.item.token_ranges():
                found += labels[a:b].tolist()
        return found

    def fit(self, texts: Sequence[GoldText]) -> None:
        self.classifier.fit(_fitted(self.vectorizer, texts), self.labels(texts))

    def _classify(self, texts: Sequence[GoldText]) -> NDArray[np.int64]:
        features = self.vectorizer.transform(f for text in texts for f in token_features(text))
        return np.asarray(self.classifier.predict(_narrow(features)))

    def tag(self, texts: Sequence[GoldText]) -> list[list[Span]]:
        """Spans of each text; an inside label that continues nothing begins a span."""
        labels = self._classify(texts)
        found = []
        at = 0
        for text in texts:
            analysis = text.item.analysis
            spans = []
            for a, b in text.item.token_ranges():
                starts = np.arange(b - a) == 0
                ranges = self.coding.decode(labels[at : at + b - a], starts)
                spans += [
                    Span(int(analysis.start[a + x]), int(analysis.end[a + y - 1]), self.coding.types[int(k)])
                    for x, y, k in zip(*ranges, strict=True)
                ]
                at += b - a
            found.append(spans)
        return found


def _fitted(vectorizer: DictVectorizer, texts: Sequence[GoldText]) -> sparse.csr_matrix:
    return _narrow(vectorizer.fit_transform(f for text in texts for f in token_features(text)))


def _narrow(features: sparse.csr_matrix) -> sparse.csr_matrix:
    """The classifier takes no indices wider than 32 bits."""
    features.indices = features.indices.astype(np.int32)
    features.indptr = features.indptr.astype(np.int32)
    return features


# On more than this many tokens the strength is chosen with a part of them.
TUNED_ON = 60_000


def tuned_baseline(
    train: Sequence[GoldText], dev: Sequence[GoldText], types: Sequence[str], seed: int
) -> tuple[Baseline, float]:
    """The baseline whose regularisation is best on dev, and the seconds that its own training took."""
    part, tokens = 0, 0
    while part < len(train) and tokens < TUNED_ON:
        tokens += len(train[part].item.analysis)
        part += 1
    first = Baseline(types, STRENGTHS[0], seed)
    features, labels = _fitted(first.vectorizer, train[:part]), first.labels(train[:part])
    scores = {}
    for strength in STRENGTHS:
        one = Baseline(types, strength, seed)
        one.vectorizer = first.vectorizer
        one.classifier.fit(features, labels)
        scores[strength] = strict_f1(dev, one.tag(dev))
    best = Baseline(types, max(scores, key=scores.__getitem__), seed)
    began = time.perf_counter()
    best.fit(train)
    return best, time.perf_counter() - began


def strict_f1(texts: Sequence[GoldText], found: Sequence[Sequence[Span]]) -> float:
    right = sum(len(set(text.gold) & set(spans)) for text, spans in zip(texts, found, strict=True))
    total = sum(len(text.gold) for text in texts) + sum(map(len, found))
    return 2 * right / total if total else 1.0
