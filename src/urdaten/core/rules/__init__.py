"""Rules: their language, and their matching."""

from urdaten.core.rules.asking import shapes_of
from urdaten.core.rules.base import WordBase
from urdaten.core.rules.carried import carried_over
from urdaten.core.rules.examples import ExampleResult, try_examples
from urdaten.core.rules.faults import fail, nearest
from urdaten.core.rules.many import RuleFinds, match_rules
from urdaten.core.rules.mentions import Mention, Named, mentions, renamed
from urdaten.core.rules.offers import Offer, Offers
from urdaten.core.rules.rule import CompiledRule, Rule, check_fragment
from urdaten.core.rules.slots import Explained, Place, places_of
from urdaten.core.rules.spoken import aloud, conditions_aloud

__all__ = [
    "CompiledRule",
    "ExampleResult",
    "Explained",
    "Mention",
    "Named",
    "Offer",
    "Offers",
    "Place",
    "Rule",
    "RuleFinds",
    "WordBase",
    "aloud",
    "carried_over",
    "check_fragment",
    "conditions_aloud",
    "fail",
    "match_rules",
    "mentions",
    "nearest",
    "places_of",
    "renamed",
    "shapes_of",
    "try_examples",
]
