"""How faults in the text of a rule are told of."""

from __future__ import annotations

from collections.abc import Iterable
from difflib import get_close_matches
from typing import NoReturn

from urdaten.core.rules.tree import At
from urdaten.errors import BadPattern

# Words of the language, by the terminals of the grammar that stand for them.
_WORDS = {
    "SHAPE": ("capital", "capitals", "small", "initial", "figure", "code", "letters", "sign"),
    **{
        word.upper(): (word,)
        for word in (
            "optional not minus any length like tag lemma kind list found text use sentence start end first last part repeats earlier later "
            "within before after drop retype across only if unless to or more up number of and as in inside longer token tokens "
            "sentences"
        ).split()
    },
}
_SIGNS = {
    "RSQB": "]",
    "RPAR": ")",
    "GROUP": "(",
    "COMMA": "a comma",
    "INT": "a number",
    "CODE": "the code of a type",
    "NAME": "a name",
    "LETTERS": "a word between ' and '",
    "REGEX": "a regular expression between / and /",
    "_NL": "the end of the line",
}
# Where one of these may stand, something that matches may.
_ITEM = "SHAPE"
_OF_ITEMS = frozenset(
    "LETTERS EXACT ANY SHAPE LENGTH LIKE TAG LEMMA KIND LIST FOUND TEXT USE FIRST LAST PART SENTENCE NOT GROUP OPTIONAL UP INT WORD".split()
)


def fail(said: str, at: At) -> NoReturn:
    """Raise BadPattern for a place in the text of a rule."""
    raise BadPattern(
        f"Line {at.line}, column {at.column}: {said}.".replace("?.", "?"),
        field="pattern",
        line=at.line,
        column=at.column,
        offset=at.start,
        end=max(at.end, at.start),
    )


def nearest(word: str, allowed: Iterable[str] | None, among: Iterable[str] = (), alike: float = 0.6) -> str:
    """Of the words of the language that some terminals stand for, or of all, and of others, the one nearest to a word; "" for
    none."""
    known = [w for name, words in _WORDS.items() for w in words if allowed is None or name in set(allowed)]
    written = {one.casefold(): one for one in [*known, *among]}
    found = get_close_matches(word.casefold(), written, n=1, cutoff=alike) if word else []
    return written[found[0]] if found else ""


def expected(allowed: Iterable[str], met: str, near: str) -> str:
    """What was expected, and what was met instead."""
    names = set(allowed)
    said = []
    if _ITEM in names:
        said.append("something to match, such as 'word', capital or list(name)")
        names -= _OF_ITEMS
    said += [_SIGNS[name] for name in sorted(names & _SIGNS.keys())]
    said += [f"“{word}”" for name in sorted(names & _WORDS.keys()) for word in _WORDS[name]]
    what = "; or ".join([", ".join(said[:-1]), said[-1]]) if len(said) > 1 else "".join(said)
    here = f"“{met}” cannot stand here" if met.strip() else "something is missing here"
    if near:
        return f"{here}; did you mean {near}?"
    return f"{here}; expected {what}" if what else here
