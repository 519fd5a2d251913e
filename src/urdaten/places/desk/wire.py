"""Wire models of the Desk, and of staves, which several places show."""

from __future__ import annotations

from datetime import date, datetime
from typing import Annotated, Any, Literal
from uuid import UUID

from pydantic import Field

from urdaten.places.desk.acts import MOST_AT_ONCE
from urdaten.places.desk.orders import By
from urdaten.places.team.wire import Shown, Wire

Offset = Annotated[int, Field(ge=0, description="code points from the start of the text's body")]


class SpanShown(Shown):
    start: Offset
    end: Offset
    type: str
    source: str = ""
    probability: float | None = None
    why: str = ""
    maker: str = ""


class SpanWish(Wire):
    start: Offset
    end: Offset
    type: str


class TokenShown(Shown):
    start: Offset
    end: Offset


class AnnotationShown(Shown):
    state: str
    version: int
    spans: list[SpanShown]
    turned_down: list[SpanShown] = Field(description="evidence that shall not be offered again")
    question: str = Field(description="what an annotator asks the lead; empty if nothing")
    answer: str = Field(description="what the lead says to that; empty if nothing yet")


class ContributionShown(Shown):
    feature: str
    word: str = Field(description="the word that has the feature; empty for a move between labels")
    offset: int = Field(description="how far it stands from the labelled word, -2 to 2")
    value: float = Field(description="above zero it speaks for the span")


class WhyShown(Shown):
    """A tagger's span against the best that the tagger would say without it."""

    difference: float = Field(description="above zero the tagger sets the span")
    runner_up: list[SpanShown] = Field(description="what the best without it has in its place")
    contributions: list[ContributionShown] = Field(description="the weightiest, largest first")
    rest: int = Field(description="how many contributions are not listed")
    rest_value: float = Field(description="what those add up to")


class StaveShown(Shown):
    """A sentence with lanes, as the stave component draws it."""

    sentence_id: int
    text_id: int
    title: str
    number: int
    start: Offset
    end: Offset
    words: str
    tokens: list[TokenShown]
    signed: bool
    lanes: dict[str, list[SpanShown]]
    differs: bool = False


class StavePage(Shown):
    total: int
    staves: list[StaveShown]


class QueueItemShown(Shown):
    id: int
    text_id: int
    title: str
    split: str
    number: int
    words: str = Field(description="its first 120 code points")
    state: str
    spans: int
    asked: bool = Field(description="holds a question to the lead that has no answer yet")
    worth: float | None = Field(
        description="what the order goes by: disputed places, bits of doubt per word, or the share of new words"
    )


class SearchWish(Wire):
    """What a sentence has to be; what is empty says nothing. See desk.search.Search."""

    words: str = Field(default="", max_length=400, description="stand in the sentence")
    source: str = Field(default="", description="of the span that is looked for; gold if nothing is said")
    type: str = Field(default="", description="code of the span's type")
    named: str = Field(default="", max_length=400, description="what the span covers, as a whole")
    least: float | None = Field(default=None, description="least probability of the span")
    most: float | None = Field(default=None, description="largest probability of the span")
    state: str = ""
    title: str = Field(default="", max_length=400, description="stands in the text's title")
    group: str = ""
    since: date | None = None
    until: date | None = None


class OrderWish(SearchWish):
    """Which sentences, in which order, and from where on."""

    by: By = "reading"
    split: str = ""
    round: int | None = None
    seed: int = 0
    turn: int = Field(
        default=0, description="the same turn shows the same order; take a new one to order anew"
    )
    after: int = Field(default=0, ge=0)
    limit: int = Field(default=1000, ge=1, le=5000)


class CorrectionWish(SearchWish):
    """Gold spans that a search describes, and the type that they shall have; none for removing them."""

    split: str = ""
    round: int | None = None
    code: str = ""


class ProposalShown(Shown):
    """One sentence as it stands and as it would be."""

    stave: StaveShown = Field(description="with the lanes `now` and `then`")
    version: int
    then: list[SpanShown]


class ProposalPage(Shown):
    total: int = Field(description="sentences; no more than the first are shown")
    proposals: list[ProposalShown]


