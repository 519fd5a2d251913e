"""Linking: of each value how probable it is that it belongs to this record and this field, or to none.

A log-linear model over all that a value could be: score = sum of the weights of what is seen, probability = softmax over the
value's own candidates and "none". Its weights start from what is plain (layout.first: near, before, behind a cue) and move from
there by what signed records teach: with none it is those rules and nothing else.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from scipy.optimize import minimize

from urdaten.core.arrays import Bools, Floats, Ints
from urdaten.core.records.kernels import MOST_ENTITIES, NONE_SIZES, PLACE_SIZES, candidates
from urdaten.core.records.layout import BAG_AFTER, BAG_BEFORE, CELLS, Layout
from urdaten.core.records.material import Material
from urdaten.core.records.template import Template
from urdaten.core.text import fold, token_forms

CUE_REACH = 8
# What cue_codes says of a value behind a cue of the field.
BEHIND_CUE = (2, 3)
# How far weights are held to where they began: those of words, and all others.
_HOLD_WORDS, _HOLD = 1.0, 1.0
# A word counts that was seen so often while learning.
_LEAST_SEEN = 2


@dataclass(frozen=True, eq=False)
class Seen:
    """All that values could be: rows of (value, entity, field), each value's after each other, its last for none of them.

    `row_weights`, of shape (rows, slots), numbers weights that add up to a row's score; those of nothing are layout.size.
    """

    value: Ints
    entity: Ints
    mention: Ints
    field: Ints
    first: Ints
    place: Ints
    around: Ints
    around_row: Ints
    crossed: Ints

    def __len__(self) -> int:
        return len(self.value)

    @cached_property
    def row_weights(self) -> Ints:
        return np.concatenate([self.place, self.crossed, self.around[self.around_row]], axis=1)


@dataclass(frozen=True, kw_only=True)
class Linker:
    """Weights of a template. Without any it goes by the rules that everything begins with."""

    words: tuple[str, ...] = ()
    weights: tuple[float, ...] = ()
    # Of so many signed records; 0 where nothing was learnt.
    records: int = 0

    def layout(self, template: Template, types: Sequence[str]) -> Layout:
        return Layout.of(template, types, self.words)

    def vector(self, layout: Layout) -> Floats:
        """Shape (layout.size + 1,), the last one nought."""
        if not self.weights:
            return layout.first
        return np.append(np.array(self.weights, dtype=np.float64), 0.0)

    def probabilities(self, material: Material) -> tuple[Seen, Floats]:
        """What values could be, and how probable each is; of each value the probabilities add up to 1."""
        layout = self.layout(material.template, material.types)
        seen = see(material, layout)
        return seen, _softmax(_scores(seen, self.vector(layout)), seen.first)


# Goes by the rules that everything begins with.
NOTHING_LEARNT = Linker()


def _scores(seen: Seen, vector: Floats) -> Floats:
    if not len(seen):
        return np.zeros(0)
    score = vector[seen.place].sum(axis=1) + vector[seen.crossed].sum(axis=1)
    around: Floats = vector[seen.around].sum(axis=1)
    return np.asarray(score + around[seen.around_row])


def _softmax(score: Floats, first: Ints) -> Floats:
    if not len(score):
        return score
    begins = first[:-1]
    size = np.diff(first)
    top = np.repeat(np.maximum.reduceat(score, begins), size)
    weight = np.exp(score - top)
    return np.asarray(weight / np.repeat(np.add.reduceat(weight, begins), size))


def see(material: Material, layout: Layout) -> Seen:
    """Candidates of all values with the weights that speak for each."""
    value, entity, mention, relation, place = _candidates(material)
    fields = material.template.filled
    kinds = {code: k for k, code in enumerate(material.types)}
    takes = [sum(1 << kinds[code] for code in f.types) for f in fields]
    none = len(fields)
    # Of each set of types the fields that take all of it.
    sets, of_value = np.unique(material.value_kind, return_inverse=True)
    fitting = [[k for k, own in enumerate(takes) if own & int(s) == int(s)] for s in sets.tolist()]
    counts = np.array([len(own) for own in fitting] or [0], dtype=np.int64)
    begin = np.append(0, np.cumsum(counts))
    flat = np.array([k for own in fitting for k in own] or [0], dtype=np.int64)
    of_candidate = of_value[value] if len(value) else np.zeros(0, dtype=np.int64)
    size = np.where(entity >= 0, counts[of_candidate], 1) if len(value) else np.zeros(0, dtype=np.int64)
    candidate = np.repeat(np.arange(len(value)), size)
    inside = np.arange(len(candidate)) - np.repeat(np.cumsum(size) - size, size)
    own_field = flat[np.minimum(begin[of_candidate[candidate]] + inside, len(flat) - 1)]
    field_ = np.where(entity[candidate] >= 0, own_field, none)
    row_value = value[candidate]
    first = np.append(np.searchsorted(row_value, np.arange(material.values)), len(row_value))
    around, places = _around(material, layout)
    cue = cue_codes(material)
    is_none = field_ == none
    nothing = layout.size
    crossed = np.stack(
        [
            layout.cue + cue[row_value, field_],
            np.where(
                is_none,
                nothing,
                layout.crossed + np.maximum(relation[candidate], 0) * none + np.minimum(field_, none - 1),
            ),
        ],
        axis=1,
    )
    if relation.size and (relation[~(entity < 0)] < 0).any():
        # Without anchors there are no places.
        crossed[:, 1] = nothing
    offsets = np.array(
        [[*layout.place], [*layout.none, *([nothing] * (len(PLACE_SIZES) - len(NONE_SIZES)))]], dtype=np.int64
    )
    place_weights = _place_weights(place, entity, offsets, nothing)
    # What is seen around a value is told apart by field: one row for each of both.
    pair = row_value.astype(np.int64) * (none + 1) + field_
    pairs, around_row = np.unique(pair, return_inverse=True)
    pair_value, pair_field = pairs // (none + 1), pairs % (none + 1)
    codes = around[pair_value]
    shifted = np.where(codes >= 0, places[None, :] + codes * (none + 1) + pair_field[:, None], nothing)
    return Seen(
        value=row_value,
        entity=entity[candidate],
        mention=mention[candidate],
        field=field_,
        first=first,
        place=place_weights[candidate],
        around=shifted,
        around_row=around_row.reshape(-1),
        crossed=crossed,
    )


def _place_weights(place: Ints, entity: Ints, offsets: Ints, nothing: int) -> Ints:
    of_none = (entity < 0).astype(np.int64)
    made = place + offsets[of_none]
    slots = np.arange(place.shape[1])
    gone = (of_none[:, None] == 1) & (slots[None, :] >= len(NONE_SIZES))
    return np.where(gone | (place < 0), nothing, made)


def _candidates(m: Material) -> tuple[Ints, Ints, Ints, Ints, Ints]:
    """Of each value the entities it could belong to, and none at last: value, entity, mention, coarse place, places."""
    count = m.values
    slots = len(PLACE_SIZES)
    if m.template.anchor_field is None:
        _, region = np.unique(m.region[m.value_first], return_inverse=True)
        value = np.repeat(np.arange(count, dtype=np.int64), 2)
        entity = np.stack([region.reshape(-1), np.full(count, -1)], axis=1).reshape(-1)
        nothing = np.full(2 * count, -1, dtype=np.int64)
        return value, entity, nothing, nothing, np.full((2 * count, slots), -1, dtype=np.int64)
    texts = len(m.batch)
    mention_first, mention_last = m.first[m.mention_row], m.last[m.mention_row]
    mention_text = m.batch.text[mention_first]
    of_texts = np.arange(texts + 1)
    entities = (
        np.bincount(m.entity_text, minlength=texts) if len(m.entity_text) else np.zeros(texts, np.int64)
    )
    first_entity = np.searchsorted(m.entity_text, of_texts[:-1]).astype(np.int64)
    at = np.where(entities > 0, first_entity, 0)
    own = np.full(count, -1, dtype=np.int64)
    single = np.flatnonzero(np.diff(m.value_span) == 1)
    row_entity = np.full(len(m.span), -1, dtype=np.int64)
    row_entity[m.mention_row] = m.mention_entity
    own[single] = row_entity[m.value_rows[m.value_span[:-1][single]]]
    mention_of_text = np.searchsorted(mention_text, of_texts)
    per_text = np.minimum(entities, MOST_ENTITIES)
    most = int((per_text[m.value_text] + 1).sum()) if count else 0
    out = [np.empty(most, dtype=np.int64) for _ in range(4)]
    place = np.full((most, slots), 0, dtype=np.int64)
    made = candidates(
        m.value_first,
        m.value_last,
        m.value_sentence,
        m.value_kind,
        own,
        np.searchsorted(m.value_text, of_texts),
        mention_first,
        mention_last,
        m.batch.sentence[mention_first],
        m.mention_entity,
        mention_of_text,
        entities.astype(np.int64),
        m.mention_entity[np.minimum(mention_of_text[:-1], max(len(mention_first) - 1, 0))].astype(np.int64)
        if len(mention_first)
        else at,
        np.bincount(m.mention_entity, minlength=len(m.entity_text)).astype(np.int64),
        m.region,
        m.sentence_first,
        m.mark,
        m.pronoun,
        *out,
        place,
    )
    value, entity, mention, relation = (column[:made] for column in out)
    return value, entity, mention, relation, place[:made]


def _around(m: Material, layout: Layout) -> tuple[Ints, Ints]:
    """Of each value a code for each slot around it (-1 for nothing), and where each slot's weights begin."""
    forms, number = m.folded
    index = {word: k for k, word in enumerate(layout.words)}
    known = np.array([index.get(form, -1) for form in forms] or [-1], dtype=np.int64)
    first, last = m.value_first.astype(np.int64), m.value_last.astype(np.int64)
    sentence = m.batch.sentence
    count = len(sentence)

    def word(at: Ints) -> Ints:
        """The word at tokens of the value's own sentence."""
        inside = (at >= 0) & (at < count)
        held = np.clip(at, 0, max(count - 1, 0))
        if not count:
            return np.full(len(at), -1, dtype=np.int64)
        inside &= sentence[held] == m.value_sentence
        return np.where(inside, known[number[held]], -1)

    bare = m.bare
    at = np.searchsorted(bare, first)

    def outside(step: int) -> Ints:
        """The word so many words without a span on (from 0) or back (from -1), in the value's own sentence."""
        held = np.clip(at + step, 0, max(len(bare) - 1, 0))
        inside = (at + step >= 0) & (at + step < len(bare))
        if not len(bare):
            return np.full(len(at), -1, dtype=np.int64)
        token = bare[held]
        inside &= sentence[token] == m.value_sentence
        return np.where(inside, known[number[token]], -1)

    heading = m.heading[first] if count else np.zeros(0, dtype=np.int64)
    kind = (
        m.kind[m.value_rows[m.value_span[:-1]]].astype(np.int64) if m.values else np.zeros(0, dtype=np.int64)
    )
    joined = (np.diff(m.value_span) > 1).astype(np.int64)
    begin = m.sentence_first[m.value_sentence].astype(np.int64) if m.values else first
    cell = m.cell[first] if count else first
    columns: dict[str, list[Ints]] = {
        "field": [np.zeros(m.values, dtype=np.int64)],
        "before": [word(first - 1)],
        "second before": [word(first - 2)],
        "after": [word(last)],
        "heading": [np.where(heading >= 0, known[np.maximum(heading, 0)], -1)],
        "begins": [np.where(begin < first, word(begin), -1)],
        "cell": [np.clip(cell + 1, 0, CELLS - 1)],
        "log": [_log(m)],
        "type before": [_neighbour(m, -1)],
        "type after": [_neighbour(m, 1)],
        "type": [2 * kind + joined],
        "with": _company(m),
        "row": [_in_row(m)],
        "own word": [known[number[first]] if count else first],
        "words before": [outside(-1 - k) for k in range(BAG_BEFORE)],
        "words after": [outside(k) for k in range(BAG_AFTER)],
    }
    places = [layout.around[name][0] for name, own in columns.items() for _ in own]
    codes = np.stack([column for own in columns.values() for column in own], axis=1)
    return codes, np.array(places, dtype=np.int64)


