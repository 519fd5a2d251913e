"""Parts of rules as automata over the tests of tokens."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Ints
from urdaten.core.rules import tree

# What may hold between two tokens: bit 1 says that a sentence begins there, bit 2 that one ends.
KINDS = 4
BEGINS, ENDS = 1, 2
_TAKE, _SPLIT, _EDGE = range(3)


class Tests:
    """The distinct tests of a rule, numbered."""

    def __init__(self) -> None:
        self._numbers: dict[tree.Test, int] = {}

    def number(self, test: tree.Test) -> int:
        return self._numbers.setdefault(test, len(self._numbers))

    @property
    def tests(self) -> list[tree.Test]:
        """By number."""
        return list(self._numbers)


@dataclass(frozen=True, eq=False)
class Automaton:
    """Takes rows of tokens. State p < m has just taken a token that passed `test[p]`; state m is the beginning.

    test (m,) int32; the states that follow state p where a token goes on from kind k are
    follow[follow_at[k, p]:follow_at[k, p + 1]], int32; ends (KINDS, m + 2) uint8: may a match end there, the last column being of
    no state.
    """

    test: Ints
    follow_at: NDArray[np.int32]
    follow: Ints
    ends: NDArray[np.uint8]
    # Does every match take a bounded number of tokens?
    bounded: bool

    @property
    def is_nothing(self) -> bool:
        """Does it take nothing at all, and that wherever it is?"""
        return not len(self.test) and bool(self.ends[:, 0].all())

    @property
    def may_be_empty(self) -> bool:
        """Can it match without taking anything?"""
        return bool(self.ends[:, len(self.test)].any())


def automaton(node: tree.Node, tests: Tests, *, back: bool = False) -> Automaton:
    """Of a part; with `back` it takes the tokens from the last to the first."""
    code = _Code(tests, back)
    code.emit(node)
    takes = [pc for pc, (kind, _, _) in enumerate(code.steps) if kind == _TAKE]
    state = {pc: p for p, pc in enumerate(takes)}
    begins = [pc + 1 for pc in takes] + [0]
    follow: list[int] = []
    follow_at = np.zeros((KINDS, len(takes) + 2), dtype=np.int32)
    ends = np.zeros((KINDS, len(takes) + 2), dtype=np.uint8)
    for kind in range(KINDS):
        for p, pc in enumerate(begins):
            reached, done = code.closure(pc, kind)
            follow_at[kind, p] = len(follow)
            follow += sorted(state[step] for step in reached)
            ends[kind, p] = done
        follow_at[kind, -1] = len(follow)
    return Automaton(
        np.array([code.steps[pc][1] for pc in takes], dtype=np.int32),
        follow_at,
        np.array(follow, dtype=np.int32),
        ends,
        code.bounded,
    )


def part_of_source(source: tree.Source) -> tree.Node:
    """A whole span of a source, token by token."""
    first, inner, last = (tree.Within(part, source) for part in ("first", "part", "last"))
    return tree.Choice(
        (
            tree.Token(tree.AllOf((first, last))),
            tree.Row(
                (
                    tree.Token(tree.AllOf((first, tree.Not(last)))),
                    tree.Repeat(tree.Token(tree.AllOf((inner, tree.Not(first), tree.Not(last)))), 0, None),
                    tree.Token(tree.AllOf((last, tree.Not(first)))),
                )
            ),
        )
    )


class _Code:
    """Steps: take a token that passes test x; go on at x and at y; go on where the edge of kind x is."""

    def __init__(self, tests: Tests, back: bool) -> None:
        self._tests, self._back = tests, back
        self.steps: list[tuple[int, int, int]] = []
        self.bounded = True

    def emit(self, node: tree.Node) -> None:
        match node:
            case tree.Token(test):
                self.steps.append((_TAKE, self._tests.number(test), 0))
            case tree.Whole(source):
                self.emit(part_of_source(source))
            case tree.Edge(end):
                self.steps.append((_EDGE, ENDS if end else BEGINS, 0))
            case tree.Row(parts):
                for part in reversed(parts) if self._back else parts:
                    self.emit(part)
            case tree.Choice(options):
                self._choice(options)
            case tree.Repeat(part, least, most):
                self._repeat(part, least, most)
            case tree.Use(name):
                raise AssertionError(f"the fragment “{name}” was not put in")

    def _choice(self, options: tuple[tree.Node, ...]) -> None:
        leaving = []
        for option in options[:-1]:
            split = self._hold()
            self.emit(option)
            leaving.append(self._hold())
            self.steps[split] = (_SPLIT, split + 1, len(self.steps))
        self.emit(options[-1])
        for step in leaving:
            self.steps[step] = (_SPLIT, len(self.steps), len(self.steps))

    def _repeat(self, part: tree.Node, least: int, most: int | None) -> None:
        for _ in range(least):
            self.emit(part)
        if most is None:
            self.bounded = False
            split = self._hold()
            self.emit(part)
            self.steps.append((_SPLIT, split, split))
            self.steps[split] = (_SPLIT, split + 1, len(self.steps))
            return
        splits = []
        for _ in range(most - least):
            splits.append(self._hold())
            self.emit(part)
        for split in splits:
            self.steps[split] = (_SPLIT, split + 1, len(self.steps))

    def _hold(self) -> int:
        """Room for a step that is known later."""
        self.steps.append((_SPLIT, 0, 0))
        return len(self.steps) - 1

    def closure(self, pc: int, kind: int) -> tuple[set[int], bool]:
        """Takes that are reached without taking anything, and whether the end is."""
        seen = set()
        stack = [pc]
        takes = set()
        done = False
        while stack:
            at = stack.pop()
            if at in seen:
                continue
            seen.add(at)
            if at == len(self.steps):
                done = True
                continue
            op, x, y = self.steps[at]
            if op == _TAKE:
                takes.add(at)
            elif op == _SPLIT:
                stack += (x, y)
            elif kind & x:
                stack.append(at + 1)
        return takes, done
