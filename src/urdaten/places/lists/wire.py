"""Wire models of the lists place."""

from __future__ import annotations

from typing import Annotated

from pydantic import AwareDatetime, Field

from urdaten.core.lists import Case, ListOptions
from urdaten.places.desk.wire import StavePage
from urdaten.places.lists import acts
from urdaten.places.team.wire import Id, Seen, Shown, Wire
from urdaten.platform.jobs import JobState

Code = Annotated[str, Field(max_length=40, description="code of a type")]
Written = Annotated[str, Field(max_length=2000)]
Phrases = Annotated[list[Annotated[str, Field(max_length=500)]], Field(max_length=500)]
# Far beyond what is allowed: the acts say what that is.
Length = Annotated[int, Field(ge=-1000, le=10_000)]
_AS_EVER = ListOptions()


class OptionsWish(Wire):
    """How the names of a list are looked for. Letters are letters and figures."""

    case: Case = Field(
        default=_AS_EVER.case,
        description="capital: in any case, but a name that is written with a capital never in small letters; any: in any "
        "case; exact: letter by letter",
    )
    exact_below: Length = Field(
        default=0, description="names with fewer letters are found letter by letter only"
    )
    accents: bool = Field(default=True, description="do accents count?")
    hyphens: bool = Field(default=False, description="is a hyphen as good as a space?")
    endings: bool = Field(default=False, description="are plurals and possessives found too?")
    slips: bool = Field(
        default=False,
        description="may a word of six letters or more have one slip? Accents do not count then",
    )
    shortest: Length = Field(default=0, description="names with fewer letters are not looked for")
    near: Phrases = Field(default=[], description="found only with one of these within so many tokens")
    within: Length = _AS_EVER.within
    not_after: Phrases = Field(default=[], description="not found right after one of these")
    not_before: Phrases = Field(default=[], description="not found right before one of these")

    def options(self) -> ListOptions:
        """As the core has them."""
        phrases = {
            name: tuple(map(str.strip, getattr(self, name))) for name in ("near", "not_after", "not_before")
        }
        return ListOptions(**(self.model_dump() | phrases))


class ListWish(Wire):
    name: str = Field(max_length=80)
    type: Code
    on: bool = True
    options: OptionsWish = Field(default_factory=OptionsWish)


class ChangedListWish(ListWish):
    version: Seen


class OptionsShown(Shown):
    case: Case
    exact_below: int
    accents: bool
    hyphens: bool
    endings: bool
    slips: bool
    shortest: int
    near: list[str]
    within: int
    not_after: list[str]
    not_before: list[str]


class ListShown(Shown):
    id: int
    version: int
    name: str
    type: str
    on: bool
    options: OptionsShown
    entries: int
    finds: int = Field(description="places where the list finds a name in the project's texts")
    right: int = Field(description="of these, spans that stand in gold just so")
    judged: int = Field(description="finds that lie in signed sentences")


class EntryWish(Wire):
    preferred: Written
    variants: list[Written] = Field(default=[], max_length=500)
    note: str = Field(default="", max_length=5000)
    identifier: str = Field(default="", max_length=1000)
    on: bool = True
    source: str = Field(
        default="", max_length=200, description="where it came from, in words; kept of a new one"
    )

    def draft(self) -> acts.EntryDraft:
        """As the acts have it."""
        return acts.EntryDraft(**(self.model_dump(exclude={"version"}) | {"variants": tuple(self.variants)}))


class ChangedEntryWish(EntryWish):
    version: Seen


class WorthShown(Shown):
    finds: int
    judged: int = Field(description="finds that lie in signed sentences")
    right: int = Field(description="of these, spans that stand in gold just so")
    small: int = Field(
        description="places where its name stands in small letters, though the list writes it with a capital"
    )
    harm: float = Field(description="by how many points the F1 of its list would rise without it")


class EntryShown(Shown):
    id: int
    version: int
    preferred: str
    variants: list[str]
    note: str
    identifier: str
    on: bool
    source: str
    worth: WorthShown


class EntryPage(Shown):
    entries: list[EntryShown]
    next: int | None = Field(description="hand this back as `after` for the next page; null at the end")


class EntriesWish(Wire):
    """Which entries, and in what order."""

    search: str = Field(default="", max_length=200)
    show: str = Field(
        default="",
        max_length=40,
        description="never, harmful, common (also in small letters), two (in two lists), off",
    )
    order: str = Field(default="name", max_length=40, description="name, harm, finds")

    def filter(self) -> acts.EntryFilter:
        """As the acts have it."""
        return acts.EntryFilter(search=self.search, show=self.show, order=self.order)


class EntryCounts(Shown):
    """How many entries there are of each kind."""

    all: int
    never: int
    harmful: int
    common: int
    two: int
    off: int


class ManyWish(Wire):
    """Entries by number, or all that a filter finds."""

    entries: list[Id] | None = Field(default=None, min_length=1, max_length=100_000)
    filter: EntriesWish | None = None
    expected: int | None = Field(
        default=None,
        ge=0,
        le=2**31 - 1,
        description="as many as you saw; with another number nothing is done",
    )


class SwitchWish(ManyWish):
    on: bool


class ListActShown(Shown):
    """Something that was done to a list or its entries, which can be undone."""

    id: int
    list_id: int
    said: str = Field(description="in words, as in “Undo …”")
    entries: int
    at: AwareDatetime
    undone: bool


class LatestListAct(Shown):
    act: ListActShown | None


class ListUndoneShown(Shown):
    entries: int = Field(description="that are as before")
    left: int = Field(description="that somebody has changed since; they stay")