def _log(m: Material) -> Ints:
    """1 for a value that opens its line, if it is a time; 2 for one in a line that a time opens."""
    times = np.array([f.kind in ("moment", "time") for f in m.template.filled], dtype=bool)
    codes = {code for f, own in zip(m.template.filled, times, strict=True) if own for code in f.types}
    is_time = np.array([code in codes for code in m.types], dtype=bool)
    if not m.values:
        return np.zeros(0, dtype=np.int64)
    rows = m.value_rows[m.value_span[:-1]]
    opens = (m.line_first[m.value_first] == m.value_first) & is_time[m.kind[rows]]
    lines = np.zeros(int(m.line.max(initial=0)) + 1, dtype=bool)
    lines[m.line[m.value_first[opens]]] = True
    return np.where(opens, 1, np.where(lines[m.line[m.value_first]], 2, 0))


def _company(m: Material) -> list[Ints]:
    """Of each value the types of other spans in its sentence: for each type a column with its number, or -1."""
    types = len(m.types)
    sentences = len(m.sentence_first)
    counts = np.zeros((sentences, types), dtype=np.int64)
    np.add.at(counts, (m.batch.sentence[m.first], m.kind), 1)
    own = np.zeros((m.values, types), dtype=np.int64)
    if m.values:
        value = np.repeat(np.arange(m.values), np.diff(m.value_span))
        np.add.at(own, (value, m.kind[m.value_rows]), 1)
    there = counts[m.value_sentence] > own
    return [np.where(there[:, k], k, -1) for k in range(types)]


