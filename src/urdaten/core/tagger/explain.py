"""Why a tagger sets a span, or does not: exact additive contributions against the runner-up.

The score of a label sequence is a sum over features and moves, so the difference between the best sequence
with a span and the best without it is a sum too. What both share cancels out.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Floats
from urdaten.core.spans import Coding, Span
from urdaten.core.tagger.kernels.scores import WINDOW
from urdaten.core.tagger.layout import TaggerInput
from urdaten.core.tagger.model import Layer, Tagger
from urdaten.core.text import Vocabulary
from urdaten.errors import BadSpan

Path = NDArray[np.int64]


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


def explain(
    tagger: Tagger,
    item: TaggerInput,
    vocabulary: Vocabulary,
    span: Span,
    others: Sequence[TaggerInput] = (),
) -> Explanation:
    """Explain one span of a text; `others` are the texts of its group that were tagged with it.

    Raises BadSpan for a span off the token bounds, over a sentence's end, or of a type that the tagger does not know.
    """
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
    layer = next(layer for layer in tagger.layers if span.type in layer.coding.types)
    parts = _parts(tagger, layer, item, others, begin, end, vocabulary)
    coding = layer.coding
    scores = np.zeros((end - begin, coding.count))
    for part in parts:
        for label, value in part.values.items():
            scores[part.token, label] += value
    chain = _Chain(coding, scores, layer.moves.first(coding), layer.moves.between(coding))
    a, b = first - begin, last - begin
    wanted = np.array(coding.labels_of(coding.types.index(span.type), b - a), dtype=np.int64)
    with_it = _best_with(chain, a, wanted)
    without = _best_without(chain, a, wanted)

    found: list[Contribution] = []
    for part in parts:
        one, other = int(with_it[part.token]), int(without[part.token])
        value = part.values.get(one, 0.0) - part.values.get(other, 0.0)
        if one != other and value:
            found.append(
                Contribution(
                    feature=part.feature, word=part.word, offset=part.offset, token=part.token, value=value
                )
            )
    found += _moves(chain, with_it, without)
    found.sort(key=lambda c: -abs(c.value))
    starts = np.arange(end - begin) == 0
    spans_of = [
        {
            (int(x), int(y), coding.types[int(kind)])
            for x, y, kind in zip(*coding.decode(path, starts), strict=True)
        }
        for path in (with_it, without)
    ]
    return Explanation(
        span=span,
        runner_up=tuple(
            Span(int(analysis.start[begin + x]), int(analysis.end[begin + y - 1]), code, "tagger")
            for x, y, code in sorted(spans_of[1] - spans_of[0])
        ),
        difference=chain.score(with_it) - chain.score(without),
        contributions=tuple(found),
    )


@dataclass(frozen=True)
class _Part:
    """What one feature of one word gives to the labels of one token."""

    feature: str
    word: str
    offset: int
    token: int
    values: dict[int, float]


def _parts(
    tagger: Tagger,
    layer: Layer,
    item: TaggerInput,
    others: Sequence[TaggerInput],
    begin: int,
    end: int,
    vocabulary: Vocabulary,
) -> list[_Part]:
    """Everything that adds to the scores of a sentence's tokens. Token features see the whole text and its group."""
    forms = vocabulary.forms
    lexicon = tagger.lexicon(vocabulary)
    lexicon.grow()
    whole = replace(item, sentences=None)
    layout, (pointer, column) = tagger.look(tagger.lay_out([whole, *others]), vocabulary)
    labels = layer.coding.count
    parts: list[_Part] = []
    for t in range(end - begin):
        at = int(layout.position[begin + t])
        for offset in range(-WINDOW, WINDOW + 1):
            row = int(layout.word[at + offset])
            word = forms[row - 1] if row else ""
            # A word speaks for the token `offset` places before it in part WINDOW − offset.
            low = (WINDOW - offset) * labels
            for number in lexicon.column[lexicon.pointer[row] : lexicon.pointer[row + 1]].tolist():
                held = layer.forms.row(number)
                values = {c - low: v for c, v in held.items() if low <= c < low + labels}
                parts.append(_Part(tagger.table.names[number], word, offset, t, values))
        word = forms[int(layout.word[at]) - 1]
        for number in column[pointer[at] : pointer[at + 1]].tolist():
            values = dict(enumerate(layer.tokens[number].tolist()))
            parts.append(_Part(str(tagger.token_table.features[number]), word, 0, t, values))
    return parts


