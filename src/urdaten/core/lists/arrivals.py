"""Names that come into a list: which are new, which the list has, and what of these changes."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Literal

from urdaten.core.lists.marks import spelling_key

# Not in the list; there, and nothing of it changes; there, and something does; there as a variant of another name; a name that
# the same file has before.
Fate = Literal["new", "same", "changed", "variant", "double"]
FATES: tuple[Fate, ...] = ("new", "same", "changed", "variant", "double")


@dataclass(frozen=True, kw_only=True)
class Arrival:
    """A name as it comes, or as the list has it."""

    name: str
    variants: tuple[str, ...] = ()
    identifier: str = ""
    note: str = ""
    on: bool = True


class Arrivals:
    """Holds names that come against those that a list has: by name, whatever its case, and by identifier where no
    name is the same or that of the same name is told apart by its own.

    What a list has keeps its name, its note and whether it is on; it gets variants that it has not, and an identifier or a note
    where it has none. So what came once changes nothing when it comes again.
    """

    def __init__(self, held: Iterable[tuple[int, Arrival]]) -> None:
        """held: entries by their numbers."""
        self._held = dict(held)
        self._now = dict(self._held)
        self._met: set[int] = set()
        self._by_identifier: dict[str, int] = {}
        self._by_name: dict[int, int] = {}
        self._by_variant: dict[int, int] = {}
        for number, one in self._held.items():
            self._index(number, one)
        # New ones have numbers below 0 until they are kept.
        self._next = -1

    def _index(self, number: int, one: Arrival) -> None:
        if one.identifier:
            self._by_identifier.setdefault(one.identifier, number)
        self._by_name.setdefault(spelling_key(one.name), number)
        for variant in one.variants:
            self._by_variant.setdefault(spelling_key(variant), number)

    def take(self, arrival: Arrival) -> tuple[Fate, Arrival | None]:
        """What becomes of a name, and what the list has it as until then."""
        key = spelling_key(arrival.name)
        number = self._by_name.get(key)
        identified = self._by_identifier.get(arrival.identifier) if arrival.identifier else None
        if identified is not None and (number is None or self._now[number].identifier):
            number = identified
        if number is None and (owner := self._by_variant.get(key)) is not None:
            held = self._now[owner]
            if not arrival.identifier:
                return "variant", held
            # Of two that are told apart elsewhere each is a name of its own.
            number = None if held.identifier else owner
        if number is None:
            self._now[self._next] = arrival
            self._index(self._next, arrival)
            self._next -= 1
            return "new", None
        before = self._now[number]
        # An identifier is one name's alone.
        after = _merged(before, arrival if identified is None else replace(arrival, identifier=""))
        seen = number in self._met or number < 0
        self._met.add(number)
        if after != before:
            self._now[number] = after
            self._index(number, after)
        if seen:
            return "double", before
        return ("same" if after == before else "changed"), before

    @property
    def added(self) -> list[Arrival]:
        """New ones, in the order in which they came."""
        return [self._now[number] for number in range(-1, self._next, -1)]

    @property
    def changed(self) -> dict[int, Arrival]:
        """Those that the list has and that change, by number."""
        return {number: self._now[number] for number, one in self._held.items() if self._now[number] != one}

    @property
    def unmet(self) -> list[int]:
        """Those that the list has and that have not come."""
        return [number for number in self._held if number not in self._met]


def _merged(held: Arrival, arrival: Arrival) -> Arrival:
    known = {held.name, *held.variants}
    more = [one for one in dict.fromkeys((arrival.name, *arrival.variants)) if one not in known]
    return replace(
        held,
        variants=(*held.variants, *more),
        identifier=held.identifier or arrival.identifier,
        note=held.note or arrival.note,
    )
