"""What was made when installing: the general lexicon, its meanings, and the parts of speech of the languages that have any."""

from __future__ import annotations

from functools import cache
from pathlib import Path

from urdaten.core.lexicon import GeneralLexicon, Senses
from urdaten.core.tags import Parts, Words
from urdaten.errors import BadFile

_FOLDER = Path(__file__).parents[2] / ".tools"
# The language that all of it is of.
LANGUAGE = "en"


@cache
def general_lexicon() -> GeneralLexicon | None:
    """None where there is none, or none that can be read: everything works without."""
    try:
        return GeneralLexicon.from_bytes((_FOLDER / "lexicon").read_bytes())
    except (OSError, BadFile):
        return None


@cache
def senses() -> Senses | None:
    """As general_lexicon, of its meanings."""
    try:
        return Senses.from_bytes((_FOLDER / "senses").read_bytes())
    except (OSError, BadFile):
        return None


def words(language: str) -> Words | None:
    """What is known of the words of a language; None where nothing is: rules that ask for it say so."""
    return _words() if language == LANGUAGE else None


@cache
def _words() -> Words | None:
    try:
        return Words(Parts.from_bytes((_FOLDER / "tags").read_bytes()), general_lexicon())
    except (OSError, BadFile):
        return None
