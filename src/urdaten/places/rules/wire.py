"""Wire models of the rules place."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from urdaten.places.desk.wire import Offset, SpanShown, StaveShown
from urdaten.places.tagger.wire import JobShown
from urdaten.places.team.wire import Seen, Shown, Wire

Priority = Literal["low", "usual", "high"]
Example = Annotated[str, Field(max_length=20_000)]


class RuleWish(Wire):
    name: str = Field(max_length=80)
    type: str = Field(max_length=40, description="code of a type")
    pattern: str = Field(max_length=20_000, description="in the rule language (docs/rules.md)")
    must_find: list[Example] = Field(default=[], max_length=200)
    must_not_find: list[Example] = Field(default=[], max_length=200)
    about: str = Field(default="", max_length=4000, description="in words, what it is for")
    on: bool = True
    priority: Priority = Field(
        default="usual", description="where its finds meet those of other rules: high stays, low gives way"
    )


class ChangedRuleWish(RuleWish):
    version: Seen


class TrialWish(RuleWish):
    rule: int | None = Field(
        default=None, ge=1, le=2**31 - 1, description="number of the rule that it is to replace"
    )


class PlaceWish(Wire):
    place: int = Field(ge=0, le=100_000, description="from 0: rules see what those before them have found")


class LeansShown(Shown):
    """What a pattern asks of words that may be answered wrongly."""

    tags: list[str] = Field(description="parts of speech")
    lemmas: bool


class RuleShown(Shown):
    id: int
    version: int
    name: str
    type: str
    pattern: str
    must_find: list[str]
    must_not_find: list[str]
    about: str
    on: bool
    priority: Priority
    failing: int = Field(description="of its own examples, how many it fails")
    finds: int
    right: int
    judged: int
    takes: bool = Field(
        description="it only takes spans away: its finds are those, right where they are not gold"
    )
    alone: int = Field(description="right finds that no other rule has")
    missed: int = Field(description="gold spans of its type that no rule finds")
    trouble: str | None = Field(description="why the rule could not be held against the texts, if so")
    aloud: list[str] = Field(description="what the pattern says, sentence by sentence")
    leans: LeansShown


class RuleActShown(Shown):
    """Something that was done to a rule or a fragment, which can be undone."""

    id: int
    said: str = Field(description="in words, as in “Undone: …”")


class LatestRuleAct(Shown):
    act: RuleActShown | None


class RuleUndoneShown(Shown):
    left: str = Field(description="why it stays as it is; empty where it is as before")


class TookShown(Shown):
    """A part of a pattern and the words that it took."""

    said: str
    marked: bool
    words: str


class RuleWhyShown(Shown):
    """A rule that set a span, or took one away."""

    id: int
    name: str
    takes: bool
    slots: list[TookShown] = Field(description="none where that would take too long to find")
    conditions: list[str]


class ExampleShown(Shown):
    text: str
    wanted: bool
    holds: bool
    found: list[SpanShown]


class TrialShown(Shown):
    examples: list[ExampleShown]
    finds: int
    right: int = Field(description="of those in signed sentences, how many are gold")
    judged: int = Field(description="finds in signed sentences")
    takes: bool = Field(
        description="it only takes spans away: its finds are those, right where they are not gold"
    )
    texts: int = Field(description="how many texts it was tried on: the first of those with suggestions")
    all: bool = Field(description="whether these are all of them")
    staves: list[StaveShown] = Field(
        description="the first sentences in which it finds something, wrong finds first"
    )
    aloud: list[str] = Field(description="what the pattern says, sentence by sentence")
    leans: LeansShown


class TrialOfAllShown(Shown):
    """A rule that is not saved yet, as it is held against all texts."""

    job: JobShown
    finds: int = Field(description="so far; of a job that runs 0 until it ends")
    right: int
    judged: int
    takes: bool
    texts: int
    staves: list[StaveShown] = Field(
        description="the first sentences in which it finds something, wrong finds first"
    )


class FragmentWish(Wire):
    name: str = Field(max_length=80)
    pattern: str = Field(
        max_length=20_000, description="in the rule language, without brackets and conditions"
    )
    about: str = Field(default="", max_length=4000, description="in words, what it stands for")


class WordsWish(Wire):
    text: str = Field(max_length=20_000)


class WordShown(Shown):
    start: Offset
    end: Offset
    sentence: int = Field(description="number of its sentence in the text, from 0")
    tag: str = Field(description="part of speech; empty where the language has none")
    lemma: str
    shapes: list[str] = Field(description="as patterns name them")
    kinds: list[str] = Field(description="what the general lexicon says that it can stand for")


class LookShown(Shown):
    words: list[WordShown]
    lists: list[SpanShown]
    rules: list[SpanShown]
    phrases: list[SpanShown] = Field(description="what fragments match, by their names")


class OffersWish(Wire):
    type: str = Field(max_length=40, description="code of a type")


class OfferShown(Shown):
    pattern: str
    right: int = Field(description="of what it finds in signed sentences, how many are gold")
    wrong: int
    adds: int = Field(description="gold that neither rules that are on nor offers before it find")
    aloud: list[str]


class OffersShown(Shown):
    offers: list[OfferShown]
    sentences: int = Field(description="signed sentences that they were learnt from; none of test texts")
    all: bool = Field(description="whether these are all of them")


class TakenShown(Shown):
    words: str
    right: int
    wrong: int


class SlotShown(Shown):
    """A part of a pattern with the words that it took."""

    line: int = Field(description="number of the line of the rule, from 0")
    said: str
    marked: bool
    distinct: int = Field(description="different words that it took")
    taken: list[TakenShown] = Field(description="the first of them, those of wrong finds first")


class SharedShown(Shown):
    rule: str
    finds: int


class SlotsShown(Shown):
    finds: int = Field(description="finds in signed sentences that were looked at")
    right: int
    alone: int = Field(description="right ones that no other rule finds")
    shared: list[SharedShown] = Field(description="rules that find right ones too")
    slots: list[SlotShown]


class TagShown(Shown):
    tag: str
    about: str
    gold: int = Field(description="words of held-out sentences that have it")
    found: int = Field(description="words that were given it")
    right: int = Field(description="words that were given it and have it")


class HeldOutShown(Shown):
    source: str
    words: int
    right: int
    known: int = Field(description="words whose form was learnt from")
    known_right: int
    unknown: int
    unknown_right: int
    lemmas_right: int


class RuleLanguageShown(Shown):
    """What patterns may ask of words in this project, and how often the answer is right."""

    tags: list[TagShown] = Field(description="none where the language has no parts of speech")
    held_out: list[HeldOutShown]
    kinds: list[str] = Field(description="none where no general lexicon is installed")
    ready_made: list[FragmentWish] = Field(description="fragments that can be taken over")


class ChangedFragmentWish(FragmentWish):
    version: Seen


class FragmentShown(Shown):
    id: int
    version: int
    name: str
    pattern: str
    about: str
    used_by: list[str] = Field(description="names of rules and fragments that use it")
