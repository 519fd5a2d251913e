"""Deciding together: which value fills which field of which record, so that none is used twice where it may not be."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from scipy.optimize import linear_sum_assignment

from urdaten.core.arrays import Floats, Ints
from urdaten.core.records.linker import Seen
from urdaten.core.records.material import Material

Fate = Literal["used", "rival", "open", "out"]
# A value that lost its place takes another one that is at least so probable.
_SECOND = 0.2
# A field that a record needs is worth so much more in the log of a probability.
_REQUIRED = 0.7
_NEVER = -1e6
# A shared value belongs to another record of its sentence as well that is so probable, and more so than none.
_SHARED = 0.03
# Of places in words (layout.RELATIONS) the first that is in another sentence.
_OTHER_SENTENCE = 9
_EARLIER = 1e-9
# What belonging to no record is worth against belonging to one as probably; found on train and dev weeks.
NONE_AT = 0.8


@dataclass
class Choice:
    """What became of a value: its row among what it could be, and its fate so far."""

    row: int
    fate: Fate = "used"
    # The value that holds the place it lost.
    by: int = -1
    # Other entities that share it, as rows.
    also: list[int] = field(default_factory=list)


def chances(material: Material, seen: Seen, probability: Floats) -> Floats:
    """Of each entity and field how probable its most probable value is (shape (entities, fields))."""
    made = np.zeros((len(material.entity_text), len(material.template.filled)))
    rows = np.flatnonzero(seen.entity >= 0)
    np.maximum.at(made, (seen.entity[rows], seen.field[rows]), probability[rows])
    return made


def told(seen: Seen, linked: Sequence[frozenset[tuple[int, int]] | None], none: int) -> Floats:
    """Probabilities as if it were known what each value may belong to; of several the nearest counts."""
    made = np.zeros(len(seen))
    for value, wanted in enumerate(linked):
        rows = range(int(seen.first[value]), int(seen.first[value + 1]))
        own = [row for row in rows if (int(seen.entity[row]), int(seen.field[row])) in (wanted or ())]
        chosen = own or [row for row in rows if int(seen.field[row]) == none]
        for k, row in enumerate(chosen):
            made[row] = 0.9**k
    return made


def best_rows(seen: Seen, probability: Floats) -> Ints:
    """Of each value its most probable row; of several the first."""
    if not len(seen):
        return np.zeros(0, dtype=np.int64)
    size = np.diff(seen.first)
    top = np.repeat(np.maximum.reduceat(probability, seen.first[:-1]), size)
    at = np.flatnonzero(probability == top)
    _, first = np.unique(seen.value[at], return_index=True)
    return at[first]


def decide(
    material: Material,
    seen: Seen,
    probability: Floats,
    values: list[int],
    best: list[int],
    same: Callable[[int, int], bool],
    event: Callable[[int], int] = lambda _row: 0,
) -> dict[int, Choice]:
    """What becomes of the values of one text, each most probable in its row of `best`.

    A field takes one value (a moment a day and a time), unless it takes many; `same(v, w)` says whether two values stand for
    the same, which is no conflict. Where values want one place the assignment with the highest sum of log probabilities is
    chosen among all that they could be; who is left without is a rival of the one that holds it. `event(row)` tells apart
    several records of one entity.
    """
    fields = material.template.filled
    chosen = {value: Choice(best[k]) for k, value in enumerate(values)}
    holders: dict[tuple[int, int, int, int], list[int]] = {}
    for value, choice in chosen.items():
        if seen.entity[choice.row] < 0:
            choice.fate = "out"
            continue
        for slot in _slots(material, seen, choice.row, value, event):
            holders.setdefault(slot, []).append(value)
    crowded = False
    for slot, own in holders.items():
        if len(own) > 1 and not fields[slot[2]].many and not all(same(own[0], other) for other in own[1:]):
            crowded = True
    if crowded:
        _assign(material, seen, probability, chosen, same, event)
    for value, choice in chosen.items():
        if choice.fate == "used" and fields[int(seen.field[choice.row])].shared:
            rows = range(int(seen.first[value]), int(seen.first[value + 1]))
            choice.also = [
                row
                for row in rows
                if row != choice.row
                and seen.field[row] == seen.field[choice.row]
                and seen.entity[row] >= 0
                and seen.entity[row] != seen.entity[choice.row]
                and seen.place[row, 0] < _OTHER_SENTENCE
                and probability[row] >= max(_SHARED, float(probability[int(seen.first[value + 1]) - 1]))
            ]
    return chosen


def _slots(
    material: Material, seen: Seen, row: int, value: int, event: Callable[[int], int]
) -> list[tuple[int, int, int, int]]:
    """The places that a row takes: entity, event, field, and for a moment the type of each span."""
    entity, own = int(seen.entity[row]), int(seen.field[row])
    if material.template.filled[own].kind != "moment":
        return [(entity, event(row), own, 0)]
    begin, end = int(material.value_span[value]), int(material.value_span[value + 1])
    return [(entity, event(row), own, int(material.kind[r])) for r in material.value_rows[begin:end].tolist()]


def _assign(
    material: Material,
    seen: Seen,
    probability: Floats,
    chosen: dict[int, Choice],
    same: Callable[[int, int], bool],
    event: Callable[[int], int],
) -> None:
    """The best assignment of values to places. Values that stand for the same go together: one of them stands for all."""
    fields = material.template.filled
    group: dict[int, list[int]] = {}
    leaders: list[int] = []
    for value in chosen:
        row = chosen[value].row
        leader = next(
            (
                other
                for other in leaders
                if seen.entity[row] >= 0
                and seen.entity[chosen[other].row] == seen.entity[row]
                and event(chosen[other].row) == event(row)
                and seen.field[chosen[other].row] == seen.field[row]
                and same(other, value)
            ),
            None,
        )
        if leader is None:
            leaders.append(value)
            group[value] = [value]
        else:
            group[leader].append(value)
    places: dict[tuple[object, ...], int] = {}
    options: list[dict[int, tuple[float, int]]] = []
    for k, value in enumerate(leaders):
        own: dict[int, tuple[float, int]] = {}
        for row in range(int(seen.first[value]), int(seen.first[value + 1])):
            chance = float(probability[row])
            if row != chosen[value].row and chance < _SECOND:
                continue
            if seen.entity[row] < 0:
                key: tuple[object, ...] = ("none", k)
            else:
                f = fields[int(seen.field[row])]
                slots = _slots(material, seen, row, value, event)
                # A day with its time takes the day's place; the time's is looked at below.
                key = ("many", k, slots[0]) if f.many else slots[0]
                chance = min(chance * float(np.exp(_REQUIRED)), 1.0) if f.required else chance
            place = places.setdefault(key, len(places))
            worth = float(np.log(max(chance, 1e-12)))
            # Of what is worth the same the first one counts.
            worth -= k * _EARLIER if seen.entity[row] >= 0 else 0.0
            if place not in own or worth > own[place][0]:
                own[place] = (worth, row)
        options.append(own)
    # Each may also go without, which is worth less than anything that is probable enough.
    width = len(places)
    cost = np.full((len(leaders), width + len(leaders)), -_NEVER)
    for k, own in enumerate(options):
        for place, (worth, _) in own.items():
            cost[k, place] = -worth
        cost[k, width + k] = -float(np.log(_SECOND / 2))
    rows, columns = linear_sum_assignment(cost)
    holder: dict[int, int] = {}
    for k, column in zip(rows.tolist(), columns.tolist(), strict=True):
        if column < width:
            holder[column] = leaders[k]
    taken: dict[tuple[int, int, int, int], int] = {}
    losers: list[int] = []
    for k, column in sorted(zip(rows.tolist(), columns.tolist(), strict=True)):
        leader = leaders[k]
        if column >= width:
            losers.append(leader)
            continue
        row = options[k][column][1]
        if seen.entity[row] >= 0:
            slots = _slots(material, seen, row, leader, event)
            clash = next((taken[slot] for slot in slots if slot in taken), None)
            if clash is not None and not fields[int(seen.field[row])].many and not same(clash, leader):
                losers.append(leader)
                continue
            taken.update(dict.fromkeys(slots, leader))
        else:
            losers.append(leader)
            continue
        for value in group[leader]:
            chosen[value].row = row if value == leader else _like(seen, value, row)
            chosen[value].fate = "used" if seen.entity[chosen[value].row] >= 0 else "out"
    for leader in losers:
        if seen.entity[chosen[leader].row] < 0:
            chosen[leader].fate = "out"
            continue
        wanted = _slots(material, seen, chosen[leader].row, leader, event)
        by = next((taken[slot] for slot in wanted if slot in taken), -1)
        for value in group[leader]:
            chosen[value].fate, chosen[value].by = "rival", by


def _like(seen: Seen, value: int, row: int) -> int:
    """A value's own row for the same entity and field."""
    for own in range(int(seen.first[value]), int(seen.first[value + 1])):
        if seen.entity[own] == seen.entity[row] and seen.field[own] == seen.field[row]:
            return own
    return int(seen.first[value + 1]) - 1
