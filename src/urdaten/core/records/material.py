"""What linking looks at: the spans that a template takes, as values and mentions of entities, in columns over many texts."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date
from functools import cached_property

import numpy as np

from urdaten.core.arrays import Bools, Ints
from urdaten.core.records.naming import Named, Names
from urdaten.core.records.template import Template
from urdaten.core.spans import Span, SpanTable
from urdaten.core.text import Batch, fold

_COMMAS = frozenset((",",))
_STOPS = frozenset((";", ".", ":", "!", "?", "…"))
_BARS = frozenset(("|", "\t"))
_PRONOUNS = frozenset("she her he his they their it its".split())
# What may stand between a day and a time that belong together.
_JOINTS = frozenset((",", "at", "on", "the", "of", "um", "am"))
_HEADING = 2


@dataclass(frozen=True, eq=False)
class Material:
    """Values and mentions of the texts of a batch. All columns are int32 unless said otherwise.

    Spans: `span` numbers rows of the table, in order of text and place; `kind` numbers `types`. A value is one span, or several
    that belong to one field and stand side by side; a mention is a span of the anchor's types. Entities are numbered through
    the batch, each text's after each other.
    """

    batch: Batch
    template: Template
    table: SpanTable
    types: tuple[str, ...]
    span: Ints
    kind: Ints
    first: Ints
    last: Ints
    # Of values: rows [value_span[v], value_span[v + 1]) of the columns above.
    value_span: Ints
    value_rows: Ints
    # Of mentions: a row of the columns above, and the entity.
    mention_row: Ints
    mention_entity: Ints
    # Of entities.
    entity_text: Ints
    entity_name: tuple[Named, ...]
    # The sentence, paragraph or text that an anchor and its values share, of each token.
    region: Ints
    line: Ints

    @property
    def values(self) -> int:
        """How many values there are."""
        return len(self.value_span) - 1

    @cached_property
    def value_first(self) -> Ints:
        return self.first[self.value_rows[self.value_span[:-1]]] if self.values else _none()

    @cached_property
    def value_last(self) -> Ints:
        return self.last[self.value_rows[self.value_span[1:] - 1]] if self.values else _none()

    @cached_property
    def value_kind(self) -> Ints:
        """Of each value the set of its types, as bits (int64)."""
        if not self.values:
            return np.zeros(0, dtype=np.int64)
        bits = np.int64(1) << self.kind[self.value_rows].astype(np.int64)
        return np.bitwise_or.reduceat(bits, self.value_span[:-1])

    @cached_property
    def value_text(self) -> Ints:
        return self.batch.text[self.value_first]

    @cached_property
    def value_sentence(self) -> Ints:
        return self.batch.sentence[self.value_first]

    @cached_property
    def sentence_first(self) -> Ints:
        """First token of each sentence."""
        sentence = self.batch.sentence
        return np.searchsorted(sentence, np.arange(int(sentence[-1]) + 1 if len(sentence) else 0)).astype(
            np.int32
        )

    @cached_property
    def folded(self) -> tuple[list[str], Ints]:
        """Distinct folded forms, and of each token the number of its own."""
        words, numbers = self.batch.vocabulary.image(fold)
        return list(words.forms), numbers[self.batch.word]

    @cached_property
    def mark(self) -> Ints:
        """Of each token: 1 a comma, 2 a stop, 3 a bar of a table, 0 another."""
        forms, number = self.folded
        kinds = np.array(
            [1 if f in _COMMAS else 2 if f in _STOPS else 3 if f in _BARS else 0 for f in forms],
            dtype=np.int32,
        )
        return kinds[number] if len(number) else _none()

    @cached_property
    def pronoun(self) -> Bools:
        """Of each sentence: does a pronoun stand in it?"""
        forms, number = self.folded
        is_one = np.array([f in _PRONOUNS for f in forms], dtype=bool)
        found = np.zeros(len(self.sentence_first), dtype=bool)
        if len(number):
            found[self.batch.sentence[is_one[number]]] = True
        return found

    @cached_property
    def bare(self) -> Ints:
        """Tokens that no span holds, ascending."""
        count = len(self.line)
        spanned = np.zeros(count + 1, dtype=np.int64)
        np.add.at(spanned, self.first, 1)
        np.add.at(spanned, np.minimum(self.last, count), -1)
        return np.flatnonzero(np.cumsum(spanned)[:count] == 0)

    @cached_property
    def line_first(self) -> Ints:
        """First token of each token's line."""
        return _begins(self.line)

    @cached_property
    def heading(self) -> Ints:
        """Of each token: the folded number of the first word of the heading above its line, -1 for none.

        A heading is a line of one or two words without a span or a stop.
        """
        forms, number = self.folded
        count = len(self.line)
        if not count:
            return _none()
        starts = np.flatnonzero(np.diff(self.line, prepend=self.line[0] - 1))
        ends = np.append(starts[1:], count)
        spanned = np.zeros(count + 1, dtype=np.int64)
        np.add.at(spanned, self.first, 1)
        spans_before = np.append(0, np.cumsum(spanned[:count]))
        bare = spans_before[ends] == spans_before[starts]
        short = ends - starts <= _HEADING
        lettered = np.array([bool(f) and f[0].isalpha() for f in forms], dtype=bool)
        is_heading = bare & short & lettered[number[starts]] & (self.mark[ends - 1] == 0)
        text = self.batch.text[starts]
        # The last heading of its text that stands above.
        at = np.where(is_heading, np.arange(len(starts)), -1)
        at = np.maximum.accumulate(at)
        known = (at >= 0) & (text[np.maximum(at, 0)] == text)
        of_line = np.where(known, number[starts[np.maximum(at, 0)]], -1)
        return np.repeat(of_line, ends - starts).astype(np.int32)

    @cached_property
    def cell(self) -> Ints:
        """Of each token: how many bars of a table stand before it in its line; -1 outside tables."""
        bar = (self.mark == 3).astype(np.int64)
        before = np.append(0, np.cumsum(bar))
        ends = _ends(self.line)
        own = before[np.arange(len(bar))] - before[self.line_first]
        total = before[ends] - before[self.line_first]
        return np.where(total > 0, own, -1).astype(np.int32)

    def span_of(self, row: int) -> Span:
        """A span as people see it."""
        k = int(self.span[row])
        table = self.table
        probability = float(table.probability[k])
        return Span(
            int(table.start[k]),
            int(table.end[k]),
            table.types[int(table.type[k])],
            table.sources[int(table.source[k])] if table.sources else "",
            None if probability != probability else probability,
        )

    def words_of(self, row: int) -> str:
        """A span's words, as they are written."""
        span = int(self.span[row])
        table = self.table
        return self.batch.bodies[int(table.text[span])][int(table.start[span]) : int(table.end[span])]


