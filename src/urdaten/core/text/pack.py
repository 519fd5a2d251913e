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
    # Written with a capital, these hardly stand but at the beginning of a sentence: one of them after "U.S." or "p.m." begins one.
    openers: frozenset[str] = frozenset()

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
    openers=frozenset(
        """a after all although an and another any as at because before both but by during each every few for from he
        hence her here his how however i if in it its many meanwhile more most my no nobody none nor not nothing now on once
        one only or other our please several she since so some such that the their then there therefore these they this
        those though thus to today tomorrow tonight under until we what when where whether which while who why with within
        without yesterday yet you your""".split()
    ),
)

_PACKS = {pack.code: pack for pack in (ENGLISH, NEUTRAL)}
# Name of each language that can be chosen, by its code.
LANGUAGES = {code: pack.name for code, pack in _PACKS.items()}


def language_pack(code: str) -> LanguagePack:
    """The pack for a language code; languages without one share the neutral pack."""
    return _PACKS.get(code, NEUTRAL)
