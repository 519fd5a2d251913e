"""The shortest keys that bring a sentence to its gold at the Desk, by somebody who knows all keys and reads perfectly.

What the keys do is modelled here anew; the replay holds what stands in the end against gold, so a model that differs
from the page is found out.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any

# First and one past the last code point, type.
Span = tuple[int, int, str]
# Anchor and head of the selection, as tokens.
Selected = tuple[int, int]
LANES = ("lists", "rules", "tagger", "learned", "pipeline")
_JOINS = ("&", "'s", "’s", "of")


@dataclass(frozen=True)
class Open:
    """A sentence as the Desk shows it."""

    tokens: Sequence[tuple[int, int]]
    words: Sequence[str]
    evidence: Sequence[tuple[str, Span]] = field(default_factory=tuple)
    resolved: Sequence[Span] = field(default_factory=tuple)
    # Evidence that need not be looked at, and evidence of makers without a say.
    overruled: frozenset[tuple[str, Span]] = frozenset()
    doubtful: frozenset[tuple[str, Span]] = frozenset()
    # The pipeline weighs: all that stands is taken at once.
    weighed: bool = False

    @classmethod
    def of(cls, shown: dict[str, Any], *, evidence: bool) -> Open:
        """From what the server sends; without evidence its lanes are as good as hidden."""
        start = shown["start"]
        tokens = [(token["start"], token["end"]) for token in shown["tokens"]]
        words = [shown["words"][a - start : b - start] for a, b in tokens]
        if not evidence:
            return cls(tokens, words)
        found = [(name, s) for name in LANES for s in shown["lanes"].get(name, ())]

        def those(flag: str) -> frozenset[tuple[str, Span]]:
            # Where two makers of one source say the same, the better one counts.
            good = {(name, _span(s)) for name, s in found if not s[flag]}
            return frozenset((name, _span(s)) for name, s in found if s[flag]) - good

        lanes = [(name, _span(s)) for name, s in found]
        resolved = [_span(s) for s in shown["resolved"]]
        weighed = shown["weighs_from"] is not None
        return cls(tokens, words, lanes, resolved, those("overruled"), those("doubt"), weighed)

    def range(self, selected: Selected) -> tuple[int, int]:
        return self.tokens[min(selected)][0], self.tokens[max(selected)][1]

    def around(self, span: Span) -> Selected:
        """The tokens that a span covers."""
        inside = [i for i, (a, b) in enumerate(self.tokens) if a < span[1] and span[0] < b]
        return inside[0], inside[-1]

    def offered(self, selected: Selected) -> Span | None:
        """The evidence that `space` takes."""
        here = [span for _, span in self.evidence if _meet(span, self.range(selected))]
        return next((span for span in here if span in self.resolved), here[0] if here else None)

    def undisputed(self) -> list[Span]:
        """What `shift` `space` takes of an untouched sentence."""
        if self.weighed:
            return list(self.resolved)
        heard = [one for one in self.evidence if one not in self.overruled]

        def stands(span: Span) -> bool:
            for lane in LANES:
                there = [s for name, s in heard if name == lane and _meet(s, span)]
                if there and span not in there:
                    return False
            return any(s == span and (name, s) not in self.doubtful for name, s in heard)

        return [span for span in self.resolved if stands(span)]


def _span(shown: dict[str, Any]) -> Span:
    return shown["start"], shown["end"], shown["type"]


def _meet(one: tuple[int, ...] | Span, other: tuple[int, ...] | Span) -> bool:
    return bool(one[0] < other[1] and other[0] < one[1])


def _marked(spans: Sequence[Span], new: Span) -> list[Span]:
    return sorted([*(span for span in spans if not _meet(span, new)), new])


def _runs(words: Sequence[str]) -> list[Selected]:
    """Runs that look like names or figures."""

    def like(i: int) -> bool:
        return i < len(words) and (words[i][0].isupper() or words[i][0].isnumeric())

    def figure(i: int) -> bool:
        return i < len(words) and words[i][0].isnumeric()

    runs = []
    i = 1
    while i < len(words):
        if like(i):
            end = i
            while (like(end + 1) and (not figure(i) or figure(end + 1))) or (
                end + 1 < len(words) and words[end + 1] in _JOINS and like(end + 2)
            ):
                end += 1
            if (
                figure(i)
                and end == i
                and i + 1 < len(words)
                and len(words[i + 1]) == 1
                and words[i + 1].islower()
            ):
                end += 1
            runs.append((i, end))
            i = end
        i += 1
    return runs


def _next_word(words: Sequence[str], at: int, by: int) -> int:
    i = at + by
    while 0 <= i < len(words):
        if words[i][0].isalnum():
            return i
        i += by
    return len(words) - 1 if by > 0 else 0


def _targets(shown: Open, spans: Sequence[Span]) -> tuple[list[Selected], list[Span], list[Span]]:
    """What jumps go to: runs of words, spans and evidence, and gaps."""
    every = sorted({*spans, *(span for _, span in shown.evidence)}, key=lambda s: s[:2])
    gaps = sorted({*spans} ^ {*shown.resolved}, key=lambda s: s[:2]) if shown.evidence else []
    return _runs(shown.words), every, gaps


def _gap_after(shown: Open, spans: Sequence[Span], start: int) -> Selected | None:
    """Where the page goes by itself after evidence was taken: on to the next gap."""
    gaps = sorted({*spans} ^ {*shown.resolved}, key=lambda s: s[:2]) if shown.evidence else []
    return next((shown.around(gap) for gap in gaps if gap[0] > start), None)


def _moves(
    shown: Open, targets: tuple[list[Selected], list[Span], list[Span]], selected: Selected
) -> Iterator[tuple[str, Selected]]:
    """Every key that moves the selection, and where to."""
    runs, every, gaps = targets
    anchor, head = selected
    low, high, last = min(selected), max(selected), len(shown.words) - 1
    for key, by in (("ArrowRight", 1), ("ArrowLeft", -1)):
        to = max(0, min(last, head + by))
        yield key, (to, to)
        yield f"Shift+{key}", (anchor, to)
    yield "Home", (0, 0)
    yield "End", (last, last)
    word = _next_word(shown.words, high, 1)
    yield "Control+ArrowRight", next((run for run in runs if run[0] > high), (word, word))
    word = _next_word(shown.words, low, -1)
    yield "Control+ArrowLeft", next((run for run in reversed(runs) if run[1] < low), (word, word))
    start = shown.tokens[low][0]
    after = next((span for span in every if span[0] > start), None)
    before = next((span for span in reversed(every) if span[0] < start), None)
    if after:
        yield ")", shown.around(after)
    if before:
        yield "(", shown.around(before)
    if gaps:
        yield ".", shown.around(next((span for span in gaps if span[0] > start), gaps[0]))


def _route(
    shown: Open, spans: Sequence[Span], begin: Selected, done: Callable[[Selected], str | None]
) -> tuple[list[str], Selected]:
    """The fewest keys to a selection at which `done` names the key that does the rest."""
    targets = _targets(shown, spans)
    keys: dict[Selected, list[str]] = {begin: []}
    waiting = deque([begin])
    while waiting:
        at = waiting.popleft()
        last = done(at)
        if last is not None:
            return [*keys[at], last], at
        for key, to in _moves(shown, targets, at):
            if to not in keys:
                keys[to] = [*keys[at], key]
                waiting.append(to)
    raise AssertionError("every selection can be reached")


def plan(shown: Open, gold: Sequence[Span], letters: dict[str, str]) -> list[str]:
    """Keys from the untouched sentence to its gold, signed. A chord is one key."""
    undisputed = shown.undisputed()
    # A sentence opens at its first gap.
    begin = _gap_after(shown, [], -1) or (0, 0)
    ways = [_plan(shown, gold, letters, [], [], begin)]
    if undisputed:
        gap = _gap_after(shown, undisputed, -1)
        if gap is None and sorted(undisputed) == sorted(gold):
            return ["Shift+Enter"]
        ways.append(_plan(shown, gold, letters, ["Shift+ "], undisputed, gap or begin))
    return min(ways, key=len)


def _plan(
    shown: Open,
    gold: Sequence[Span],
    letters: dict[str, str],
    keys: list[str],
    spans: Sequence[Span],
    selected: Selected,
) -> list[str]:
    """From these spans and this selection, reached by these keys, on to gold."""
    keys, spans = list(keys), list(spans)
    for wanted in [span for span in sorted(gold) if span not in spans]:

        def add(at: Selected, wanted: Span = wanted, spans: Sequence[Span] = spans) -> str | None:
            if shown.offered(at) == wanted:
                return " "
            covered = [span for span in spans if _meet(span, shown.range(at))]
            # With nothing but the cursor in a longer span a letter changes that span's type.
            whole = at[0] == at[1] and any(span[:2] != shown.range(at) for span in covered)
            return letters[wanted[2]] if shown.range(at) == wanted[:2] and not whole else None

        route, selected = _route(shown, spans, selected, add)
        keys += route
        spans = _marked(spans, wanted)
        if route[-1] == " ":
            selected = _gap_after(shown, spans, wanted[0]) or selected
    for extra in [span for span in spans if span not in gold]:

        def drop(at: Selected, extra: Span = extra) -> str | None:
            inside = extra[0] <= shown.range(at)[0] and shown.range(at)[1] <= extra[1]
            return "Backspace" if at[0] == at[1] and inside else None

        route, selected = _route(shown, spans, selected, drop)
        keys += route
        spans.remove(extra)
    assert sorted(spans) == sorted(gold)
    return [*keys, "Enter" if gold else "Control+Enter"]
