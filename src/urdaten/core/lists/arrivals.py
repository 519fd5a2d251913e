"""Names that come into a list: which are new, which the list has, and what of these changes."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Literal, NamedTuple

from urdaten.core.lists.marks import spelling

# Not in the list; there, and nothing of it changes; there, and something does; there as a variant of another name; a name that
# the same file has before.
Fate = Literal["new", "same", "changed", "variant", "double"]
FATES: tuple[Fate, ...] = ("new", "same", "changed", "variant", "double")


class Arrival(NamedTuple):
    """A name as it comes, or as the list has it."""

    name: str
    variants: tuple[str, ...] = ()
    identifier: str = ""
    note: str = ""
    on: bool = True


class Arrivals:
    """Holds names that come against those that a list has: by name, whatever its case, and by identifier where no
    name is the same or that of the same name is told apart by its own; and with none of these, by what is written as a variant.

    What a list has keeps its name, its note and whether it is on; it gets variants that it has not, and an identifier or a note
    where it has none. So what came once changes nothing when it comes again.
    """

    def __init__(self, held: Iterable[tuple[int, Arrival]]) -> None:
        """held: entries by their numbers."""
        self._held = dict(held)
        self._now = dict(self._held)
        self._met: set[int] = set()
        self._by_identifier: dict[str, int] = {}
        self._by_name: dict[str, int] = {}
        self._by_variant: dict[str, list[int]] = {}
        for number, one in self._held.items():
            self._index(number, one)
        # New ones have numbers below 0 until they are kept.
        self._next = -1

    def _index(self, number: int, one: Arrival) -> None:
        if one.identifier:
            self._by_identifier.setdefault(one.identifier, number)
        self._by_name.setdefault(spelling(one.name), number)
        for variant in one.variants:
            owners = self._by_variant.setdefault(spelling(variant), [])
            if number not in owners:
                owners.append(number)

    def take(self, arrival: Arrival) -> tuple[Fate, Arrival | None]:
        """What becomes of a name, and what the list has it as until then."""
        key = spelling(arrival.name)
        by_name = self._by_name.get(key)
        identified = self._by_identifier.get(arrival.identifier) if arrival.identifier else None
        # Of two that are told apart elsewhere each is a name of its own.
        owners = [
            number
            for number in self._by_variant.get(key, ())
            if identified is None and not (arrival.identifier and self._now[number].identifier)
        ]
        if by_name is None and identified is None and not owners:
            return self._add(arrival)
        # An identifier is one name's alone.
        coming = arrival if identified is None else arrival._replace(identifier="")

        def after(number: int) -> Arrival:
            is_variant = number != by_name and number in self._by_variant.get(key, ())
            return _merged(self._now[number], coming, as_variant=is_variant)

        # What is there already stays where it is, whatever else has its name: it came before.
        for number in (by_name, identified, *owners):
            if number is not None and after(number) == self._now[number]:
                return self._met_as(number, "variant" if number in owners else "same")
        number = self._chosen(by_name, identified, owners)
        before = self._now[number]
        self._now[number] = after(number)
        self._index(number, self._now[number])
        return self._met_as(number, "changed", before)

    def _chosen(self, by_name: int | None, identified: int | None, owners: Sequence[int]) -> int:
        if identified is not None and (by_name is None or self._now[by_name].identifier):
            return identified
        if by_name is not None:
            return by_name
        return owners[0]

    def _add(self, arrival: Arrival) -> tuple[Fate, None]:
        self._now[self._next] = arrival
        self._index(self._next, arrival)
        self._next -= 1
        return "new", None

    def _met_as(self, number: int, fate: Fate, before: Arrival | None = None) -> tuple[Fate, Arrival]:
        seen = number in self._met or number < 0
        self._met.add(number)
        return ("double" if seen and fate != "variant" else fate), before or self._now[number]

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


def _merged(held: Arrival, arrival: Arrival, *, as_variant: bool = False) -> Arrival:
    """as_variant: the name is one of its variants already, whatever its case."""
    known = {held.name, *held.variants}
    ways = arrival.variants if as_variant else (arrival.name, *arrival.variants)
    more = [one for one in dict.fromkeys(ways) if one not in known]
    return held._replace(
        variants=(*held.variants, *more),
        identifier=held.identifier or arrival.identifier,
        note=held.note or arrival.note,
    )