@dataclass(frozen=True)
class _Chain:
    """Scores of one sentence: emission (n, L), first label (L,), moves (L, L); −inf is forbidden."""

    coding: Coding
    scores: Floats
    start: Floats
    between: Floats

    def score(self, path: Path) -> float:
        emitted = self.scores[np.arange(len(path)), path].sum()
        return float(self.start[path[0]] + emitted + self.between[path[:-1], path[1:]].sum())

    @property
    def may_end(self) -> NDArray[np.bool_]:
        number = np.arange(self.coding.count)
        return (number >= self.coding.closing[0]) & (number < self.coding.closing[1])


def _best_with(chain: _Chain, first: int, wanted: Path) -> Path:
    """The best label sequence in which exactly the span with these labels stands at `first`."""
    bound = chain.scores.copy()
    last = first + len(wanted)
    bound[first:last] = -np.inf
    bound[np.arange(first, last), wanted] = chain.scores[np.arange(first, last), wanted]
    if last < len(bound):
        # What follows must not carry the span on.
        onward = np.full(bound.shape[1], -np.inf)
        onward[slice(*chain.coding.opening)] = 0
        bound[last] += onward
    best = chain.start + bound[0]
    came_from = np.zeros(bound.shape, dtype=np.int64)
    for t in range(1, len(bound)):
        moves = best[:, None] + chain.between
        came_from[t] = moves.argmax(axis=0)
        best = moves.max(axis=0) + bound[t]
    path = np.zeros(len(bound), dtype=np.int64)
    path[-1] = np.where(chain.may_end, best, -np.inf).argmax()
    for t in range(len(bound) - 1, 0, -1):
        path[t - 1] = came_from[t, path[t]]
    return path


def _best_without(chain: _Chain, first: int, wanted: Path) -> Path:
    """The best label sequence that does not hold this very span.

    Viterbi with a second layer of states, 1 while the sequence has followed the span word for word; in
    that layer the span may not be completed.
    """
    scores = chain.scores
    count, labels = scores.shape
    last = first + len(wanted)
    number = np.arange(labels)
    carries_on = (number < chain.coding.opening[0]) | (number >= chain.coding.opening[1])
    best = np.full((count, 2, labels), -np.inf)
    came_from = np.zeros((count, 2, labels), dtype=np.int64)  # layer · labels + label before
    for t in range(count):
        if t == 0:
            free, source = chain.start + scores[0], np.zeros(labels, dtype=np.int64)
            own, own_source = np.full(labels, -np.inf), source
        else:
            moves = best[t - 1, :, :, None] + chain.between[None]
            source = moves[0].argmax(axis=0)
            free = moves[0][source, number] + scores[t]
            own_source = moves[1].argmax(axis=0)
            own = moves[1][own_source, number] + scores[t]
        if t == first:
            follows = number == wanted[0]
            best[t, 1] = np.where(follows, free, -np.inf)
            came_from[t, 1] = source
            free = np.where(follows, -np.inf, free)
        elif first < t < last:
            follows = number == wanted[t - first]
            best[t, 1] = np.where(follows, own, -np.inf)
            came_from[t, 1] = labels + own_source
            own = np.where(follows, -np.inf, own)
        elif t == last:
            # Only who goes on beyond the span's end has another span.
            own = np.where(carries_on, own, -np.inf)
        leaves = own > free
        best[t, 0] = np.where(leaves, own, free)
        came_from[t, 0] = np.where(leaves, labels + own_source, source)
    path = np.zeros(count, dtype=np.int64)
    layer, path[-1] = 0, int(np.where(chain.may_end, best[-1, 0], -np.inf).argmax())
    for t in range(count - 1, 0, -1):
        layer, path[t - 1] = divmod(int(came_from[t, layer, path[t]]), labels)
    return path


def _moves(chain: _Chain, with_it: Path, without: Path) -> list[Contribution]:
    """What the moves between labels add, for both sequences, where they differ; equal moves together."""
    found: dict[str, Contribution] = {}
    sides: Sequence[tuple[Path, float]] = ((with_it, 1.0), (without, -1.0))
    for t in range(len(with_it)):
        before = t - 1 if t else t
        if with_it[t] == without[t] and with_it[before] == without[before]:
            continue
        for path, sign in sides:
            move = chain.between[path[t - 1], path[t]] if t else chain.start[path[0]]
            origin = chain.coding.name(int(path[t - 1])) if t else "the beginning"
            name = f"move from {origin} to {chain.coding.name(int(path[t]))}"
            before_it = found.get(name, Contribution(feature=name, word="", offset=0, token=t, value=0.0))
            found[name] = replace(before_it, value=before_it.value + sign * float(move))
    return [move for move in found.values() if move.value]
