"""How the names of one list are looked for."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, get_args

Case = Literal["capital", "any", "exact"]
CASES: tuple[Case, ...] = get_args(Case)


@dataclass(frozen=True, kw_only=True)
class ListOptions:
    """How the names of a list are looked for. Letters are letters and figures; words of context are found in any case."""

    # "capital": in any case, but a name that the list writes with a capital never in small letters, so that ordinary words
    # stay out; "any": in any case; "exact": letter by letter.
    case: Case = "capital"
    # Names with fewer letters than this are found letter by letter only.
    exact_below: int = 0
    # Do accents count?
    accents: bool = True
    # Is a hyphen as good as a space?
    hyphens: bool = False
    # Are plurals and possessives found too?
    endings: bool = False
    # May a word of SLIP_LETTERS letters or more, and nothing but letters, have one slip? Then accents do not count.
    slips: bool = False
    # Names with fewer letters than this are not looked for.
    shortest: int = 0
    # Found only with one of these words or phrases within so many tokens before or after, in the same sentence; none for
    # anywhere.
    near: tuple[str, ...] = ()
    within: int = 5
    # Not found right after, or right before, one of these.
    not_after: tuple[str, ...] = ()
    not_before: tuple[str, ...] = ()

    @property
    def has_context(self) -> bool:
        """Does it depend on the words around?"""
        return bool(self.near or self.not_after or self.not_before)


AS_EVER = ListOptions()
