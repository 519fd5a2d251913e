"""A rule: what is written, and what it is compiled to."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np

from urdaten.core.arrays import Ints
from urdaten.core.rules import tree
from urdaten.core.rules.asking import compiled as compiled_expression
from urdaten.core.rules.asking import parts_of, pattern_of_token
from urdaten.core.rules.automaton import Automaton, Tests, automaton
from urdaten.core.rules.base import WordBase
from urdaten.core.rules.faults import fail
from urdaten.core.rules.fragments import Fragments, body_of
from urdaten.core.rules.mentions import sources_of
from urdaten.core.rules.reading import place_of, read
from urdaten.errors import BadPattern

# How seldom a token passes a test of each kind; a rule is only held against sentences that have its rarest.
_LETTERS, _SPANS, _SHAPE, _CAPITAL, _COMMON, _MOST, _ALL = range(7)
_SHAPE_RANKS = {
    "capital": _CAPITAL,
    "capitals": _CAPITAL,
    "initial": _SHAPE,
    "figure": _CAPITAL,
    "code": _SHAPE,
    "sign": _COMMON,
    "small": _MOST,
    "letters": _MOST,
}


@dataclass(frozen=True, kw_only=True)
class Rule:
    """A named pattern. What it marks gets its type where it says no other."""

    name: str
    type: str
    text: str

    def compiled(
        self, fragments: Mapping[str, str] | None = None, base: WordBase | None = None
    ) -> CompiledRule:
        """Ready to be held against texts; fragments are texts by name, `base` tells what is known of words. Raises BadPattern
        with the place of the fault."""
        return compile_rule(self, tuple(sorted((fragments or {}).items())), base)


@dataclass(frozen=True, eq=False)
class CompiledLine:
    """One way to match. `parts` are the marks and what stands between them by turns; `ahead` are the same and what stands
    behind the last mark, taken from the last token to the first; `before` is what stands before the first."""

    before: Automaton
    parts: tuple[Automaton, ...]
    ahead: tuple[Automaton, ...]
    # Of each mark: a number of the rule's types, and a number of its tests or -1.
    types: tuple[int, ...]
    minus: tuple[int, ...]
    # Every match takes a token that passes it; None where that is not known.
    anchor: tree.Test | None

    @cached_property
    def packed(self) -> tuple[Ints, Ints, Ints, Ints, Ints]:
        """The parts as arrays for the machine: test, follow_at, follow, ends, shape."""
        shape = np.zeros((len(self.parts), 4), dtype=np.int32)
        tests = states = follows = 0
        for k, part in enumerate(self.parts):
            width = part.ends.shape[1]
            shape[k] = tests, tests + len(part.test), states, states + width
            tests += len(part.test)
            states += width
        tables = []
        for part in self.parts:
            tables.append(part.follow_at + np.int32(follows))
            follows += len(part.follow)
        return (
            np.concatenate([part.test for part in self.parts]),
            np.concatenate(tables, axis=1),
            np.concatenate([part.follow for part in self.parts]),
            np.concatenate([part.ends for part in self.parts], axis=1),
            shape,
        )


@dataclass(frozen=True, eq=False)
class CompiledStands:
    """A pattern that a condition looks for, taken forwards and backwards."""

    forward: Automaton
    back: Automaton
    where: tree.Window


@dataclass(frozen=True, eq=False)
class CompiledCondition:
    """A condition; a pattern in it is compiled."""

    what: CompiledStands | tree.Repeats | tree.Inside
    negated: bool


@dataclass(frozen=True, eq=False)
class CompiledRule:
    """A rule as automata; `tests` by the numbers that they have in them."""

    rule: Rule
    whole: tree.Tree
    tests: tuple[tree.Test, ...]
    lines: tuple[CompiledLine, ...]
    conditions: tuple[CompiledCondition, ...]
    # Types of what it marks, by number; the rule's own is the first, and may come again.
    types: tuple[str, ...]
    # What it looks at of what was there before it.
    sources: tuple[tree.Source, ...]
    # What it asks of words; None where it asks nothing of them.
    base: WordBase | None = None

    @property
    def removal(self) -> tree.Removal | None:
        return self.whole.removal

    @property
    def marks(self) -> bool:
        """Does it set spans?"""
        return self.removal is None or self.removal.replaced

    @property
    def content(self) -> str:
        """Equal for rules that find the same in the same texts after the same spans, whatever their own type."""
        known = () if self.base is None else (self.base.fingerprint,)
        return repr((self.whole, self.types[1:], *known))

    @property
    def lists(self) -> frozenset[str]:
        """Names of lists that it looks at."""
        return frozenset(name for one in self.sources if isinstance(one, tree.OfList) for name in one.names)

    @property
    def tags(self) -> frozenset[str]:
        """Tags that it asks of."""
        return frozenset(tag for one in self.sources if isinstance(one, tree.OfTag) for tag in one.tags)

    @property
    def asks_of_lemmas(self) -> bool:
        """Does it ask what words are forms of?"""
        return any(isinstance(one, tree.OfLemma) for one in self.sources)

    @property
    def found(self) -> frozenset[str]:
        """Types of earlier spans that it looks at."""
        return frozenset(name for one in self.sources if isinstance(one, tree.OfFound) for name in one.types)

    @property
    def removes(self) -> frozenset[str] | None:
        """Types of earlier spans that it may take away; None for any."""
        if self.removal is None:
            return frozenset()
        return frozenset(self.removal.types) or None


@lru_cache(maxsize=1024)
def compile_rule(
    rule: Rule, fragments: tuple[tuple[str, str], ...], base: WordBase | None = None
) -> CompiledRule:
    """As Rule.compiled; those met last are kept."""
    expanded = Fragments(_trees(fragments)).expand(read(rule.text))
    tests = Tests()
    types = [rule.type]
    lines = tuple(_line(line, tests, types) for line in expanded.lines)
    conditions = tuple(_condition(one, tests) for one in expanded.conditions)
    sources = tuple(dict.fromkeys(sources_of(expanded)))
    _check_known(sources, base)
    for source in sources:
        if isinstance(source, tree.OfText):
            compiled_expression(source.pattern, source.at)
    for test in tests.tests:
        for part in parts_of(test):
            if isinstance(part, tree.Like):
                pattern_of_token(part.pattern, part.at)
    asks = any(isinstance(one, tree.OfTag | tree.OfLemma | tree.OfKind) for one in sources)
    own = base if asks else None
    return CompiledRule(rule, expanded, tuple(tests.tests), lines, conditions, tuple(types), sources, own)


def _check_known(sources: Iterable[tree.Source], base: WordBase | None) -> None:
    """Can all be answered that is asked of words?"""
    for source in sources:
        match source:
            case tree.OfTag(at=at) | tree.OfLemma(at=at) if base is None:
                fail("this asks for parts of speech, and there are none for this language", at)
            case tree.OfKind(at=at) if base is None or not base.has_kinds:
                fail("this asks what words stand for, and there is no lexicon here that tells", at)
            case _:
                pass


@lru_cache(maxsize=256)
def check_fragment(
    name: str, text: str, fragments: tuple[tuple[str, str], ...], base: WordBase | None = None
) -> None:
    """Raise BadPattern unless this can be a fragment beside these."""
    held = {**_trees(tuple(pair for pair in fragments if pair[0] != name)), name: read(text)}
    body_of(held[name], name, tree.NOWHERE)
    probe = tree.Tree((tree.Line((tree.Row(()), tree.Row(())), (tree.Mark(tree.Use(name)),)),))
    expanded = Fragments(held).expand(probe)
    automaton(expanded.lines[0].marks[0].part, Tests())
    _check_known(sources_of(expanded), base)


@lru_cache(maxsize=64)
def _trees(fragments: tuple[tuple[str, str], ...]) -> dict[str, tree.Tree]:
    return {name: _fragment(name, text) for name, text in fragments}


@lru_cache(maxsize=1024)
def _fragment(name: str, text: str) -> tree.Tree:
    try:
        return read(text)
    except BadPattern as fault:
        raise BadPattern(f"In the fragment “{name}”: {fault.message}", field="pattern") from fault


def _line(line: tree.Line, tests: Tests, types: list[str]) -> CompiledLine:
    parts: list[Automaton] = []
    ahead: list[Automaton] = []
    numbers, minus = [], []
    for k, mark in enumerate(line.marks):
        between = line.contexts[k + 1]
        made = automaton(mark.part, tests)
        if made.may_be_empty:
            at = mark.at if mark.at is not tree.NOWHERE else place_of(mark.part)
            fail("what is marked may be nothing at all; ask for at least one word", at)
        parts += (made, automaton(between, tests))
        ahead += (automaton(mark.part, tests, back=True), automaton(between, tests, back=True))
        numbers.append(_number(mark.type, types))
        minus.append(-1 if mark.minus is None else tests.number(mark.minus))
    return CompiledLine(
        automaton(line.contexts[0], tests),
        tuple(parts[:-1]),
        tuple(ahead),
        tuple(numbers),
        tuple(minus),
        _anchor_of(line),
    )


def _number(kind: str | None, types: list[str]) -> int:
    # The rule's own type has a number of its own, also where a mark names the same: it may become another.
    if kind is None:
        return 0
    if kind not in types[1:]:
        types.append(kind)
    return types.index(kind, 1)


def _condition(condition: tree.Condition, tests: Tests) -> CompiledCondition:
    what = condition.what
    if not isinstance(what, tree.Stands):
        return CompiledCondition(what, condition.negated)
    forward = automaton(what.part, tests)
    if forward.may_be_empty:
        fail("this condition may be met by nothing at all; ask for at least one word", place_of(what.part))
    return CompiledCondition(
        CompiledStands(forward, automaton(what.part, tests, back=True), what.where), condition.negated
    )


def _anchor_of(line: tree.Line) -> tree.Test | None:
    found = [_anchor(node) for node in (*line.contexts, *(mark.part for mark in line.marks))]
    rank, test = min((one for one in found if one), key=lambda one: one[0], default=(_ALL, None))
    return test if rank < _ALL else None


def _anchor(node: tree.Node) -> tuple[int, tree.Test] | None:
    """A test that a token of every match passes, and how common those are; None where there may be none."""
    match node:
        case tree.Token(test):
            return _rank(test), test
        case tree.Whole(source):
            return _SPANS, tree.Within("first", source)
        case tree.Row(parts):
            return min(filter(None, map(_anchor, parts)), key=lambda one: one[0], default=None)
        case tree.Choice(options):
            found = [_anchor(option) for option in options]
            known = [one for one in found if one is not None]
            if len(known) < len(found):
                return None
            return max(rank for rank, _ in known), tree.OneOf(tuple(test for _, test in known))
        case tree.Repeat(part, least):
            return _anchor(part) if least else None
        case _:
            return None


def _rank(test: tree.Test) -> int:
    match test:
        case tree.Letters():
            return _LETTERS
        case tree.Within(_, tree.OfTag()):
            return _COMMON
        case tree.Within(_, tree.OfLemma()):
            return _LETTERS
        case tree.Within():
            return _SPANS
        case tree.OfShape(shape):
            return _SHAPE_RANKS[shape]
        case tree.Like():
            return _SHAPE
        case tree.Length():
            return _COMMON
        case tree.AllOf(tests):
            return min(map(_rank, tests))
        case tree.OneOf(tests):
            return max(map(_rank, tests))
        case tree.Not():
            return _MOST
        case _:
            return _ALL
