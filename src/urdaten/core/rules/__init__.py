"""Rules and their matching."""

from urdaten.core.rules.line_rule import ExampleResult, LineRule, try_examples
from urdaten.core.rules.many import RuleFinds, match_rules

__all__ = ["ExampleResult", "LineRule", "RuleFinds", "match_rules", "try_examples"]