def _in_row(m: Material) -> Ints:
    """0 for a value that is the only one of its types in its sentence, 1 for the first of several, 2 for a later one."""
    if not m.values:
        return np.zeros(0, dtype=np.int64)
    key = m.value_sentence.astype(np.int64) << 32 | m.value_kind
    _, first, place, count = np.unique(key, return_index=True, return_inverse=True, return_counts=True)
    place = place.reshape(-1)
    return np.where(count[place] == 1, 0, np.where(first[place] == np.arange(m.values), 1, 2))


def _neighbour(m: Material, step: int) -> Ints:
    """Type of the span before or after a value in its sentence, from 1 on; 0 for none."""
    if not m.values:
        return np.zeros(0, dtype=np.int64)
    edge = m.value_rows[m.value_span[:-1]] if step < 0 else m.value_rows[m.value_span[1:] - 1]
    other = edge.astype(np.int64) + step
    inside = (other >= 0) & (other < len(m.span))
    held = np.clip(other, 0, len(m.span) - 1)
    inside &= m.batch.sentence[m.first[held]] == m.value_sentence
    return np.where(inside, m.kind[held].astype(np.int64) + 1, 0)


def cue_codes(m: Material) -> Ints:
    """Of each value and field (the last for none) what its cues say: a code of layout's cue words."""
    fields = m.template.filled
    forms, number = m.folded
    index = {form: k for k, form in enumerate(forms)}
    count = len(number)
    far = CUE_REACH + 1
    nearest = np.full((m.values, len(fields)), far, dtype=np.int64)
    first = m.value_first.astype(np.int64)
    sentence = m.batch.sentence
    ends = [_cue_ends(f.cues, index, number) for f in fields]
    open_ = np.ones(m.values, dtype=bool)
    for step in range(1, CUE_REACH + 1):
        at = first - step
        held = np.maximum(at, 0)
        if count:
            open_ &= (at >= 0) & (sentence[held] == m.value_sentence) & (m.mark[held] != 2)
        for k, own in enumerate(ends):
            if own is not None:
                hit = open_ & own[held] & (nearest[:, k] == far)
                nearest[hit, k] = step
    has = np.array([bool(f.cues) for f in fields], dtype=bool)
    least = nearest.min(axis=1, initial=far)
    others = np.array(
        [
            nearest[:, [j for j in range(len(fields)) if j != k]].min(axis=1, initial=far)
            for k in range(len(fields))
        ]
    ).T.reshape(m.values, len(fields))
    code = np.where(
        has[None, :],
        np.where(
            nearest < others,
            np.where(nearest <= 2, 2, 3),
            np.where((nearest < far) & (nearest == others), 3, np.where(others < far, 4, 5)),
        ),
        np.where(others < far, 1, 0),
    )
    return np.concatenate([code, np.where(least < far, 6, 7)[:, None]], axis=1)


