"""The file of compiled lists: a file of arrays whose manifest says what they were compiled of."""

from __future__ import annotations

import mmap
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import numpy as np

from urdaten.core.arrayfile import mapped, pack, unpack
from urdaten.core.arrays import Array
from urdaten.core.lists.automaton import Automaton
from urdaten.core.lists.compiled import AUTOMATON_ARRAYS, OWN_ARRAYS, SYMBOL_ARRAYS, CompiledLists
from urdaten.core.lists.symbols import Symbols
from urdaten.errors import BadFile

MAGIC = b"URDALIST"
FORMAT = 1
_KINDS = {
    **{
        name: np.dtype(np.int32)
        for name in (*AUTOMATON_ARRAYS, *OWN_ARRAYS, "symbols.number", "symbols.first")
    },
    **{name: np.dtype(np.uint8) for name in ("blob", "symbols.blob", "way_how", "way_demand")},
    **{name: np.dtype(np.uint64) for name in ("symbols.sums", "way_sum")},
    **{name: np.dtype(np.int64) for name in ("entry_number", "entry_list")},
}


def to_bytes(compiled: CompiledLists, made_of: Mapping[str, Any]) -> bytes:
    """The whole file; made_of, in JSON, is given back by from_bytes."""
    about = {"format": FORMAT, "is_bare": compiled.is_bare, "made_of": made_of}
    return pack(MAGIC, about, compiled.arrays())


def read_file(path: Path) -> tuple[CompiledLists, dict[str, Any]]:
    """As from_bytes, of a file in which its arrays stay. Raises OSError as opening does, too."""
    return from_bytes(mapped(path, _damaged))


def from_bytes(data: bytes | mmap.mmap) -> tuple[CompiledLists, dict[str, Any]]:
    """Read what to_bytes wrote. Raises BadFile for anything else, be it damaged or made up."""
    return unpack(MAGIC, data, _read, _damaged)


def _read(about: dict[str, Any], arrays: dict[str, Array]) -> tuple[CompiledLists, dict[str, Any]]:
    if about["format"] != FORMAT:
        raise _damaged()
    for name, array in arrays.items():
        _hold(array.ndim == 1 and array.dtype == _KINDS[name.removeprefix("automaton.")])
    own: dict[str, Any] = {name: arrays[name] for name in OWN_ARRAYS}
    compiled = CompiledLists(
        automaton=Automaton(
            Symbols(*(arrays[f"symbols.{name}"] for name in SYMBOL_ARRAYS)),
            *(arrays[f"automaton.{name}"] for name in AUTOMATON_ARRAYS),
        ),
        is_bare=about["is_bare"] is True,
        **own,
    )
    _check_symbols(compiled.automaton.symbols)
    _check_automaton(compiled)
    _check_columns(compiled)
    made_of = about["made_of"]
    _hold(isinstance(made_of, dict))
    return compiled, made_of


def _check_symbols(symbols: Symbols) -> None:
    count = len(symbols.number)
    _hold(len(symbols.sums) == count and bool((symbols.sums[1:] >= symbols.sums[:-1]).all()))
    _hold(bool((np.bincount(_numbers(symbols.number, count), minlength=count) == 1).all()))
    _check_words(symbols.first, symbols.blob, count)


def _check_automaton(compiled: CompiledLists) -> None:
    automaton = compiled.automaton
    states, symbols = len(automaton.begin) - 1, len(automaton.symbols)
    _hold(len(automaton.root) == symbols and len(automaton.leaves) == states + 1)
    _check_rows(automaton.begin, len(automaton.symbol))
    _check_rows(automaton.leaves, len(automaton.name))
    _hold(len(automaton.follow) == len(automaton.symbol))
    _numbers(automaton.symbol, symbols)
    parent = np.repeat(np.arange(states), np.diff(automaton.begin))
    # Each state is reached in one way, from one before it: so no walk goes round.
    _hold(bool((automaton.follow > parent).all()))
    reached = np.concatenate([_numbers(automaton.root, states, least=-1), automaton.follow])
    _hold(bool((np.bincount(_numbers(reached[reached >= 0], states), minlength=states) == 1).all()))
    same = parent[1:] == parent[:-1]
    _hold(bool((automaton.symbol[1:] > automaton.symbol[:-1])[same].all()))
    _numbers(automaton.name, len(compiled.way_writing))
    _numbers(compiled.slippery, symbols)


def _check_columns(compiled: CompiledLists) -> None:
    ways, writings, entries = (
        len(column) for column in (compiled.way_writing, compiled.writing_entry, compiled.entry_number)
    )
    _hold(len(compiled.way_how) == len(compiled.way_demand) == len(compiled.way_sum) == ways)
    _hold(len(compiled.entry_list) == entries and len(compiled.entry_writing) == entries + 1)
    _numbers(compiled.way_writing, writings)
    _check_words(compiled.writing_first, compiled.blob, writings)
    _check_rows(compiled.entry_writing, writings)
    counts = np.diff(compiled.entry_writing)
    _hold(bool((counts > 0).all()))
    _hold(bool((compiled.writing_entry == np.repeat(np.arange(entries), counts)).all()))


def _check_words(first: Array, blob: Array, count: int) -> None:
    _hold(len(first) == count + 1)
    _check_rows(first, len(blob))
    blob.tobytes().decode(errors="surrogatepass")
    inside = first[first < len(blob)]
    # No word begins within a code point.
    _hold(bool(((blob[inside] & 0xC0) != 0x80).all()))


def _check_rows(first: Array, count: int) -> None:
    _hold(len(first) > 0 and first[0] == 0 and first[-1] == count and bool((np.diff(first) >= 0).all()))


def _numbers(column: Array, count: int, *, least: int = 0) -> Array:
    _hold(not len(column) or (int(column.min()) >= least and int(column.max()) < count))
    return column


def _hold(condition: bool) -> None:
    if not condition:
        raise _damaged()


def _damaged() -> BadFile:
    return BadFile("These are not lists that Urdaten compiled, or they are damaged. Compile them again.")
