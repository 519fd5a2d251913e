"""What a pattern is made of."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, TypeAlias

Place: TypeAlias = Literal["line start", "line end", "word bound"]


@dataclass(frozen=True)
class Range:
    """Code points from `low` to `high`, both included."""

    low: int
    high: int


@dataclass(frozen=True)
class Property:
    """Signs of one kind, written as the `regex` package writes it: `\\p{Lu}`, `\\d`."""

    source: str
    negated: bool


@dataclass(frozen=True)
class Signs:
    """One sign that is one of these, or none of them; in any case where `fold` says so."""

    items: tuple[Range | Property, ...]
    negated: bool = False
    fold: bool = False


@dataclass(frozen=True)
class At:
    """Nothing, at some place of the line."""

    place: Place
    negated: bool = False


@dataclass(frozen=True)
class Look:
    """Nothing, where the part stands ahead or behind."""

    part: Node
    behind: bool
    negated: bool


@dataclass(frozen=True)
class Row:
    """Parts one after the other."""

    parts: tuple[Node, ...]


@dataclass(frozen=True)
class Choice:
    """One of these; an earlier one is preferred."""

    options: tuple[Node, ...]


@dataclass(frozen=True)
class Repeat:
    """A part `least` to `most` times (without bound where None); as often as possible unless `lazy`."""

    part: Node
    least: int
    most: int | None
    lazy: bool


@dataclass(frozen=True)
class Mark:
    """The part that is marked."""

    part: Node


Node: TypeAlias = Signs | At | Look | Row | Choice | Repeat | Mark


def size(node: Node) -> int:
    """How many steps a node has once its repetitions are written out."""
    match node:
        case Row(parts):
            return sum(size(part) for part in parts)
        case Choice(options):
            return sum(size(option) + 2 for option in options)
        case Repeat(part, least, most):
            return (size(part) + 2) * max(1, least + 1 if most is None else most)
        case Look(part) | Mark(part):
            return size(part) + 2
        case _:
            return 1


def may_be_empty(node: Node) -> bool:
    """Does it match an empty line?"""
    match node:
        case Row(parts):
            return all(may_be_empty(part) for part in parts)
        case Choice(options):
            return any(may_be_empty(option) for option in options)
        case Repeat(part, least):
            return least == 0 or may_be_empty(part)
        case Mark(part):
            return may_be_empty(part)
        case Look(part, _, negated):
            return may_be_empty(part) != negated
        case At(place, negated):
            return (place != "word bound") != negated
        case _:
            return False
