"""The sequence tagger: features, linear-chain model, training."""

from urdaten.core.tagger.features import TaggerInput
from urdaten.core.tagger.model import Tagger
from urdaten.core.tagger.settings import FEATURE_GROUPS, SETTINGS, TrainingSettings
from urdaten.core.tagger.training import GoldText, Progress, train

__all__ = [
    "FEATURE_GROUPS",
    "SETTINGS",
    "GoldText",
    "Progress",
    "Tagger",
    "TaggerInput",
    "TrainingSettings",
    "train",
]
