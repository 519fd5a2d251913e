"""Language packs, tokeniser, sentence splitter, vocabulary and the columnar analysis."""

from urdaten.core.text.analysis import Analysis, Vocabulary, analyse

__all__ = ["Analysis", "Vocabulary", "analyse"]
