"""Why a span is not in the answer, or has become another: small records, put into words where people read them."""

from __future__ import annotations

from dataclasses import dataclass

from urdaten.core.spans import Span


@dataclass(frozen=True)
class Beaten:
    """A span gave way to one that may not stand with it."""

    by: Span
    source: str
    # What decided.
    how: str = ""

    @property
    def words(self) -> str:
        said = f"gave way to {self.by.type} of the {self.source}, from {self.by.start} to {self.by.end}"
        return f"{said}; {self.how}" if self.how else said


@dataclass(frozen=True)
class SaidAlready:
    """The same span was there, from a source that goes before."""

    source: str

    @property
    def words(self) -> str:
        return f"the same as a span of the {self.source}"


@dataclass(frozen=True)
class LeftOut:
    """A later stage has seen a span, and not set it."""

    by: str = "tagger"

    @property
    def words(self) -> str:
        return f"the {self.by} has seen it and left it out"


@dataclass(frozen=True)
class Unlikely:
    """A span is less probable than was asked for."""

    probability: float
    least: float

    @property
    def words(self) -> str:
        return f"{self.probability:.0%} is less than the {self.least:.0%} that it takes"


@dataclass(frozen=True)
class Bound:
    """An earlier span stands, and binds this stage."""

    to: Span
    source: str

    @property
    def words(self) -> str:
        return f"bound by {self.to.type} of the {self.source}, from {self.to.start} to {self.to.end}"


@dataclass(frozen=True)
class NotWanted:
    """A stage leaves out all spans of a type."""

    type: str

    @property
    def words(self) -> str:
        return f"{self.type} is left out"


@dataclass(frozen=True)
class Became:
    """A span has another type from here on."""

    type: str

    @property
    def words(self) -> str:
        return f"is {self.type} from here on"


@dataclass(frozen=True)
class Unmet:
    """What a condition asks of the words around is not so."""

    # "sentence", "text" or "group".
    scope: str
    # Was something to be there, or to be missing?
    has: bool

    @property
    def words(self) -> str:
        asked = "what it takes is not in" if self.has else "what it must not have is in"
        return f"{asked} its {self.scope}"


@dataclass(frozen=True)
class Repeated:
    """The same words are of this type elsewhere."""

    words_found: str
    type: str
    # How often, and whether in the same text.
    times: int
    in_text: bool

    @property
    def words(self) -> str:
        where = "in this text" if self.in_text else "in texts of its group"
        times = "once" if self.times == 1 else f"{self.times} times"
        return f"“{self.words_found}” is {self.type} {times} elsewhere {where}"
