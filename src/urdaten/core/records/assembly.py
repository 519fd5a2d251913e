"""Assembling records: values are linked to anchors and fields, records open, places are given out, values are read."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from urdaten.core.arrays import Bools, Floats, Ints
from urdaten.core.records.deciding import NONE_AT, Choice, best_rows, chances, decide, told
from urdaten.core.records.layout import RELATIONS
from urdaten.core.records.linker import BEHIND_CUE, CUE_REACH, NOTHING_LEARNT, Linker, cue_codes, speaks_for
from urdaten.core.records.material import UNKNOWN, About, material_of
from urdaten.core.records.naming import Names
from urdaten.core.records.opening import ALL_OPEN, Opener, may_open
from urdaten.core.records.record import Linked, Part, Record, Settled, TextRecords
from urdaten.core.records.template import Field, Template
from urdaten.core.records.valuing import TextValues, Values, same_for, ways_of
from urdaten.core.spans import Span, SpanTable
from urdaten.core.text import Analysis, Batch, fold, token_forms
from urdaten.core.values import ENGLISH, Note, Reading, Value, ValueWords, read_value

# So many fields that stand together, and no anchor in their sentence or the one before, are a record that lacks one;
# one of them behind a cue of its own.
_ALONE = 3
# A record opens that is so probable.
OPEN_AT = 0.4


@dataclass(frozen=True, kw_only=True)
class Assembler:
    """A template with what was learnt for it. Without anything learnt it goes by its cues and by what is near."""

    template: Template
    linker: Linker = NOTHING_LEARNT
    opener: Opener = ALL_OPEN

    def assemble(
        self,
        batch: Batch,
        spans: SpanTable,
        names: Names | None = None,
        about: About = UNKNOWN,
        words: ValueWords = ENGLISH,
        *,
        why: bool = False,
        opened: Sequence[frozenset[str]] | None = None,
        linked: Sequence[frozenset[tuple[int, int]] | None] | None = None,
    ) -> list[TextRecords]:
        """The records of each text of a batch, from spans of it.

        With `why` every part tells what spoke for it against the next best. `opened` says of each text of which entities there
        are records, folded, and `linked` of each value which entities and fields it may belong to (see Lesson), in the place of
        what was learnt: to see what each step costs.
        """
        return _Assembly(self, batch, spans, names or Names(), about, words, why, opened, linked).texts()


class _Assembly:
    def __init__(
        self,
        assembler: Assembler,
        batch: Batch,
        spans: SpanTable,
        names: Names,
        about: About,
        words: ValueWords,
        why: bool,
        opened: Sequence[frozenset[str]] | None,
        linked: Sequence[frozenset[tuple[int, int]] | None] | None,
    ) -> None:
        self._assembler, self._names, self._about, self._words = assembler, names, about, words
        self._why = why
        template = assembler.template
        self._template = template
        self._fields = template.filled
        self._material = m = material_of(batch, spans, template, names)
        self._seen, self._probability = assembler.linker.probabilities(m)
        if linked is not None:
            self._probability = told(self._seen, linked, len(template.filled))
        self._chance = chances(m, self._seen, self._probability)
        self._open_chance = assembler.opener.probabilities(m, self._chance)
        self._open = self._opened(opened)
        self._best = best_rows(self._seen, self._worth())
        self._values = Values(words, names)
        self._ways = ways_of(m, words)
        self._cue_kept: Ints | None = None

    def _worth(self) -> Floats:
        """Probabilities as values are given out by them: belonging to no record is worth a little less than it is probable."""
        return np.where(self._seen.entity < 0, self._probability * NONE_AT, self._probability)

    def _opened(self, told: Sequence[frozenset[str]] | None) -> Bools:
        m = self._material
        if told is not None:
            return np.array(
                [
                    fold(named.name) in told[text]
                    for named, text in zip(m.entity_name, m.entity_text.tolist(), strict=True)
                ],
                dtype=bool,
            )
        return np.asarray((self._open_chance >= OPEN_AT) & may_open(m, self._chance))

    def texts(self) -> list[TextRecords]:
        m = self._material
        count = len(m.batch)
        numbers = np.arange(count + 1)
        values = np.searchsorted(m.value_text, numbers).tolist()
        entities = np.searchsorted(m.entity_text, numbers).tolist()
        rows = np.searchsorted(m.batch.text[m.first] if len(m.first) else m.first, numbers).tolist()
        mentions = np.searchsorted(
            m.batch.text[m.first[m.mention_row]] if len(m.mention_row) else m.mention_row, numbers
        ).tolist()
        return [
            self._text(
                k,
                range(rows[k], rows[k + 1]),
                range(values[k], values[k + 1]),
                range(entities[k], entities[k + 1]),
                range(mentions[k], mentions[k + 1]),
            )
            if rows[k] < rows[k + 1]
            else TextRecords()
            for k in range(count)
        ]

    def _text(self, text: int, rows: range, values: range, entities: range, mentions: range) -> TextRecords:
        m, seen = self._material, self._seen
        worth = TextValues(self._values, m, self._about, text, rows, self._names, self._ways)
        known: dict[tuple[int, int], Value] = {}

        def read(value: int, field: int) -> Value:
            key = (value, field)
            if key not in known:
                known[key] = worth.together(self._rows(value), self._fields[field])
            return known[key]

        def same(one: int, other: int) -> bool:
            field = int(seen.field[chosen_row[one]])
            return same_for(read(one, field), read(other, field))

        numbers = list(values)
        best = self._best[values.start : values.stop].tolist()
        chosen_row = dict(zip(numbers, best, strict=True))
        chosen = decide(m, seen, self._probability, numbers, best, same)
        events: dict[int, list[int]] = {}
        for choice in chosen.values():
            if choice.fate == "rival" and choice.by >= 0:
                self._split(events, choice, chosen[choice.by])
        if events:
            chosen = decide(m, seen, self._probability, numbers, best, same, self._event_of(events))
        return self._records(text, rows, entities, mentions, chosen, worth, events)

    def _event_of(self, events: dict[int, list[int]]) -> Callable[[int], int]:
        """Of a row the number of the record of its entity: 0 but for one that has several."""
        seen = self._seen

        def number(row: int) -> int:
            own = events.get(int(seen.entity[row]), ()) if events else ()
            return sum(1 for at in own if int(seen.mention[row]) >= at)

        return number

    def _split(self, events: dict[int, list[int]], loser: Choice, winner: Choice) -> None:
        """One entity, two records: values that contradict each other in sentences with a mention each."""
        m, seen = self._material, self._seen
        one, other = int(seen.mention[winner.row]), int(seen.mention[loser.row])
        if one == other or one < 0 or other < 0 or seen.entity[winner.row] != seen.entity[loser.row]:
            return
        first, second = m.first[m.mention_row[one]], m.first[m.mention_row[other]]
        if m.batch.sentence[first] == m.batch.sentence[second]:
            return
        if seen.place[loser.row, 0] > 8 or seen.place[winner.row, 0] > 8:
            return
        own = events.setdefault(int(seen.entity[loser.row]), [])
        if max(one, other) not in own:
            own.append(max(one, other))

    def _rows(self, value: int) -> list[int]:
        m = self._material
        found: list[int] = m.value_rows[m.value_span[value] : m.value_span[value + 1]].tolist()
        return found

    def _records(
        self,
        text: int,
        rows: range,
        entities: range,
        mentions: range,
        chosen: dict[int, Choice],
        worth: TextValues,
        events: dict[int, list[int]],
    ) -> TextRecords:
        m, seen = self._material, self._seen
        event = self._event_of(events)
        made = TextRecords()
        of_event: dict[tuple[int, int], Record] = {}
        anchor = self._template.anchor_field
        anchors: dict[int, list[int]] = {}
        for k in mentions:
            anchors.setdefault(int(m.mention_entity[k]), []).append(k)
        fates: dict[int, Settled] = {}
        slots: dict[tuple[int, int], dict[int, list[int]]] = {}
        for value, choice in chosen.items():
            for row in (choice.row, *choice.also):
                entity = int(seen.entity[row])
                if choice.fate == "used" and entity >= 0:
                    key = (entity, event(row))
                    slots.setdefault(key, {}).setdefault(int(seen.field[row]), []).append(value)
        order = sorted(
            {key for key in slots} | {(e, 0) for e in entities},
            key=lambda key: (
                sorted(events[key[0]])[key[1] - 1] if key[1] else anchors.get(key[0], [key[0]])[0],
                key[1],
            ),
        )
        place: dict[tuple[int, int], int] = {}
        for key in order:
            entity, number = key
            if not self._open[entity]:
                continue
            own = slots.get(key, {})
            if not own and self._template.opens and number == 0 and any(k[0] == entity for k in slots):
                # All of its values are another record's of the same entity.
                continue
            if not self._fits(own):
                continue
            record = Record(
                self._template,
                entity=m.entity_name[entity].name,
                probability=float(self._open_chance[entity]),
            )
            if anchor is not None:
                self._put_anchor(record, anchor, anchors.get(entity, []), number, slots, entity, worth)
            of_event[key] = record
            place[key] = len(made.records)
            made.records.append(record)
            earlier: dict[str, list[Value]] = {}
            for field in sorted(own):
                self._fill(record, self._fields[field], own[field], chosen, worth, text, earlier)
            self._defaults(record, text)
        for value, choice in chosen.items():
            row = choice.row
            key = (int(seen.entity[row]), event(row))
            name = self._fields[int(seen.field[row])].name if seen.entity[row] >= 0 else ""
            fate = choice.fate
            if fate != "out" and key not in of_event:
                fate = "open"
            for span_row in self._rows(value):
                fates[span_row] = Settled(
                    span=self._material.span_of(span_row),
                    fate=fate,
                    record=place.get(key) if fate in ("used", "rival") else None,
                    field=name,
                )
            if fate == "rival":
                f = self._fields[int(seen.field[row])]
                of_event[key].rivals.extend(
                    (f.name, self._part(span_row, worth.single(span_row, f), value, choice))
                    for span_row in self._rows(value)
                )
        for entity, own_mentions in anchors.items():
            for k in own_mentions:
                row = int(m.mention_row[k])
                keys = [key for key in of_event if key[0] == entity]
                if row not in fates or fates[row].fate == "out":
                    fates[row] = Settled(
                        span=self._material.span_of(row),
                        fate="used" if keys else "open",
                        record=place[keys[0]] if keys else None,
                        field=self._template.anchor,
                    )
        self._without_anchor(made, text, mentions, chosen, fates, worth)
        made.fates = [fates[row] for row in rows if row in fates]
        return made

    def _fits(self, own: dict[int, list[int]]) -> bool:
        names = {self._fields[k].name for k in own} | {self._template.anchor}
        return all(any(name in names for name in group) for group in self._template.opens)

    def _put_anchor(
        self,
        record: Record,
        anchor: Field,
        mentions: list[int],
        number: int,
        slots: dict[tuple[int, int], dict[int, list[int]]],
        entity: int,
        worth: TextValues,
    ) -> None:
        m = self._material
        if not mentions:
            return
        rows = [int(m.mention_row[k]) for k in mentions]
        own = [
            int(self._seen.mention[row])
            for values in slots.get((entity, number), {}).values()
            for value in values
            for row in [int(self._best[value])]
            if int(self._seen.entity[row]) == entity
        ]
        # The mention that its values stand by, or else its first one.
        chosen = int(m.mention_row[min(own)]) if number > 0 and own else rows[0]
        value = (
            self._values.name(m.entity_name[entity], m.words_of(chosen))
            if anchor.kind == "name"
            else worth.single(chosen, anchor)
        )
        record.parts[anchor.name] = [
            Part(span=self._material.span_of(chosen), written=m.words_of(chosen), value=value)
        ]
        record.values[anchor.name] = [value]

    def _fill(
        self,
        record: Record,
        f: Field,
        values: list[int],
        chosen: dict[int, Choice],
        worth: TextValues,
        text: int,
        earlier: dict[str, list[Value]],
    ) -> None:
        rows = [row for value in values for row in self._rows(value)]
        parts = [
            self._part(row, worth.single(row, f), value, chosen[value])
            for value in values
            for row in self._rows(value)
        ]
        record.parts[f.name] = parts
        if f.many:
            found = [worth.together(self._rows(value), f) for value in values]
            record.values[f.name] = list({value.text: value for value in found}.values())
            return
        compared = worth.compare(
            rows[0], lambda: earlier.get(f.kind) or self._told_before(rows[0], f, worth, text)
        )
        made = compared if compared is not None else worth.together(self._leading(rows, f), f)
        earlier.setdefault(f.kind, []).append(made)
        record.values[f.name] = [made]

    def _told_before(self, row: int, f: Field, worth: TextValues, text: int) -> list[Value]:
        """Values of the field's types that the text told before this span."""
        m = self._material
        found = []
        for other in range(row):
            if m.batch.text[m.first[other]] == text and m.types[int(m.kind[other])] in f.types:
                value = worth.together([other], f)
                if value.known:
                    found.append(value)
        return found

    def _leading(self, rows: list[int], f: Field) -> list[int]:
        """Of spans that say the same one of each type; a day without its time gives way to one with it."""
        if f.kind != "moment":
            return rows[:1]
        by_kind: dict[int, int] = {}
        for row in rows:
            by_kind.setdefault(int(self._material.kind[row]), row)
        return list(by_kind.values())

    def _part(self, row: int, value: Value, number: int, choice: Choice) -> Part:
        m = self._material
        return Part(
            span=self._material.span_of(row),
            written=m.words_of(row),
            value=value,
            probability=float(self._probability[choice.row]),
            why=self._linked(number, choice),
        )

    def _linked(self, value: int, choice: Choice) -> Linked:
        seen = self._seen
        place = RELATIONS[int(seen.place[choice.row, 0])] if seen.mention[choice.row] >= 0 else ""
        if not self._why:
            return Linked(place=place)
        others = [r for r in range(int(seen.first[value]), int(seen.first[value + 1])) if r != choice.row]
        if not others:
            return Linked(place=place, cue=self._cue(value, choice.row))
        against = max(others, key=lambda r: float(self._probability[r]))
        told = speaks_for(self._assembler.linker, self._material, seen, choice.row, against)
        said = ""
        if seen.entity[against] >= 0:
            name = self._material.entity_name[int(seen.entity[against])].name
            said = " of ".join(part for part in (self._fields[int(seen.field[against])].name, name) if part)
        return Linked(place=place, cue=self._cue(value, choice.row), speaks=tuple(told), against=said)

    def _cue(self, value: int, row: int) -> str:
        """The words of the field's cue that stands nearest before a value."""
        m, field = self._material, int(self._seen.field[row])
        if field >= len(self._fields):
            return ""
        forms, number = m.folded
        first = int(m.value_first[value])
        begin = max(int(m.sentence_first[m.value_sentence[value]]), first - CUE_REACH - 4)
        words = [forms[k] for k in number[begin:first].tolist()]
        best: tuple[int, int, str] | None = None
        for cue in self._fields[field].cues:
            own = [fold(form) for form in token_forms(cue)]
            for end in range(len(words), max(0, len(words) - CUE_REACH), -1):
                if own and words[max(0, end - len(own)) : end] == own:
                    found = (end, len(own), cue)
                    best = found if best is None or found[:2] > best[:2] else best
                    break
        return "" if best is None else best[2]

    def _defaults(self, record: Record, text: int) -> None:
        for f in self._template.fields:
            if f.name in record.values or not (f.default or f.default_from):
                continue
            written = self._about.metadata(text, f.default_from) if f.default_from else ""
            written = written or f.default
            if not written:
                continue
            how = Reading(words=self._words, base=self._about.day(text), unit=f.unit, pattern=f.pattern)
            value = read_value(written, f.kind, how)
            record.values[f.name] = [value.noted(Note("default"))]

    def _without_anchor(
        self,
        made: TextRecords,
        text: int,
        mentions: range,
        chosen: dict[int, Choice],
        fates: dict[int, Settled],
        worth: TextValues,
    ) -> None:
        """Values that stand together in a sentence without any anchor, enough of them for a record: one is shown, open."""
        m, template = self._material, self._template
        if template.anchor_field is None or not template.opens:
            return
        taken = {int(m.batch.sentence[m.first[int(m.mention_row[k])]]) for k in mentions}
        by_sentence: dict[int, list[int]] = {}
        for value, choice in chosen.items():
            if choice.fate != "used" or self._fate_of(value, fates) in ("open", "out"):
                by_sentence.setdefault(int(m.value_sentence[value]), []).append(value)
        for sentence, values in sorted(by_sentence.items()):
            if sentence in taken or any(s in taken for s in (sentence - 1,) if self._same_text(s, text)):
                continue
            placed = self._field_by_itself(values)
            if len(placed) < _ALONE or not self._fits({k: [v] for k, v in placed.items()}):
                continue
            if not any(int(self._cue_codes()[value, k]) in BEHIND_CUE for k, value in placed.items()):
                continue
            record = Record(template, anchorless=True)
            for field, value in placed.items():
                f = self._fields[field]
                rows = self._rows(value)
                record.parts[f.name] = [
                    Part(
                        span=self._material.span_of(row), written=m.words_of(row), value=worth.single(row, f)
                    )
                    for row in rows
                ]
                record.values[f.name] = [worth.together(rows, f)]
                for row in rows:
                    fates[row] = Settled(
                        span=self._material.span_of(row), fate="open", record=len(made.records), field=f.name
                    )
            made.records.append(record)

    def _same_text(self, sentence: int, text: int) -> bool:
        m = self._material
        return sentence >= 0 and int(m.batch.text[m.sentence_first[sentence]]) == text

    def _fate_of(self, value: int, fates: dict[int, Settled]) -> str:
        row = self._rows(value)[0]
        return fates[row].fate if row in fates else "out"

    def _field_by_itself(self, values: list[int]) -> dict[int, int]:
        """The fields that values would fill if there were an anchor, by what is seen around them."""
        layout = self._assembler.linker.layout(self._template, self._material.types)
        vector = self._assembler.linker.vector(layout)
        kinds = {code: k for k, code in enumerate(self._material.types)}
        placed: dict[int, tuple[float, int]] = {}
        cues = self._cue_codes()
        for value in values:
            own = int(self._material.value_kind[value])
            best: tuple[float, int] | None = None
            for k, f in enumerate(self._fields):
                if sum(1 << kinds[code] for code in f.types) & own != own:
                    continue
                worth = float(vector[layout.cue + int(cues[value, k])])
                if best is None or worth > best[0]:
                    best = (worth, k)
            if best is not None and (best[1] not in placed or best[0] > placed[best[1]][0]):
                placed[best[1]] = (best[0], value)
        return {k: value for k, (_, value) in placed.items()}

    def _cue_codes(self) -> Ints:
        if self._cue_kept is None:
            self._cue_kept = cue_codes(self._material)
        return self._cue_kept


def assemble(
    analysis: Analysis,
    spans: Sequence[Span],
    template: Template,
    names: Names | None = None,
    about: About = UNKNOWN,
) -> list[Record]:
    """Records of one text, by its template's cues and by what is near: an assembler that has learnt nothing."""
    batch = Batch.joined([analysis])
    table = SpanTable.of_spans([sorted(spans)])
    return Assembler(template=template).assemble(batch, table, names, about, why=True)[0].records
