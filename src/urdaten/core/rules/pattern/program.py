"""A pattern as a program: one step for each sign it may take, with every repetition written out.

After K. Thompson, “Regular expression search algorithm”, Communications of the ACM 11 (6), 1968: all ways through a
program are followed at once, so that the time is bounded by the steps of the program times the signs of the text.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from urdaten.core.arrays import Ints
from urdaten.core.rules.pattern.tree import At, Choice, Look, Mark, Node, Repeat, Row, Signs

# Steps: take one sign of set x · go on where place x holds, or does not with y = 1 · go on at x, else at y ·
# go on at x · the mark begins (x = 0) or ends (x = 1) here · all is found.
TAKE, HOLDS, SPLIT, JUMP, MARK, FOUND = range(6)
# Places of a line that are known before anything is matched; those of the looks follow.
LINE_START, LINE_END, WORD_BOUND, FIRST_LOOK = range(4)
_PLACES = {"line start": LINE_START, "line end": LINE_END, "word bound": WORD_BOUND}


@dataclass(frozen=True)
class Code:
    """Steps as columns, int32 of shape (n_steps,), beginning with step 0."""

    op: Ints
    x: Ints
    y: Ints
    # The sets of which it may take its first sign, and whether it may be found before it takes any.
    first: Ints
    empty: bool


@dataclass(frozen=True)
class LookCode:
    """What is looked for, and to which side; ahead, the code runs backwards from where it ends."""

    code: Code
    behind: bool


@dataclass(frozen=True)
class Program:
    """Code of the pattern itself, of its looks (those within others first), and the sets of signs they take."""

    code: Code
    looks: tuple[LookCode, ...]
    sets: tuple[Signs, ...]
    # Whether a part of it is marked.
    marks: bool


def compiled(node: Node) -> Program:
    """The program of a pattern."""
    compiler = _Compiler()
    code = compiler.code(node, back=False)
    return Program(code, tuple(compiler.looks), tuple(compiler.sets), bool((code.op == MARK).any()))


class _Compiler:
    def __init__(self) -> None:
        self.looks: list[LookCode] = []
        self.sets: dict[Signs, int] = {}
        # By identity of the node: one that is repeated is written often, and comparing it each time would take long.
        self._numbers: dict[int, int] = {}

    def code(self, node: Node, *, back: bool) -> Code:
        steps: list[tuple[int, int, int]] = []
        self._write(node, steps, back)
        steps.append((FOUND, 0, 0))
        op, x, y = np.array(steps, dtype=np.int32).T.copy()
        first, empty = _beginnings(steps)
        return Code(op, x, y, first, empty)

    def _write(self, node: Node, steps: list[tuple[int, int, int]], back: bool) -> None:
        match node:
            case Signs():
                if id(node) not in self._numbers:
                    self._numbers[id(node)] = self.sets.setdefault(node, len(self.sets))
                steps.append((TAKE, self._numbers[id(node)], 0))
            case At(place, negated):
                steps.append((HOLDS, _PLACES[place], int(negated)))
            case Look(_, _, negated):
                steps.append((HOLDS, self._look(node), int(negated)))
            case Row(parts):
                for part in reversed(parts) if back else parts:
                    self._write(part, steps, back)
            case Choice(options):
                self._choice(options, steps, back)
            case Repeat():
                self._repeat(node, steps, back)
            case Mark(part):
                steps.append((MARK, 0, 0))
                self._write(part, steps, back)
                steps.append((MARK, 1, 0))

    def _look(self, look: Look) -> int:
        if id(look) not in self._numbers:
            code = self.code(look.part, back=not look.behind)
            self._numbers[id(look)] = FIRST_LOOK + len(self.looks)
            self.looks.append(LookCode(code, look.behind))
        return self._numbers[id(look)]

    def _choice(self, options: tuple[Node, ...], steps: list[tuple[int, int, int]], back: bool) -> None:
        ends = []
        for option in options[:-1]:
            split = len(steps)
            steps.append((SPLIT, 0, 0))
            self._write(option, steps, back)
            ends.append(len(steps))
            steps.append((JUMP, 0, 0))
            steps[split] = (SPLIT, split + 1, len(steps))
        self._write(options[-1], steps, back)
        for end in ends:
            steps[end] = (JUMP, len(steps), 0)

    def _repeat(self, node: Repeat, steps: list[tuple[int, int, int]], back: bool) -> None:
        for _ in range(node.least):
            self._write(node.part, steps, back)
        splits = []
        for _ in range(1 if node.most is None else node.most - node.least):
            splits.append(len(steps))
            steps.append((SPLIT, 0, 0))
            self._write(node.part, steps, back)
        if node.most is None:
            steps.append((JUMP, splits[0], 0))
        for split in splits:
            inside, past = split + 1, len(steps)
            steps[split] = (SPLIT, past, inside) if node.lazy else (SPLIT, inside, past)


def _beginnings(steps: list[tuple[int, int, int]]) -> tuple[Ints, bool]:
    """The sets of which the first sign may be, and whether nothing need be taken at all."""
    sets: set[int] = set()
    empty = False
    seen: set[int] = set()
    waiting = [0]
    while waiting:
        at = waiting.pop()
        if at in seen:
            continue
        seen.add(at)
        op, x, y = steps[at]
        if op == TAKE:
            sets.add(x)
        elif op == FOUND:
            empty = True
        elif op == JUMP:
            waiting.append(x)
        elif op == SPLIT:
            waiting += [x, y]
        else:
            waiting.append(at + 1)
    return np.array(sorted(sets), dtype=np.int32), empty
