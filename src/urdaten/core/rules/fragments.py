"""Fragments put where they are used."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from urdaten.core.rules import tree
from urdaten.core.rules.faults import fail, nearest
from urdaten.core.rules.reading import as_test

# So many tokens one part of a rule may take at most once its repetitions are written out.
MOST_POSITIONS = 1000
# What a span of a source is written out as.
_SIZE_OF_WHOLE = 4


class Fragments:
    """Named parts of rules; each is put together once."""

    def __init__(self, trees: Mapping[str, tree.Tree]) -> None:
        self._trees = trees
        self._made: dict[str, tree.Node] = {}
        self._size: dict[int, int] = {}
        self._open: list[str] = []

    def expand(self, whole: tree.Tree) -> tree.Tree:
        """A rule without uses of fragments. Raises BadPattern for a fragment that is not there or uses itself, and for a part
        that comes to too much."""
        return replace(
            whole,
            lines=tuple(
                tree.Line(tuple(map(self._node, line.contexts)), tuple(map(self._mark, line.marks)), line.at)
                for line in whole.lines
            ),
            conditions=tuple(
                replace(condition, what=replace(condition.what, part=self._node(condition.what.part)))
                if isinstance(condition.what, tree.Stands)
                else condition
                for condition in whole.conditions
            ),
        )

    def _mark(self, mark: tree.Mark) -> tree.Mark:
        minus = None if mark.minus is None else self._test(mark.minus)
        return replace(mark, part=self._node(mark.part), minus=minus)

    def _fragment(self, name: str, at: tree.At) -> tree.Node:
        if name in self._open:
            circle = " uses ".join(f"“{one}”" for one in [*self._open[self._open.index(name) :], name])
            fail(f"fragments go in a circle: {circle}", at)
        if name not in self._trees:
            near = nearest(name, (), self._trees)
            fail(
                f"there is no fragment “{name}”" + (f"; did you mean {near}?" if near else ""),
                at,
            )
        if name not in self._made:
            self._open.append(name)
            try:
                self._made[name] = self._node(body_of(self._trees[name], name, at))
            finally:
                self._open.pop()
        return self._made[name]

    def _node(self, node: tree.Node) -> tree.Node:
        made: tree.Node
        match node:
            case tree.Token(test, at):
                made, size = tree.Token(self._test(test), at), 1
            case tree.Whole():
                made, size = node, _SIZE_OF_WHOLE
            case tree.Edge():
                made, size = node, 0
            case tree.Use(name, at):
                made = self._fragment(name, at)
                size = self._size[id(made)]
            case tree.Row(parts):
                made = tree.Row(tuple(map(self._node, parts)))
                size = sum(self._size[id(part)] for part in made.parts)
            case tree.Choice(options):
                made = tree.Choice(tuple(map(self._node, options)))
                size = sum(self._size[id(option)] for option in made.options)
            case tree.Repeat(part, least, most):
                inner = self._node(part)
                made = tree.Repeat(inner, least, most)
                size = max(1, self._size[id(inner)]) * max(1, most or least + 1)
        if size > MOST_POSITIONS:
            fail(
                f"this comes to more than {MOST_POSITIONS:,} tokens once its repetitions are written out; repeat less",
                _somewhere(made),
            )
        self._size[id(made)] = size
        return made

    def _test(self, test: tree.Test) -> tree.Test:
        match test:
            case tree.Used(name, at):
                return as_test(self._fragment(name, at), at, "use")
            case tree.Not(inner):
                return tree.Not(self._test(inner))
            case tree.AllOf(tests):
                return tree.AllOf(tuple(map(self._test, tests)))
            case tree.OneOf(tests):
                return tree.OneOf(tuple(map(self._test, tests)))
            case _:
                return test


def body_of(fragment: tree.Tree, name: str, at: tree.At) -> tree.Node:
    """What a fragment stands for: one of its lines. Raises BadPattern for one that does more than match."""
    if fragment.conditions or fragment.removal or fragment.across:
        fail(f"the fragment “{name}” has conditions or drops something; only rules do", at)
    options = []
    for line in fragment.lines:
        if len(line.marks) != 1 or line.marks[0].at is not tree.NOWHERE:
            fail(f"the fragment “{name}” marks something; only rules do", at)
        options.append(line.marks[0].part)
    return options[0] if len(options) == 1 else tree.Choice(tuple(options))


def _somewhere(node: tree.Node) -> tree.At:
    match node:
        case tree.Row(parts) | tree.Choice(parts):
            return next((at for at in map(_somewhere, parts) if at is not tree.NOWHERE), tree.NOWHERE)
        case tree.Repeat(part):
            return _somewhere(part)
        case _:
            return node.at
