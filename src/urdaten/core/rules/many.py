"""Rules held against many texts, one rule after the other: each sees what lists and the rules before it have found."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from urdaten.core.arrays import Bools, Ints
from urdaten.core.rules import tree
from urdaten.core.rules.asking import ask_forms as asked
from urdaten.core.rules.asking import guarded, too_long
from urdaten.core.rules.automaton import Automaton
from urdaten.core.rules.conditions import holding
from urdaten.core.rules.ground import FLAGS, Ground, Units, runs
from urdaten.core.rules.machine import Bytes, Words, collect, sweep
from urdaten.core.rules.rule import CompiledLine, CompiledRule, CompiledStands
from urdaten.core.spans import SpanTable
from urdaten.core.text import Batch

# What one rule may take on one text: a sensible one takes some ten steps a token. Counted in steps and for each rule on its
# own, so that neither a busy machine nor another rule or text changes what is found.
STEPS = 2_000_000
STEPS_A_TOKEN = 1_000
_ROOM = 4096


@dataclass(frozen=True)
class RuleFinds:
    """What one rule marks in the texts of a batch: tokens [first, last), in order, none over another; of each the number of its
    type among those of the rule. Of a rule that takes spans away, the places where it does. And the texts on which it took too
    long, in which it then marks nothing, with what is to be said."""

    first: Ints
    last: Ints
    kind: Ints
    troubles: dict[int, str] = field(default_factory=dict)
    # What it took on all of them together.
    steps: int = 0


def match_rules(
    rules: Sequence[CompiledRule], batch: Batch, spans: SpanTable | None = None
) -> list[RuleFinds]:
    """What each rule finds; of `spans` it sees those of lists, and what the rules before it have left. Rules
    that ask something of words ask one base."""
    base = next((rule.base for rule in rules if rule.base is not None), None)
    ground = Ground(batch, SpanTable.empty() if spans is None else spans, base)
    found = []
    for rule in rules:
        finds = _Match(rule, ground).finds()
        if rule.removal is not None:
            ground.remove(rule.removes, finds.first, finds.last)
        if rule.marks:
            for k, kind in enumerate(rule.types):
                own = finds.kind == k
                ground.add(kind, finds.first[own], finds.last[own])
        found.append(finds)
    return found


class _Match:
    """One rule on its way over the texts."""

    def __init__(self, rule: CompiledRule, ground: Ground) -> None:
        self.rule, self.ground = rule, ground
        batch = ground.batch
        lengths = np.diff(batch.first).astype(np.int64)
        self.used = np.zeros(len(batch), dtype=np.int64)
        self.limit = STEPS + STEPS_A_TOKEN * lengths
        self.form_bits = self._of_forms()

    def finds(self) -> RuleFinds:
        troubled = self._troubled_before()
        rows = [self._line(line) for line in self.rule.lines]
        first, last, kind, whole_first, whole_last = (
            np.concatenate(column) for column in zip(*rows, strict=True)
        )
        kept = np.ones(len(first), dtype=bool)
        for condition in self.rule.conditions:
            at = np.flatnonzero(kept)
            kept[at] = holding(condition, self.ground, whole_first[at], whole_last[at], self._stands)
        first, last, kind = first[kept], last[kept], kind[kept]
        troubled |= self.used > self.limit
        if troubled.any():
            kept = ~troubled[self.ground.batch.text[first]]
            first, last, kind = first[kept], last[kept], kind[kept]
        first, last, kind = self._apart(first, last, kind)
        told = {text: self._too_long(text) for text in np.flatnonzero(troubled).tolist()}
        return RuleFinds(first, last, kind, told, int(self.used.sum()))

    def _too_long(self, text: int) -> str:
        return (
            f"“{self.rule.rule.name}” took more than {int(self.limit[text]):,} steps on one text; "
            "make its repetitions shorter or less ambiguous."
        )

    def _apart(self, first: Ints, last: Ints, kind: Ints) -> tuple[Ints, Ints, Ints]:
        """The longest where marks of several lines overlap; the first line's where they are the same."""
        order = np.lexsort((np.arange(len(first)), last, first))
        first, last, kind = first[order], last[order], kind[order]
        size = len(self.ground.batch.word) + 1
        key, at = np.unique(first.astype(np.int64) * size + last, return_index=True)
        a, b = self.ground.apart(key // size, key % size)
        own = at[np.searchsorted(key, a * size + b)]
        return first[own], last[own], kind[own]

    def _troubled_before(self) -> Bools:
        """Texts with a form, or whole texts, that a regular expression took too long on."""
        batch = self.ground.batch
        troubled = np.zeros(len(batch), dtype=bool)
        forms = too_long(self.rule.tests, batch.vocabulary)
        if forms.any():
            troubled[batch.text[forms[batch.word]]] = True
        for source in self.rule.sources:
            troubled[list(self.ground.spans(source).troubled)] = True
        return troubled

    # Tests of tokens

    def _of_forms(self) -> Words:
        """Bits of the tests that a form decides: uint64 of shape (n_forms, n_words)."""
        vocabulary = self.ground.batch.vocabulary
        tests = self.rule.tests
        bits = np.zeros((len(vocabulary), max(1, (len(tests) + 63) // 64)), dtype=np.uint64)
        for k, test in enumerate(tests):
            if own := guarded(test):
                bits[asked(own.form, vocabulary), k // 64] |= np.uint64(1 << (k % 64))
        return bits

    def guards(self, units: Units) -> tuple[Ints, Ints, Bytes]:
        """guard_at, guard and flags as the machine has them."""
        guard_at, guards = [0], []
        sources: dict[tree.Source, int] = {}
        for test in self.rule.tests:
            own = guarded(test)
            for within, wanted in own.within if own else ():
                row = sources.setdefault(within.source, len(sources))
                guards.append((row, FLAGS[within.part], int(wanted)))
            guard_at.append(len(guards))
        flags = [self.ground.flags_on(source, units) for source in sources]
        return (
            np.array(guard_at, dtype=np.int32),
            np.array(guards, dtype=np.int32).reshape(-1, 3),
            # One alone is not copied.
            flags[0][None]
            if len(flags) == 1
            else np.array(flags, dtype=np.uint8).reshape(len(flags), len(units.token) if flags else 0),
        )

    def more(self, units: Units, chosen: Ints) -> Words:
        """Bits of the tests that neither a form decides nor guards, for the tokens of the chosen units."""
        width = self.form_bits.shape[1]
        asked_of_tokens = [k for k, test in enumerate(self.rule.tests) if guarded(test) is None]
        if not asked_of_tokens:
            return np.zeros((0, width), dtype=np.uint64)
        places = runs(chosen[:, 0], chosen[:, 1])
        tokens = units.token[places]
        bits = np.zeros((len(units.token), width), dtype=np.uint64)
        for k in asked_of_tokens:
            bits[places[self.ground.ask(self.rule.tests[k], tokens)], k // 64] |= np.uint64(1 << (k % 64))
        return bits

    # Lines

    def _line(self, line: CompiledLine) -> tuple[Ints, Ints, Ints, Ints, Ints]:
        """Its marks: first, last, kind, and the bounds of all marks of the match that each is of."""
        across = self.rule.whole.across
        sentences = None if line.anchor is None else self.ground.sentences_with(line.anchor)
        chosen = self.ground.chosen(sentences, across=across)
        if not len(chosen):
            return (np.zeros(0, dtype=np.int64),) * 5
        units = self.ground.units(across=across)
        matches = self._matches(line, units, chosen)
        marks = len(line.types)
        token = units.token
        first = token[matches[:, 0::2]].ravel()
        last = token[matches[:, 1::2] - 1].ravel() + 1
        kind = np.tile(np.array(line.types), len(matches))
        whole_first = np.repeat(token[matches[:, 0]], marks)
        whole_last = np.repeat(token[matches[:, -1] - 1] + 1, marks)
        minus = np.tile(np.array(line.minus), len(matches))
        return _cut_out(self, first, last, kind, whole_first, whole_last, minus)

    def _matches(self, line: CompiledLine, units: Units, chosen: Ints) -> Ints:
        """Places in the units: int64 of shape (n, 2 · marks)."""
        run = _Run(self, units, chosen)
        size = len(units.kind)
        good = np.ones((2 * len(line.types), size), dtype=np.uint8)
        row = good[-1]
        # One mark with nothing behind it is tried where it stands, unless a try could go on for ever.
        alone = len(line.parts) == 1 and line.ahead[-1].is_nothing and line.parts[0].bounded
        for k in () if alone else reversed(range(len(line.ahead))):
            part = line.ahead[k]
            # What stands behind the last mark may end anywhere, what is before it where the rest can begin.
            if not part.is_nothing:
                row = run.sweep(part, back=True, begin=row if k < len(line.ahead) - 1 else None)
            if k:
                good[k - 1] = row
        first = row
        if not line.before.is_nothing:
            before = run.sweep(line.before, back=False)
            first = before if alone else first & before
        found = [np.zeros((0, 2 * len(line.types)), dtype=np.int64)]
        unit, place = 0, 0
        while unit < len(chosen):
            out = np.empty((_ROOM, 2 * len(line.types)), dtype=np.int64)
            count, unit, place = collect(
                *line.packed,
                *run.tokens,
                units.kind,
                chosen,
                first,
                good,
                self.used,
                self.limit,
                out,
                unit,
                place,
            )
            found.append(out[:count])
        return np.concatenate(found)

    # Conditions

    def _stands(self, stands: CompiledStands, sentences: Ints | None) -> tuple[Bools, Bools]:
        size = len(self.ground.batch.word)
        begins, ends = np.zeros(size, dtype=bool), np.zeros(size, dtype=bool)
        chosen = self.ground.chosen(sentences, across=False)
        if len(chosen):
            units = self.ground.units(across=False)
            run = _Run(self, units, chosen)
            begins[:] = run.sweep(stands.back, back=True)[units.place] > 0
            ends[:] = run.sweep(stands.forward, back=False)[units.place + 1] > 0
        return begins, ends


class _Run:
    """The machine over the chosen units, with the tests of one rule."""

    def __init__(self, match: _Match, units: Units, chosen: Ints) -> None:
        self._match, self._units, self._chosen = match, units, chosen
        self.tokens = units.word, match.form_bits, match.more(units, chosen), *match.guards(units)

    def sweep(self, part: Automaton, *, back: bool, begin: Bytes | None = None) -> Bytes:
        """Where a match of a part ends, or, with `back`, begins: uint8 of shape (n + 1,)."""
        holds = np.zeros(len(self._units.kind), dtype=np.uint8)
        sweep(
            part.test, part.follow_at, part.follow, part.ends, back,
            *self.tokens, self._units.kind, self._chosen, holds if begin is None else begin, begin is None,
            self._match.used, self._match.limit, holds,
        )  # fmt: skip
        return holds


def _cut_out(
    match: _Match, first: Ints, last: Ints, kind: Ints, whole_first: Ints, whole_last: Ints, minus: Ints
) -> tuple[Ints, Ints, Ints, Ints, Ints]:
    """What is left of marks without the tokens that pass their tests: a mark for each run of tokens."""
    if (minus < 0).all():
        return first, last, kind, whole_first, whole_last
    rows, a, b = [], [], []
    for k in range(len(first)):
        if minus[k] < 0:
            rows.append([k])
            a.append(first[k : k + 1])
            b.append(last[k : k + 1])
            continue
        tokens = np.arange(first[k], last[k])
        left = ~match.ground.ask(match.rule.tests[minus[k]], tokens)
        edges = np.diff(np.concatenate([[0], left.astype(np.int8), [0]]))
        begin, end = np.flatnonzero(edges == 1), np.flatnonzero(edges == -1)
        rows.append([k] * len(begin))
        a.append(begin + first[k])
        b.append(end + first[k])
    own = np.concatenate([np.array(part, dtype=np.int64) for part in rows])
    return np.concatenate(a), np.concatenate(b), kind[own], whole_first[own], whole_last[own]
