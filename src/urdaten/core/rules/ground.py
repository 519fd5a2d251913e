"""What rules are held against: the tokens of a batch, and the spans that were there before."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Bools, Ints
from urdaten.core.rules import tree
from urdaten.core.rules.asking import ask_forms, ask_tokens, compiled, of_form
from urdaten.core.rules.automaton import BEGINS, ENDS
from urdaten.core.rules.base import WordBase
from urdaten.core.rules.machine import keep_longest
from urdaten.core.rules.raw import raw_matches
from urdaten.core.spans import SpanTable
from urdaten.core.text import TAGS, Batch
from urdaten.errors import BadInput

LISTS, RULES = "lists", "rules"


@dataclass(frozen=True, eq=False)
class Spans:
    """Tokens [first, last) in order, none over another; texts that were too much for what looked for them."""

    first: Ints
    last: Ints
    troubled: Sequence[int] = ()


@dataclass(frozen=True, eq=False)
class Units:
    """All sentences or texts laid out for the machine, one behind the other with an empty token after each.

    token (n,): number of the batch's token, -1 for an empty one; word (n,), kind (n + 1,) and unit (n_units, 3) as the machine
    has them.
    """

    token: Ints
    word: Ints
    unit: Ints
    kind: NDArray[np.uint8]

    @cached_property
    def place(self) -> Ints:
        """Of each token of the batch where it stands here."""
        return np.flatnonzero(self.token >= 0)


class Ground:
    """A batch for rules that are held against it one after the other."""

    def __init__(self, batch: Batch, spans: SpanTable, base: WordBase | None = None) -> None:
        """spans: those of lists and of earlier rules are looked at; `base` tells what is known of words."""
        self.batch = batch
        self._base = base
        self._lists = spans.of_sources((LISTS,))
        self._before = spans.of_sources((LISTS, RULES))
        self._found: list[tuple[str, Ints, Ints]] = []
        self._held: dict[tree.Source, Spans] = {}
        self._flags: dict[tree.Source, NDArray[np.uint8]] = {}
        self._laid: dict[tuple[tree.Source, int], NDArray[np.uint8]] = {}
        self._removed: list[tuple[frozenset[str] | None, Ints, Ints]] = []

    # Sentences and texts

    @cached_property
    def sentence_first(self) -> Ints:
        """First token of each sentence, and one past the last of all."""
        sentence = self.batch.sentence
        if not len(sentence):
            return np.zeros(1, dtype=np.int64)
        return np.append(np.flatnonzero(np.diff(sentence, prepend=sentence[0] - 1)), len(sentence))

    @cached_property
    def sentence_of(self) -> Ints:
        """Of each token the number of its sentence here, from 0."""
        lengths = np.diff(self.sentence_first)
        return np.repeat(np.arange(len(lengths)), lengths)

    def units(self, *, across: bool) -> Units:
        """All sentences, or, where matches run across them, all texts that have any tokens."""
        return self._texts if across else self._sentences

    def chosen(self, sentences: Ints | None, *, across: bool) -> Ints:
        """The units of these sentences, all of them for None: rows of `Units.unit`."""
        units = self.units(across=across).unit
        if sentences is None:
            return units
        if not across:
            return units[sentences]
        texts = np.zeros(len(self.batch), dtype=bool)
        texts[self.batch.text[self.sentence_first[sentences]]] = True
        return units[texts[units[:, 2]]]

    @cached_property
    def _sentences(self) -> Units:
        return self._laid_out(self.sentence_first[:-1], self.sentence_first[1:])

    @cached_property
    def _texts(self) -> Units:
        chosen = np.flatnonzero(np.diff(self.batch.first))
        return self._laid_out(self.batch.first[chosen], self.batch.first[chosen + 1])

    def _laid_out(self, first: Ints, last: Ints) -> Units:
        lengths = (last - first).astype(np.int64)
        begin = np.cumsum(lengths + 1) - (lengths + 1)
        size = int((lengths + 1).sum())
        token = np.arange(size) + np.repeat(first - begin, lengths + 1)
        token[begin + lengths] = -1
        word = np.full(size, -1, dtype=np.int32)
        word[token >= 0] = self.batch.word
        kind = np.zeros(size + 1, dtype=np.uint8)
        unit = np.stack([begin, begin + lengths, self.batch.text[first]], axis=1).astype(np.int64)
        inner = np.flatnonzero(token[1:] > 0) + 1
        sentence = self.sentence_of
        turns = inner[(token[inner - 1] >= 0) & (sentence[token[inner]] != sentence[token[inner] - 1])]
        kind[turns] = BEGINS | ENDS
        kind[begin] |= BEGINS
        kind[begin + lengths] |= ENDS
        return Units(token, word, unit, kind)

    # Where tests may hold

    @cached_property
    def _by_word(self) -> tuple[Ints, Ints]:
        """Tokens by the number of their word, and where those of each begin."""
        order = np.argsort(self.batch.word, kind="stable")
        return order, np.searchsorted(self.batch.word[order], np.arange(len(self.batch.vocabulary) + 1))

    def sentences_with(self, test: tree.Test) -> Ints:
        """Sentences with a token that passes a test, ascending: what they are hangs on no other text."""
        held = np.zeros(len(self.sentence_first) - 1, dtype=bool)
        held[self.sentence_of[self._tokens_with(test)]] = True
        return np.flatnonzero(held)

    def _tokens_with(self, test: tree.Test) -> Ints:
        if of_form(test):
            order, at = self._by_word
            passing = ask_forms(test, self.batch.vocabulary)
            forms = np.flatnonzero(passing)
            if 4 * int((at[forms + 1] - at[forms]).sum()) > len(order):
                return np.flatnonzero(passing[self.batch.word])
            return order[runs(at[forms], at[forms + 1])]
        match test:
            case tree.Within("first", source):
                return self.spans(source).first
            case tree.AllOf(tests) if any(map(of_form, tests)):
                # More than pass all of them: what a form decides is found at once.
                return self._tokens_with(tree.AllOf(tuple(one for one in tests if of_form(one))))
            case tree.OneOf(tests):
                return np.concatenate([self._tokens_with(one) for one in tests])
            case _:
                return np.flatnonzero(self.ask(test, np.arange(len(self.batch.word))))

    def ask(self, test: tree.Test, tokens: Ints) -> Bools:
        """A test for each of these tokens of the batch."""

        def within(part: tree.Within) -> Bools:
            return (self._flags_of(part.source)[tokens] & FLAGS[part.part]) > 0

        return ask_tokens(test, self.batch.word[tokens], self.batch.vocabulary, within)

    # Spans that were there before

    def spans(self, source: tree.Source) -> Spans:
        """What a source has; the longest where they overlap."""
        held = self._held.get(source)
        if held is None:
            held = self._held[source] = self._read(source)
        return held

    def _flags_of(self, source: tree.Source) -> NDArray[np.uint8]:
        if source not in self._flags:
            flags = np.zeros(len(self.batch.word), dtype=np.uint8)
            if isinstance(source, tree.OfTag | tree.OfLemma | tree.OfKind):
                flags[self._known(source)] = FLAGS["part"]
                self._flags[source] = flags
                return flags
            spans = self.spans(source)
            flags[runs(spans.first, spans.last)] |= FLAGS["part"]
            flags[spans.first] |= FLAGS["first"]
            flags[spans.last - 1] |= FLAGS["last"]
            self._flags[source] = flags
        return self._flags[source]

    def _known(self, source: tree.Known) -> Bools:
        """Tokens that words are known of: shape (n_tokens,)."""
        base, batch = self._base, self.batch
        if base is None:
            raise BadInput("Parts of speech and kinds of words are asked of, and there are none here.")
        if isinstance(source, tree.OfKind):
            return base.of_kinds(source.kinds, batch.vocabulary)[batch.word]
        if isinstance(source, tree.OfTag):
            return np.isin(self._tags, [TAGS.index(tag) for tag in source.tags])
        return np.asarray(base.of_lemmas(source.words, batch.vocabulary)[self._tags, batch.word])

    @cached_property
    def _tags(self) -> Ints:
        assert self._base is not None
        return self._base.tags(self.batch)

    def flags_on(self, source: tree.Source, units: Units) -> NDArray[np.uint8]:
        """Where each token of some units is in the spans of a source: bits of FLAGS, uint8 of shape (n,)."""
        key = source, id(units)
        if key not in self._laid:
            flags = np.zeros(len(units.token), dtype=np.uint8)
            flags[units.place] = self._flags_of(source)
            self._laid[key] = flags
        return self._laid[key]

    def _read(self, source: tree.Source) -> Spans:
        match source:
            case tree.OfText(pattern, at):
                first, last, troubled = raw_matches(compiled(pattern, at), self.batch)
                return Spans(*self.apart(first, last), troubled)
            case tree.OfList(names):
                lists = self._lists
                first, last = self._tokens(lists.at(np.isin(lists.maker, _numbers(lists.makers, names))))
                return Spans(*self.apart(first, last))
            case tree.OfTag() | tree.OfLemma() | tree.OfKind():
                first = np.flatnonzero(self._known(source))
                return Spans(first, first + 1)
            case tree.OfFound(types):
                parts = [(a, b) for kind, a, b in self._found if kind in types]
                for kind in types:
                    before = self._before
                    own = before.at(np.isin(before.type, _numbers(before.types, [kind])))
                    parts.append(self._without_removed(kind, *self._tokens(own)))
                return Spans(*self.apart(*(np.concatenate(column) for column in zip(*parts, strict=True))))

    def _tokens(self, table: SpanTable) -> tuple[Ints, Ints]:
        return self.batch.token_ranges(table.text, table.start, table.end)

    def _without_removed(self, kind: str, first: Ints, last: Ints) -> tuple[Ints, Ints]:
        for types, a, b in self._removed:
            if types is None or kind in types:
                kept = ~_same(first, last, a, b)
                first, last = first[kept], last[kept]
        return first, last

    def apart(self, first: Ints, last: Ints) -> tuple[Ints, Ints]:
        """In order; of those that overlap the longest, the first of equal ones."""
        order = np.lexsort((last, first))
        first, last = first[order], last[order]
        if (first[1:] < last[:-1]).any():
            longest = np.lexsort((first, first - last))
            kept = keep_longest(first.astype(np.int64), last.astype(np.int64), longest, len(self.batch.word))
            first, last = first[kept], last[kept]
        return first, last

    # What rules leave behind

    def add(self, kind: str, first: Ints, last: Ints) -> None:
        """Spans of a type that a rule has set: later ones see them."""
        self._found.append((kind, first, last))
        self._forget()

    def remove(self, types: frozenset[str] | None, first: Ints, last: Ints) -> None:
        """Spans with just these tokens are gone for later rules."""
        self._removed.append((types, first, last))
        left = []
        for kind, a, b in self._found:
            kept = ~_same(a, b, first, last) if types is None or kind in types else np.ones(len(a), bool)
            left.append((kind, a[kept], b[kept]))
        self._found = left
        self._forget()

    def _forget(self) -> None:
        for source in [one for one in self._held if isinstance(one, tree.OfFound)]:
            self._held.pop(source)
            self._flags.pop(source, None)
        self._laid = {key: flags for key, flags in self._laid.items() if not isinstance(key[0], tree.OfFound)}


def runs(begin: Ints, end: Ints) -> Ints:
    """The numbers begin .. end of each pair, one run behind the other."""
    counts = (end - begin).astype(np.int64)
    made: Ints = np.arange(int(counts.sum())) + np.repeat(begin - (np.cumsum(counts) - counts), counts)
    return made


def _numbers(names: Sequence[str], wanted: Sequence[str]) -> list[int]:
    return [number for number, name in enumerate(names) if name in wanted]


FLAGS = {"part": 1, "first": 2, "last": 4}


def _same(first: Ints, last: Ints, a: Ints, b: Ints) -> Bools:
    """Which of the ranges [first, last) are among [a, b)."""
    wanted = set(zip(a.tolist(), b.tolist(), strict=True))
    pairs = zip(first.tolist(), last.tolist(), strict=True)
    return np.fromiter((pair in wanted for pair in pairs), dtype=bool, count=len(first))
