"""What people write who know other ways to write patterns, or none: how it is said here."""

from __future__ import annotations

from urdaten.core.text import PARTS

_OFTEN = (
    "how often something stands is said before it, as in 1 or more capital, up to 3 any or optional figure"
)
_QUOTES = "quotation marks are the straight ones, ' or \""
_BEHIND = "what stands before or behind it is written there, outside the square brackets"
_FAR = "say how far: within 3 tokens, perhaps before or after, or earlier or later in sentence"
_OWN_LINE = "a condition stands on a line of its own that begins with only if or unless"
_SO_MANY = "so many are written 1 to 3"
_ALTERNATIVE = "one or the other is written ('a' or 'b')"
_SIGNS = {
    **dict.fromkeys("+*?{", _OFTEN),
    **dict.fromkeys("‘’“”„«»", _QUOTES),
    "|": _ALTERNATIVE,
    "/": "a regular expression of one word is written like(/…/)",
    "…": "so many words in between are written up to 3 any",
    "...": "so many words in between are written up to 3 any",
    "..": _SO_MANY,
    "=": "with another type it is written [ … ] as VES",
    "&": "both of one word are written capital and not 'a'",
    "!": "what is not so is written not capital",
    "^": "the start of a sentence is written sentence start",
    "$": "the end of a sentence is written sentence end",
    "\\": "a regular expression of one word is written like(/…/)",
}
_WORDS = {
    "if": "a condition begins with only if or with unless",
    "where": "a condition begins with only if or with unless",
    "when": "a condition begins with only if or with unless",
    "or": "another way to match stands on a line of its own, and one or the other within a line in round brackets",
    "before": _FAR,
    "after": _FAR,
    "within": _OWN_LINE,
    "followed": _BEHIND,
    "preceded": _BEHIND,
    "start": "the start of a sentence is written sentence start",
    "begin": "the start of a sentence is written sentence start",
    "end": "the end of a sentence is written sentence end",
    "number": "a word of figures is written figure",
    "digit": "a word of figures is written figure",
    "digits": "a word of figures is written figure",
    "word": "whatever word it is, is written any; one word of the text 'word'",
    "the": "leave “the” out, as in only if 'gale' in sentence",
    "uppercase": "a word in capitals is written capitals, one with a capital capital",
    "lowercase": "a word in small letters is written small",
    **dict.fromkeys(
        "one two three four five six seven eight nine ten".split(), "how many is written in figures, as in 2 capital"
    ),
}  # fmt: skip


def said_here(rest: str, before: str) -> str:
    """For what stands where it cannot be, and what is before it on its line, how it is said in the language; "" where nobody knows
    what was meant."""
    if before[-1:].isdigit() and (rest[:1] == "-" or rest.startswith("..")):
        return _SO_MANY
    if rest[:1] in {"'", '"'} and before.rstrip().endswith(("kind(", "tag(", "found(")):
        return "what stands in these brackets has no quotation marks"
    for length in (3, 2, 1):
        if rest[:length] in _SIGNS:
            return _SIGNS[rest[:length]]
    word = rest[: next((k for k, sign in enumerate(rest) if not sign.isalnum()), len(rest))]
    return _WORDS.get(word.casefold(), "")


def tag_named(words: str) -> str:
    """The tag that is called so in words: adjective, preposition; "" for none."""
    wanted = words.casefold()
    if len(wanted) < 3:
        return ""
    return next((tag for tag, about in PARTS.items() if about.casefold().startswith(wanted)), "")
