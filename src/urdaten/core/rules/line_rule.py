"""Rules in their first form: a pattern that is held against each line of a text."""

from __future__ import annotations

from dataclasses import dataclass

from urdaten.core.rules.pattern import OutOfSteps, Pattern, pattern_of
from urdaten.core.spans import Span, without_overlaps
from urdaten.core.text import Analysis, analyse
from urdaten.errors import BadPattern, BadSpan

# What one rule may take on one text: a sensible one takes some ten steps a sign. Counted in steps and for each rule
# on its own, so that neither a busy machine nor another rule changes what is found.
STEPS = 2_000_000
STEPS_A_SIGN = 500
# What it may take on its own examples together.
EXAMPLE_STEPS = 50_000_000


def steps_for(body: str) -> int:
    """What one rule may take on a text."""
    return STEPS + STEPS_A_SIGN * len(body)


@dataclass(frozen=True, kw_only=True)
class LineRule:
    """A named pattern that marks what it matches with one entity type."""

    name: str
    type: str
    pattern: str

    def compiled(self) -> Pattern:
        """The compiled pattern. Raises BadPattern with the offset of the fault."""
        return pattern_of(self.pattern, self.name)

    def match(self, analysis: Analysis) -> list[Span]:
        """Spans of this rule in a text, widened to token bounds, the longest where they overlap.

        Raises BadPattern when the pattern does not compile or takes more steps than a text is worth.
        """
        return self.matches(analysis)[0]

    def matches(self, analysis: Analysis, most: int | None = None) -> tuple[list[Span], int]:
        """As match, and the steps that it took; where `most` is given, no more than that either."""
        limit = steps_for(analysis.body)
        try:
            matches, steps = self.compiled().find(analysis.body, limit if most is None else min(limit, most))
        except OutOfSteps as fault:
            within = most is None or limit <= most
            raise self.too_long(
                f"{limit} steps on one text" if within else "its share of steps when it was tried"
            ) from fault
        found = [self._span(analysis, *match.marked) for match in matches if match.marked]
        return without_overlaps(span for span in found if span is not None), steps

    def too_long(self, most: str) -> BadPattern:
        """What is said when it takes more than it may."""
        return BadPattern(
            f"The pattern of “{self.name}” took more than {most}; make its repetitions shorter or less ambiguous.",
            field="pattern",
        )

    def _span(self, analysis: Analysis, first: int, last: int) -> Span | None:
        if first == last:
            return None
        try:
            start, end = analysis.widen(first, last)
        except BadSpan:
            return None  # the match lies wholly within white space
        return Span(start, end, self.type, "rules", None, f"rule “{self.name}”", self.name)


@dataclass(frozen=True)
class ExampleResult:
    """How a rule does on one of its own examples."""

    text: str
    wanted: bool
    found: list[Span]

    @property
    def holds(self) -> bool:
        return bool(self.found) == self.wanted


def try_examples(
    rule: LineRule, must_find: list[str], must_not_find: list[str], language: str = "en"
) -> list[ExampleResult]:
    """Hold a rule against its must-find and must-not-find examples, in that order. Raises BadPattern."""
    results = []
    left = EXAMPLE_STEPS
    for text, wanted in [*((text, True) for text in must_find), *((text, False) for text in must_not_find)]:
        found, steps = rule.matches(analyse(text, language), left)
        left -= steps
        results.append(ExampleResult(text, wanted, found))
    return results
