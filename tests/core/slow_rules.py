"""A slow reference for the rule language: every way is tried, token by token, as the guide says it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

from urdaten.core.rules import tree

Range = tuple[int, int]


@dataclass(frozen=True)
class Held:
    """Tokens of one text, with the number of the sentence of each, and the spans of sources."""

    forms: Sequence[str]
    sentence: Sequence[int]
    sources: dict[tree.Source, list[Range]]

    def units(self, across: bool) -> list[Range]:
        n = len(self.forms)
        if across:
            return [(0, n)] if n else []
        cuts = [0, *(i for i in range(1, n) if self.sentence[i] != self.sentence[i - 1]), n]
        return [(a, b) for a, b in pairwise(cuts) if a < b]

    def begins(self, place: int, unit: Range) -> bool:
        return place == unit[0] or (
            unit[0] < place < unit[1] and self.sentence[place] != self.sentence[place - 1]
        )

    def ends(self, place: int, unit: Range) -> bool:
        return place == unit[1] or (
            unit[0] < place < unit[1] and self.sentence[place] != self.sentence[place - 1]
        )


def passes(test: tree.Test, held: Held, i: int) -> bool:
    form = held.forms[i]
    match test:
        case tree.Letters(word, exact):
            return form == word if exact else form.casefold() == word.casefold()
        case tree.OfShape("capital"):
            return form[0].isupper() and form[1:] == form[1:].lower()
        case tree.OfShape("figure"):
            return form.isdigit()
        case tree.OfShape("small"):
            return form.isalpha() and form.islower()
        case tree.Length(least, most):
            return least <= len(form) <= most
        case tree.Any():
            return True
        case tree.Not(inner):
            return not passes(inner, held, i)
        case tree.AllOf(tests):
            return all(passes(one, held, i) for one in tests)
        case tree.OneOf(tests):
            return any(passes(one, held, i) for one in tests)
        case tree.Within(part, source):
            spans = held.sources[source]
            if part == "first":
                return any(a == i for a, _ in spans)
            if part == "last":
                return any(b == i + 1 for _, b in spans)
            return any(a <= i < b for a, b in spans)
    raise AssertionError(test)


def ends_of(node: tree.Node, held: Held, i: int, unit: Range) -> set[int]:
    """Where a match of a part can end that begins at place i."""
    match node:
        case tree.Token(test):
            return {i + 1} if i < unit[1] and passes(test, held, i) else set()
        case tree.Whole(source):
            return {b for a, b in held.sources[source] if a == i and b <= unit[1]}
        case tree.Edge(end):
            return {i} if (held.ends if end else held.begins)(i, unit) else set()
        case tree.Row(parts):
            found = {i}
            for part in parts:
                found = {k for j in found for k in ends_of(part, held, j, unit)}
            return found
        case tree.Choice(options):
            return {j for option in options for j in ends_of(option, held, i, unit)}
        case tree.Repeat(part, least, most):
            now, found = {i}, {i} if least == 0 else set()
            for times in range(1, (most or least + unit[1] - unit[0] + 1) + 1):
                now = {k for j in now for k in ends_of(part, held, j, unit)}
                if times >= least:
                    found |= now
            return found
    raise AssertionError(node)


def matches(line: tree.Line, held: Held, unit: Range) -> Iterator[list[Range]]:
    """The marks of each match of a line in a unit, from left to right."""
    place = unit[0]
    while place < unit[1]:
        marks = None
        if any(place in ends_of(line.contexts[0], held, a, unit) for a in range(unit[0], place + 1)):
            marks = _rest(line, 0, held, place, unit)
        if marks is None:
            place += 1
            continue
        yield marks
        place = marks[-1][1]


def _rest(line: tree.Line, k: int, held: Held, begin: int, unit: Range) -> list[Range] | None:
    """Mark k from a place on and those behind it: each as long as it can be, what is between as short."""
    for end in sorted(ends_of(line.marks[k].part, held, begin, unit), reverse=True):
        if end == begin:
            continue
        between = sorted(ends_of(line.contexts[k + 1], held, end, unit))
        if k + 1 == len(line.marks):
            if between:
                return [(begin, end)]
            continue
        for place in between:
            rest = _rest(line, k + 1, held, place, unit)
            if rest is not None:
                return [(begin, end), *rest]
    return None


def _scope(held: Held, where: tree.Window, first: int, last: int) -> Range:
    n = len(held.forms)
    low, high = first, last
    if where.scope == "text":
        low, high = 0, n
    else:
        while low and held.sentence[low - 1] == held.sentence[first]:
            low -= 1
        while high < n and held.sentence[high] == held.sentence[last - 1]:
            high += 1
    if where.tokens is not None:
        low, high = max(low, first - where.tokens), min(high, last + where.tokens)
    return (first if where.side == "after" else low), (last if where.side == "before" else high)


def holds(condition: tree.Condition, held: Held, first: int, last: int) -> bool:
    return _met(condition.what, held, first, last) != condition.negated


def _met(what: tree.What, held: Held, first: int, last: int) -> bool:
    match what:
        case tree.Inside(source, longer):
            within = [(a, b) for a, b in held.sources[source] if a <= first and last <= b]
            return any((a, b) != (first, last) or not longer for a, b in within)
        case tree.Repeats(part, source, where):
            low, high = _scope(held, where, first, last)
            wanted = [form.casefold() for form in held.forms[first:last]]
            for a, b in held.sources[source]:
                words = [form.casefold() for form in held.forms[a:b]]
                parts = {
                    None: [words],
                    "first": [words[:1]],
                    "last": [words[-1:]],
                    "part": [[w] for w in words],
                }
                if ((low <= a and b <= first) or (last <= a and b <= high)) and wanted in parts[part]:
                    return True
            return False
        case tree.Stands(part, where):
            low, high = _scope(held, where, first, last)
            for unit in held.units(False):
                for i in range(*unit):
                    for j in ends_of(part, held, i, unit):
                        if low < j <= first or last <= i < high:
                            return True
            return False
    raise AssertionError(what)


def marks_of(whole: tree.Tree, held: Held) -> set[tuple[int, int, str | None]]:
    """What a rule marks in a text."""
    found: list[tuple[int, int, str | None]] = []
    for line in whole.lines:
        for unit in held.units(whole.across):
            for marks in matches(line, held, unit):
                if all(holds(one, held, marks[0][0], marks[-1][1]) for one in whole.conditions):
                    for mark, (a, b) in zip(line.marks, marks, strict=True):
                        found += [(x, y, mark.type) for x, y in _without(mark.minus, held, a, b)]
    kept: list[tuple[int, int, str | None]] = []
    # The longest; of equal ones the one that begins first; the first line's of the same bounds.
    for a, b, kind in sorted(found, key=lambda one: (one[0] - one[1], one[0])):
        if all(b <= x or y <= a for x, y, _ in kept):
            kept.append((a, b, kind))
    return set(kept)


def _without(minus: tree.Test | None, held: Held, a: int, b: int) -> list[Range]:
    if minus is None:
        return [(a, b)]
    left = [not passes(minus, held, i) for i in range(a, b)]
    runs, begin = [], None
    for i, is_left in enumerate([*left, False]):
        if is_left and begin is None:
            begin = i
        elif not is_left and begin is not None:
            runs.append((a + begin, a + i))
            begin = None
    return runs
