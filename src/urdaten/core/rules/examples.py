"""Rules held against their own examples."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from urdaten.core.rules.many import match_rules
from urdaten.core.rules.rule import CompiledRule
from urdaten.core.spans import Span, SpanTable
from urdaten.core.text import Batch
from urdaten.errors import BadPattern


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
    rules: Sequence[CompiledRule], batch: Batch, spans: SpanTable, wanted: Sequence[bool]
) -> list[ExampleResult]:
    """How the last of some rules does on its examples, which are the texts of a batch, after what lists and the rules before it
    found there; `wanted` says of each whether something is to be found. Raises BadPattern where it takes too long on one."""
    rule = rules[-1]
    found = match_rules(rules, batch, spans)[-1]
    for said in found.troubles.values():
        raise BadPattern(said, field="pattern")
    table = SpanTable.of_tokens(
        batch, found.first, found.last, found.kind, rule.types, source="rules", makers=[rule.rule.name]
    )
    return [
        ExampleResult(body, is_wanted, own)
        for body, is_wanted, own in zip(batch.bodies, wanted, table.spans(len(batch)), strict=True)
    ]
