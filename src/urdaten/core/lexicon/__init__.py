"""The general lexicon: what kinds of things words of a language are names of, whatever the trade."""

from urdaten.core.lexicon.general import COMMON, PHRASE_KINDS, GeneralLexicon
from urdaten.core.lexicon.reading import KINDS, read_nouns, read_senses
from urdaten.core.lexicon.senses import SORTS, Narrower, Senses
from urdaten.core.lexicon.told import WordLexicon

__all__ = [
    "COMMON",
    "KINDS",
    "PHRASE_KINDS",
    "SORTS",
    "GeneralLexicon",
    "Narrower",
    "Senses",
    "WordLexicon",
    "read_nouns",
    "read_senses",
]
