"""Lists (gazetteers): entries compiled to a token automaton, matched over word numbers."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Bools, Ints
from urdaten.core.lists.compiled import CAPITAL, LARGE, LEVELS, CompiledLists, begins_large
from urdaten.core.lists.context import Context
from urdaten.core.lists.entries import SLIP, EntryReason, NameList
from urdaten.core.lists.kernels import leftmost
from urdaten.core.lists.options import AS_EVER, ListOptions
from urdaten.core.lists.spelling import mixed, run_sums, word_sums
from urdaten.core.spans import Span, SpanTable
from urdaten.core.text import Analysis, Batch, FormColumn, token_forms

SOURCE = "lists"
# So many reasons are held to be told again.
MOST_TOLD = 100_000
# Of forms: the mixed sums of what they are at a level.
_SPELLED = {
    level: FormColumn(lambda forms, key=key: mixed(word_sums([key(form) for form in forms])))  # type: ignore[misc]
    for level, key in LEVELS.items()
}
# Of each form: does it begin with a capital or a figure?
_LARGE = FormColumn(lambda forms: np.fromiter(map(begins_large, forms), dtype=bool, count=len(forms)))


@dataclass(frozen=True, kw_only=True)
class ListHead:
    """What a list is called, the type its names have, and how they are looked for."""

    name: str
    type: str
    options: ListOptions = AS_EVER


@dataclass(frozen=True, eq=False)
class Part:
    """Compiled lists of which some entries may not count any more."""

    compiled: CompiledLists
    # Flags of entries that do not count; None where all do.
    gone: Bools | None = None


@dataclass(frozen=True, eq=False)
class Reading:
    """What lists find in texts."""

    table: SpanTable
    # Of each place where a name that its list writes with a capital stands in small letters: the text and the entry's number.
    small: Sequence[tuple[int, int]]


@dataclass(frozen=True, eq=False)
class _Finds:
    """Where ways stand: columns of one length, all integers."""

    first: Ints
    last: Ints
    # Place of the list among the heads.
    list: Ints
    slips: Ints
    part: Ints
    way: Ints

    def at(self, rows: NDArray[np.generic]) -> _Finds:
        return _Finds(*(getattr(self, name)[rows] for name in _FINDS))


_FINDS = ("first", "last", "list", "slips", "part", "way")


class Gazetteer:
    """Compiled lists, matched as one.

    Names are compared token by token, by their folded forms, as far as the options of their list ask for no more or less. Of
    each list the longest name counts at each place, from left to right; never across sentences.
    """

    def __init__(self, lists: Iterable[NameList], language: str = "en") -> None:
        numbered = list(enumerate(lists))
        heads = {k: ListHead(name=x.name, type=x.type, options=x.options) for k, x in numbered}
        self._set([Part(CompiledLists.of(numbered, language))], heads)

    @classmethod
    def joined(cls, parts: Sequence[Part], heads: Mapping[int, ListHead]) -> Gazetteer:
        """Of parts that were compiled one by one; lists without a head do not count. Each list was compiled with the options
        of its head, and each entry counts in one part at most."""
        made = cls.__new__(cls)
        made._set(parts, heads)
        return made

    def _set(self, parts: Sequence[Part], heads: Mapping[int, ListHead]) -> None:
        self._parts = tuple(parts)
        self._by_number = dict(heads)
        self._heads = tuple(heads.values())
        self.makers = tuple(dict.fromkeys(head.name for head in self._heads))
        self.types = tuple(dict.fromkeys(head.type for head in self._heads))
        self._maker = np.array([self.makers.index(head.name) for head in self._heads], dtype=np.int32)
        self._kind = np.array([self.types.index(head.type) for head in self._heads], dtype=np.int32)
        self._slips = np.array([head.options.slips for head in self._heads], dtype=bool)
        # Of each entry of each part the place of its list, -1 where it does not count.
        numbers = np.array(sorted(heads), dtype=np.int64)
        place = {number: k for k, number in enumerate(heads)}
        places = np.array([place[number] for number in numbers.tolist()] or [-1], dtype=np.int32)
        self._list = []
        for part in parts:
            of_list = part.compiled.entry_list
            at = np.minimum(np.searchsorted(numbers, of_list), max(len(numbers) - 1, 0))
            known = numbers[at] == of_list if len(numbers) else np.zeros(len(of_list), dtype=bool)
            if part.gone is not None:
                known &= ~part.gone
            self._list.append(np.where(known, places[at], -1).astype(np.int32))
        # By part, way, and whether there is a slip.
        self._told: dict[tuple[int, int, bool], EntryReason] = {}
        own = {k: head.options for k, head in enumerate(self._heads) if head.options.has_context}
        self._context = Context(own) if own else None
        self._readers = [_Reader(part.compiled) for part in parts]

    @property
    def parts(self) -> list[Part]:
        """The compiled lists that it is of."""
        return list(self._parts)

    @property
    def heads(self) -> dict[int, ListHead]:
        """Of each list by its number in the parts what it is called and how it is looked for."""
        return dict(self._by_number)

    @cached_property
    def content(self) -> list[tuple[ListHead, str, tuple[str, ...]]]:
        """What it is made of: each entry with its other writings, by its list, in an order that depends on nothing else."""
        found = []
        for part, places in zip(self._parts, self._list, strict=True):
            compiled = part.compiled
            for k in np.flatnonzero(places >= 0).tolist():
                written = [
                    compiled.writing(w)
                    for w in range(int(compiled.entry_writing[k]), int(compiled.entry_writing[k + 1]))
                ]
                found.append((self._heads[places[k]], written[0], tuple(sorted(written[1:]))))
        return sorted(found, key=repr)

    def preferred_names(self, most: int) -> dict[str, list[str]]:
        """The preferred names of each type that has so many entries at most."""
        found: dict[str, list[str]] = {}
        for kind, type_ in enumerate(self.types):
            own = [np.flatnonzero((places >= 0) & (self._kind[places] == kind)) for places in self._list]
            if sum(map(len, own)) <= most:
                found[type_] = [
                    part.compiled.preferred(entry)
                    for part, entries in zip(self._parts, own, strict=True)
                    for entry in entries.tolist()
                ]
        return found

    def table(self, batch: Batch) -> SpanTable:
        """All list spans of the texts."""
        return self.read(batch).table

    def read(self, batch: Batch) -> Reading:
        """All list spans of the texts, and where names stand as words in small letters."""
        finds, small = self._finds(batch)
        return Reading(self._table(batch, finds), small)

    def _table(self, batch: Batch, finds: _Finds) -> SpanTable:
        order = self._order(finds)
        finds = finds.at(order)
        kept = np.zeros(len(order), dtype=np.uint8)
        leftmost(finds.list, finds.first, finds.last, kept)
        rows = np.flatnonzero(kept)
        reason, reasons = self._reasons(finds, rows)
        by_code = np.argsort(np.argsort(np.array(self.types, dtype=np.str_), kind="stable"))
        place = finds.first[rows].astype(np.int64) << 32 | finds.last[rows]
        rows_in_order = np.lexsort((by_code[self._kind[finds.list[rows]]], place))
        reason, finds = reason[rows_in_order], finds.at(rows[rows_in_order])
        return SpanTable.of_tokens(
            batch,
            finds.first,
            finds.last,
            self._kind[finds.list],
            self.types,
            source=SOURCE,
            maker=self._maker[finds.list],
            makers=self.makers,
            reason=reason,
            reasons=reasons,
        )

    def match(self, analysis: Analysis) -> list[Span]:
        """As `table`, of one text."""
        return self.table(Batch.joined([analysis])).spans(1)[0]

    def preferred(self, surface: str, type_code: str) -> str | None:
        """The preferred name of the entry that is written like this, if there is just one."""
        names: set[str] = set()
        for part, places in zip(self._parts, self._list, strict=True):
            compiled = part.compiled
            for way in compiled.automaton.names_of([compiled.key(form) for form in token_forms(surface)]):
                entry = int(compiled.writing_entry[compiled.way_writing[way]])
                if places[entry] >= 0 and self._heads[places[entry]].type == type_code:
                    names.add(compiled.preferred(entry))
        return names.pop() if len(names) == 1 else None

    def _finds(self, batch: Batch) -> tuple[_Finds, list[tuple[int, int]]]:
        """Every way of every entry that stands where its list may find it; and those in small letters, as Reading has them."""
        none = np.zeros(0, dtype=np.int32)
        found = [_Finds(none, none, none, none, none, none)]
        small: list[tuple[int, int]] = []
        for number, (reader, places) in enumerate(zip(self._readers, self._list, strict=True)):
            finds, own = reader.read(batch, number, places, self._slips)
            found.append(finds)
            small += own
        finds = _Finds(*(np.concatenate([getattr(x, name) for x in found]) for name in _FINDS))
        if self._context is not None:
            finds = finds.at(self._context.allows(batch, finds.list, finds.first, finds.last))
        return finds, small

    def _order(self, finds: _Finds) -> NDArray[np.int64]:
        """By list and place; of those at one place the longest first, then the one with the fewest slips and changes, preferred
        names before variants, earlier entries before later ones: whatever part they are in."""
        place = finds.list.astype(np.int64) << 32 | finds.first
        order = np.argsort(place, kind="stable")
        place = place[order]
        same = np.zeros(len(order) + 1, dtype=bool)
        same[1:-1] = place[1:] == place[:-1]
        # Mostly there is but one.
        at = np.flatnonzero(same[1:] | same[:-1])
        if not len(at):
            return order
        several = finds.at(order[at])
        how, variant, entry = (np.zeros(len(at), dtype=np.int64) for _ in range(3))
        for number, part in enumerate(self._parts):
            rows = np.flatnonzero(several.part == number)
            way = several.way[rows]
            writing = part.compiled.way_writing[way]
            own = part.compiled.writing_entry[writing]
            how[rows] = part.compiled.way_how[way]
            variant[rows] = writing - part.compiled.entry_writing[own]
            entry[rows] = part.compiled.entry_number[own]
        keys = (entry, variant, how, several.slips, -several.last.astype(np.int64), place[at])
        order[at] = order[at][np.lexsort(keys)]
        return order

    def _reasons(self, finds: _Finds, rows: NDArray[np.int64]) -> tuple[Ints, tuple[EntryReason, ...]]:
        """Of these finds, by their place in all that are in order, why they are there."""
        # Finds that are written with the same words in the same list follow each other.
        same = np.zeros(len(finds.first) + 1, dtype=bool)
        same[1:-1] = (
            (finds.first[1:] == finds.first[:-1])
            & (finds.last[1:] == finds.last[:-1])
            & (finds.list[1:] == finds.list[:-1])
        )
        kept = finds.at(rows)
        key = kept.part.astype(np.int64) << 33 | kept.way.astype(np.int64) << 1 | (kept.slips > 0)
        _, at, reason = np.unique(key, return_index=True, return_inverse=True)
        told = [
            self._reason(*one)
            for one in zip(
                kept.part[at].tolist(), kept.way[at].tolist(), (kept.slips[at] > 0).tolist(), strict=True
            )
        ]
        several: dict[EntryReason, int] = {}
        for k in np.flatnonzero(same[rows + 1]).tolist():
            if also := self._also(finds, int(rows[k]), same):
                made = replace(told[reason[k]], also=also)
                reason[k] = len(told) + several.setdefault(made, len(several))
        return reason, (*told, *several)

    def _also(self, finds: _Finds, row: int, same: Bools) -> tuple[str, ...]:
        """What other entries of its list are called that stand in the same place with as many slips."""
        mine = self._name(finds, row)
        names: dict[str, None] = {}
        other = row + 1
        while same[other] and finds.slips[other] == finds.slips[row]:
            names[self._name(finds, other)] = None
            other += 1
        return tuple(name for name in names if name != mine)

    def _name(self, finds: _Finds, row: int) -> str:
        compiled = self._parts[int(finds.part[row])].compiled
        return compiled.preferred(int(compiled.writing_entry[compiled.way_writing[finds.way[row]]]))

    def _reason(self, part: int, way: int, has_slip: bool) -> EntryReason:
        if (known := self._told.get((part, way, has_slip))) is not None:
            return known
        compiled = self._parts[part].compiled
        writing = int(compiled.way_writing[way])
        entry = int(compiled.writing_entry[writing])
        made = EntryReason(
            self._heads[self._list[part][entry]].name,
            compiled.preferred(entry),
            compiled.writing(writing),
            int(compiled.way_how[way]) | (SLIP if has_slip else 0),
            entry=int(compiled.entry_number[entry]),
        )
        if len(self._told) < MOST_TOLD:
            self._told[part, way, has_slip] = made
        return made


class _Reader:
    """Reads texts by one part."""

    def __init__(self, compiled: CompiledLists) -> None:
        self._compiled = compiled
        self._near = FormColumn(self._near_of)

    def _near_of(self, keys: Sequence[str]) -> NDArray[np.object_]:
        found = np.empty(len(keys), dtype=object)
        found[:] = self._compiled.slips.near(keys)
        return found

    def read(
        self, batch: Batch, part: int, places: Ints, with_slips: Bools
    ) -> tuple[_Finds, list[tuple[int, int]]]:
        """What stands in the texts, and as Reading has it what stands there in small letters. places: of each entry the place
        of its list, -1 where it does not count; with_slips: by that place, may words have one?"""
        compiled = self._compiled
        automaton = compiled.automaton
        words, numbers = batch.vocabulary.image(compiled.key)
        token = words.column(automaton.column)
        if compiled.slips:
            near = words.column(self._near)
            hits, slips = automaton.walk_near(
                numbers[batch.word], token, near.tolist(), batch.sentence, compiled.depth
            )
        else:
            hits = automaton.walk(token[numbers[batch.word]], batch.sentence)
            slips = np.zeros(len(hits.first), dtype=np.int32)
        hit, way = automaton.names_at(hits)
        own = places[compiled.writing_entry[compiled.way_writing[way]]]
        rows = np.flatnonzero(own >= 0)
        rows = rows[(slips[hit[rows]] == 0) | with_slips[own[rows]]]
        hit, way, own = hit[rows], way[rows], own[rows]
        found = _Finds(
            hits.first[hit], hits.last[hit], own, slips[hit], np.full(len(hit), part, dtype=np.int32), way
        )
        spelled, large = self._agrees(batch, found)
        demand = compiled.way_demand[way]
        small = found.at(spelled & ~large & (demand & LARGE > 0) & (found.slips == 0))
        return found.at(spelled & (large | (demand & CAPITAL == 0))), self._places(batch, small)

    def _places(self, batch: Batch, finds: _Finds) -> list[tuple[int, int]]:
        """Of each place the text and the number of the entry, each once."""
        compiled = self._compiled
        entry = compiled.entry_number[compiled.writing_entry[compiled.way_writing[finds.way]]]
        rows = np.unique(np.stack([finds.first.astype(np.int64), finds.last, entry], axis=1), axis=0)
        return list(zip(batch.text[rows[:, 0]].tolist(), rows[:, 2].tolist(), strict=True))

    def _agrees(self, batch: Batch, found: _Finds) -> tuple[Bools, Bools]:
        """Have the texts the letters that the ways demand, and do they begin with a capital or a figure?"""
        demand = self._compiled.way_demand[found.way]
        held = np.ones(len(demand), dtype=bool)
        for level in LEVELS:
            rows = np.flatnonzero(demand & level)
            if not len(rows):
                continue
            sums = batch.vocabulary.column(_SPELLED[level])[batch.word]
            found_sums = run_sums(sums, found.first[rows], found.last[rows])
            held[rows] &= found_sums == self._compiled.way_sum[found.way[rows]]
        return held, batch.vocabulary.column(_LARGE)[batch.word[found.first]]
