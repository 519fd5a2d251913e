"""The sequence tagger: features, linear-chain model, training."""

from urdaten.core.tagger.ahead import compile_ahead
from urdaten.core.tagger.classes import WordClass, list_classes
from urdaten.core.tagger.config import preset, read_config, write_config
from urdaten.core.tagger.corpus import GoldText
from urdaten.core.tagger.explain import Contribution, Explanation, explain
from urdaten.core.tagger.from_lists import text_from_lists, weighed
from urdaten.core.tagger.layout import TaggerInput
from urdaten.core.tagger.model import Tagger
from urdaten.core.tagger.modelfile import from_bytes, is_tagger, read_file, to_bytes
from urdaten.core.tagger.neighbours import Neighbours
from urdaten.core.tagger.settings import (
    CHOICES,
    FEATURE_GROUPS,
    GROUP_HELP,
    PRESETS,
    SETTINGS,
    Choice,
    Setting,
    TrainingSettings,
)
from urdaten.core.tagger.training import Progress, train

__all__ = [
    "CHOICES",
    "FEATURE_GROUPS",
    "GROUP_HELP",
    "PRESETS",
    "SETTINGS",
    "Choice",
    "Contribution",
    "Explanation",
    "GoldText",
    "Neighbours",
    "Progress",
    "Setting",
    "Tagger",
    "TaggerInput",
    "TrainingSettings",
    "WordClass",
    "compile_ahead",
    "explain",
    "from_bytes",
    "is_tagger",
    "list_classes",
    "preset",
    "read_config",
    "read_file",
    "text_from_lists",
    "to_bytes",
    "train",
    "weighed",
    "write_config",
]
