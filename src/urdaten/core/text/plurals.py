"""Plurals of words, as far as a language is known."""

from __future__ import annotations

from urdaten.core.text.fold import fold

# Ends of English words and what the plural has instead, the first that fits; "" adds an s.
_ENGLISH = (
    (("man",), ("men", "mans")),
    (("foot",), ("feet",)),
    (("child",), ("children",)),
    (("ss", "x", "z", "ch", "sh"), ("{}es",)),
    (("us", "is", "as"), ("{}es",)),
    # Several already.
    (("s",), ()),
    (("ay", "ey", "oy", "uy"), ("{}s",)),
    (("y",), ("ies",)),
    (("fe",), ("ves", "fes")),
    (("lf", "rf", "af"), ("{}s", "{}ves")),
    (("o",), ("{}s", "{}es")),
)
_SHORTEST = 2


def plurals(word: str, language: str) -> tuple[str, ...]:
    """How a word that is nothing but letters may be written in the plural; none of other words, and in other languages than
    English. A word in capitals has its ending in capitals."""
    if language != "en" or not word.isalpha() or len(word) < _SHORTEST:
        return ()
    made = _english(fold(word), word)
    return tuple(other.upper() for other in made) if word.isupper() else made


def _english(folded: str, word: str) -> tuple[str, ...]:
    for ends, instead in _ENGLISH:
        end = next((end for end in ends if folded.endswith(end)), None)
        if end is not None:
            cut = word[: -len(end)]
            return tuple(_joined(word, cut, end, pattern) for pattern in instead)
    return (word + "s",)


def _joined(word: str, cut: str, end: str, pattern: str) -> str:
    if not pattern.startswith("{}"):
        return cut + pattern
    ending = pattern.removeprefix("{}")
    # Wolf becomes wolves: the f goes.
    return (word.removesuffix(end[-1]) if ending == "ves" else word) + ending
