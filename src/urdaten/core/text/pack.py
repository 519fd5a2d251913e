"""Language packs: what the tokeniser and the sentence splitter know of a language."""

from __future__ import annotations

from dataclasses import dataclass, replace


@dataclass(frozen=True, kw_only=True)
class LanguagePack:
    """Knowledge that differs by language; every member but the code is optional."""

    code: str
    # In words, for people who choose one.
    name: str
    # Folded, without their full stop: a stop after one of these does not end a sentence.
    abbreviations: frozenset[str] = frozenset()
    # A stop after these ends a sentence when a capitalised word follows ("with Brack & Co. They …").
    may_end: frozenset[str] = frozenset()
    # A stop after these does not end a sentence when a figure follows ("No. 4").
    before_figures: frozenset[str] = frozenset()

    def with_abbreviations(self, more: frozenset[str]) -> LanguagePack:
        """This pack with abbreviations of a project besides its own."""
        return replace(self, abbreviations=self.abbreviations | more) if more else self


NEUTRAL = LanguagePack(code="neutral", name="any other language")

ENGLISH = LanguagePack(
    code="en",
    name="English",
    abbreviations=frozenset(
        """mr mrs ms dr prof capt cpt st ste mt messrs vs eg ie e.g i.e approx abt est ref att encl tel fax
        vis""".split()
    ),
    may_end=frozenset(
        """co ltd inc corp bros jr sr etc dept hrs mins secs mon tue tues wed thu thur thurs fri sat sun
        jan feb mar apr jun jul aug sep sept oct nov dec""".split()
    ),
    before_figures=frozenset("no nos nr fig p pp vol ch art para cf".split()),
)

_PACKS = {pack.code: pack for pack in (ENGLISH, NEUTRAL)}
# Name of each language that can be chosen, by its code.
LANGUAGES = {code: pack.name for code, pack in _PACKS.items()}


def language_pack(code: str) -> LanguagePack:
    """The pack for a language code; languages without one share the neutral pack."""
    return _PACKS.get(code, NEUTRAL)
