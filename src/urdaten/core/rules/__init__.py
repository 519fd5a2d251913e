"""Rules and their matching."""

from urdaten.core.rules.line_rule import ExampleResult, LineRule, try_examples

__all__ = ["ExampleResult", "LineRule", "try_examples"]
