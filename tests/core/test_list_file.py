"""The file of compiled lists: read as it was written, and refused when anything in it does not fit."""

from __future__ import annotations

import random
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from urdaten.core.arrayfile import pack
from urdaten.core.lists import (
    CompiledLists,
    Entry,
    Gazetteer,
    ListHead,
    ListOptions,
    NameList,
    Part,
    listfile,
)
from urdaten.core.text import analyse
from urdaten.errors import BadFile

VESSELS = NameList(
    name="vessels",
    type="VES",
    entries=(
        Entry(preferred="Amber Quay", variants=("A. Quay", "Orré"), number=7),
        Entry(preferred="Lindmoor", number=9),
        Entry(preferred="Amber Tide", number=3),
    ),
    options=ListOptions(slips=True, endings=True),
)
HEADS = {4: ListHead(name=VESSELS.name, type=VESSELS.type, options=VESSELS.options)}
BODY = "The Amber Quays met Lindmor and Orre at Amber Tide."


def compiled() -> CompiledLists:
    return CompiledLists.of([(4, VESSELS)])


def found(lists: CompiledLists) -> list[str]:
    return [span.why for span in Gazetteer.joined([Part(lists)], HEADS).match(analyse(BODY))]


def test_what_is_written_is_read(tmp_path: Path) -> None:
    data = listfile.to_bytes(compiled(), {"change": 12})
    file = tmp_path / "lists"
    file.write_bytes(data)
    for lists, made_of in (listfile.from_bytes(data), listfile.read_file(file)):
        assert made_of == {"change": 12}
        assert len(found(lists)) == 4
        assert found(lists) == found(compiled())
        assert listfile.to_bytes(lists, made_of) == data


def test_no_lists_at_all_can_be_kept() -> None:
    lists, _ = listfile.from_bytes(listfile.to_bytes(CompiledLists.of([]), {}))
    assert found(lists) == []


def test_damage_is_refused() -> None:
    data = listfile.to_bytes(compiled(), {})
    for made in (b"", b"URDALIST", data[:-1], data[:200] + b"x" + data[201:], b"URDATAGG" + data[8:]):
        with pytest.raises(BadFile, match="damaged"):
            listfile.from_bytes(made)


Arrays = dict[str, np.ndarray[Any, Any]]


def put(name: str, at: int, value: int) -> Callable[[Arrays], None]:
    def change(arrays: Arrays) -> None:
        arrays[name] = arrays[name].copy()
        arrays[name][at] = value

    return change


def less(name: str) -> Callable[[Arrays], None]:
    return lambda arrays: arrays.update({name: arrays[name][:-1]})


def a_state_twice(arrays: Arrays) -> None:
    follow = arrays["automaton.follow"].copy()
    follow[0] = follow[1]
    arrays["automaton.follow"] = follow


MADE_UP: dict[str, Callable[[Arrays], None]] = {
    "symbols out of order": lambda arrays: arrays.update({"symbols.sums": arrays["symbols.sums"][::-1]}),
    "a symbol twice": lambda arrays: put("symbols.number", 0, int(arrays["symbols.number"][1]))(arrays),
    "a symbol there is not": put("symbols.number", 0, 99),
    "a word before the first": put("symbols.first", 0, -1),
    "words that go back": put("symbols.first", 1, 99),
    "no words": put("symbols.blob", 0, 0xFF),
    "a root that is nowhere": put("automaton.root", 0, 99),
    "a state that leads back": put("automaton.follow", -1, 0),
    "a state that is reached twice": a_state_twice,
    "edges that go back": put("automaton.begin", 1, 99),
    "an edge by a symbol there is not": put("automaton.symbol", 0, 99),
    "edges out of order": lambda arrays: arrays.update(
        {"automaton.symbol": np.zeros_like(arrays["automaton.symbol"])}
    ),
    "a name there is not": put("automaton.name", 0, 99),
    "a name below all": put("automaton.name", 0, -1),
    "leaves that do not end": put("automaton.leaves", -1, 99),
    "a slip of a symbol there is not": put("slippery", 0, 99),
    "a way of a writing there is not": put("way_writing", 0, 99),
    "a writing of another entry": put("writing_entry", 0, 1),
    "an entry without a writing": put("entry_writing", 1, 0),
    "numbers of another width": lambda arrays: arrays.update(
        {"way_writing": arrays["way_writing"].astype("i8")}
    ),
    "two dimensions": lambda arrays: arrays.update({"slippery": arrays["slippery"].reshape(1, -1)}),
    "an array nobody knows": lambda arrays: arrays.update({"more": arrays["slippery"]}),
    "an array too few": lambda arrays: arrays.__delitem__("way_sum"),
    **{
        f"{name} is too short": less(name)
        for name in CompiledLists.of([]).arrays()
        if not name.endswith(("blob", "slippery"))
    },
}


@pytest.mark.parametrize("name", MADE_UP)
def test_a_file_that_was_made_up_is_refused_though_its_sum_is_right(name: str) -> None:
    about = {"format": listfile.FORMAT, "is_bare": True, "made_of": {}}
    arrays: Arrays = dict(compiled().arrays())
    listfile.from_bytes(pack(listfile.MAGIC, about, arrays))
    MADE_UP[name](arrays)
    with pytest.raises(BadFile, match="damaged"):
        listfile.from_bytes(pack(listfile.MAGIC, about, arrays))


def test_numbers_put_in_anywhere_never_lead_out_of_bounds() -> None:
    """What is not refused is walked without a fault, whatever it finds."""
    chance = random.Random(5)
    about = {"format": listfile.FORMAT, "is_bare": True, "made_of": {}}
    names = list(compiled().arrays())
    read = 0
    for _ in range(400):
        arrays: Arrays = dict(compiled().arrays())
        name = chance.choice(names)
        if not len(arrays[name]):
            continue
        put(name, chance.randrange(len(arrays[name])), chance.choice([0, 1, 2, 5, 11, 40, 100]))(arrays)
        try:
            lists, _ = listfile.from_bytes(pack(listfile.MAGIC, about, arrays))
        except BadFile:
            continue
        read += 1
        found(lists)
    assert read > 50
