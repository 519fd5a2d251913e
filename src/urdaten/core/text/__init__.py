"""Language packs, tokeniser, sentence splitter, vocabulary and the columnar analysis."""

from urdaten.core.text.abbreviations import find_abbreviations
from urdaten.core.text.analysis import Analysis, Vocabulary, analyse, analyse_many
from urdaten.core.text.pack import LANGUAGES, language_pack
from urdaten.core.text.tokens import token_forms

__all__ = [
    "LANGUAGES",
    "Analysis",
    "Vocabulary",
    "analyse",
    "analyse_many",
    "find_abbreviations",
    "language_pack",
    "token_forms",
]
