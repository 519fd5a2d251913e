"""Language packs, tokeniser, sentence splitter, vocabulary, and texts as columns over their tokens."""

from urdaten.core.text.abbreviations import find_abbreviations
from urdaten.core.text.analysis import Analysis
from urdaten.core.text.apart import apart_from
from urdaten.core.text.batch import Batch, analyse, analyse_many, batch_of
from urdaten.core.text.fold import fold, fold_but_case, without_accents
from urdaten.core.text.kinds import KINDS
from urdaten.core.text.likeness import Like, like_earlier
from urdaten.core.text.marks import marks_of, marks_of_texts
from urdaten.core.text.pack import LANGUAGES, language_pack
from urdaten.core.text.parts import PARTS, TAGS
from urdaten.core.text.plurals import plurals
from urdaten.core.text.recurring import Recurring, recurring_sentences
from urdaten.core.text.tokens import CutTexts, cut_texts, token_forms
from urdaten.core.text.vocabulary import FormColumn, Vocabulary
from urdaten.core.text.wordlists import index_words, searched_word, word_counts, word_lists
from urdaten.core.text.wordruns import run_keys

__all__ = [
    "KINDS",
    "LANGUAGES",
    "PARTS",
    "TAGS",
    "Analysis",
    "Batch",
    "CutTexts",
    "FormColumn",
    "Like",
    "Recurring",
    "Vocabulary",
    "analyse",
    "analyse_many",
    "apart_from",
    "batch_of",
    "cut_texts",
    "find_abbreviations",
    "fold",
    "fold_but_case",
    "index_words",
    "language_pack",
    "like_earlier",
    "marks_of",
    "marks_of_texts",
    "plurals",
    "recurring_sentences",
    "run_keys",
    "searched_word",
    "token_forms",
    "without_accents",
    "word_counts",
    "word_lists",
]
