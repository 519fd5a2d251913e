"""Learning to link and to open from records that people have signed."""

from __future__ import annotations

from collections.abc import Hashable, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from urdaten.core.arrays import Bools, Floats
from urdaten.core.records.assembly import Assembler
from urdaten.core.records.deciding import chances
from urdaten.core.records.linker import Lesson, Linker, learn, seen_words
from urdaten.core.records.material import UNKNOWN, About, Material, material_of
from urdaten.core.records.naming import Names
from urdaten.core.records.opening import learn_opening
from urdaten.core.records.record import Part, Record
from urdaten.core.records.template import Field, Template
from urdaten.core.records.valuing import TextValues, Values, ways_of
from urdaten.core.spans import SpanTable
from urdaten.core.text import Batch, fold
from urdaten.core.values import ENGLISH, Reading, Value, ValueWords, read_value, same_value

# With fewer signed records than this nothing is learnt: the rules that everything begins with are better.
LEAST_RECORDS = 8
FOLDS = 5
# What a record holds: of each field its values, in their open form.
Signed = Mapping[str, Sequence[str]]


@dataclass(frozen=True, kw_only=True)
class Signings:
    """Texts of which all records of a template were signed: the batch, its spans, what is known of the texts, and of each text
    its records. `groups` names what belongs together, as what is learnt from one text is known of the others of its group."""

    batch: Batch
    spans: SpanTable
    records: Sequence[Sequence[Signed]]
    groups: Sequence[Hashable]
    names: Names
    about: About = UNKNOWN
    words: ValueWords = ENGLISH

    def of(self, texts: Sequence[int]) -> Signings:
        """Those of some of the texts, by number, ascending."""
        place = {text: k for k, text in enumerate(texts)}
        renumbered = np.array(
            [place.get(text, -1) for text in range(len(self.batch))] or [-1], dtype=np.int32
        )
        own = renumbered[self.spans.text] if len(self.spans) else self.spans.text
        table = self.spans.at(own >= 0)
        days = [self.about.day(text) for text in texts]
        return replace(
            self,
            batch=self.batch.only(texts),
            spans=replace(table, text=own[own >= 0]),
            records=[self.records[text] for text in texts],
            groups=[self.groups[text] for text in texts],
            about=About(days=days, metadata=lambda text, key: self.about.metadata(texts[text], key)),
        )


def teach(template: Template, signings: Signings, folds: int = FOLDS) -> Assembler:
    """An assembler that has learnt from signed records; with fewer than LEAST_RECORDS one that has learnt nothing.

    Opening learns from links by assemblers that have not seen the text's group.
    """
    count = sum(len(own) for own in signings.records)
    if count < LEAST_RECORDS:
        return Assembler(template=template)
    lesson, _ = lesson_of(template, signings)
    linker = learn([lesson])
    numbers = list(dict.fromkeys(signings.groups))
    parts: list[tuple[Material, Floats, Bools]] = []
    folds = min(folds, len(numbers))
    for fold_ in range(folds):
        held = {group for k, group in enumerate(numbers) if k % folds == fold_}
        inside = [k for k, group in enumerate(signings.groups) if group in held]
        outside = [k for k, group in enumerate(signings.groups) if group not in held]
        other = learn([lesson_of(template, signings.of(outside))[0]]) if outside else Linker()
        own, signed = lesson_of(template, signings.of(inside))
        seen, probability = other.probabilities(own.material)
        parts.append((own.material, chances(own.material, seen, probability), signed))
    words = seen_words([material for material, _, _ in parts])
    return Assembler(template=template, linker=linker, opener=learn_opening(parts, words))


def lesson_of(template: Template, signings: Signings) -> tuple[Lesson, Bools]:
    """What signed records teach of links; and of each entity whether a record was signed of it."""
    m = material_of(signings.batch, signings.spans, template, signings.names)
    anchor = template.anchor
    by_name: dict[tuple[int, str], list[int]] = {}
    for entity, (text, named) in enumerate(zip(m.entity_text.tolist(), m.entity_name, strict=True)):
        by_name.setdefault((text, fold(named.name)), []).append(entity)
    right: list[frozenset[tuple[int, int]] | None] = [frozenset()] * m.values
    signed = np.zeros(len(m.entity_text), dtype=bool)
    owners: list[list[tuple[Signed, list[int]]]] = []
    for text, records in enumerate(signings.records):
        own: list[tuple[Signed, list[int]]] = []
        for record in records:
            if anchor:
                names = [fold(name) for name in record.get(anchor, ())]
                entities = [e for name in names for e in by_name.get((text, name), ())]
            else:
                entities = [e for (t, _), held in by_name.items() if t == text for e in held]
            signed[entities] = True
            own.append((record, entities))
        owners.append(own)
    spare: set[int] = set()
    ways = ways_of(m, signings.words)
    values = Values(signings.words, signings.names)
    numbers = np.arange(len(m.batch) + 1)
    rows = np.searchsorted(m.batch.text[m.first] if len(m.first) else m.first, numbers).tolist()
    of_text = np.searchsorted(m.value_text, numbers).tolist()
    for text in range(len(m.batch)):
        own_rows = range(rows[text], rows[text + 1])
        worth = TextValues(values, m, signings.about, text, own_rows, signings.names, ways)
        for value in range(of_text[text], of_text[text + 1]):
            pairs = {
                (entity, k)
                for k, f in enumerate(template.filled)
                for record, entities in owners[text]
                if f.name in record and _tells(m, value, f, record[f.name], worth, signings.words)
                for entity in entities
            }
            right[value] = frozenset(pairs)
            if pairs and all(_follows(m, value, template.filled[k], worth) for _, k in pairs):
                spare.add(value)
    unopened = frozenset(np.flatnonzero(~signed).tolist())
    return Lesson(m, right, unopened, sum(len(own) for own in signings.records), frozenset(spare)), signed


