"""Lists, rules and the tagger as stages."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from urdaten.core.lists import Gazetteer, Reading
from urdaten.core.pipeline.reasons import Unlikely
from urdaten.core.pipeline.stage import ALONE, Beside, Changes, Trouble, fingerprint
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

    def apply(self, batch: Batch, _spans: SpanTable, _beside: Beside = ALONE, /) -> Changes:
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

    def apply(self, batch: Batch, spans: SpanTable, _beside: Beside = ALONE, /) -> Changes:
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
            lambda: tuple(taken[row] for row in rows),
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
    # Type that it learnt → type of its spans; others are not asked for. None: all, as it learnt them.
    types: Mapping[str, str] | None = None
    # ("lists" or "rules", name) → the name under which it learnt that list or rule; others it does not know by name. None: as
    # they are called.
    makers: Mapping[tuple[str, str], str] | None = None
    # Spans below this are left out; of types, as its spans have them, that have a bound of their own below that.
    least: float = 0.0
    least_of: Mapping[str, float] = field(default_factory=dict)
    # Also what it weighed and did not choose, down to this probability: such spans may lie over each other.
    also: float | None = None
    name = TAGGER
    reads = (LISTS, RULES)

    @cached_property
    def fingerprint(self) -> str:
        maps = (
            sorted((self.types or {}).items()),
            self.types is None,
            sorted((self.makers or {}).items()),
            self.makers is None,
        )
        bounds = (self.least, sorted(self.least_of.items()), self.also)
        return fingerprint(TAGGER, [to_bytes(self.tagger), *maps, *bounds])

    def apply(self, batch: Batch, spans: SpanTable, beside: Beside = ALONE, /) -> Changes:
        seen = self._learnt(spans.of_sources(self.reads))
        found = self.tagger.tag_batch(batch, seen, beside.groups)
        if self.also is not None:
            likely = self.tagger.likely_batch(batch, seen, beside.groups, self.also)
            found = _merged(found, likely)
        found = self._named(found)
        return self._likely_enough(found)

    def _learnt(self, seen: SpanTable) -> SpanTable:
        """Evidence under the names that the tagger learnt."""
        if self.types is not None:
            before = {ours: learnt for learnt, ours in self.types.items()}
            seen = replace(seen, types=tuple(before.get(code, code) for code in seen.types))
        if self.makers is None:
            return seen
        pair = seen.source.astype(np.int64) * max(1, len(seen.makers)) + seen.maker
        distinct, which = np.unique(pair, return_inverse=True)
        named = [divmod(one, max(1, len(seen.makers))) for one in distinct.tolist()]
        makers = [self.makers.get((seen.sources[source], seen.makers[maker]), "") for source, maker in named]
        return replace(seen, maker=which.astype(np.int32), makers=tuple(makers))

    def _named(self, found: SpanTable) -> SpanTable:
        if self.types is None:
            return found
        held = np.array([code in self.types for code in found.types] or [False])
        found = found.at(np.flatnonzero(held[found.type])) if len(found) else found
        return replace(found, types=tuple(self.types.get(code, code) for code in found.types))

    def _likely_enough(self, found: SpanTable) -> Changes:
        bounds = np.array([self.least_of.get(code, self.least) for code in found.types] or [0.0])
        least = bounds[found.type] if len(found) else np.zeros(0)
        low = found.probability < least
        if not low.any():
            return Changes(found)
        left = found.at(np.flatnonzero(low))
        return Changes(
            found.at(np.flatnonzero(~low)),
            refused=left,
            refusals=lambda: tuple(
                Unlikely(round(p, 4), bound)
                for p, bound in zip(left.probability.tolist(), least[low].tolist(), strict=True)
            ),
        )


def _merged(chosen: SpanTable, likely: SpanTable) -> SpanTable:
    """What was chosen, and what else is likely."""
    both = SpanTable.joined([chosen, likely])
    columns = (both.text, both.start, both.end, both.type)
    _, first = np.unique(np.stack(columns), axis=1, return_index=True)
    return both.at(np.sort(first)).in_order()
