"""The general lexicon of this installation."""

from __future__ import annotations

from functools import cache
from pathlib import Path

from urdaten.core.lexicon import GeneralLexicon
from urdaten.errors import BadFile

# Written when installing, from data of a Debian package.
FILE = Path(__file__).parents[4] / ".tools" / "lexicon"
# The language that it is of.
LANGUAGE = "en"


@cache
def general_lexicon() -> GeneralLexicon | None:
    """None where there is none, or none that can be read: everything works without."""
    try:
        return GeneralLexicon.from_bytes(FILE.read_bytes())
    except (OSError, BadFile):
        return None
