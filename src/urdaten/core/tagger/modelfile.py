"""The file of a tagger: a file of arrays whose manifest says what the tagger says of itself."""

from __future__ import annotations

import mmap
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

import numpy as np

from urdaten.core.arrayfile import mapped, pack, unpack
from urdaten.core.arrays import Array
from urdaten.core.lexicon import WordLexicon
from urdaten.core.spans import Coding
from urdaten.core.tagger.calibration import Calibration
from urdaten.core.tagger.features import MARK, PIECE_KINDS, AttributeTable, FeatureColumns, TokenTable
from urdaten.core.tagger.model import Layer, Tagger
from urdaten.core.tagger.soundness import (
    check_coding,
    check_dense,
    check_features,
    check_names,
    check_rows,
    check_tagger,
    damaged,
)
from urdaten.core.tagger.weights import Moves, SparseRows
from urdaten.core.text import fold
from urdaten.errors import BadFile

MAGIC = b"URDATAGG"
FORMAT = 4
# Format 2 had the weights of tokens' features written out in full; up to format 3 the names of each stood with it, and
# words were compared by their case alone.
_FORMATS = (2, 3, FORMAT)
_OF_WORDS = (*PIECE_KINDS, "word=")
# Stands between names; no word holds it.
_BETWEEN = "\0"


def to_bytes(tagger: Tagger) -> bytes:
    """The whole file."""
    named = tagger.token_table.named
    arrays: dict[str, Array] = {
        "attributes": _text(tagger.table.names),
        "token_kind": named.kind.astype(np.int32),
        "token_left": named.left.astype(np.int32),
        "token_right": named.right.astype(np.int32),
        "token_names": _text(named.names),
        "class_words": _text(list(tagger.table.classes)),
        "class_numbers": np.array(list(tagger.table.classes.values()), dtype=np.int32),
    }
    for k, layer in enumerate(tagger.layers):
        tokens = SparseRows.of(layer.tokens, range(len(layer.tokens)), 0)
        own = {
            "pointer": layer.forms.pointer.astype(np.int32),
            "column": layer.forms.column,
            "value": layer.forms.value.astype(np.float16),
            "token_pointer": tokens.pointer.astype(np.int32),
            "token_column": tokens.column,
            "token_value": tokens.value.astype(np.float16),
            "start": layer.moves.start,
            "dense": layer.moves.dense,
            "step": layer.moves.step,
        }
        arrays |= {f"layer{k}.{name}": array for name, array in own.items()}
    about: dict[str, Any] = {
        "format": FORMAT,
        "types": tagger.types,
        "sources": tagger.sources,
        "groups": tagger.table.groups,
        "token_groups": tagger.token_table.groups,
        "layers": [{"coding": layer.coding.kind, "types": layer.coding.types} for layer in tagger.layers],
        "calibration": [tagger.calibration.slope, tagger.calibration.shift],
        "manifest": tagger.manifest,
    }
    return _pack(about, arrays)


def _pack(about: Mapping[str, Any], arrays: Mapping[str, Array]) -> bytes:
    return pack(MAGIC, about, arrays)


def read_file(path: Path, general: WordLexicon | None = None) -> Tagger:
    """As from_bytes, of a file in which its arrays stay. Raises OSError as opening does, too."""
    return from_bytes(mapped(path, damaged), general)


def is_tagger(data: bytes) -> bool:
    """Does it begin as the file of a tagger?"""
    return data.startswith(MAGIC)


def from_bytes(data: bytes | mmap.mmap, general: WordLexicon | None = None) -> Tagger:
    """Read what to_bytes wrote. Raises BadFile for anything else, be it damaged or made up.

    A tagger that was trained with another general lexicon than this one, or with one where there is none, works without.
    """

    def read(about: dict[str, Any], arrays: dict[str, Array]) -> Tagger:
        return _read(about, arrays, general)

    return unpack(MAGIC, data, read, damaged)


