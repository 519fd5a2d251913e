"""Words that hold a value, cut into figures, words and signs."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field
from typing import Any

import regex

from urdaten.core.text import fold
from urdaten.core.values.words import ValueWords

# Spaces that may stand between the groups of a figure.
_GAPS = "   "
_TOKEN = regex.compile(
    rf"""
      (?P<figure> \d{{1,3}} (?: [{_GAPS}] \d{{3}} )+ (?![\d]) (?: [.,] \d+ )?
                | \d+ (?: [.,] \d+ | ['’] \d{{3}} (?!\d) )* )
    | (?P<word>   [^\W\d_]+ (?: [.'’] [^\W\d_]+ )* \.? | [%°€£$¥‰½¼¾⅓⅔⅛] )
    | (?P<sign>   \S )
    """,
    regex.VERBOSE,
)

_HYPHEN = regex.compile(r"(?<=[^\W\d_])-(?=[^\W\d_])")


@dataclass(frozen=True)
class Token:
    """One figure, word or sign."""

    text: str
    fold: str
    kind: str
    # No space stands before it.
    glued: bool


def cut(written: str) -> list[Token]:
    """Tokens in order. A hyphen between letters is none: "twenty-one" is two words."""
    found: list[Token] = []
    end = 0
    for match in _TOKEN.finditer(_HYPHEN.sub(" ", written)):
        kind = str(match.lastgroup)
        text = match.group()
        folded = fold(text)
        found.append(Token(text, folded, kind, match.start() == end and match.start() > 0))
        end = match.end()
    return found


@dataclass
class Cursor:
    """A place between tokens, for those who read one thing after the other."""

    tokens: list[Token]
    words: ValueWords
    at: int = 0
    _longest: dict[int, int] = field(default_factory=dict)

    @classmethod
    def on(cls, written: str, words: ValueWords) -> Cursor:
        """At the beginning of what is written."""
        return cls(cut(written), words)

    @property
    def done(self) -> bool:
        return self.at >= len(self.tokens)

    def peek(self, ahead: int = 0) -> Token | None:
        at = self.at + ahead
        return self.tokens[at] if at < len(self.tokens) else None

    def take(self, *texts: str) -> bool:
        """Go past the next token if its folded form is one of these."""
        token = self.peek()
        if token is None or token.fold not in texts:
            return False
        self.at += 1
        return True

    def take_phrase(self, phrases: Collection[str]) -> str | None:
        """Go past the longest of these phrases that begins here."""
        if not phrases:
            return None
        longest = self._longest.get(id(phrases))
        if longest is None:
            longest = self._longest[id(phrases)] = max(phrase.count(" ") + 1 for phrase in phrases)
        for size in range(min(longest, len(self.tokens) - self.at), 0, -1):
            said = " ".join(token.fold for token in self.tokens[self.at : self.at + size])
            for one in (said, said.removesuffix(".")):
                if one in phrases:
                    self.at += size
                    return one
        return None

    def value_of(self, table: Mapping[str, Any]) -> Any:
        """What the longest phrase of a table that begins here stands for; None where none does."""
        phrase = self.take_phrase(table)
        return None if phrase is None else table[phrase]
