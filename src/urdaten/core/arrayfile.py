"""Files of arrays: one manifest in JSON and arrays, with a checksum; nothing in them can be executed.

    8 bytes   what kind of file it is
    32 bytes  SHA-256 of all that follows
    8 bytes   length of the manifest, unsigned, little-endian
    manifest  UTF-8 JSON: arrays {name: {kind, shape, at}}, and what the file says of itself
    arrays    little-endian, each beginning at a multiple of 64 bytes from the file's beginning

Arrays are read where they lie, so a file mapped into memory is shared by all that load it.
"""

from __future__ import annotations

import hashlib
import json
import math
import mmap
import struct
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any, TypeVar

import numpy as np

from urdaten.core.arrays import Array
from urdaten.errors import BadFile

_ALIGN = 64
_MAGIC = 8
_HEAD = _MAGIC + 32 + 8
T = TypeVar("T")


def pack(magic: bytes, about: Mapping[str, Any], arrays: Mapping[str, Array]) -> bytes:
    """The whole file; `magic` has 8 bytes."""
    # Offsets count from the first array, so that they do not depend on the manifest's own length.
    places: dict[str, dict[str, Any]] = {}
    body = bytearray()
    for name, array in arrays.items():
        body += bytes(-len(body) % _ALIGN)
        places[name] = {"kind": array.dtype.str, "shape": array.shape, "at": len(body)}
        body += np.ascontiguousarray(array).tobytes()
    manifest = json.dumps({**about, "arrays": places}, ensure_ascii=False).encode()
    manifest += b" " * (-(_HEAD + len(manifest)) % _ALIGN)
    rest = struct.pack("<Q", len(manifest)) + manifest + bytes(body)
    return magic + hashlib.sha256(rest).digest() + rest


def unpack(
    magic: bytes,
    data: bytes | mmap.mmap,
    read: Callable[[dict[str, Any], dict[str, Array]], T],
    damaged: Callable[[], BadFile],
) -> T:
    """What `read` makes of the manifest and the arrays. Raises damaged() for anything that pack has not written, and where
    `read` comes upon something that does not fit."""
    view = memoryview(data)
    if len(view) < _HEAD or view[:_MAGIC] != magic:
        raise damaged()
    if hashlib.sha256(view[_MAGIC + 32 :]).digest() != view[_MAGIC : _MAGIC + 32]:
        raise damaged()
    try:
        (size,) = struct.unpack("<Q", view[_HEAD - 8 : _HEAD])
        about = json.loads(bytes(view[_HEAD : _HEAD + size]))
        arrays = {
            name: _array(view, place, _HEAD + size + place["at"]) for name, place in about["arrays"].items()
        }
        return read(about, arrays)
    except (ArithmeticError, AttributeError, LookupError, RecursionError, TypeError, ValueError) as fault:
        raise damaged() from fault


def mapped(path: Path, damaged: Callable[[], BadFile]) -> mmap.mmap:
    """A file in memory, as far as it is looked at. Raises OSError as opening does, and damaged() for an empty one."""
    with path.open("rb") as file:
        try:
            return mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ)
        except ValueError as fault:
            raise damaged() from fault


def _array(view: memoryview, place: Mapping[str, Any], at: int) -> Array:
    shape = place["shape"]
    if any(size < 0 for size in shape):
        raise ValueError("negative size")
    return np.frombuffer(view, place["kind"], math.prod(shape), at).reshape(shape)