def _cue_ends(cues: Sequence[str], index: dict[str, int], number: Ints) -> Bools | None:
    """Tokens at which one of these cues ends; None where none of them stands."""
    found: Bools | None = None
    for cue in cues:
        words = [index.get(fold(form)) for form in token_forms(cue)]
        if not words or any(word is None for word in words):
            continue
        hit = np.zeros(len(number), dtype=bool)
        hits = np.ones(max(len(number) - len(words) + 1, 0), dtype=bool)
        for k, word in enumerate(words):
            hits &= number[k : k + len(hits)] == word
        hit[len(words) - 1 : len(words) - 1 + len(hits)] = hits
        found = hit if found is None else found | hit
    return found


@dataclass(frozen=True, eq=False)
class Lesson:
    """What signed records say of values: rows of Seen that are right, of those values that they say something of."""

    material: Material
    # Of each value the (entity, field) pairs that are right; an empty set: it belongs to none. None: nothing is known.
    right: Sequence[frozenset[tuple[int, int]] | None]
    # Entities that no record was signed of: what is near one of these may be its or none's.
    unopened: frozenset[int] = frozenset()
    records: int = 0
    # Values that may belong to none as well: what they say follows without them.
    spare: frozenset[int] = frozenset()


def seen_words(materials: Sequence[Material]) -> tuple[str, ...]:
    """Words around values that are worth a weight."""
    counts: dict[str, int] = {}
    for m in materials:
        forms, number = m.folded
        sentences = np.unique(m.value_sentence)
        tokens = np.flatnonzero(np.isin(m.batch.sentence, sentences))
        spanned = np.zeros(len(number) + 1, dtype=np.int64)
        np.add.at(spanned, m.first, 1)
        np.add.at(spanned, np.minimum(m.last, len(number)), -1)
        outside = np.cumsum(spanned)[:-1] == 0
        held = number[tokens[outside[tokens]]]
        headed = np.unique(m.heading)
        distinct, times = np.unique(held, return_counts=True)
        for k, count in zip(distinct.tolist(), times.tolist(), strict=True):
            counts[forms[k]] = counts.get(forms[k], 0) + count
        for k in headed.tolist():
            if k >= 0:
                counts[forms[k]] = counts.get(forms[k], 0) + _LEAST_SEEN
    return tuple(sorted(word for word, count in counts.items() if count >= _LEAST_SEEN))


