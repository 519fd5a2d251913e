"""Features: attributes of word forms, and what single tokens have of their own."""

from urdaten.core.tagger.features.forms import AttributeTable, form_attributes
from urdaten.core.tagger.features.lexicon import MARK, Lexicon
from urdaten.core.tagger.features.pieces import PIECE_KINDS
from urdaten.core.tagger.features.tokens import FeatureColumns, TokenTable
from urdaten.core.tagger.features.writing import class_key, outline, shape

__all__ = [
    "MARK",
    "PIECE_KINDS",
    "AttributeTable",
    "FeatureColumns",
    "Lexicon",
    "TokenTable",
    "class_key",
    "form_attributes",
    "outline",
    "shape",
]
