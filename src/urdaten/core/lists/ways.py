"""Other ways to write a name: in the plural, with and without an apostrophe, with hyphens for spaces."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import islice, product

import regex

from urdaten.core.text import plurals

# How a way differs from what the list has, in bits.
PLURAL, POSSESSIVE, HYPHEN = 1, 2, 4
# No more ways than this are made of one writing: those with all hyphens or none and the fewest other changes come first.
MOST_WAYS = 32
_POSSESSIVE = regex.compile(r"(\p{L}{2,})['’]s")
_PLURAL_POSSESSIVE = regex.compile(r"(\p{L}{2,}s)['’]")
_ENDS_IN_S = regex.compile(r"\p{L}{2,}[^\P{L}s]s")
# A gap that may be either: between letters or figures, as the tokeniser joins them.
_GAP = regex.compile(r"(?<=[\p{L}\p{Nd}])(?:\s+|[-‐‑])(?=[\p{L}\p{Nd}])")


def ways(written: str, language: str, *, endings: bool, hyphens: bool) -> dict[str, int]:
    """Every way to write a name and how it differs, what the list has first (with 0)."""
    found = {written: 0}
    if not (endings or hyphens):
        return found
    for changed, how in _endings(written, language) if endings else [(written, 0)]:
        for gapped, hyphen in _gaps(changed) if hyphens else [(changed, 0)]:
            if len(found) == MOST_WAYS:
                return found
            found.setdefault(gapped, how | hyphen)
    return found


def _endings(written: str, language: str) -> Iterator[tuple[str, int]]:
    words = written.split()
    if not words:
        return
    inner = [[(word, 0), *((other, POSSESSIVE) for other in _possessives(word))] for word in words[:-1]]
    last = [(words[-1], 0), *((other, PLURAL) for other in plurals(words[-1], language))]
    # The fewest changes first.
    every = islice(product(last, *inner), 4 * MOST_WAYS)
    for choice in sorted(every, key=lambda own: sum(how > 0 for _, how in own)):
        how = 0
        for _, bit in choice:
            how |= bit
        yield " ".join([*(word for word, _ in choice[1:]), choice[0][0]]), how


def _possessives(word: str) -> Sequence[str]:
    """Other ways to write a word that may be a possessive."""
    if match := _POSSESSIVE.fullmatch(word):
        return (match[1] + "s", match[1] + "s’")
    if match := _PLURAL_POSSESSIVE.fullmatch(word):
        return (match[1], match[1][:-1] + "’s")
    if _ENDS_IN_S.fullmatch(word):
        return (word[:-1] + "’s", word + "’")
    return ()


def _gaps(written: str) -> Iterator[tuple[str, int]]:
    parts = _GAP.split(written)
    was = _GAP.findall(written)
    yield written, 0
    uniform = [" " * len(was), "-" * len(was)]
    for gaps in (*uniform, *map("".join, product(" -", repeat=len(was)) if len(was) <= 4 else ())):
        made = parts[0] + "".join(gap + part for gap, part in zip(gaps, parts[1:], strict=True))
        yield made, HYPHEN
