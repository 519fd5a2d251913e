"""The meanings of this installation's general lexicon."""

from __future__ import annotations

from functools import cache
from pathlib import Path

from urdaten.core.lexicon import Senses
from urdaten.errors import BadFile

# Written when installing, from data of a Debian package.
FILE = Path(__file__).parents[4] / ".tools" / "senses"


@cache
def senses() -> Senses | None:
    """None where there are none, or none that can be read: everything works without."""
    try:
        return Senses.from_bytes(FILE.read_bytes())
    except (OSError, BadFile):
        return None
