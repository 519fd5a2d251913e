"""Learns parts of speech from tagged sentences, and says of sentences held out how often they are right."""

from __future__ import annotations

import hashlib
from collections import Counter
from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np

from urdaten.core.spans import Span
from urdaten.core.tagger import GoldText, TaggerInput, TrainingSettings, train
from urdaten.core.tags.parts import Parts
from urdaten.core.tags.sentences import TaggedSentence, folds
from urdaten.core.tags.words import WordForms
from urdaten.core.text import TAGS, Analysis, Batch, Vocabulary, fold

# Chosen by folds of the sentences of the demo's train and dev weeks.
SETTINGS = TrainingSettings(
    features=("words", "shapes", "affixes", "lexicon", "pairs"), epochs=45, rate=0.2, l2=3.0
)
# Sentences are learnt from in capitals as well, as telegrams are written: each counts so much there.
_CAPITALS = 0.3


def learn(sentences: Sequence[TaggedSentence], words: WordForms | None, figures: Mapping[str, Any]) -> Parts:
    """Parts of speech from all of these sentences."""
    vocabulary = Vocabulary()
    texts = [_gold(one, vocabulary, one.words, 1.0) for one in sentences]
    texts += [_gold(one, vocabulary, [word.upper() for word in one.words], _CAPITALS) for one in sentences]
    tagger = train(texts, [], vocabulary, TAGS, SETTINGS, general=words)
    told = hashlib.sha256(repr((sentences, SETTINGS, words and words.digest)).encode())
    tagger.manifest["made_from"] = told.hexdigest()
    return Parts(tagger, words, figures)


def held_out(
    sources: Mapping[str, Sequence[TaggedSentence]],
    words: WordForms | None,
    lemmas: Mapping[tuple[str, str], str],
) -> dict[str, Any]:
    """How often tags and lemmas are right in sentences of each source that were not learnt from, by folds of their groups.

    Of each source: words, and right ones; of these those whose form was learnt from and others; lemmas. Of each tag: gold,
    found, both.
    """
    counts: dict[str, Counter[str]] = {name: Counter() for name in sources}
    by_tag = {tag: [0, 0, 0] for tag in TAGS}
    rounds = zip(*(folds(own) for own in sources.values()), strict=True)
    for parts in rounds:
        learnt = [one for rest, _ in parts for one in rest]
        known = {fold(word) for one in learnt for word in one.words}
        made = learn(learnt, words, {})
        for name, (_, judged) in zip(sources, parts, strict=True):
            for one, tags in zip(judged, found_tags(made, judged), strict=True):
                _count(counts[name], by_tag, one, tags, known)
                _count_lemmas(counts[name], one, tags, made, lemmas)
    return {
        "sources": {name: dict(own) for name, own in counts.items()},
        "tags": {tag: own for tag, own in by_tag.items() if own[0] or own[1]},
    }


def found_tags(parts: Parts, sentences: Sequence[TaggedSentence]) -> list[list[str]]:
    """The tags that each sentence gets."""
    if not sentences:
        return []
    vocabulary = Vocabulary()
    batch = Batch.joined([_analysis(one.words, vocabulary) for one in sentences])
    tags = [TAGS[k] for k in parts.tags(batch).tolist()]
    return [tags[a:b] for a, b in zip(batch.first[:-1].tolist(), batch.first[1:].tolist(), strict=True)]


def _count(
    counts: Counter[str],
    by_tag: dict[str, list[int]],
    one: TaggedSentence,
    tags: Sequence[str],
    known: set[str],
) -> None:
    for word, gold, found in zip(one.words, one.tags, tags, strict=True):
        seen = "known" if fold(word) in known else "unknown"
        counts.update({"words": 1, "right": found == gold, seen: 1, f"{seen}_right": found == gold})
        by_tag[gold][0] += 1
        by_tag[found][1] += 1
        by_tag[gold][2] += found == gold


def _count_lemmas(
    counts: Counter[str],
    one: TaggedSentence,
    tags: Sequence[str],
    parts: Parts,
    lemmas: Mapping[tuple[str, str], str],
) -> None:
    for word, gold, found in zip(one.words, one.tags, tags, strict=True):
        wanted = lemmas.get((fold(word), gold), fold(word))
        counts["lemmas_right"] += parts.lemma(word, found) == wanted


def _gold(one: TaggedSentence, vocabulary: Vocabulary, words: Sequence[str], weight: float) -> GoldText:
    analysis = _analysis(words, vocabulary)
    bounds = zip(analysis.start.tolist(), analysis.end.tolist(), one.tags, strict=True)
    return GoldText(TaggerInput(analysis, ()), [Span(a, b, tag) for a, b, tag in bounds], weight)


def _analysis(words: Sequence[str], vocabulary: Vocabulary) -> Analysis:
    """A sentence of just these tokens."""
    lengths = np.array([len(word) for word in words], dtype=np.int32)
    end = np.cumsum(lengths + 1, dtype=np.int32) - np.int32(1)
    return Analysis(
        body=" ".join(words),
        vocabulary=vocabulary,
        start=end - lengths,
        end=end,
        word=np.array(vocabulary.add_all(words), dtype=np.int32),
        sentence=np.zeros(len(words), dtype=np.int32),
    )