def _read(about: Mapping[str, Any], arrays: Mapping[str, Array], general: WordLexicon | None) -> Tagger:
    if about["format"] not in _FORMATS:
        raise BadFile(
            f"This tagger has format {about['format']}; this program reads formats"
            f" {', '.join(map(str, _FORMATS[:-1]))} and {FORMAT}. Train it again."
        )
    check_names(about["types"], about["sources"], about["groups"], about["token_groups"])
    types, sources = tuple(about["types"]), tuple(about["sources"])
    if general is not None and about["manifest"].get("lexicon") != general.digest:
        general = None
    names, words = _names(arrays["attributes"]), _names(arrays["class_words"])
    token_table = TokenTable(about["token_groups"], types, sources)
    if about["format"] < 4:
        names, words = [_folded(name) for name in names], list(map(fold, words))
        token_table.named = _features_before(arrays, token_table.kinds)
    else:
        token_table.named = _features(arrays, len(token_table.kinds))
    classes = dict(zip(words, _class_numbers(arrays), strict=True))
    table = AttributeTable(about["groups"], names, classes, general)
    layers = []
    for k, layer in enumerate(about["layers"]):
        coding = Coding(layer["coding"], tuple(layer["types"]))
        check_coding(coding, types)
        layers.append(_layer(arrays, k, coding, len(token_table)))
    tagger = Tagger(
        types,
        sources,
        table,
        token_table,
        tuple(layers),
        Calibration(*about["calibration"]),
        about["manifest"],
    )
    check_tagger(tagger)
    return tagger


def _class_numbers(arrays: Mapping[str, Array]) -> list[list[int]]:
    numbers = arrays["class_numbers"]
    if numbers.dtype != np.int32 or (len(numbers) and numbers.ndim != 2):
        raise damaged()
    listed: list[list[int]] = numbers.tolist()
    return listed


def _features(arrays: Mapping[str, Array], kinds: int) -> FeatureColumns:
    kind, left, right = (arrays[f"token_{part}"] for part in ("kind", "left", "right"))
    names = _names(arrays["token_names"])
    check_features(kind, left, right, kinds, len(names))
    return FeatureColumns(kind.astype(np.int64), left.astype(np.int64), right.astype(np.int64), names)


def _features_before(arrays: Mapping[str, Array], kinds: Sequence[str]) -> FeatureColumns:
    number = {name: k for k, name in enumerate(kinds)}
    kind = np.array([number[name] for name in _names(arrays["token_kinds"])], dtype=np.int64)
    left, right = (
        [word if word.startswith(MARK) else fold(word) for word in _names(arrays[f"token_{side}"])]
        for side in ("left", "right")
    )
    return FeatureColumns.of(kind, left, right)


def _layer(arrays: Mapping[str, Array], number: int, coding: Coding, features: int) -> Layer:
    def named(name: str) -> Array:
        return arrays[f"layer{number}.{name}"]

    def rows(prefix: str) -> SparseRows:
        pointer, value = named(prefix + "pointer"), named(prefix + "value")
        return SparseRows(pointer.astype(np.int64), named(prefix + "column"), value.astype(np.float32))

    full = arrays.get(f"layer{number}.tokens")
    if full is None:
        sparse = rows("token_")
        check_rows(sparse, features, coding.count)
        check_dense(features, coding)
    return Layer(
        coding,
        rows(""),
        sparse.dense(coding.count) if full is None else full.copy(),
        Moves(named("start").copy(), named("dense").copy(), named("step").copy()),
    )


def _text(names: Sequence[str]) -> Array:
    return np.frombuffer("".join(name + _BETWEEN for name in names).encode(), dtype=np.uint8)


def _names(blob: Array) -> list[str]:
    return blob.tobytes().decode().split(_BETWEEN)[:-1]


def _folded(name: str) -> str:
    """An attribute's name with its word folded, where it is of one."""
    kind, sign, word = name.partition("=")
    return kind + sign + fold(word) if kind + sign in _OF_WORDS else name
