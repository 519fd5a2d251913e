"""Sentences with parts of speech, as files have them: a tagger of parts learns from them, and is judged by them.

A line is what tells where a sentence is from, a bar between blanks, and its words with their tags, each behind a stroke:

    27/1 6, night log | 0430/NUM lamp/NOUN out/ADV
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

from urdaten.core.text import TAGS
from urdaten.errors import BadFile

# Files of tagged sentences in a folder of them, by what they are called.
SOURCES = {"bulletins": "bulletins.txt", "other prose": "other.txt"}
_BAR = " | "


@dataclass(frozen=True)
class TaggedSentence:
    """Words and their tags. `group` is what no two parts may share of which one is to judge the other: a week, a kind of prose."""

    group: str
    words: tuple[str, ...]
    tags: tuple[str, ...]
    # What is told of where it is from.
    origin: str = ""


def read_tagged(lines: Iterable[str]) -> Iterator[TaggedSentence]:
    """Each line as a sentence. Raises BadFile with the number of a line that is amiss."""
    for number, line in enumerate(lines, start=1):
        origin, bar, rest = line.rstrip("\n").partition(_BAR)
        pairs = [pair.rpartition("/") for pair in rest.split()]
        if not bar or not pairs or not all(word for word, _, _ in pairs):
            raise BadFile(f"Line {number}: words with their tags are expected behind a bar.", line=number)
        words, _, tags = zip(*pairs, strict=True)
        if wrong := [tag for tag in tags if tag not in TAGS]:
            raise BadFile(f"Line {number}: there is no tag {wrong[0]}.", line=number)
        yield TaggedSentence(origin.partition("/")[0], words, tags, origin)


def read_lemmas(lines: Iterable[str]) -> dict[tuple[str, str], str]:
    """Lemmas by folded form and tag, of forms that are not lemmas themselves: `sailed VERB sail`. Raises BadFile."""
    found: dict[tuple[str, str], str] = {}
    for number, line in enumerate(lines, start=1):
        values = line.split()
        if len(values) != 3 or values[1] not in TAGS:
            raise BadFile(f"Line {number}: a form, its tag and its lemma are expected.", line=number)
        found[values[0], values[1]] = values[2]
    return found


def folds(
    sentences: Sequence[TaggedSentence], count: int = 5
) -> list[tuple[list[TaggedSentence], list[TaggedSentence]]]:
    """Each part of the groups as what is judged, beside all others as what is learnt from."""
    groups = sorted({one.group for one in sentences})
    place = {group: k % count for k, group in enumerate(groups)}
    return [
        (
            [one for one in sentences if place[one.group] != k],
            [one for one in sentences if place[one.group] == k],
        )
        for k in range(min(count, len(groups)))
    ]
