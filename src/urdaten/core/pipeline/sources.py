"""Lists, rules and the tagger as stages."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from urdaten.core.lists import Gazetteer, Reading
from urdaten.core.pipeline.stage import Changes, Trouble, fingerprint
from urdaten.core.rules import CompiledRule, RuleFinds, match_rules
from urdaten.core.spans import Reason, SpanTable
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
class TakenAway:
    """A rule drops an earlier span, or gives its words another type."""

    rule: str

    @property
    def words(self) -> str:
        return f"taken away by the rule “{self.rule}”"


@dataclass(frozen=True, eq=False)
class RuleStage:
    """What rules find, one after the other: each sees what lists and the rules before it have left. One that takes too long on
    a text is no hindrance to others, nor to other texts."""

    rules: tuple[CompiledRule, ...]
    name = RULES
    reads = (LISTS,)

    @cached_property
    def fingerprint(self) -> str:
        return fingerprint(RULES, [(one.rule.name, one.rule.type, one.content) for one in self.rules])

    def apply(self, batch: Batch, spans: SpanTable, /) -> Changes:
        tables: list[SpanTable] = []
        troubles = []
        taken: dict[int, Reason] = {}
        for rule, found in zip(self.rules, match_rules(self.rules, batch, spans), strict=True):
            own = _table(rule, found, batch)
            if rule.removal is not None:
                gone = rule.removes
                for row in _same_bounds(spans, own, gone).tolist():
                    taken.setdefault(row, TakenAway(rule.rule.name))
                tables = [_without(table, _same_bounds(table, own, gone)) for table in tables]
            if rule.marks:
                tables.append(own)
            troubles += [Trouble(text, rule.rule.name, said) for text, said in found.troubles.items()]
        rows = sorted(taken)
        return Changes(
            SpanTable.joined([SpanTable.empty(), *tables]),
            np.array(rows, dtype=np.int64),
            tuple(taken[row] for row in rows),
            tuple(troubles),
        )


def _table(rule: CompiledRule, found: RuleFinds, batch: Batch) -> SpanTable:
    return SpanTable.of_tokens(
        batch,
        found.first,
        found.last,
        found.kind,
        rule.types,
        source=RULES,
        makers=[rule.rule.name],
        reason=np.zeros(len(found.first), dtype=np.int32),
        reasons=[RuleReason(rule.rule.name)],
    )


def _same_bounds(spans: SpanTable, own: SpanTable, types: frozenset[str] | None) -> NDArray[np.int64]:
    """Rows of spans of these types (None for all), of lists and rules, that have the bounds of one of some others."""
    wanted = set(zip(own.text.tolist(), own.start.tolist(), own.end.tolist(), strict=True))
    bounds = zip(spans.text.tolist(), spans.start.tolist(), spans.end.tolist(), strict=True)
    of_types = [types is None or name in types for name in spans.types]
    sources = [name in (LISTS, RULES) for name in spans.sources]
    rows = [
        row
        for row, (bound, kind, source) in enumerate(
            zip(bounds, spans.type.tolist(), spans.source.tolist(), strict=True)
        )
        if bound in wanted and of_types[kind] and sources[source]
    ]
    return np.array(rows, dtype=np.int64)


def _without(table: SpanTable, rows: NDArray[np.int64]) -> SpanTable:
    kept = np.ones(len(table), dtype=bool)
    kept[rows] = False
    return table.at(kept)


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
