"""Rules held against many texts at once: as no match runs over the end of a line, texts can stand end to end."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Ints
from urdaten.core.rules.line_rule import STEPS, LineRule, steps_for
from urdaten.core.rules.pattern import OutOfSteps, Pattern
from urdaten.core.spans import Span, without_overlaps
from urdaten.core.text import Batch

# So many code points stand end to end: a pattern that takes no more than STEPS on them takes no more on any of the texts.
BLOCK = 30_000


@dataclass
class RuleFinds:
    """What one rule marks in the texts of a batch: tokens [first, last), in the texts' order; and of texts on which it took
    too long what is to be said."""

    first: Ints
    last: Ints
    troubles: dict[int, str] = field(default_factory=dict)


def match_rules(rules: Sequence[LineRule], batch: Batch) -> list[RuleFinds]:
    """What each rule finds, as LineRule.match would text by text. Raises BadPattern for one that does not compile."""
    patterns = [rule.compiled() for rule in rules]
    marked: list[list[Ints]] = [[np.zeros((0, 2), dtype=np.int64)] for _ in rules]
    troubles: list[dict[int, str]] = [{} for _ in rules]
    # As if all bodies stood end to end, with a sign between them.
    lengths = np.array([len(body) + 1 for body in batch.bodies], dtype=np.int64)
    shift = np.cumsum(lengths) - lengths
    # Rule by rule within a block: what a block's signs are is found once for all of them.
    for a, b in _blocks(lengths):
        for k, (rule, pattern) in enumerate(zip(rules, patterns, strict=True)):
            for own, found in _marked(rule, pattern, batch.bodies, a, b):
                if isinstance(found, str):
                    troubles[k][own] = found
                else:
                    marked[k].append(found + shift[own])
    start, end = (column + shift[batch.text] for column in (batch.start, batch.end))
    return [
        RuleFinds(*_tokens(np.concatenate(parts), start, end), told)
        for parts, told in zip(marked, troubles, strict=True)
    ]


def _blocks(lengths: Ints) -> Iterator[tuple[int, int]]:
    a, size = 0, 0
    for b, length in enumerate(lengths.tolist()):
        if b > a and size + length > BLOCK:
            yield a, b
            a, size = b, 0
        size += length
    if len(lengths):
        yield a, len(lengths)


def _marked(
    rule: LineRule, pattern: Pattern, bodies: Sequence[str], a: int, b: int
) -> Iterator[tuple[int, NDArray[np.int32] | str]]:
    """What is marked in the bodies a .. b, counted from the beginning of one of them, which is named with it; or what is
    said of that one."""
    try:
        if b - a == 1:
            yield a, pattern.marked(bodies[a], steps_for(bodies[a]))[0]
        else:
            yield a, pattern.marked("\n".join(bodies[a:b]), STEPS)[0]
    except OutOfSteps:
        if b - a == 1:
            yield a, rule.too_long(f"{steps_for(bodies[a])} steps on one text").message
        else:
            # One of them may be what takes so long.
            half = (a + b) // 2
            yield from _marked(rule, pattern, bodies, a, half)
            yield from _marked(rule, pattern, bodies, half, b)


def _tokens(marked: Ints, start: Ints, end: Ints) -> tuple[Ints, Ints]:
    """The tokens that marked ranges touch, the longest where they overlap; a range without any is left out."""
    first = np.searchsorted(end, marked[:, 0], side="right")
    last = np.searchsorted(start, marked[:, 1], side="left")
    held = last > first
    first, last = first[held], last[held]
    if (first[1:] < last[:-1]).any():
        spans = (
            Span(int(start[a]), int(end[b - 1]), "")
            for a, b in zip(first.tolist(), last.tolist(), strict=True)
        )
        kept = without_overlaps(spans)
        first = np.searchsorted(start, [span.start for span in kept])
        last = np.searchsorted(end, [span.end for span in kept]) + 1
    return first, last
