"""What kernels rely on without looking, checked once when a tagger is read: a file may come from anybody."""

from __future__ import annotations

import math

import numpy as np

from urdaten.core.arrays import Array
from urdaten.core.spans import CODINGS, Coding
from urdaten.core.tagger.model import Layer, Tagger
from urdaten.core.tagger.weights import Moves, SparseRows
from urdaten.errors import BadFile

# Far above what anybody trains: bounds for what is made of a few bytes of the file.
MOST_TYPES = 1000
MOST_EVIDENCE_KINDS = 100_000
MOST_TOKEN_WEIGHTS = 2**28


def check_names(types: object, sources: object, *groups: object) -> None:
    """Raises BadFile unless these are lists of names, of which not too many features are made."""
    for names in (types, sources, *groups):
        _hold(isinstance(names, list | tuple) and all(isinstance(name, str) for name in names))
        _hold(len(set(names)) == len(names) <= MOST_TYPES)  # type: ignore[call-overload, arg-type] # looked at above
    _hold(len(types) * len(sources) <= MOST_EVIDENCE_KINDS)  # type: ignore[arg-type] # likewise


def check_coding(coding: Coding, types: tuple[str, ...]) -> None:
    """Raises BadFile unless it codes some of the types."""
    _hold(coding.kind in CODINGS)
    check_names(coding.types, ())
    _hold(set(coding.types) <= set(types))


def check_rows(rows: SparseRows, count: int, width: int) -> None:
    """Raises BadFile unless it is a matrix of this many rows and columns, all of it finite."""
    pointer, column, value = rows.pointer, rows.column, rows.value
    _hold(pointer.shape == (count + 1,) and column.ndim == 1 and column.shape == value.shape)
    _hold(column.dtype in (np.uint16, np.int32))
    _hold(pointer[0] == 0 and pointer[-1] == len(column) and bool((np.diff(pointer) >= 0).all()))
    _hold(not len(column) or (int(column.min()) >= 0 and int(column.max()) < width))
    _hold(bool(np.isfinite(value).all()))


def check_features(kind: Array, left: Array, right: Array, kinds: int, names: int) -> None:
    """Raises BadFile unless these are columns of numbers of so many kinds and names."""
    for column, count in ((kind, kinds), (left, names), (right, names)):
        _hold(column.dtype == np.int32 and column.shape == kind.shape == (len(kind),))
        _hold(not len(column) or (int(column.min()) >= 0 and int(column.max()) < count))


def check_dense(features: int, coding: Coding) -> None:
    """Raises BadFile where the weights of tokens' features would fill the memory once they are written out."""
    _hold(features * coding.count <= MOST_TOKEN_WEIGHTS)


def check_tagger(tagger: Tagger) -> None:
    """Raises BadFile unless everything in it fits together."""
    for layer in tagger.layers:
        _check_layer(layer, tagger)
    calibration = (tagger.calibration.slope, tagger.calibration.shift)
    _hold(all(isinstance(n, int | float) and math.isfinite(n) for n in calibration))
    _hold(isinstance(tagger.manifest, dict))
    surfaces = tagger.manifest.get("surfaces", [])
    _hold(isinstance(surfaces, list) and all(isinstance(one, str) for one in surfaces))


def _check_layer(layer: Layer, tagger: Tagger) -> None:
    check_rows(layer.forms, len(tagger.table), layer.width)
    _check_floats(layer.tokens, (len(tagger.token_table), layer.coding.count))
    for array, like in zip(layer.moves.arrays, Moves.zeros(layer.coding).arrays, strict=True):
        _check_floats(array, like.shape)


def _check_floats(array: Array, shape: tuple[int, ...]) -> None:
    _hold(array.dtype in (np.float32, np.float64) and array.shape == shape and bool(np.isfinite(array).all()))


def _hold(condition: bool) -> None:
    if not condition:
        raise damaged()


def damaged() -> BadFile:
    return BadFile("This is not a tagger that Urdaten wrote, or it is damaged. Train it again.")
