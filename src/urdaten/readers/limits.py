"""How much is taken: of a file, of what is packed in it, and of a text."""

from __future__ import annotations

import zipfile
from io import BytesIO

from urdaten.errors import BadFile

MEGABYTE = 1 << 20
MOST_BYTES = 256 * MEGABYTE
MOST_UNPACKED = 512 * MEGABYTE
# What unpacks to so many times its size was packed to do harm.
MOST_RATIO = 200
MOST_ENTRIES = 100_000
# Below this size no ratio is suspicious.
_SMALL = 10 * MEGABYTE


def open_zip(data: bytes) -> zipfile.ZipFile:
    """A zip that is safe to unpack, by what it says of its entries. Raises BadFile otherwise."""
    try:
        packed = zipfile.ZipFile(BytesIO(data))
        entries = packed.infolist()
    except (zipfile.BadZipFile, ValueError, NotImplementedError, OSError, EOFError) as fault:
        raise BadFile(f"The packed file is damaged: {fault}.") from None
    if len(entries) > MOST_ENTRIES:
        raise BadFile(f"It holds {len(entries)} files; the most is {MOST_ENTRIES}.")
    whole = sum(entry.file_size for entry in entries)
    if whole > MOST_UNPACKED:
        raise BadFile(f"It unpacks to {whole // MEGABYTE} MB; the most is {MOST_UNPACKED // MEGABYTE} MB.")
    if whole > _SMALL and whole > MOST_RATIO * len(data):
        raise BadFile(
            f"It unpacks to {whole // max(1, len(data))} times its size, as files do that are made to do harm."
        )
    return packed


def unpacked(packed: zipfile.ZipFile, entry: zipfile.ZipInfo, most: int = MOST_UNPACKED) -> bytes:
    """What an entry holds; what it says of its size is not believed. Raises BadFile."""
    if entry.flag_bits & 1:
        raise BadFile("It is locked with a password; unpack it first.")
    try:
        with packed.open(entry) as stream:
            data = stream.read(most + 1)
    except (zipfile.BadZipFile, ValueError, NotImplementedError, OSError, EOFError, RuntimeError) as fault:
        raise BadFile(f"It cannot be unpacked: {fault}.") from None
    except Exception as fault:
        # zlib and lzma have errors of their own.
        raise BadFile(f"It cannot be unpacked: {type(fault).__name__}.") from None
    if len(data) > most:
        raise BadFile(f"It unpacks to more than the {most // MEGABYTE} MB that are taken.")
    return data
