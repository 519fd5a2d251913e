"""A memory over signed sentences: how runs of words were marked, wherever they stand.

It is asked about one sentence at a time and changed by one sentence at a time, each in time that grows with that
sentence and with how often its rarest words occur, so it is up to date the moment after a signing, without training.
Words are compared by their folded forms.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field

from urdaten.core.text import fold

# Longer names are hardly ever written twice.
LONGEST = 8
LEAST = 2

# First token of a span, one past its last, its type.
Marked = tuple[int, int, str]


@dataclass(frozen=True)
class Name:
    """A name that a sentence holds: as Marked, and how often it was signed so and never otherwise."""

    first: int
    last: int
    type: str
    times: int


@dataclass
class Told:
    """How a run of words stands in signed sentences, by occurrence."""

    # Type → how often it was a span of that type; an occurrence that is two spans counts for both.
    as_span: Counter[str] = field(default_factory=Counter)
    # Type → how often it was part of a longer span of that type.
    inside: Counter[str] = field(default_factory=Counter)
    # How often nothing was marked there, or only part of it.
    bare: int = 0
    # The sentences, in the order in which they were learnt.
    sentences: list[int] = field(default_factory=list)


class NameMemory:
    """Signed sentences by number, with their words and spans."""

    def __init__(self) -> None:
        self._held: dict[int, tuple[tuple[str, ...], tuple[Marked, ...]]] = {}
        # Folded word → the sentences that have it; a dict, because it keeps their order.
        self._with: dict[str, dict[int, None]] = {}
        self._names: dict[tuple[str, ...], Counter[str]] = {}

    def __len__(self) -> int:
        """Number of sentences."""
        return len(self._held)

    def __contains__(self, sentence: int) -> bool:
        return sentence in self._held

    def learn(self, sentence: int, words: Sequence[str], marked: Sequence[Marked]) -> None:
        """Take in a sentence, or what it has become."""
        self.forget(sentence)
        folded = _folded(words)
        self._held[sentence] = folded, tuple(marked)
        for word in folded:
            self._with.setdefault(word, {})[sentence] = None
        for first, last, kind in marked:
            if last - first <= LONGEST:
                self._names.setdefault(folded[first:last], Counter())[kind] += 1

    def forget(self, sentence: int) -> None:
        """Let a sentence go; one that is not held is none."""
        folded, marked = self._held.pop(sentence, ((), ()))
        for word in set(folded):
            del self._with[word][sentence]
            if not self._with[word]:
                del self._with[word]
        for first, last, kind in marked:
            if last - first <= LONGEST:
                name = folded[first:last]
                left = self._names[name]
                left[kind] -= 1
                if not left[kind]:
                    del left[kind]
                if not left:
                    del self._names[name]

    def share_known(self, words: Sequence[str]) -> float:
        """The share of the words, 0 to 1, that stand in some signed sentence; 1 for no words."""
        known = sum(fold(word) in self._with for word in words)
        return known / len(words) if words else 1.0

    def tell(self, words: Sequence[str]) -> Told:
        """How these words, as a run, stand in signed sentences."""
        told = Told()
        for sentence, first, last in self._places(_folded(words)):
            if not told.sentences or told.sentences[-1] != sentence:
                told.sentences.append(sentence)
            bare = True
            for begin, end, kind in self._held[sentence][1]:
                if (begin, end) == (first, last):
                    told.as_span[kind] += 1
                elif begin <= first and last <= end:
                    told.inside[kind] += 1
                else:
                    continue
                bare = False
            told.bare += bare
        return told

    def names_in(self, words: Sequence[str], besides: int | None = None) -> list[Name]:
        """Names among the words that were signed at least LEAST times, always as one type, and never otherwise.

        Where two of them overlap, the longer one is told, the earlier of two of one length. What the sentence `besides`
        says does not count.
        """
        folded = _folded(words)
        own: dict[tuple[str, ...], Counter[str]] = {}
        own_words, own_marked = self._held.get(besides, ((), ())) if besides is not None else ((), ())
        for first, last, kind in own_marked:
            own.setdefault(own_words[first:last], Counter())[kind] += 1
        found: list[Name] = []
        for length in range(min(LONGEST, len(folded)), 0, -1):
            for first in range(len(folded) - length + 1):
                last = first + length
                name = folded[first:last]
                if name not in self._names or any(n.first < last and first < n.last for n in found):
                    continue
                types = self._names[name] - own.get(name, Counter())
                if len(types) != 1:
                    continue
                ((kind, times),) = types.items()
                if times >= LEAST and self._is_always(name, times, besides):
                    found.append(Name(first, last, kind, times))
        return sorted(found, key=lambda name: name.first)

    def _is_always(self, name: tuple[str, ...], times: int, besides: int | None) -> bool:
        """Does the run of words stand nowhere but where it is marked whole?"""
        return sum(sentence != besides for sentence, _, _ in self._places(name)) == times

    def _places(self, run: tuple[str, ...]) -> Iterator[tuple[int, int, int]]:
        """Sentence, first token and one past the last, of every occurrence."""
        holders = [self._with.get(word, {}) for word in run]
        if not run or not all(holders):
            return
        for sentence in min(holders, key=len):
            for first, last in _places_in(run, self._held[sentence][0]):
                yield sentence, first, last


def places_of(run: Sequence[str], words: Sequence[str]) -> list[tuple[int, int]]:
    """First token and one past the last of every occurrence of a run of words, whatever their case; none for no words."""
    return list(_places_in(_folded(run), _folded(words)))


def _folded(words: Sequence[str]) -> tuple[str, ...]:
    return tuple(map(fold, words))


def _places_in(run: tuple[str, ...], words: tuple[str, ...]) -> Iterator[tuple[int, int]]:
    size = len(run)
    for first in range(len(words) - size + 1) if run else ():
        if words[first] == run[0] and words[first : first + size] == run:
            yield first, first + size
