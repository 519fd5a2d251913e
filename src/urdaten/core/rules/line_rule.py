"""Rules in their first form: a regular expression that is held against each line of a text."""

from __future__ import annotations

from dataclasses import dataclass

import regex

from urdaten.core.rules.size import check_size
from urdaten.core.spans.span import Span, without_overlaps
from urdaten.core.text.analysis import Analysis, analyse
from urdaten.errors import BadPattern, BadSpan

# The group of this name is what the rule marks; without it the whole match is marked.
MARKED = "mark"
TIME_LIMIT_S = 0.5


@dataclass(frozen=True, kw_only=True)
class LineRule:
    """A named pattern that marks what it matches with one entity type."""

    name: str
    type: str
    pattern: str

    def compiled(self) -> regex.Pattern[str]:
        """The compiled pattern. Raises BadPattern with the offset of the fault."""
        check_size(self.pattern, self.name)
        try:
            pattern = regex.compile(self.pattern, regex.V1)
        except regex.error as fault:
            raise BadPattern(
                f"The pattern of “{self.name}” does not compile: {fault.msg} at character {fault.pos}.",
                field="pattern",
                offset=fault.pos,
            ) from fault
        except (ValueError, OverflowError, RecursionError, MemoryError, KeyError) as fault:
            # What the compiler does not foresee: flags that contradict each other, numbers beyond all measure.
            raise BadPattern(
                f"The pattern of “{self.name}” does not compile: {str(fault) or 'it is too large'}.",
                field="pattern",
                offset=0,
            ) from fault
        if pattern.fullmatch(""):
            raise BadPattern(
                f"The pattern of “{self.name}” matches nothing at all; ask for at least one character.",
                field="pattern",
                offset=0,
            )
        return pattern

    def match(self, analysis: Analysis) -> list[Span]:
        """Spans of this rule in a text, widened to token bounds, the longest where they overlap.

        Raises BadPattern when the pattern does not compile or takes longer than the time limit.
        """
        pattern = self.compiled()
        body = analysis.body
        found = []
        start = 0
        try:
            for line in body.splitlines(keepends=True):
                for match in pattern.finditer(line.rstrip("\r\n"), timeout=TIME_LIMIT_S):
                    first, last = match.span(MARKED if MARKED in pattern.groupindex else 0)
                    if last > first:
                        found.append(self._span(analysis, start + first, start + last))
                start += len(line)
        except TimeoutError as fault:
            raise BadPattern(
                f"The pattern of “{self.name}” took longer than {TIME_LIMIT_S} s on one line; "
                "make its repetitions less ambiguous.",
                field="pattern",
            ) from fault
        return without_overlaps(span for span in found if span is not None)

    def _span(self, analysis: Analysis, first: int, last: int) -> Span | None:
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
    """Hold a rule against its must-find and must-not-find examples, in that order."""
    pairs = [(text, True) for text in must_find] + [(text, False) for text in must_not_find]
    return [ExampleResult(text, wanted, rule.match(analyse(text, language))) for text, wanted in pairs]
