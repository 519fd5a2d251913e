"""Why a rule found something: which of its parts took which words.

What the machine found is aligned anew, one match at a time, with every part of the pattern; so this is for what a person looks at,
and not on the way of texts.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from itertools import zip_longest

import numpy as np

from urdaten.core.arrays import Bools
from urdaten.core.rules import tree
from urdaten.core.rules.ground import Ground
from urdaten.core.rules.rule import CompiledRule
from urdaten.core.rules.spoken import said_of
from urdaten.core.spans import SpanTable
from urdaten.core.text import Batch

# Places of a part that are tried for one match; what needs more is not explained.
STEPS = 200_000
Leaf = tree.Token | tree.Whole | tree.Edge


@dataclass(frozen=True)
class Slot:
    """A part of a pattern, in words, and the tokens [first, last) that it took; where it is repeated there are several. `line`
    numbers the lines of the rule, `place` the parts of a line."""

    line: int
    place: int
    said: str
    marked: bool
    first: int
    last: int


class _TooMuch(Exception):
    """More steps than one match is worth."""


class Explained:
    """A rule and the texts that it found something in, after what lists and the rules before it found."""

    def __init__(self, rule: CompiledRule, batch: Batch, spans: SpanTable) -> None:
        self._rule = rule
        self._ground = Ground(batch, spans, rule.base)
        self._starts: dict[tree.Source, dict[int, list[int]]] = {}
        self._holds: dict[tree.Test, Bools] = {}

    def slots(self, first: int, last: int) -> list[Slot]:
        """Of the find with tokens [first, last) of the batch; none where it has none, or where that would take too long."""
        unit = self._unit(first)
        for number, line in enumerate(self._rule.whole.lines):
            try:
                found = _Line(self, line, unit).match(first, last)
            except _TooMuch:
                return []
            if found is not None:
                place = {id(leaf): k for k, leaf in reversed(list(enumerate(_leaves_of(line))))}
                return [
                    Slot(number, place[id(leaf)], said_of(leaf), marked, a, b) for leaf, marked, a, b in found
                ]
        return []

    def _unit(self, token: int) -> tuple[int, int]:
        """The sentence, or the text where matches run across sentences, that a token is in."""
        batch, ground = self._ground.batch, self._ground
        if self._rule.whole.across:
            text = int(batch.text[token])
            return int(batch.first[text]), int(batch.first[text + 1])
        sentence = int(ground.sentence_of[token])
        return int(ground.sentence_first[sentence]), int(ground.sentence_first[sentence + 1])

    def words(self, first: int, last: int) -> str:
        """Tokens as they stand in their text."""
        if first == last:
            return ""
        batch = self._ground.batch
        return batch.bodies[int(batch.text[first])][int(batch.start[first]) : int(batch.end[last - 1])]

    def ends(self, leaf: Leaf, at: int, unit: tuple[int, int]) -> list[int]:
        """Where a leaf that begins at a token may end."""
        begin, end = unit
        match leaf:
            case tree.Edge(is_end):
                sentence = self._ground.batch.sentence
                turns = begin < at < end and sentence[at] != sentence[at - 1]
                return [at] if turns or at == (end if is_end else begin) else []
            case tree.Whole(source):
                return [one for one in self._whole(source).get(at, ()) if one <= end]
            case tree.Token(test):
                return [at + 1] if at < end and self._passes(test, at) else []

    def _whole(self, source: tree.Source) -> dict[int, list[int]]:
        if source not in self._starts:
            held = self._ground.spans(source)
            starts: dict[int, list[int]] = {}
            for a, b in zip(held.first.tolist(), held.last.tolist(), strict=True):
                starts.setdefault(a, []).append(b)
            self._starts[source] = starts
        return self._starts[source]

    def _passes(self, test: tree.Test, token: int) -> bool:
        if test not in self._holds:
            self._holds[test] = self._ground.ask(test, np.arange(len(self._ground.batch.word)))
        return bool(self._holds[test][token])

    def minus(self, test: tree.Test | None, first: int, last: int) -> list[tuple[int, int]]:
        """The runs of tokens that are left of a mark."""
        if test is None:
            return [(first, last)]
        runs: list[tuple[int, int]] = []
        for token in range(first, last):
            if self._passes(test, token):
                continue
            if runs and runs[-1][1] == token:
                runs[-1] = (runs[-1][0], token + 1)
            else:
                runs.append((token, token + 1))
        return runs


@dataclass(frozen=True)
class Place:
    """A part of a pattern with what it took in several finds: words, how often in right ones and in wrong ones."""

    line: int
    place: int
    said: str
    marked: bool
    values: tuple[tuple[str, int, int], ...]


def places_of(explained: Explained, finds: Iterable[tuple[int, int, bool]]) -> list[Place]:
    """Of finds, each with its tokens and whether it is right: what every part took, that which wrong finds have most first."""
    told: dict[tuple[int, int], Slot] = {}
    counts: dict[tuple[int, int], dict[str, list[int]]] = {}
    for first, last, is_right in finds:
        taken: dict[tuple[int, int], list[str]] = {}
        for slot in explained.slots(first, last):
            key = slot.line, slot.place
            told[key] = slot
            taken.setdefault(key, []).append(explained.words(slot.first, slot.last))
        for key, words in taken.items():
            value = counts.setdefault(key, {}).setdefault(" ".join(filter(None, words)), [0, 0])
            value[not is_right] += 1
    return [
        Place(
            line,
            place,
            told[line, place].said,
            told[line, place].marked,
            tuple(
                (words, right, wrong)
                for words, (right, wrong) in sorted(
                    own.items(), key=lambda one: (-one[1][1], -one[1][0], one[0])
                )
            ),
        )
        for (line, place), own in sorted(counts.items())
    ]


def _leaves_of(line: tree.Line) -> Iterator[Leaf]:
    """In the order in which they are written."""
    for context, mark in zip_longest(line.contexts, line.marks):
        yield from _leaves(context)
        if mark is not None:
            yield from _leaves(mark.part)


def _leaves(node: tree.Node) -> Iterator[Leaf]:
    match node:
        case tree.Row(parts) | tree.Choice(parts):
            for part in parts:
                yield from _leaves(part)
        case tree.Repeat(part):
            yield from _leaves(part)
        case tree.Token() | tree.Whole() | tree.Edge():
            yield node
        case tree.Use():
            raise AssertionError("fragments are put in by now")


class _Line:
    """One line of a rule in one sentence or text."""

    def __init__(self, explained: Explained, line: tree.Line, unit: tuple[int, int]) -> None:
        self._explained, self._line, self._unit = explained, line, unit
        self._known: dict[tuple[int, int], tuple[int, ...]] = {}
        self._left = STEPS

    def match(self, first: int, last: int) -> list[tuple[Leaf, bool, int, int]] | None:
        """The leaves of a match of which a mark, or what is left of it, has these tokens."""
        for mark in range(len(self._line.marks)):
            for begin, end in self._bounds(mark, first, last):
                before = self._before(mark, begin)
                behind = self._behind(mark, end) if before is not None else None
                if before is not None and behind is not None:
                    own = [
                        (leaf, True, a, b)
                        for leaf, a, b in self._align(self._line.marks[mark].part, begin, end)
                    ]
                    return [*before, *own, *behind]
        return None

    def _bounds(self, mark: int, first: int, last: int) -> Iterator[tuple[int, int]]:
        """What the whole mark may have been: with what is left out of it."""
        part, minus = self._line.marks[mark].part, self._line.marks[mark].minus
        low = first if minus is None else self._unit[0]
        for begin in range(first, low - 1, -1):
            for end in self._ends(part, begin):
                if end >= last and (first, last) in self._explained.minus(minus, begin, end):
                    yield begin, end

    def _before(self, mark: int, begin: int) -> list[tuple[Leaf, bool, int, int]] | None:
        """The leaves of what stands before a mark, marks among it; the nearest of several ways."""
        context = self._line.contexts[mark]
        for at in range(begin, self._unit[0] - 1, -1):
            if begin not in self._ends(context, at):
                continue
            own = [(leaf, False, a, b) for leaf, a, b in self._align(context, at, begin)]
            if mark == 0:
                return own
            part = self._line.marks[mark - 1].part
            for start in range(at - 1, self._unit[0] - 1, -1):
                if at in self._ends(part, start):
                    earlier = self._before(mark - 1, start)
                    if earlier is not None:
                        marked = [(leaf, True, a, b) for leaf, a, b in self._align(part, start, at)]
                        return [*earlier, *marked, *own]
        return None

    def _behind(self, mark: int, end: int) -> list[tuple[Leaf, bool, int, int]] | None:
        context = self._line.contexts[mark + 1]
        for at in sorted(self._ends(context, end)):
            own = [(leaf, False, a, b) for leaf, a, b in self._align(context, end, at)]
            if mark + 1 == len(self._line.marks):
                return own
            part = self._line.marks[mark + 1].part
            for stop in sorted(self._ends(part, at), reverse=True):
                later = self._behind(mark + 1, stop) if stop > at else None
                if later is not None:
                    return [*own, *((leaf, True, a, b) for leaf, a, b in self._align(part, at, stop)), *later]
        return None

    def _ends(self, node: tree.Node, at: int) -> tuple[int, ...]:
        """Where a match of a part can end that begins at a token."""
        key = id(node), at
        if key not in self._known:
            self._left -= 1
            if self._left < 0:
                raise _TooMuch
            self._known[key] = tuple(sorted(self._sought(node, at)))
        return self._known[key]

    def _sought(self, node: tree.Node, at: int) -> set[int]:
        match node:
            case tree.Row(parts):
                found = {at}
                for part in parts:
                    found = {end for begin in found for end in self._ends(part, begin)}
                return found
            case tree.Choice(options):
                return {end for option in options for end in self._ends(option, at)}
            case tree.Repeat(part, least, most):
                return set(self._repeated(part, least, most, at))
            case tree.Token() | tree.Whole() | tree.Edge():
                return set(self._explained.ends(node, at, self._unit))
            case tree.Use():
                raise AssertionError("fragments are put in by now")

    def _repeated(self, part: tree.Node, least: int, most: int | None, at: int) -> dict[int, int]:
        """Ends of so many matches one behind the other, with the fewest that come to each."""
        found: dict[int, int] = {at: 0} if least == 0 else {}
        now = {at}
        for times in range(1, (most if most is not None else least + self._unit[1] - at) + 1):
            now = {end for begin in now for end in self._ends(part, begin)}
            self._left -= 1
            if self._left < 0:
                raise _TooMuch
            if times >= least:
                for end in now:
                    found.setdefault(end, times)
            if not now:
                break
        return found

    def _align(self, node: tree.Node, begin: int, end: int) -> list[tuple[Leaf, int, int]]:
        """The leaves of a match of a part from one token to another, which there is."""
        match node:
            case tree.Row(parts):
                return self._align_row(parts, begin, end)
            case tree.Choice(options):
                return self._align(next(one for one in options if end in self._ends(one, begin)), begin, end)
            case tree.Repeat(part, least, most):
                times = self._repeated(part, least, most, begin)[end]
                return self._align_row((part,) * times, begin, end)
            case tree.Token() | tree.Whole() | tree.Edge():
                return [(node, begin, end)]
            case tree.Use():
                raise AssertionError("fragments are put in by now")

    def _align_row(self, parts: Sequence[tree.Node], begin: int, end: int) -> list[tuple[Leaf, int, int]]:
        # From behind: which places each part can begin at, so that the rest comes to the end.
        reach = [{begin}]
        for part in parts:
            reach.append({stop for at in reach[-1] for stop in self._ends(part, at)})
        bounds = [end]
        for part, starts in zip(reversed(parts), reversed(reach[:-1]), strict=True):
            bounds.append(max(at for at in starts if bounds[-1] in self._ends(part, at)))
        bounds.reverse()
        return [
            leaf
            for part, a, b in zip(parts, bounds, bounds[1:], strict=False)
            for leaf in self._align(part, a, b)
        ]
