"""Opening: is what a text says of an entity enough for a record? A template's groups decide what may open; what was learnt,
what does."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from scipy.optimize import minimize

from urdaten.core.arrays import Bools, Floats, Ints
from urdaten.core.records.layout import CELLS
from urdaten.core.records.linker import rounded
from urdaten.core.records.material import Material

# Words on either side of an entity's first mention.
_AROUND = 5
_HOLD_WORDS, _HOLD = 3.0, 0.3
_LOG = 3
_MANY = 5
# How sure a link is, at which bounds that is told apart: of each field, of the best that lets a record open, and in all.
_FILLED = (0.2, 0.5, 0.8)
_SURE = len(_FILLED) + 1
_BEST = (0.2, 0.4, 0.6, 0.8, 0.9, 0.97)
_SUM = (0.4, 0.8, 1.2, 1.7, 2.3, 3.0, 4.0)
# A group of a template is met by a field whose link is so probable.
_MET = 0.3
# Before anything is learnt a record opens that may.
_START = 2.0


@dataclass(frozen=True)
class OpeningLayout:
    """Where the weights of opening are; behind them one that is always nought."""

    fields: tuple[str, ...]
    words: tuple[str, ...]

    @cached_property
    def begins(self) -> dict[str, tuple[int, int]]:
        """Of each thing that is seen where its weights begin, and how many it has."""
        words = len(self.words)
        sizes = {
            "any": 1,
            "filled": _SURE * len(self.fields),
            "best": len(_BEST) + 1,
            "sum": len(_SUM) + 1,
            "before": words,
            "after": words,
            "heading": words,
            "begins": words,
            "around": words,
            "cell": CELLS,
            "anchors": _MANY,
            "log": _LOG,
            "place": 2,
            "named": 3,
        }
        at, found = 0, {}
        for name, size in sizes.items():
            found[name] = (at, size)
            at += size
        return found

    @cached_property
    def size(self) -> int:
        begin, size = self.begins["named"]
        return begin + size

    @cached_property
    def lexical(self) -> Bools:
        found = np.zeros(self.size, dtype=bool)
        for name in ("before", "after", "heading", "begins", "around"):
            begin, size = self.begins[name]
            found[begin : begin + size] = True
        return found

    @cached_property
    def first(self) -> Floats:
        made = np.zeros(self.size + 1)
        made[0] = _START
        return made


@dataclass(frozen=True, kw_only=True)
class Opener:
    """Weights of opening. Without any, whatever may open does."""

    words: tuple[str, ...] = ()
    weights: tuple[float, ...] = ()

    def probabilities(self, material: Material, chance: Floats) -> Floats:
        """Of each entity the probability that there is a record of it. `chance`, of shape (entities, fields): how probable the
        most probable link of a value to it is."""
        layout = OpeningLayout(tuple(f.name for f in material.template.filled), self.words)
        vector = np.append(np.array(self.weights), 0.0) if self.weights else layout.first
        score = vector[_seen(material, layout, chance)].sum(axis=1)
        return np.asarray(1 / (1 + np.exp(-np.clip(score, -30, 30))))


# Whatever may open does.
ALL_OPEN = Opener()


def may_open(material: Material, chance: Floats) -> Bools:
    """Entities of which each group of the template has a field to which a value may well belong."""
    names = [f.name for f in material.template.filled]
    found = np.ones(len(chance), dtype=bool)
    for group in material.template.opens:
        if material.template.anchor in group:
            continue
        own = [names.index(name) for name in group]
        found &= (chance[:, own] >= _MET).any(axis=1)
    return found


def _seen(m: Material, layout: OpeningLayout, chance: Floats) -> Ints:
    """Of each entity the weights that speak for a record (shape (entities, slots))."""
    count = len(m.entity_text)
    forms, number = m.folded
    index = {word: k for k, word in enumerate(layout.words)}
    known = np.array([index.get(form, -1) for form in forms] or [-1], dtype=np.int64)
    nothing = layout.size
    tokens = len(number)
    if m.template.anchor_field is None or not len(m.mention_row):
        return np.full((count, 1), 0, dtype=np.int64)
    order = np.argsort(m.mention_entity, kind="stable")
    at = order[np.searchsorted(m.mention_entity[order], np.arange(count))]
    row = m.mention_row[at]
    first, last = m.first[row].astype(np.int64), m.last[row].astype(np.int64)
    sentence = m.batch.sentence[first]

    def word(place: Ints) -> Ints:
        held = np.clip(place, 0, max(tokens - 1, 0))
        inside = (place >= 0) & (place < tokens) & (m.batch.sentence[held] == sentence)
        return np.where(inside, known[number[held]], -1)

    begin = m.sentence_first[sentence].astype(np.int64)
    heading = m.heading[first]
    entities = np.bincount(m.entity_text, minlength=len(m.batch))[m.entity_text]
    mentions = np.bincount(m.mention_entity, minlength=count)
    line_log = np.zeros(int(m.line.max(initial=0)) + 1, dtype=bool)
    digit = np.array([bool(f) and f[0].isdigit() for f in forms] or [False], dtype=bool)
    line_log[m.line[m.line_first[digit[number[m.line_first]]]]] = True
    columns: list[tuple[str, Ints]] = [
        ("any", np.zeros(count, dtype=np.int64)),
        ("best", np.searchsorted(_BEST, _best(m, chance), side="right")),
        ("sum", np.searchsorted(_SUM, chance.sum(axis=1), side="right")),
        ("before", word(first - 1)),
        ("after", word(last)),
        ("heading", np.where(heading >= 0, known[np.maximum(heading, 0)], -1)),
        ("begins", np.where(begin < first, word(begin), -1)),
        ("cell", np.clip(m.cell[first].astype(np.int64) + 1, 0, CELLS - 1)),
        ("anchors", np.minimum(entities, _MANY) - 1),
        ("log", line_log[m.line[first]].astype(np.int64)),
        ("place", (begin >= first - 1).astype(np.int64)),
        ("named", np.minimum(mentions, 3) - 1),
    ]
    level = np.searchsorted(_FILLED, chance, side="right")
    columns += [("filled", _SURE * k + level[:, k]) for k in range(chance.shape[1])]
    columns += [("around", word(first - 2 - k)) for k in range(_AROUND)]
    columns += [("around", word(last + 1 + k)) for k in range(_AROUND)]
    return np.stack(
        [np.where(code >= 0, layout.begins[name][0] + code, nothing) for name, code in columns], axis=1
    )


def _best(m: Material, chance: Floats) -> Floats:
    """The most probable link to a field that lets a record open."""
    names = [f.name for f in m.template.filled]
    own = sorted({names.index(name) for group in m.template.opens for name in group if name in names})
    held = chance[:, own] if own else chance
    return np.asarray(held.max(axis=1, initial=0.0))


def learn_opening(
    lessons: Sequence[tuple[Material, Floats, Bools]],
    words: tuple[str, ...],
    *,
    hold: float = _HOLD,
    hold_words: float = _HOLD_WORDS,
) -> Opener:
    """From materials, how probably each entity has values (as by one who has not seen the text), and which of them records were
    signed of. Only entities that may open teach. The most probable weights under a normal distribution, by L-BFGS."""
    if not lessons:
        return Opener()
    layout = OpeningLayout(tuple(f.name for f in lessons[0][0].template.filled), words)
    seen, wanted = [], []
    for material, chance, signed in lessons:
        able = may_open(material, chance)
        seen.append(_seen(material, layout, chance)[able])
        wanted.append(signed[able])
    codes, right = np.concatenate(seen), np.concatenate(wanted).astype(np.float64)
    if not len(codes):
        return Opener()
    start = layout.first[:-1]
    strength = np.where(layout.lexical, hold_words, hold)

    def loss(free: Floats) -> tuple[float, Floats]:
        score = np.clip(np.append(free, 0.0)[codes].sum(axis=1), -30, 30)
        away = free - start
        total = float((strength * away * away).sum()) / 2
        total += float((np.logaddexp(0, score) - right * score).sum())
        error = 1 / (1 + np.exp(-score)) - right
        slope = np.bincount(
            codes.reshape(-1), weights=np.repeat(error, codes.shape[1]), minlength=layout.size + 1
        )
        return total, slope[:-1] + strength * away

    found = minimize(loss, start, jac=True, method="L-BFGS-B", options={"maxiter": 200})
    return Opener(words=words, weights=rounded(found.x))