def _follows(m: Material, value: int, f: Field, worth: TextValues) -> bool:
    """A day alone that is the text's own: a time without one is of that day anyway."""
    rows = m.value_rows[m.value_span[value] : m.value_span[value + 1]].tolist()
    if f.kind != "moment" or len(rows) > 1:
        return False
    found = worth.single(rows[0], f)
    return found.kind == "date" and worth.base is not None and found.text == worth.base.isoformat()


def _tells(
    m: Material, value: int, f: Field, wanted: Sequence[str], worth: TextValues, words: ValueWords
) -> bool:
    """Can a value be one of those that a record has in a field?"""
    rows = m.value_rows[m.value_span[value] : m.value_span[value + 1]].tolist()
    types = {m.types[int(m.kind[row])] for row in rows}
    if not types <= set(f.types):
        return False
    found = worth.together(rows, f)
    return any(same_field_value(found, read_open(one, f, words), f, types) for one in wanted)


def read_open(text: str, f: Field, words: ValueWords = ENGLISH) -> Value:
    """A value in its open form, as records are signed and exported; an amount of something counts as the amount."""
    value = read_value(text, f.kind, Reading(words=words, unit=f.unit))
    if not value.known and f.kind == "quantity" and " of " in text:
        amount = read_value(text.split(" of ")[0], f.kind, Reading(words=words, unit=f.unit))
        return amount if amount.known else value
    return value


def same_field_value(found: Value, wanted: Value, f: Field, types: set[str] | None = None) -> bool:
    """Is a value the one that is wanted? While learning (`types` given), a day alone is part of its moment."""
    if types is not None and f.kind == "moment" and "T" in wanted.text and "T" not in found.text:
        return found.text == wanted.text.partition("T")[0]
    return same_value(found, wanted)


def fitting_spans(template: Template, signings: Signings) -> list[list[Record]]:
    """Signed records as records: each value with the spans that say it, of several the one nearest to the anchor.

    A value that no span says stands for itself.
    """
    lesson, _ = lesson_of(template, signings)
    m = lesson.material
    numbers = np.arange(len(m.batch) + 1)
    of_text = np.searchsorted(m.value_text, numbers).tolist()
    ways = ways_of(m, signings.words)
    values = Values(signings.words, signings.names)
    rows_of_text = np.searchsorted(m.batch.text[m.first] if len(m.first) else m.first, numbers).tolist()
    mentions: dict[int, list[int]] = {}
    for row, entity in zip(m.mention_row.tolist(), m.mention_entity.tolist(), strict=True):
        mentions.setdefault(entity, []).append(row)
    by_name: dict[tuple[int, str], int] = {}
    for entity, (text, named) in enumerate(zip(m.entity_text.tolist(), m.entity_name, strict=True)):
        by_name.setdefault((text, fold(named.name)), entity)
    found: list[list[Record]] = []
    for text, own in enumerate(signings.records):
        worth = TextValues(
            values,
            m,
            signings.about,
            text,
            range(rows_of_text[text], rows_of_text[text + 1]),
            signings.names,
            ways,
        )
        made: list[Record] = []
        used: set[int] = set()
        for signed in own:
            name = " ".join(signed.get(template.anchor, ()))
            entity = by_name.get((text, fold(name)))
            record = Record(template, entity=name)
            if entity is not None:
                row = next((r for r in mentions[entity] if r not in used), mentions[entity][0])
                used.add(row)
                record.parts[template.anchor] = [
                    _part(m, row, worth.single(row, template.field_called(template.anchor)))
                ]
            for f in template.fields:
                if f.name not in signed:
                    continue
                record.values[f.name] = [_signed_value(one, f, signings.words) for one in signed[f.name]]
                if f.name == template.anchor or entity is None:
                    continue
                k = template.filled.index(f)
                fitting = [
                    v
                    for v in range(of_text[text], of_text[text + 1])
                    if (entity, k) in (lesson.right[v] or ())
                ]
                near = sorted(fitting, key=lambda v: _gap(m, v, mentions[entity]))[: len(signed[f.name])]
                rows = [
                    row for v in near for row in m.value_rows[m.value_span[v] : m.value_span[v + 1]].tolist()
                ]
                if rows:
                    record.parts[f.name] = [_part(m, row, worth.single(row, f)) for row in rows]
            made.append(record)
        found.append(made)
    return found


def _gap(m: Material, value: int, mentions: Sequence[int]) -> int:
    first = int(m.value_first[value])
    return min(abs(int(m.first[row]) - first) for row in mentions)


def _part(m: Material, row: int, value: Value) -> Part:
    return Part(span=m.span_of(row), written=m.words_of(row), value=value)


def _signed_value(text: str, f: Field, words: ValueWords) -> Value:
    """A value as it was signed; what cannot be read is what it is."""
    value = read_open(text, f, words)
    return replace(value, notes=()) if value.known else Value(kind=f.kind, text=text)