def learn(lessons: Sequence[Lesson], *, hold: float = _HOLD, hold_words: float = _HOLD_WORDS) -> Linker:
    """A linker that has learnt from signed records; without any, the one that has learnt nothing.

    The most probable weights under a normal distribution around those that everything begins with, found by L-BFGS on the
    likelihood of what is right, summed over the candidates that are (values that records do not name count as none).
    """
    lessons = [lesson for lesson in lessons if lesson.records]
    if not lessons:
        return Linker()
    words = seen_words([lesson.material for lesson in lessons])
    template, types = lessons[0].material.template, lessons[0].material.types
    layout = Layout.of(template, types, words)
    parts = [_part(lesson, layout) for lesson in lessons]
    start = layout.first[:-1]
    strength = np.where(layout.lexical, hold_words, hold)

    def loss(free: Floats) -> tuple[float, Floats]:
        vector = np.append(free, 0.0)
        away = free - start
        total = float((strength * away * away).sum()) / 2
        slope = np.append(strength * away, 0.0)
        for seen, right, known in parts:
            score = _scores(seen, vector)
            probability = _softmax(score, seen.first)
            wanted = probability * right
            sums = np.add.reduceat(wanted, seen.first[:-1])
            total -= float(np.log(np.maximum(sums[known], 1e-300)).sum())
            size = np.diff(seen.first)
            by_value = np.repeat(np.where(known, 1.0, 0.0), size)
            error = (probability - wanted / np.repeat(np.maximum(sums, 1e-300), size)) * by_value
            _add_slope(slope, seen, error)
        return total, slope[:-1]

    found = minimize(loss, start, jac=True, method="L-BFGS-B", options={"maxiter": 200})
    return Linker(words=words, weights=rounded(found.x), records=sum(lesson.records for lesson in lessons))


