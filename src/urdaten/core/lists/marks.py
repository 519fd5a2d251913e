"""Numbers by which texts that a changed entry may touch are told from others, and entries from those that look alike."""

from __future__ import annotations

from collections.abc import Iterable
from functools import lru_cache
from hashlib import blake2b

from urdaten.core.lists.options import ListOptions
from urdaten.core.lists.slips import may_slip
from urdaten.core.lists.ways import ways
from urdaten.core.text import fold, marks_of, token_forms, without_accents


def touch_marks(written: Iterable[str], options: ListOptions, language: str) -> set[tuple[int, ...]]:
    """Of the ways in which a list finds what is written like this, the marks of the words that a text has to hold for each; an
    empty run stands for any text."""
    bare = options.slips or not options.accents
    found: set[tuple[int, ...]] = set()
    for one in written:
        for way in ways(one, language, endings=options.endings, hyphens=options.hyphens):
            words = [without_accents(fold(form)) if bare else form for form in token_forms(way)]
            if not words:
                continue
            if options.slips:
                words = [word for word in words if not may_slip(word)]
            found.add(tuple(marks_of(" ".join(words))))
    return found


# Whoever holds a name against others asks several times in a row.
@lru_cache(maxsize=1024)
def spelling(written: str) -> str:
    """What two names share if they differ in nothing but case, white space and the like."""
    return fold(" ".join(written.split()))


def spelling_key(written: str) -> int:
    """A signed 64-bit number in place of `spelling`, for the database."""
    digest = blake2b(spelling(written).encode(errors="surrogatepass"), digest_size=8).digest()
    return int.from_bytes(digest, "little", signed=True)
