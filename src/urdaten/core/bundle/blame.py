"""Which part of a bundle is at fault."""

from __future__ import annotations

import zipfile
import zlib
from collections.abc import Iterator
from contextlib import contextmanager

from urdaten.errors import BadFile, BadInput


@contextmanager
def blamed(part: str) -> Iterator[None]:
    """What goes wrong here is a fault of this part of the file."""
    try:
        yield
    except BadInput as fault:
        raise fault if "part" in fault.detail else bad(part, fault.message.rstrip(".")) from fault
    except (
        zipfile.BadZipFile,
        zlib.error,
        EOFError,
        KeyError,
        NotImplementedError,
        OverflowError,
        RuntimeError,
        UnicodeError,
        ValueError,
    ) as fault:
        raise bad(part, "it is damaged") from fault


def bad(part: str, why: str) -> BadFile:
    """That a part cannot be read."""
    return BadFile(f"This bundle cannot be read; of {part}: {why}.", part=part)
