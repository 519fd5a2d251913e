"""Features: attributes of word forms, and what single tokens have of their own."""

from urdaten.core.tagger.features.forms import AttributeTable, form_attributes, outline, shape
from urdaten.core.tagger.features.lexicon import Lexicon
from urdaten.core.tagger.features.tokens import TokenFeature, TokenTable

__all__ = [
    "AttributeTable",
    "Lexicon",
    "TokenFeature",
    "TokenTable",
    "form_attributes",
    "outline",
    "shape",
]
