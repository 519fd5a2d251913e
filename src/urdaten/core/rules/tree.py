"""What a rule is made of once it is read."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal, TypeAlias

Shape: TypeAlias = Literal["capital", "capitals", "small", "initial", "figure", "code", "letters", "sign"]
Part: TypeAlias = Literal["first", "last", "part"]
Scope: TypeAlias = Literal["sentence", "text"]
Side: TypeAlias = Literal["before", "after", "either"]


@dataclass(frozen=True)
class At:
    """Where something is written: line and column from 1, offsets in code points from 0, the end not included."""

    line: int
    column: int
    start: int
    end: int


NOWHERE = At(1, 1, 0, 0)


# Sources: spans that were there before the rule.


@dataclass(frozen=True)
class OfList:
    """What some lists find; `places` are those of the names."""

    names: tuple[str, ...]
    at: At = field(default=NOWHERE, compare=False, repr=False)
    places: tuple[At, ...] = field(default=(), compare=False, repr=False)


@dataclass(frozen=True)
class OfFound:
    """Spans of some types, of lists and of earlier rules."""

    types: tuple[str, ...]
    at: At = field(default=NOWHERE, compare=False, repr=False)
    places: tuple[At, ...] = field(default=(), compare=False, repr=False)


@dataclass(frozen=True)
class OfText:
    """What a regular expression matches in the raw text."""

    pattern: str
    at: At = field(default=NOWHERE, compare=False, repr=False)


@dataclass(frozen=True)
class OfTag:
    """Words with some tags, each for itself."""

    tags: tuple[str, ...]
    at: At = field(default=NOWHERE, compare=False, repr=False)


@dataclass(frozen=True)
class OfLemma:
    """Forms of some words, each for itself."""

    words: tuple[str, ...]
    at: At = field(default=NOWHERE, compare=False, repr=False)


@dataclass(frozen=True)
class OfKind:
    """Words for some kinds of things, each for itself."""

    kinds: tuple[str, ...]
    at: At = field(default=NOWHERE, compare=False, repr=False)


# What is known of words, as if each had been found before.
Known: TypeAlias = OfTag | OfLemma | OfKind
Source: TypeAlias = OfList | OfFound | OfText | Known


# Tests of one token.


@dataclass(frozen=True)
class Letters:
    """Its letters, in any case or exactly so."""

    form: str
    exact: bool = False


@dataclass(frozen=True)
class Like:
    """A regular expression matches the whole token."""

    pattern: str
    at: At = field(default=NOWHERE, compare=False, repr=False)


@dataclass(frozen=True)
class OfShape:
    """How it is written."""

    shape: Shape


@dataclass(frozen=True)
class Length:
    """In code points, both included."""

    least: int
    most: int


@dataclass(frozen=True)
class Within:
    """It is the first, the last or any token of a span of a source."""

    part: Part
    source: Source


@dataclass(frozen=True)
class Any:
    """Whatever it is."""


@dataclass(frozen=True)
class Not:
    """Another test fails."""

    test: Test


@dataclass(frozen=True)
class AllOf:
    """Every one of these holds."""

    tests: tuple[Test, ...]


@dataclass(frozen=True)
class OneOf:
    """One of these holds."""

    tests: tuple[Test, ...]


@dataclass(frozen=True)
class Used:
    """A fragment that asks of one token."""

    name: str
    at: At = field(default=NOWHERE, compare=False, repr=False)


Test: TypeAlias = Letters | Like | OfShape | Length | Within | Any | Not | AllOf | OneOf | Used


# What stands one after the other.


@dataclass(frozen=True)
class Token:
    """One token that passes a test."""

    test: Test
    at: At = field(default=NOWHERE, compare=False, repr=False)


@dataclass(frozen=True)
class Whole:
    """One span of a source, from its first token to its last."""

    source: Source
    at: At = field(default=NOWHERE, compare=False, repr=False)


@dataclass(frozen=True)
class Edge:
    """Nothing, where a sentence begins or ends."""

    end: bool
    at: At = field(default=NOWHERE, compare=False, repr=False)


@dataclass(frozen=True)
class Use:
    """A fragment."""

    name: str
    at: At = field(default=NOWHERE, compare=False, repr=False)


@dataclass(frozen=True)
class Row:
    """Parts one after the other."""

    parts: tuple[Node, ...]


@dataclass(frozen=True)
class Choice:
    """One of these."""

    options: tuple[Node, ...]


@dataclass(frozen=True)
class Repeat:
    """A part `least` to `most` times, without bound where that is None."""

    part: Node
    least: int
    most: int | None


Node: TypeAlias = Token | Whole | Edge | Use | Row | Choice | Repeat


# Rules.


@dataclass(frozen=True)
class Mark:
    """A part that becomes a span, of the rule's own type where none is said, without the tokens that pass `minus`."""

    part: Node
    type: str | None = None
    minus: Test | None = None
    at: At = field(default=NOWHERE, compare=False, repr=False)
    type_at: At = field(default=NOWHERE, compare=False, repr=False)


@dataclass(frozen=True)
class Line:
    """One way to match: what stands before the first mark, between and behind them, one more than marks."""

    contexts: tuple[Node, ...]
    marks: tuple[Mark, ...]
    at: At = field(default=NOWHERE, compare=False, repr=False)


@dataclass(frozen=True)
class Window:
    """Where a condition looks: in the sentence or the text, or so many tokens away at most."""

    scope: Scope
    side: Side = "either"
    tokens: int | None = None


@dataclass(frozen=True)
class Stands:
    """A pattern stands there, not over what is marked."""

    part: Node
    where: Window


@dataclass(frozen=True)
class Repeats:
    """What is marked is the same word or words as a part of a span there; None for the whole of it."""

    part: Part | None
    source: Source
    where: Window


@dataclass(frozen=True)
class Inside:
    """What is marked lies within a span, which may be itself unless a longer one is asked for."""

    source: Source
    longer: bool = False


What: TypeAlias = Stands | Repeats | Inside


@dataclass(frozen=True)
class Condition:
    """It has to hold, or, where `negated`, must not."""

    what: What
    negated: bool
    at: At = field(default=NOWHERE, compare=False, repr=False)


@dataclass(frozen=True)
class Removal:
    """Earlier spans with just the marked words go: those of these types, or all; in their place the marks stand, or
    nothing."""

    types: tuple[str, ...]
    replaced: bool
    at: At = field(default=NOWHERE, compare=False, repr=False)
    places: tuple[At, ...] = field(default=(), compare=False, repr=False)


@dataclass(frozen=True)
class Tree:
    """A rule, or a fragment."""

    lines: tuple[Line, ...]
    conditions: tuple[Condition, ...] = ()
    removal: Removal | None = None
    # Do matches run over the ends of sentences?
    across: bool = False
