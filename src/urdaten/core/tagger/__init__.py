"""The sequence tagger: features, linear-chain model, training."""

from urdaten.core.tagger.explain import Contribution, Explanation, explain
from urdaten.core.tagger.features import TaggerInput
from urdaten.core.tagger.model import Tagger
from urdaten.core.tagger.settings import FEATURE_GROUPS, SETTINGS, TrainingSettings
from urdaten.core.tagger.training import GoldText, Progress, train

__all__ = [
    "FEATURE_GROUPS",
    "SETTINGS",
    "Contribution",
    "Explanation",
    "GoldText",
    "Progress",
    "Tagger",
    "TaggerInput",
    "TrainingSettings",
    "explain",
    "train",
]
