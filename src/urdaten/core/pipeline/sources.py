"""Lists, rules and the tagger as stages."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from urdaten.core.lists import Gazetteer, Reading
from urdaten.core.pipeline.stage import Changes, Trouble, fingerprint
from urdaten.core.rules import LineRule, match_rules
from urdaten.core.spans import SpanTable
from urdaten.core.tagger import Tagger, to_bytes
from urdaten.core.text import Batch

LISTS, RULES, TAGGER = "lists", "rules", "tagger"


@dataclass(frozen=True, eq=False)
class ListStage:
    """What lists find."""

    gazetteer: Gazetteer
    name = LISTS
    reads = ()

    @cached_property
    def fingerprint(self) -> str:
        return fingerprint(LISTS, self.gazetteer.content)

    def apply(self, batch: Batch, _spans: SpanTable, /) -> Changes:
        return Changes(self.read(batch).table)

    def read(self, batch: Batch) -> Reading:
        """What they find, and where names stand in small letters."""
        return self.gazetteer.read(batch)


@dataclass(frozen=True)
class RuleReason:
    """The rule that set a span."""

    rule: str

    @property
    def words(self) -> str:
        return f"rule “{self.rule}”"


@dataclass(frozen=True)
class RuleStage:
    """What rules find, each for itself: one that takes too long on a text is no hindrance to others, nor to other texts."""

    rules: tuple[LineRule, ...]
    name = RULES
    reads = ()

    @cached_property
    def fingerprint(self) -> str:
        return fingerprint(RULES, self.rules)

    def apply(self, batch: Batch, _spans: SpanTable, /) -> Changes:
        tables = [SpanTable.empty()]
        troubles = []
        for rule, found in zip(self.rules, match_rules(self.rules, batch), strict=True):
            number = np.zeros(len(found.first), dtype=np.int32)
            tables.append(
                SpanTable.of_tokens(
                    batch,
                    found.first,
                    found.last,
                    number,
                    [rule.type],
                    source=RULES,
                    makers=[rule.name],
                    reason=number,
                    reasons=[RuleReason(rule.name)],
                )
            )
            troubles += [Trouble(text, rule.name, said) for text, said in found.troubles.items()]
        return Changes(SpanTable.joined(tables), troubles=tuple(troubles))


@dataclass(frozen=True, eq=False)
class TaggerStage:
    """What a tagger finds, with what lists and rules say at hand."""

    tagger: Tagger
    # Of each text of the batch; texts of one group are read together, those of "" each for itself.
    groups: Sequence[str] = ()
    name = TAGGER
    reads = (LISTS, RULES)

    @cached_property
    def fingerprint(self) -> str:
        return fingerprint(TAGGER, [to_bytes(self.tagger)])

    def apply(self, batch: Batch, spans: SpanTable, /) -> Changes:
        return Changes(self.tagger.tag_batch(batch, spans.of_sources(self.reads), self.groups))
