"""The file of what was learnt for a template: words and weights of linking and of opening (see core/arrayfile)."""

from __future__ import annotations

from typing import Any

import numpy as np

from urdaten.core.arrayfile import pack, unpack
from urdaten.core.arrays import Array
from urdaten.core.records.assembly import Assembler
from urdaten.core.records.layout import Layout
from urdaten.core.records.linker import Linker
from urdaten.core.records.material import types_of
from urdaten.core.records.opening import Opener, OpeningLayout
from urdaten.core.records.template import Template
from urdaten.errors import BadFile

MAGIC = b"URDRECS1"
MOST_WORDS = 100_000


def to_bytes(assembler: Assembler) -> bytes:
    """What an assembler has learnt; equal for what was learnt alike."""
    about = {
        "fields": [f.name for f in assembler.template.filled],
        "types": list(types_of(assembler.template)),
        "words": list(assembler.linker.words),
        "opening words": list(assembler.opener.words),
        "records": assembler.linker.records,
    }
    arrays: dict[str, Array] = {
        "links": np.array(assembler.linker.weights, dtype=np.float32),
        "opening": np.array(assembler.opener.weights, dtype=np.float32),
    }
    return pack(MAGIC, about, arrays)


def from_bytes(data: bytes, template: Template) -> Assembler:
    """An assembler of this template. Raises BadFile for what to_bytes has not written, and for what was learnt of other fields
    or types."""

    def damaged() -> BadFile:
        return BadFile("This is no file of what was learnt of records, or it is damaged.")

    def read(about: dict[str, Any], arrays: dict[str, Array]) -> Assembler:
        if about["fields"] != [f.name for f in template.filled] or about["types"] != list(types_of(template)):
            raise BadFile(f"It was learnt for other fields or types than those of “{template.name}”.")
        words, opening = (tuple(_words(about[name])) for name in ("words", "opening words"))
        links, opens = arrays["links"], arrays["opening"]
        records = about["records"]
        if isinstance(records, bool) or not isinstance(records, int) or records < 0:
            raise damaged()
        fields = tuple(f.name for f in template.filled)
        wanted = Layout(fields, types_of(template), words).size, OpeningLayout(fields, opening).size
        for array, size in ((links, wanted[0]), (opens, wanted[1])):
            if array.dtype != np.float32 or array.ndim != 1 or len(array) not in (0, size):
                raise damaged()
            if not np.isfinite(array).all():
                raise damaged()
        return Assembler(
            template=template,
            linker=Linker(words=words if len(links) else (), weights=tuple(links.tolist()), records=records),
            opener=Opener(words=opening if len(opens) else (), weights=tuple(opens.tolist())),
        )

    return unpack(MAGIC, data, read, damaged)


def _words(value: object) -> list[str]:
    if not isinstance(value, list) or len(value) > MOST_WORDS or not all(isinstance(w, str) for w in value):
        raise BadFile("Its words are no list of words.")
    return value