class ElsewhereShown(Shown):
    list_id: int
    list: str
    entry_id: int
    preferred: str


class EntryExplained(Shown):
    """What explains an entry."""

    elsewhere: list[ElsewhereShown] = Field(description="entries of other lists that are written alike")
    finds: StavePage
    beaten: dict[str, int] = Field(
        description="of the finds in these sentences, how many gave way to something else, by whom"
    )


class NamesPlanWish(Wire):
    """How a file of names is read; what is empty is found out."""

    kind: str = Field(default="", max_length=40, description="csv, xlsx, jsonl, turtle, json-ld or lines")
    encoding: str = Field(default="", max_length=40)
    delimiter: str = Field(default="", max_length=8)
    header: bool | None = None
    roles: dict[Annotated[str, Field(max_length=200)], Annotated[str, Field(max_length=40)]] = Field(
        default={},
        max_length=1000,
        description="of columns: name, variants, identifier, note, on, label or none",
    )
    parts: str = Field(default="", max_length=8, description="what parts the variants in a cell")
    rest: str = Field(
        default="keep", max_length=40, description="names that are not in the file: keep, off or delete"
    )
    label: str = Field(default="", max_length=200, description="only names with this label; all without")


class NamesColumnShown(Shown):
    name: str
    role: str
    values: list[str]


class NamesFoundShown(Shown):
    kind: str
    encoding: str
    guessed: bool
    delimiter: str
    header: bool
    columns: list[NamesColumnShown]


class ComingShown(Shown):
    name: str
    variants: list[str]
    place: str
    before: str = Field(description="what the list calls it, or which list has it")


class RefusedShown(Shown):
    place: str
    why: str
    content: str


class ComingCounts(Shown):
    new: int
    same: int
    changed: int
    variant: int = Field(description="that are variants of another name already")
    double: int = Field(description="that the file has before")
    elsewhere: int = Field(description="that another list has, too")
    refused: int
    unmet: int = Field(description="names of the list that the file has not")


class ComingSamples(Shown):
    new: list[ComingShown]
    same: list[ComingShown]
    changed: list[ComingShown]
    variant: list[ComingShown]
    double: list[ComingShown]
    elsewhere: list[ComingShown]
    refused: list[RefusedShown]


class LabelShown(Shown):
    label: str
    names: int


class ComingLookedShown(Shown):
    """What would come of a file."""

    found: NamesFoundShown | None
    counts: ComingCounts
    samples: ComingSamples
    labels: list[LabelShown] = Field(
        default=[], description="labels of the file's names, the most frequent first, whichever of them come"
    )
    amiss: str = Field(description="why nothing can be kept; empty where something can")


class ListWorkShown(Shown):
    id: int
    kind: str
    state: JobState
    done: int
    unit: str
    message: str


class ListImportShown(Shown):
    id: int
    list_id: int
    state: str = Field(description="open, or kept")
    name: str
    plan: NamesPlanWish
    looked: ComingLookedShown | None
    act: int | None = Field(description="the act that it became, which can be undone")
    work: ListWorkShown | None


class KinShown(Shown):
    entry_id: int
    preferred: str
    kind: str = Field(
        description="signs, slip, initials, short words, fewer words or first letters: in what they differ"
    )


class MissingShown(Shown):
    """A name of gold that no list of its type has."""

    words: str
    spans: int
    texts: int
    sentence_id: int = Field(description="one of the sentences")
    kin: list[KinShown] = Field(description="entries that may be of the same thing, the nearest first")


class MissingPage(Shown):
    total: int
    names: list[MissingShown]


class HarmShown(Shown):
    """What turning off all entries that did more harm than good would come to, in signed sentences."""

    entries: list[EntryShown]
    precision: float | None
    recall: float | None
    f1: float | None
    precision_after: float | None
    recall_after: float | None
    f1_after: float | None


class StarterWish(Wire):
    """Which names of the general lexicon: all of a kind, or all beneath a meaning."""

    kind: str = Field(default="", max_length=40)
    beneath: Annotated[int, Field(ge=0, le=2**31 - 1)] | None = Field(
        default=None, description="number of a meaning"
    )
    sort: str = Field(
        default="both",
        max_length=40,
        description="names of single things, words for kinds of things, or both",
    )
    search: str = Field(default="", max_length=100)

    def starter(self) -> acts.Starter:
        """As the acts have it."""
        return acts.Starter(kind=self.kind, beneath=self.beneath, sort=self.sort, search=self.search)


class StarterPageWish(StarterWish):
    after: int = Field(default=0, ge=0, le=10**6)


class TakeStarterWish(StarterWish):
    list_id: Id
    numbers: list[Annotated[int, Field(ge=0, le=2**31 - 1)]] | None = Field(
        default=None, min_length=1, max_length=100_000, description="of some of the names; null for all"
    )


class StarterKindShown(Shown):
    kind: str
    names: int = Field(description="single things that have names")
    words: int = Field(description="kinds of things")


class StarterKindsShown(Shown):
    installed: bool
    kinds: list[StarterKindShown]


class StarterNameShown(Shown):
    number: int
    words: list[str] = Field(description="every way to write it, the commonest first")
    meaning: str


class StarterMeaningShown(StarterNameShown):
    """A meaning that others fall under."""

    names: int = Field(description="single things beneath it that have names")
    kinds: int = Field(description="kinds of things beneath it")


class StarterPage(Shown):
    total: int
    names: list[StarterNameShown]
    narrower: list[StarterMeaningShown] = Field(
        description="under what most of them fall; with the first page alone"
    )
    next: int | None = Field(description="hand this back as `after` for the next page; null at the end")