def rounded(weights: Floats) -> tuple[float, ...]:
    """As a file keeps them, so that what was learnt says the same before and after."""
    return tuple(weights.astype(np.float32).astype(np.float64).tolist())


def _part(lesson: Lesson, layout: Layout) -> tuple[Seen, Floats, Bools]:
    """What is seen, which rows are right, and of which values that is known and possible."""
    seen = see(lesson.material, layout)
    none = len(layout.fields)
    right = np.zeros(len(seen))
    known = np.zeros(lesson.material.values, dtype=bool)
    rows: list[tuple[int, int, int]] = list(
        zip(seen.value.tolist(), seen.entity.tolist(), seen.field.tolist(), strict=True)
    )
    for k, (value, entity, own) in enumerate(rows):
        wanted = lesson.right[value]
        if wanted is None:
            continue
        if wanted:
            fits = (entity, own) in wanted or (own == none and value in lesson.spare)
        else:
            fits = own == none or entity in lesson.unopened
        if fits:
            right[k] = 1.0
            known[value] = True
    return seen, right, known


def _add_slope(slope: Floats, seen: Seen, error: Floats) -> None:
    size = len(slope)
    for columns in (seen.place, seen.crossed):
        flat = np.repeat(error, columns.shape[1])
        slope += np.bincount(columns.reshape(-1), weights=flat, minlength=size)
    of_pair = np.bincount(seen.around_row, weights=error, minlength=len(seen.around))
    flat = np.repeat(of_pair, seen.around.shape[1])
    slope += np.bincount(seen.around.reshape(-1), weights=flat, minlength=size)


@dataclass(frozen=True)
class Speaks:
    """What speaks for a link against another: what was seen, its value in words, the field ("" for all), and how much."""

    what: str
    said: str
    field: str
    weight: float

    def words(self) -> str:
        """What was seen, for people to read."""
        told = {
            "place": f"the anchor is {self.said}",
            "rank": f"it is {self.said}",
            "between": f"anchors between: {self.said}",
            "break": self.said,
            "how many": self.said,
            "pronoun": self.said,
            "alike": self.said,
            "beginning": f"the anchor {self.said}"
            if self.said.startswith("begins")
            else f"the anchor is {self.said}",
            "first": f"the anchor is {self.said}",
            "named": f"the anchor is {self.said}",
            "nearest": f"the nearest anchor is {self.said}",
            "sentence": self.said,
            "cue": self.said,
            "field": "how often it is filled at all",
            "before": f"{self.said} right before it",
            "second before": f"{self.said} two words before it",
            "after": f"{self.said} right behind it",
            "heading": f"under the heading {self.said}",
            "begins": f"{self.said} begins the sentence",
            "cell": f"in a table, {self.said}" if self.said else "in no table",
            "log": self.said or "in no log",
            "type before": f"{self.said} is the type before it",
            "type after": f"{self.said} is the type behind it",
            "type": f"its type is {self.said}",
            "with": f"{self.said} is in its sentence",
            "row": f"it is {self.said}",
            "own word": f"it begins with {self.said}",
            "words before": f"{self.said} before it",
            "words after": f"{self.said} behind it",
        }[self.what]
        return f"{told}, for “{self.field}”" if self.field and self.field != "none" else told


def speaks_for(linker: Linker, material: Material, seen: Seen, row: int, against: int) -> list[Speaks]:
    """The exact parts of the log odds of one row against another of the same value, the largest first; they add up to it."""
    layout = linker.layout(material.template, material.types)
    vector = linker.vector(layout)
    parts: dict[int, float] = {}
    for sign, own in ((1.0, row), (-1.0, against)):
        for weight in seen.row_weights[own].tolist():
            if weight != layout.size:
                parts[weight] = parts.get(weight, 0.0) + sign * float(vector[weight])
    told = [Speaks(*layout.describe(weight), amount) for weight, amount in parts.items() if amount]
    return sorted(told, key=lambda one: -abs(one.weight))
