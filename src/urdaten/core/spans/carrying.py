"""What was marked in one version of a text, carried over to another one by its words and by what stands around them."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from urdaten.core.spans.span import Span
from urdaten.core.text import fold, token_forms

# From this share of words in common (Dice 1945, twice the common ones by all of both) one sentence is taken for the other, changed.
SAME_CHANGED = 0.5
# A word that more sentences have than this tells none of them apart.
_TELLING = 50

Why = Literal["changed", "repeated", "gone"]


@dataclass(frozen=True)
class Stood:
    """A sentence of the version before. Its spans count code points from its own beginning."""

    words: str
    spans: tuple[Span, ...] = ()
    signed: bool = False


@dataclass(frozen=True)
class Carried:
    """What a sentence takes over from the one of this number; its spans count from its own beginning."""

    before: int
    spans: tuple[Span, ...]
    # The words are the same, so all of it came along.
    whole: bool


@dataclass(frozen=True)
class Left:
    """A signed sentence of the version before that did not come over as it was.

    why: *changed*, to the sentence `now`, with the spans of which the words were not found there; *repeated*, with other marks
    in other places, and what stands around it does not tell which is which; *gone*.
    """

    before: int
    why: Why
    spans: tuple[Span, ...]
    now: int | None = None


def carry(before: Sequence[Stood], now: Sequence[str]) -> tuple[dict[int, Carried], list[Left]]:
    """By the number of each sentence of the new version what it takes over, and what is left, in order.

    White space does not count. A sentence that stands once takes over what stood in it. One that stands several times does
    where all of them held the same and it stands no oftener than before, and else where its neighbours are the same.
    """
    keys_before, keys_now = [_key(one.words) for one in before], [_key(words) for words in now]
    places, wanted = _places(keys_before), _places(keys_now)
    made: dict[int, Carried] = {}
    done: set[int] = set()
    for key, numbers in wanted.items():
        stood = places.get(key, [])
        if not any(before[one].signed for one in stood):
            continue
        pairs = _pairs(before, keys_before, stood, keys_now, numbers)
        for new, old in pairs.items():
            made[new] = Carried(old, _moved(before[old], now[new]), whole=True)
        if pairs:
            # Those that held just the same are told for as well.
            held = {_marks(before[old]) for old in pairs.values()}
            done |= {one for one in stood if before[one].signed and _marks(before[one]) in held}
    changed = _changed(
        {k: one for k, one in enumerate(before) if keys_before[k] not in wanted},
        {k: words for k, words in enumerate(now) if keys_now[k] not in places},
    )
    left = []
    for number, one in enumerate(before):
        if not one.signed or number in done:
            continue
        if number in changed:
            new = changed[number]
            found = _found(one, now[new])
            made[new] = Carried(number, tuple(sorted(found.values())), whole=False)
            left.append(Left(number, "changed", tuple(s for s in one.spans if s not in found), new))
        else:
            why: Why = "repeated" if keys_before[number] in wanted else "gone"
            left.append(Left(number, why, one.spans))
    return made, left


def _key(words: str) -> str:
    return " ".join(words.split())


def _places(keys: Iterable[str]) -> dict[str, list[int]]:
    found: dict[str, list[int]] = defaultdict(list)
    for number, key in enumerate(keys):
        found[key].append(number)
    return found


def _marks(one: Stood) -> tuple[bool, tuple[Span, ...]]:
    """What stands in a sentence, wherever its white space is."""
    place = _letters(one.words)
    at = {offset: k for k, offset in enumerate(place)}
    return one.signed, tuple(replace(s, start=at[s.start], end=at[s.end - 1]) for s in sorted(one.spans))


def _letters(words: str) -> list[int]:
    """Where it has something else than white space."""
    return [offset for offset, sign in enumerate(words) if not sign.isspace()]


def _moved(one: Stood, words: str) -> tuple[Span, ...]:
    """Its spans in the same words under other white space."""
    if one.words == words:
        return one.spans
    place = _letters(words)
    return tuple(
        replace(span, start=place[moved.start], end=place[moved.end] + 1)
        for span, moved in zip(sorted(one.spans), _marks(one)[1], strict=True)
    )


def _pairs(
    before: Sequence[Stood],
    keys_before: Sequence[str],
    stood: list[int],
    keys_now: Sequence[str],
    new: list[int],
) -> dict[int, int]:
    """Which of the sentences with the same words stands for which, by the number of the new one."""
    if len({_marks(before[one]) for one in stood}) == 1 and len(new) <= len(stood):
        return dict(zip(new, stood, strict=False))
    pairs = {}
    for number in new:
        around = _around(keys_now, number)
        agreeing = [(sum(map(str.__eq__, around, _around(keys_before, one))), one) for one in stood]
        most = max(count for count, _ in agreeing)
        nearest = [one for count, one in agreeing if count == most]
        if most and before[nearest[0]].signed and len({_marks(before[one]) for one in nearest}) == 1:
            pairs[number] = nearest[0]
    return pairs


def _around(keys: Sequence[str], at: int) -> tuple[str, str]:
    """The sentences before and after; nothing at the ends of a text."""
    return keys[at - 1] if at else "", keys[at + 1] if at + 1 < len(keys) else ""


def _changed(before: Mapping[int, Stood], now: Mapping[int, str]) -> dict[int, int]:
    """Which sentence each became: the two are most like each other, and none else is as much."""
    words_before = {number: _words(one.words) for number, one in before.items()}
    words_now = {number: _words(words) for number, words in now.items()}
    having: dict[str, list[int]] = defaultdict(list)
    for number, words in words_now.items():
        for word in words:
            having[word].append(number)
    likeness: dict[tuple[int, int], float] = {}
    for old, words in words_before.items():
        near = {new for word in words if len(having[word]) <= _TELLING for new in having[word]}
        for new in near:
            other = words_now[new]
            share = 2 * (words & other).total() / (words.total() + other.total())
            if share >= SAME_CHANGED:
                likeness[old, new] = share
    best_new = _only_best((old, new, share) for (old, new), share in likeness.items())
    best_old = _only_best((new, old, share) for (old, new), share in likeness.items())
    return {old: new for old, new in best_new.items() if best_old.get(new) == old}


def _words(words: str) -> Counter[str]:
    return Counter(map(fold, token_forms(words)))


def _only_best(told: Iterable[tuple[int, int, float]]) -> dict[int, int]:
    """For each one the other with the highest share, where only one has it."""
    shares: dict[int, list[tuple[float, int]]] = defaultdict(list)
    for one, other, share in told:
        shares[one].append((share, other))
    best = {}
    for one, found in shares.items():
        found.sort(reverse=True)
        if len(found) == 1 or found[0][0] > found[1][0]:
            best[one] = found[0][1]
    return best


def _found(one: Stood, words: str) -> dict[Span, Span]:
    """Its spans that are found again in a sentence that was changed, each with where it stands now.

    The quoted words stand there once, or once beside most of the words that stood beside them. Two spans that lie over each other
    where they did not, or the other way round, are both not found.
    """
    found: dict[Span, Span] = {}
    for span in one.spans:
        quote = one.words[span.start : span.end]
        places = list(_occurrences(quote, words))
        if len(places) > 1:
            around = _beside(one.words, span.start, span.end)
            agreeing = [sum(map(_same, around, _beside(words, at, at + len(quote)))) for at in places]
            most = max(agreeing)
            places = [at for at, count in zip(places, agreeing, strict=True) if count == most]
        if len(places) == 1:
            found[span] = replace(span, start=places[0], end=places[0] + len(quote))
    askew = {
        one
        for one, moved in found.items()
        for other, other_moved in found.items()
        if one.overlaps(other) != moved.overlaps(other_moved)
    }
    return {span: moved for span, moved in found.items() if span not in askew}


def _occurrences(quote: str, words: str) -> Iterator[int]:
    """Where a quotation stands, not within longer words."""
    at = words.find(quote)
    while at >= 0:
        end = at + len(quote)
        runs_on = (at > 0 and words[at - 1].isalnum() and quote[0].isalnum()) or (
            end < len(words) and words[end].isalnum() and quote[-1].isalnum()
        )
        if not runs_on:
            yield at
        at = words.find(quote, at + 1)


def _beside(words: str, start: int, end: int) -> tuple[str, str]:
    """The words before and after; nothing at the ends."""
    before, after = token_forms(words[:start]), token_forms(words[end:])
    return before[-1] if before else "", after[0] if after else ""


def _same(one: str, other: str) -> bool:
    return fold(one) == fold(other)