def _none() -> Ints:
    return np.zeros(0, dtype=np.int32)


def _begins(column: Ints) -> Ints:
    """Of each place in a column that rises: where its value begins."""
    return np.searchsorted(column, column, side="left").astype(np.int64)


def _ends(column: Ints) -> Ints:
    return np.searchsorted(column, column, side="right").astype(np.int64)


def types_of(template: Template) -> tuple[str, ...]:
    """The types that fill a template's fields, in its order."""
    return tuple(dict.fromkeys(code for f in template.fields for code in f.types))


def material_of(batch: Batch, table: SpanTable, template: Template, names: Names) -> Material:
    """What a template sees of texts with these spans."""
    types = types_of(template)
    number = {code: k for k, code in enumerate(types)}
    of_table = np.array([number.get(code, -1) for code in table.types] or [-1], dtype=np.int32)
    held = np.flatnonzero(of_table[table.type] >= 0) if len(table) else np.zeros(0, dtype=np.int64)
    first, last = batch.token_ranges(table.text[held], table.start[held], table.end[held])
    # Spans that hold no whole token stand at the one that they are in.
    within = _token_of(batch, table.text[held], table.start[held])
    first = np.where(last > first, first, within)
    last = np.maximum(last, first + 1)
    tokens = len(batch.word)
    inside = first < tokens
    if tokens:
        # What lies behind a text's last word is of no sentence.
        inside &= batch.text[np.minimum(first, tokens - 1)] == table.text[held]
    held, first, last = held[inside], first[inside], last[inside]
    order = np.lexsort((of_table[table.type[held]], last, first))
    held, first, last = held[order], first[order].astype(np.int32), last[order].astype(np.int32)
    kind = of_table[table.type[held]] if len(held) else _none()
    anchor = template.anchor_field
    is_mention = (
        np.isin(kind, [number[c] for c in anchor.types]) if anchor else np.zeros(len(held), dtype=bool)
    )
    fills = sorted({number[code] for f in template.filled for code in f.types})
    is_value = np.isin(kind, fills)
    lines, paragraphs = _lines(batch)
    if template.scope == "sentence":
        region = batch.sentence
    else:
        region = paragraphs if template.scope == "paragraph" else batch.text
    made = Material(
        batch=batch,
        template=template,
        table=table,
        types=types,
        span=held.astype(np.int32),
        kind=kind,
        first=first,
        last=last,
        value_span=_none(),
        value_rows=np.flatnonzero(is_value).astype(np.int32),
        mention_row=np.flatnonzero(is_mention).astype(np.int32),
        mention_entity=_none(),
        entity_text=_none(),
        entity_name=(),
        region=region,
        line=lines,
    )
    entity, texts, named = _entities(made, names)
    return _replaced(
        made, value_span=_joined(made, number), mention_entity=entity, entity_text=texts, entity_name=named
    )


