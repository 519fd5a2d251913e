"""Reads a file, whatever it is, and what is packed in it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from pathlib import PurePosixPath

from urdaten.errors import BadFile
from urdaten.readers.document import Document, Found, How, HowNames, Item, NameRow, Names, Refusal
from urdaten.readers.encoding import readings
from urdaten.readers.kinds import ZIP, kind_of, reader_of
from urdaten.readers.limits import MEGABYTE, MOST_BYTES, MOST_UNPACKED, open_zip, unpacked

# A packed file in a packed file in a packed file is no folder of texts.
DEEPEST = 2
# So many names come in one portion.
AT_A_TIME = 500


def read_source(data: bytes, name: str, how: How | HowNames) -> Iterator[Item]:
    """What a file holds, one item after the other; what is amiss with it is a Refusal, never an error."""
    yield from _read(data, name, how, 0)


def _read(data: bytes, name: str, how: How | HowNames, depth: int) -> Iterator[Item]:
    try:
        if len(data) > MOST_BYTES:
            raise BadFile(f"It has {len(data) // MEGABYTE} MB; the most is {MOST_BYTES // MEGABYTE} MB.")
        if isinstance(how, HowNames):
            yield from _names(data, name, how)
            return
        kind = kind_of(data, name)
        if kind == ZIP:
            yield from _unpack(data, name, how, depth)
            return
        any_ = False
        for found in reader_of(how.kind or kind)(data, name, how):
            item = _storable(found)
            if isinstance(item, Document):
                any_ = True
                if "\0" in item.body:
                    yield Refusal(
                        source=name, place=item.place, why="The text holds NUL characters, so it is no text."
                    )
                    continue
            elif isinstance(item, Found) and item.guessed:
                item = replace(item, readings=readings(data))
            any_ = any_ or isinstance(item, Refusal)
            yield item
        if not any_:
            raise BadFile("The file holds no words.")
    except BadFile as fault:
        line = fault.detail.get("line")
        yield Refusal(source=name, why=fault.message, place=f"line {line}" if line else "")
    except (MemoryError, RecursionError) as fault:
        why = (
            "needs more memory than is given to it"
            if isinstance(fault, MemoryError)
            else "is nested too deep"
        )
        yield Refusal(source=name, why=f"Reading it {why}; it is damaged, or made to do harm.")
    except Exception as fault:
        # A reader is handed whatever there is; what it stumbles over is a fault of the file to whoever brought it.
        yield Refusal(source=name, why=f"It is damaged and cannot be read ({type(fault).__name__}).")


def _names(data: bytes, name: str, how: HowNames) -> Iterator[Item]:
    """Names a portion at a time."""
    from urdaten.readers.names import read_names

    rows = []
    any_ = False
    for item in read_names(data, name, how):
        if isinstance(item, NameRow):
            rows.append(item)
            any_ = True
        else:
            yield _storable(item)
        if len(rows) == AT_A_TIME:
            yield Names(source=name, rows=tuple(rows))
            rows = []
    if rows:
        yield Names(source=name, rows=tuple(rows))
    if not any_:
        raise BadFile("The file holds no names.")


def _storable(item: Item) -> Item:
    """Without NUL characters in what is said of a text: no database takes them, and nobody misses them."""
    if isinstance(item, Document):
        meta = {_clean(name): _clean(value) for name, value in item.meta.items()}
        return replace(item, title=_clean(item.title), group=_clean(item.group), meta=meta)
    if isinstance(item, Refusal):
        return replace(item, why=_clean(item.why), content=_clean(item.content))
    if isinstance(item, Found):
        columns = (
            replace(one, name=_clean(one.name), values=tuple(map(_clean, one.values))) for one in item.columns
        )
        return replace(item, columns=tuple(columns))
    return item


def _clean(words: str) -> str:
    return words.replace("\0", "")


def _unpack(data: bytes, name: str, how: How, depth: int) -> Iterator[Item]:
    if depth >= DEEPEST:
        raise BadFile("It is packed within a packed file within another; unpack it first.")
    packed = open_zip(data)
    left = MOST_UNPACKED
    any_ = False
    for entry in packed.infolist():
        path = PurePosixPath(entry.filename.replace("\\", "/"))
        # What systems put beside files is nobody's text.
        if entry.is_dir() or path.name.startswith(".") or "__MACOSX" in path.parts or not path.name:
            continue
        any_ = True
        inner = f"{name}/{path}"
        if path.is_absolute() or ".." in path.parts or (path.parts and path.parts[0].endswith(":")):
            yield Refusal(
                source=inner,
                why="Its name leads out of the packed file; nobody packs files so who means well.",
            )
            continue
        try:
            content = unpacked(packed, entry, min(left, MOST_BYTES))
        except BadFile as fault:
            yield Refusal(source=inner, why=fault.message)
            continue
        left -= len(content)
        yield from _read(content, inner, how, depth + 1)
    if not any_:
        raise BadFile("It is packed and holds no files.")
