"""Patterns over the signs of a line, matched in a time that is known beforehand."""

from urdaten.core.rules.pattern.pattern import OutOfSteps, Pattern, pattern_of

__all__ = ["OutOfSteps", "Pattern", "pattern_of"]
