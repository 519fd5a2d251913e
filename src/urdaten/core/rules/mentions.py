"""What the text of a rule names: types, lists and fragments, and where."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Literal, TypeAlias

from urdaten.core.rules import tree
from urdaten.core.rules.asking import parts_of
from urdaten.core.rules.reading import read

Named: TypeAlias = Literal["type", "list", "fragment"]


@dataclass(frozen=True)
class Mention:
    """One name in a text."""

    kind: Named
    name: str
    at: tree.At


def mentions(text: str) -> list[Mention]:
    """Every name in the text of a rule, in order. Raises BadPattern."""
    return sorted(_mentions(read(text)), key=lambda one: one.at.start)


def renamed(text: str, names: Mapping[tuple[Named, str], str]) -> str:
    """The text of a rule with other names, by kind and old name; one with signs that end names is put in quotes."""
    for one in reversed(mentions(text)):
        new = names.get((one.kind, one.name))
        if new is not None and new != one.name:
            text = (
                text[: one.at.start] + (new if one.kind == "type" else written_name(new)) + text[one.at.end :]
            )
    return text


def written_name(name: str) -> str:
    """The name of a list or fragment as patterns have it: one with signs that end names in quotes."""
    if not (set(name) & set('(),"#') or name != " ".join(name.split())):
        return name
    return '"' + name.replace("\\", "\\\\").replace('"', '\\"') + '"'


def _mentions(whole: tree.Tree) -> Iterator[Mention]:
    for line in whole.lines:
        for mark in line.marks:
            if mark.type is not None:
                yield Mention("type", mark.type, mark.type_at)
    if whole.removal is not None:
        for name, at in zip(whole.removal.types, whole.removal.places, strict=True):
            yield Mention("type", name, at)
    for part in _parts(whole):
        match part:
            case tree.OfList(names, _, places):
                yield from (Mention("list", name, at) for name, at in zip(names, places, strict=True))
            case tree.OfFound(types, _, places):
                yield from (Mention("type", name, at) for name, at in zip(types, places, strict=True))
            case tree.Use(name, at) | tree.Used(name, at):
                yield Mention("fragment", name, at)
            case _:
                pass


def sources_of(whole: tree.Tree) -> Iterator[tree.Source]:
    """What a rule looks at of what was there before it."""
    for part in _parts(whole):
        if not isinstance(part, tree.Use | tree.Used):
            yield part


def _parts(whole: tree.Tree) -> Iterator[tree.Source | tree.Use | tree.Used]:
    for line in whole.lines:
        for node in (*line.contexts, *(mark.part for mark in line.marks)):
            yield from _of_node(node)
        for mark in line.marks:
            if mark.minus is not None:
                yield from _of_test(mark.minus)
    for condition in whole.conditions:
        if isinstance(condition.what, tree.Stands):
            yield from _of_node(condition.what.part)
        else:
            yield condition.what.source


def _of_node(node: tree.Node) -> Iterator[tree.Source | tree.Use | tree.Used]:
    match node:
        case tree.Token(test):
            yield from _of_test(test)
        case tree.Whole(source):
            yield source
        case tree.Use():
            yield node
        case tree.Row(parts) | tree.Choice(parts):
            for part in parts:
                yield from _of_node(part)
        case tree.Repeat(part):
            yield from _of_node(part)
        case _:
            pass


def _of_test(test: tree.Test) -> Iterator[tree.Source | tree.Used]:
    for part in parts_of(test):
        if isinstance(part, tree.Within):
            yield part.source
        elif isinstance(part, tree.Used):
            yield part