def _token_of(batch: Batch, text: Ints, start: Ints) -> Ints:
    """The token that holds a place in the body of a text, or the next one."""
    # As if all bodies stood end to end.
    lengths = np.array([len(body) for body in batch.bodies], dtype=np.int64)
    shift = np.cumsum(lengths + 1) - (lengths + 1)
    return np.searchsorted(batch.end + shift[batch.text], start + shift[text], side="right")


def _replaced(made: Material, **columns: object) -> Material:
    held = {name: getattr(made, name) for name in made.__dataclass_fields__}
    return Material(**(held | columns))


def _lines(batch: Batch) -> tuple[Ints, Ints]:
    """Of each token the number of its line and of its paragraph, through the whole batch; paragraphs have an empty line between."""
    if not len(batch.word):
        return _none(), _none()
    joined = "\n\n".join(batch.bodies)
    signs = np.frombuffer(joined.encode("utf-32-le"), dtype=np.uint32)
    breaks = signs == 10
    lengths = np.array([len(body) + 2 for body in batch.bodies], dtype=np.int64)
    at = batch.start + (np.cumsum(lengths) - lengths)[batch.text]
    gaps = breaks.copy()
    gaps[1:] &= breaks[:-1]
    gaps[0] = False
    return np.cumsum(breaks)[at].astype(np.int32), np.cumsum(gaps)[at].astype(np.int32)


def _joined(made: Material, number: dict[str, int]) -> Ints:
    """Where each value begins among the value rows: a day and a time side by side are one, if one field takes both."""
    rows = made.value_rows
    count = len(rows)
    begins = np.ones(count, dtype=bool)
    together = np.zeros((len(made.types), len(made.types)), dtype=bool)
    for f in made.template.filled:
        if f.kind == "moment":
            for one in f.types:
                for other in f.types:
                    together[number[one], number[other]] = one != other
    if count > 1 and together.any():
        left, right = rows[:-1], rows[1:]
        gap = made.first[right] - made.last[left]
        near = (gap >= 0) & (gap <= 1) & together[made.kind[left], made.kind[right]]
        near &= made.batch.sentence[made.first[left]] == made.batch.sentence[made.first[right]]
        forms, folded = made.folded
        joint = np.array([f in _JOINTS for f in forms] or [False], dtype=bool)
        between = np.minimum(made.last[left], len(folded) - 1)
        near &= (gap == 0) | joint[folded[between]]
        # At most two spans: a third begins anew.
        at = np.flatnonzero(near)
        for k in at.tolist():
            if begins[k]:
                begins[k + 1] = False
    return np.append(np.flatnonzero(begins), count).astype(np.int32)


def _entities(made: Material, names: Names) -> tuple[Ints, Ints, tuple[Named, ...]]:
    """Of each mention its entity; of each entity its text and name. Without an anchor each region of a text is an entity."""
    template, batch = made.template, made.batch
    if template.anchor_field is None:
        return _none(), *_regions(made)
    rows = made.mention_row
    texts = batch.text[made.first[rows]].tolist()
    entity = np.zeros(len(rows), dtype=np.int32)
    of_text: list[int] = []
    named: list[Named] = []
    begin = 0
    while begin < len(rows):
        end = begin
        while end < len(rows) and texts[end] == texts[begin]:
            end += 1
        own = rows[begin:end].tolist()
        found = _named(made, own, names)
        numbers: dict[str, int] = {}
        for k, one in enumerate(found):
            key = f"{k}" if template.each == "mention" else fold(one.name)
            if key not in numbers:
                numbers[key] = len(named)
                named.append(one)
                of_text.append(texts[begin])
            entity[begin + k] = numbers[key]
        begin = end
    return entity, np.array(of_text, dtype=np.int32), tuple(named)


def _named(made: Material, rows: Sequence[int], names: Names) -> list[Named]:
    by_kind: dict[int, list[int]] = {}
    for k, row in enumerate(rows):
        by_kind.setdefault(int(made.kind[row]), []).append(k)
    found: list[Named] = [Named("")] * len(rows)
    for kind, places in by_kind.items():
        surfaces = [made.words_of(rows[k]) for k in places]
        for k, one in zip(places, names.in_text(surfaces, made.types[kind]), strict=True):
            found[k] = one
    return found


def _regions(made: Material) -> tuple[Ints, tuple[Named, ...]]:
    """The regions of texts that hold values, as entities without a name."""
    firsts = made.first[made.value_rows]
    regions, at = np.unique(made.region[firsts], return_index=True)
    return made.batch.text[firsts[at]], tuple(Named("") for _ in regions)


@dataclass(frozen=True, kw_only=True)
class About:
    """What is known of texts beside their words: of each the day it is of, and its metadata under a key."""

    days: Sequence[date | None] = ()
    metadata: Callable[[int, str], str] = lambda _text, _key: ""

    def day(self, text: int) -> date | None:
        return self.days[text] if text < len(self.days) else None


# Nothing is known but the words.
UNKNOWN = About()
