"""Lists compiled to arrays: every way to write every entry in one automaton, with what a hit has to be held against."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Bools, Ints
from urdaten.core.lists.automaton import Automaton
from urdaten.core.lists.entries import NameList
from urdaten.core.lists.options import ListOptions
from urdaten.core.lists.slips import Slips, may_slip
from urdaten.core.lists.spelling import Sums, mixed, run_sums, word_sums
from urdaten.core.lists.symbols import Symbols, decoded, laid_out
from urdaten.core.lists.ways import ways
from urdaten.core.text import cut_texts, fold, fold_but_case, without_accents

# What the text has to have for a way: a capital or a figure at its beginning; the very letters, with or without their accents;
# in any case, but with their accents. LARGE demands nothing: the list writes the way with a capital or a figure at its beginning.
CAPITAL, EXACT, EXACT_BARE, ACCENTS, LARGE = 1, 2, 4, 8, 16
# By what words are compared where a way wants this.
LEVELS: dict[int, Callable[[str], str]] = {
    EXACT: fold_but_case,
    EXACT_BARE: lambda form: without_accents(fold_but_case(form)),
    ACCENTS: fold,
}


def bare(form: str) -> str:
    """The key of lists that do without accents."""
    return without_accents(fold(form))


def begins_large(form: str) -> bool:
    """Does it begin with a capital or a figure?"""
    return form[:1].isupper() or form[:1].isdigit()


@dataclass(frozen=True, eq=False)
class CompiledLists:
    """Columns over ways, writings and entries, in the order of the lists.

    Way k is one of writing way_writing[k], made from it as way_how[k] says in bits; the text has to have way_demand[k], and
    where that is letters, their sum is way_sum[k]. Writing k belongs to entry writing_entry[k] and lies at writing_first[k] ..
    writing_first[k + 1] of the blob. The writings of entry k begin at entry_writing[k], the preferred one first; it belongs to
    the list entry_list[k] and is called entry_number[k] by whoever keeps it.
    """

    automaton: Automaton[Symbols]
    way_writing: Ints
    way_how: NDArray[np.uint8]
    way_demand: NDArray[np.uint8]
    way_sum: Sums
    writing_entry: Ints
    writing_first: Ints
    blob: NDArray[np.uint8]
    entry_writing: Ints
    entry_number: NDArray[np.int64]
    entry_list: NDArray[np.int64]
    # Symbols that may have a slip.
    slippery: Ints
    # Are words compared without their accents first?
    is_bare: bool

    @classmethod
    def of(cls, lists: Sequence[tuple[int, NameList]], language: str = "en") -> CompiledLists:
        """Of lists by their numbers. Entries without a number of their own are numbered from 1 in their list."""
        rows = _Rows(language)
        for number, names in lists:
            rows.add(number, names)
        is_bare = any(not _with_accents(names.options) for _, names in lists)
        cut = cut_texts(rows.ways)
        key = bare if is_bare else fold
        automaton = Automaton.of(cut, Symbols.of, key)
        demand = _demands(rows, cut.forms, cut.form, cut.first, is_bare)
        total = np.zeros(len(rows.ways), dtype=np.uint64)
        for level, spell in LEVELS.items():
            at = np.flatnonzero(demand & level)
            if len(at):
                sums = mixed(word_sums([spell(form) for form in cut.forms]))[cut.form]
                total[at] = run_sums(sums, cut.first[:-1][at], cut.first[1:][at])
        blob, writing_first = laid_out(rows.writings)
        with_slips = np.array([options.slips for options in rows.options], dtype=bool)
        slips = np.repeat(with_slips[rows.list_of_ways], np.diff(cut.first))
        words = {key(cut.forms[k]) for k in np.unique(cut.form[slips]).tolist()}
        return cls(
            automaton,
            np.array(rows.way_writing, dtype=np.int32),
            np.array(rows.hows, dtype=np.uint8),
            demand,
            total,
            np.array(rows.writing_entry, dtype=np.int32),
            writing_first,
            blob,
            np.array([*rows.entry_writing, len(rows.writings)], dtype=np.int32),
            np.array(rows.numbers, dtype=np.int64),
            rows.list_of_entries,
            np.unique(automaton.symbols.find([word for word in words if may_slip(word)])),
            is_bare,
        )

    @property
    def key(self) -> Callable[[str], str]:
        """What words are looked up by."""
        return bare if self.is_bare else fold

    @cached_property
    def slips(self) -> Slips:
        """The words that may have one."""
        return Slips(self.automaton.symbols, self.slippery)

    @cached_property
    def depth(self) -> int:
        """The most symbols that a name has."""
        automaton = self.automaton
        depth = 0
        states = automaton.root[automaton.root >= 0]
        while len(states):
            depth += 1
            counts = automaton.begin[states + 1] - automaton.begin[states]
            states = automaton.follow[np.repeat(automaton.begin[states], counts) + _within(counts)]
        return depth

    def writing(self, number: int) -> str:
        """How an entry is written."""
        return decoded(self.blob, int(self.writing_first[number]), int(self.writing_first[number + 1]))

    def preferred(self, entry: int) -> str:
        """How an entry is called, by its place."""
        return self.writing(int(self.entry_writing[entry]))

    def entries_of(self, numbers: Sequence[int]) -> Bools:
        """Which entries have one of these numbers, shape (n_entries,)."""
        return np.isin(self.entry_number, np.array(numbers, dtype=np.int64))

    def of_lists(self, numbers: Sequence[int]) -> Bools:
        """Which entries belong to one of these lists, shape (n_entries,)."""
        return np.isin(self.entry_list, np.array(numbers, dtype=np.int64))

    @property
    def nbytes(self) -> int:
        """Bytes of all arrays."""
        return sum(array.nbytes for array in self.arrays().values())

    def arrays(self) -> dict[str, NDArray[np.generic]]:
        """All that it is made of, by name; what is not an array is an array of one number."""
        automaton, symbols = self.automaton, self.automaton.symbols
        return {
            **{f"symbols.{name}": getattr(symbols, name) for name in SYMBOL_ARRAYS},
            **{f"automaton.{name}": getattr(automaton, name) for name in AUTOMATON_ARRAYS},
            **{name: getattr(self, name) for name in OWN_ARRAYS},
        }


SYMBOL_ARRAYS = ("sums", "number", "first", "blob")
AUTOMATON_ARRAYS = ("root", "begin", "symbol", "follow", "leaves", "name")
OWN_ARRAYS = (
    "way_writing",
    "way_how",
    "way_demand",
    "way_sum",
    "writing_entry",
    "writing_first",
    "blob",
    "entry_writing",
    "entry_number",
    "entry_list",
    "slippery",
)


def letters_of(written: str) -> int:
    """How many letters and figures it has."""
    return sum(map(str.isalnum, written))


def _with_accents(options: ListOptions) -> bool:
    return options.accents and not options.slips


def _within(counts: Ints) -> Ints:
    return np.arange(int(counts.sum())) - np.repeat(np.cumsum(counts) - counts, counts)


class _Rows:
    """Columns while they grow; they hold no object for an entry but its words."""

    def __init__(self, language: str) -> None:
        self._language = language
        # Of ways.
        self.ways: list[str] = []
        self.way_writing: list[int] = []
        self.hows: list[int] = []
        # Of writings their entry, of entries their first writing and their number.
        self.writings: list[str] = []
        self.writing_entry: list[int] = []
        self.entry_writing: list[int] = []
        self.numbers: list[int] = []
        # Of lists their number, their options, and how many entries and ways there are with theirs.
        self.lists: list[int] = []
        self.options: list[ListOptions] = []
        self.entries_until: list[int] = []
        self.ways_until: list[int] = []

    def add(self, number: int, names: NameList) -> None:
        options = names.options
        as_written = not (options.endings or options.hyphens or options.shortest)
        writings, owners, begins, numbers = (
            self.writings,
            self.writing_entry,
            self.entry_writing,
            self.numbers,
        )
        first, entry = len(writings), len(numbers)
        for place, one in enumerate(names.entries, start=1):
            begins.append(len(writings))
            numbers.append(one.number or place)
            writings.append(one.preferred)
            owners.append(entry)
            if one.variants:
                # A name that is its own variant is one writing.
                others = dict.fromkeys(one.variants)
                others.pop(one.preferred, None)
                writings.extend(others)
                owners.extend([entry] * len(others))
            entry += 1
        if as_written:
            self.ways += writings[first:]
            self.way_writing += range(first, len(writings))
            self.hows += bytes(len(writings) - first)
        else:
            self._add_ways(first, options)
        self.lists.append(number)
        self.options.append(options)
        self.entries_until.append(len(numbers))
        self.ways_until.append(len(self.ways))

    def _add_ways(self, first: int, options: ListOptions) -> None:
        for writing in range(first, len(self.writings)):
            written = self.writings[writing]
            if letters_of(written) < options.shortest:
                continue
            every = ways(written, self._language, endings=options.endings, hyphens=options.hyphens)
            self.ways += every
            self.hows += every.values()
            self.way_writing += [writing] * len(every)

    @property
    def list_of_ways(self) -> Ints:
        """Of each way the place of its list."""
        return np.repeat(np.arange(len(self.lists)), np.diff(np.array([0, *self.ways_until])))

    @property
    def list_of_entries(self) -> NDArray[np.int64]:
        """Of each entry the number of its list."""
        return np.repeat(np.array(self.lists, dtype=np.int64), np.diff(np.array([0, *self.entries_until])))


def _demands(rows: _Rows, forms: Sequence[str], form: Ints, first: Ints, is_bare: bool) -> NDArray[np.uint8]:
    """Of each way what a text has to have."""
    large = np.fromiter(map(begins_large, forms), dtype=bool, count=len(forms))
    # One without any token is never asked.
    begins = (np.append(large[form], False) if len(forms) else np.zeros(1, dtype=bool))[first[:-1]]
    demand = np.where(begins, np.uint8(LARGE), np.uint8(0)).astype(np.uint8)
    begin = 0
    for options, end in zip(rows.options, rows.ways_until, strict=True):
        own = slice(begin, end)
        begin = end
        exact = np.full(end - own.start, options.case == "exact")
        if options.exact_below:
            written = (rows.writings[writing] for writing in rows.way_writing[own])
            exact |= np.array([letters_of(one) < options.exact_below for one in written], dtype=bool)
        with_accents = _with_accents(options)
        otherwise = np.full(len(exact), ACCENTS if is_bare and with_accents else 0, dtype=np.uint8)
        if options.case == "capital":
            otherwise[begins[own]] |= CAPITAL
        demand[own] |= np.where(exact, np.uint8(EXACT if with_accents else EXACT_BARE), otherwise)
    return demand