class PlaceWish(Wire):
    """A sentence that shall have these spans, and the version of it that was seen."""

    sentence_id: int
    version: int = Field(ge=0)
    spans: list[SpanWish] = Field(max_length=10_000)


class AtOnceWish(Wire):
    kind: Literal["mark alike", "correct"]
    places: list[PlaceWish] = Field(max_length=MOST_AT_ONCE)


class AtOnceShown(Shown):
    sentences: int


class QueuePage(Shown):
    items: list[QueueItemShown]
    next: int | None = Field(description="hand this back as `after` for the next page; null at the end")
    total: int = Field(description="sentences of the whole queue")
    signed: int = Field(description="signed sentences of the whole queue")
    empty: int = Field(description="of those, sentences without a span")
    asked: int = Field(description="sentences of the whole queue with a question that has no answer yet")
    act: int = Field(description="the newest act that the page knows of")
    first_open: int | None = Field(description="the first sentence that is not signed, wherever it stands")


class StandingShown(Shown):
    id: int
    state: str
    spans: int
    asked: bool


class StandingsShown(Shown):
    """Sentences that acts have touched, as they stand now."""

    act: int = Field(description="the newest act that this knows of")
    sentences: list[StandingShown]


class DeskTextShown(Shown):
    id: int
    title: str
    group: str
    split: str


class DeskSentenceShown(Shown):
    id: int
    text: DeskTextShown
    number: int
    of: int
    start: Offset
    end: Offset
    words: str
    tokens: list[TokenShown]
    before: str = Field(description="the text before it, no more than the nearest 1 000 code points")
    after: str = Field(description="the text after it, no more than the nearest 1 000 code points")
    annotation: AnnotationShown
    lanes: dict[str, list[SpanShown]]
    resolved: list[SpanShown]
    quiet: str | None = Field(description="why there are no suggestions, if there are none on purpose")


class ReadingShown(Shown):
    """A sentence in the course of its text."""

    stave: StaveShown = Field(description="with gold alone, also while it is not signed")
    state: str


class ReadingPlace(Shown):
    text: int
    number: int


class ReadingPage(Shown):
    sentences: list[ReadingShown]
    group: str = Field(description="the group that is read through; empty for a text alone")
    next: ReadingPlace | None = Field(description="where the next page begins; null at the end")


class VerdictWish(SpanWish):
    """Evidence that the act takes into gold or turns down."""

    source: str = Field(max_length=40)
    maker: str = Field(default="", max_length=400)
    taken: bool


class ChangeWish(Wire):
    """What the sentence shall be; `version` is the one you saw, `token` names this act."""

    kind: str
    version: int = Field(ge=0)
    state: str
    spans: list[SpanWish] = Field(max_length=10_000)
    turned_down: list[SpanWish] = Field(default=[], max_length=10_000)
    question: str = ""
    answer: str = ""
    verdicts: list[VerdictWish] = Field(default=[], max_length=10_000)
    token: UUID | None = None


class TravelWish(Wire):
    """Which act is meant, by its token; the newest, or for doing again the oldest, where none is named."""

    of: UUID | None = None
    token: UUID | None = Field(default=None, description="names this undoing: sent twice it is done once")


class TravelShown(Shown):
    sentence_id: int
    annotation: AnnotationShown
    sentences: int = Field(description="how many sentences were changed; the first of them is told")
    left: int = Field(description="how many were changed since, so that they were left alone")


class ActShown(Shown):
    id: int
    at: datetime
    who: str
    kind: str
    before: dict[str, Any]
    after: dict[str, Any]


class ToldShown(Shown):
    """How some words were signed in other places; test texts are not looked at."""

    as_span: dict[str, int] = Field(description="how often they were a span, by type")
    inside: dict[str, int] = Field(description="how often they were part of a longer span, by type")
    bare: int = Field(description="how often nothing was marked there")
    sentences: int


class PaceShown(Shown):
    seconds: float | None = Field(
        description="what you lately took from one signing to the next; null after too few signings"
    )


class AcceptanceShown(Shown):
    source: str
    taken: int
    turned_down: int
