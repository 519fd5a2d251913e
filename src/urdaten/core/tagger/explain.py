"""Why a tagger sets a span, or does not: exact additive contributions against the runner-up.

The score of a label sequence is a sum over features and moves, so the difference between the best sequence
with a span and the best without it is a sum too. What both share cancels out.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from urdaten.core.spans.coding import decode
from urdaten.core.spans.span import Span
from urdaten.core.tagger import chain
from urdaten.core.tagger.features import OFFSETS, WINDOW, TaggerInput, evidence_names, lay_out
from urdaten.core.tagger.model import Tagger, emission_scores
from urdaten.core.text.analysis import Vocabulary
from urdaten.errors import BadSpan

Floats = NDArray[np.float64]
Path = NDArray[np.int16]


@dataclass(frozen=True, kw_only=True)
class Contribution:
    """What one feature or move adds to the difference; above zero it speaks for the span."""

    # "ends=er", "lists VES begins", or "move" with the labels moved from and to.
    feature: str
    # The word that has the feature, and how far it stands from the word that is labelled, −2 to 2.
    word: str
    offset: int
    # The labelled word, by its number in the sentence; of equal moves the first.
    token: int
    value: float


@dataclass(frozen=True, kw_only=True)
class Explanation:
    """A span against the best that the tagger would say without it."""

    span: Span
    # Spans that the runner-up has instead; what both have is left out.
    runner_up: tuple[Span, ...]
    # Score with the span less score without; above zero the tagger sets it.
    difference: float
    # Largest first; they sum to the difference.
    contributions: tuple[Contribution, ...]


def explain(tagger: Tagger, item: TaggerInput, vocabulary: Vocabulary, span: Span) -> Explanation:
    """Explain one span of a text. Raises BadSpan for one off the token bounds, over a sentence's end, or of
    a type that the tagger does not know."""
    analysis = item.analysis
    first, last = analysis.token_range(span.start, span.end)
    on_bounds = last > first and (int(analysis.start[first]), int(analysis.end[last - 1])) == (
        span.start,
        span.end,
    )
    if not on_bounds or analysis.sentence[first] != analysis.sentence[last - 1]:
        raise BadSpan(
            "The span does not stand on whole words of one sentence.", start=span.start, end=span.end
        )
    if span.type not in tagger.types:
        raise BadSpan(f"The tagger knows {', '.join(tagger.types)} and not {span.type}.", field="type")
    here = TaggerInput(analysis, item.evidence, [int(analysis.sentence[first])])
    ((begin, end),) = here.token_ranges()
    forms = vocabulary.forms
    data = lay_out([here], tagger.types, tagger.sources, len(forms))
    matrix = tagger.table.matrix(forms)
    weights = tagger.weights
    scores = emission_scores(matrix @ weights.attribute, weights, data, np.arange(end - begin))
    label = 2 * tagger.types.index(span.type) + 1
    a, b = first - begin, last - begin
    with_it = _best_with(scores, weights.start, weights.transition, a, b, label)
    without = _best_without(scores, weights.start, weights.transition, a, b, label)

    names = evidence_names(tagger.types, tagger.sources)
    found: list[Contribution] = []
    labels = len(weights.start)
    for t in np.flatnonzero(with_it != without).tolist():
        for k in range(OFFSETS):
            at = int(data.position[t]) + k - WINDOW
            one, other = k * labels + int(with_it[t]), k * labels + int(without[t])
            word = forms[data.word[at]] if data.word[at] < len(forms) else ""
            row = slice(matrix.indptr[data.word[at]], matrix.indptr[data.word[at] + 1])
            parts = [
                (tagger.table.names[n], float(weights.attribute[n, one] - weights.attribute[n, other]))
                for n in matrix.indices[row].tolist()
            ]
            parts += [
                (
                    names[n],
                    float(data.evidence[at, n] * (weights.evidence[n, one] - weights.evidence[n, other])),
                )
                for n in np.flatnonzero(data.evidence[at]).tolist()
            ]
            found += [
                Contribution(feature=name, word=word, offset=k - WINDOW, token=t, value=value)
                for name, value in parts
                if value
            ]
    found += _moves(tagger, with_it, without)
    found.sort(key=lambda c: -abs(c.value))
    shared = set(decode(with_it, tagger.types))
    difference = _score(scores, weights.start, weights.transition, with_it) - _score(
        scores, weights.start, weights.transition, without
    )
    return Explanation(
        span=span,
        runner_up=tuple(
            Span(int(analysis.start[begin + x]), int(analysis.end[begin + y - 1]), code, "tagger")
            for x, y, code in decode(without, tagger.types)
            if (x, y, code) not in shared
        ),
        difference=difference,
        contributions=tuple(found),
    )


def _score(scores: Floats, start: Floats, transition: Floats, path: Path) -> float:
    emitted = scores[np.arange(len(path)), path].sum()
    return float(start[path[0]] + emitted + transition[path[:-1], path[1:]].sum())


def _best_with(scores: Floats, start: Floats, transition: Floats, first: int, last: int, label: int) -> Path:
    """The best label sequence in which exactly tokens [first, last) are a span that begins with `label`."""
    bound = scores.copy()
    for t in range(first, last):
        bound[t] = chain.FORBIDDEN
        bound[t, label + (t > first)] = scores[t, label + (t > first)]
    if last < len(scores):
        bound[last, label + 1] = chain.FORBIDDEN
    length = np.array([len(scores)], dtype=np.int64)
    block = chain.make_block(bound, np.zeros(1, dtype=np.int64), length)
    return chain.best_paths(block, start, transition)[0]


def _best_without(
    scores: Floats, start: Floats, transition: Floats, first: int, last: int, label: int
) -> Path:
    """The best label sequence that does not hold this very span.

    Viterbi with a second layer of states, 1 while the sequence has followed the span word for word; in
    that layer the span may not be completed.
    """
    count, labels = scores.shape
    best = np.full((count, 2, labels), -np.inf)
    came_from = np.zeros((count, 2, labels), dtype=np.int64)  # layer · labels + label before
    for t in range(count):
        if t == 0:
            reached = start + scores[0]
            source = np.zeros(labels, dtype=np.int64)
            own = np.full(labels, -np.inf)
            own_source = source
        else:
            moves = best[t - 1, :, :, None] + transition[None]
            flat = moves.reshape(2 * labels, labels)
            # Layer 0 goes on as layer 0; layer 1 stays only where it follows the span.
            source = np.argmax(flat[:labels], axis=0)
            reached = flat[source, np.arange(labels)] + scores[t]
            own_source = labels + np.argmax(flat[labels:], axis=0)
            own = flat[own_source, np.arange(labels)] + scores[t]
        best[t, 0], came_from[t, 0] = reached, source
        wanted = label if t == first else label + 1
        if t == first:
            best[t, 1, wanted], came_from[t, 1, wanted] = reached[wanted], source[wanted]
            best[t, 0, wanted] = -np.inf
        elif first < t < last:
            # Whoever leaves the span before its end is free again.
            for j in range(labels):
                if j == wanted:
                    best[t, 1, j], came_from[t, 1, j] = own[j], own_source[j]
                elif own[j] > best[t, 0, j]:
                    best[t, 0, j], came_from[t, 0, j] = own[j], own_source[j]
        elif t == last and own[label + 1] > best[t, 0, label + 1]:
            # The span went on beyond its end, so it is another one.
            best[t, 0, label + 1], came_from[t, 0, label + 1] = own[label + 1], own_source[label + 1]
    path = np.zeros(count, dtype=np.int16)
    layer, path[-1] = 0, int(np.argmax(best[-1, 0]))
    for t in range(count - 1, 0, -1):
        layer, path[t - 1] = divmod(int(came_from[t, layer, path[t]]), labels)
    return path


def _label_name(tagger: Tagger, label: int) -> str:
    if label == 0:
        return "outside"
    return f"{tagger.types[(label - 1) // 2]} {'begins' if label % 2 else 'inside'}"


def _moves(tagger: Tagger, with_it: Path, without: Path) -> list[Contribution]:
    """What the moves between labels add, for both sequences, where they differ; equal moves together."""
    weights = tagger.weights
    found: dict[str, Contribution] = {}
    sides: Sequence[tuple[Path, float]] = ((with_it, 1.0), (without, -1.0))
    for t in range(len(with_it)):
        before = t - 1 if t else t
        if with_it[t] == without[t] and with_it[before] == without[before]:
            continue
        for path, sign in sides:
            move = weights.transition[path[t - 1], path[t]] if t else weights.start[path[0]]
            origin = _label_name(tagger, int(path[t - 1])) if t else "the beginning"
            name = f"move from {origin} to {_label_name(tagger, int(path[t]))}"
            before_it = found.get(name, Contribution(feature=name, word="", offset=0, token=t, value=0.0))
            found[name] = replace(before_it, value=before_it.value + sign * float(move))
    return [move for move in found.values() if move.value]
