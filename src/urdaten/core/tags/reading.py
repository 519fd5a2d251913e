"""Reads the words of a general lexicon, as Debian's package wordnet-base has them (man 5 wndb, senseidx, wninput)."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping

from urdaten.core.tags.words import CLASSES, WordForms
from urdaten.errors import BadFile

# Of each class the last part of the names of its files, and the numbers of its senses.
FILES = {"noun": "noun", "verb": "verb", "adjective": "adj", "adverb": "adv"}
_CLASS_OF_SENSE = {"1": "noun", "2": "verb", "3": "adjective", "4": "adverb", "5": "adjective"}


def read_words(
    index: Mapping[str, Iterable[str]], irregular: Mapping[str, Iterable[str]], counts: Iterable[str]
) -> WordForms:
    """From the lines of each class's index and exceptions, and of the counts of senses. Raises BadFile with the number of a
    line that is amiss."""
    met = _counts(counts)
    words = {name: [(word, met.get((name, word), 0)) for word in _words(index[name])] for name in CLASSES}
    return WordForms.of(words, {name: list(_pairs(irregular[name])) for name in CLASSES})


def _words(lines: Iterable[str]) -> Iterator[str]:
    for line in lines:
        # The licence stands first, each line behind two spaces.
        word = line.partition(" ")[0]
        if word and "_" not in word:
            yield word


def _pairs(lines: Iterable[str]) -> Iterator[tuple[str, str]]:
    for number, line in enumerate(lines, start=1):
        values = line.split()
        if len(values) < 2:
            raise BadFile(f"Line {number}: this is no line of irregular forms.", line=number)
        if "_" not in line:
            yield values[0], values[1]


def _counts(lines: Iterable[str]) -> dict[tuple[str, str], int]:
    found: dict[tuple[str, str], int] = {}
    for number, line in enumerate(lines, start=1):
        try:
            sense, _, count = line.split()
            word, _, rest = sense.partition("%")
            key = _CLASS_OF_SENSE[rest[0]], word
            found[key] = found.get(key, 0) + int(count)
        except (ValueError, KeyError, IndexError) as fault:
            raise BadFile(f"Line {number}: this is no line of counts.", line=number) from fault
    return found
