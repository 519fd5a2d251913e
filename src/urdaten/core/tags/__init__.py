"""Parts of speech and lemmas: what rules lean on, and what phrases are made of."""

from urdaten.core.tags.base import Words
from urdaten.core.tags.learning import SETTINGS, found_tags, held_out, learn
from urdaten.core.tags.parts import Parts
from urdaten.core.tags.reading import FILES, read_words
from urdaten.core.tags.sentences import SOURCES, TaggedSentence, folds, read_lemmas, read_tagged
from urdaten.core.tags.words import WordForms

__all__ = [
    "FILES",
    "SETTINGS",
    "SOURCES",
    "Parts",
    "TaggedSentence",
    "WordForms",
    "Words",
    "folds",
    "found_tags",
    "held_out",
    "learn",
    "read_lemmas",
    "read_tagged",
    "read_words",
]
