"""Wire models of the Desk, and of staves, which several places show."""

from __future__ import annotations

from datetime import date, datetime
from typing import Annotated, Any, Literal
from uuid import UUID

from pydantic import Field, model_validator

from urdaten.core.pipeline import Heard
from urdaten.places.desk.acts import MOST_AT_ONCE, Show
from urdaten.places.desk.orders import By
from urdaten.places.team.wire import Id, Shown, Wire
from urdaten.places.texts.wire import AsideShown

MOST_SPANS = 10_000
# As the database keeps numbers.
MOST_NUMBER = 2**31 - 1
Code = Annotated[str, Field(max_length=40, description="code of a type")]
Offset = Annotated[
    int, Field(ge=0, le=2**31 - 1, description="code points from the start of the text's body")
]


class SpanShown(Shown):
    start: Offset
    end: Offset
    type: str
    source: str = ""
    probability: float | None = None
    why: str = ""
    maker: str = ""


class EvidenceShown(SpanShown):
    """A span that a source finds, and what its word is worth."""

    doubt: str = Field(
        description="why its maker has no say where nobody else says so; empty where it has one"
    )
    overruled: str = Field(
        description="why it need not be looked at beside the answer; empty where it is to be"
    )
    taken: str = Field(default="", description="name of the rule that took it away; empty where none did")

    @model_validator(mode="before")
    @classmethod
    def _of_heard(cls, heard: object) -> object:
        if not isinstance(heard, Heard):
            return heard
        record = heard.record.words if heard.record else ""
        by = heard.overruled_by
        overruled = f"{record or 'improbable'}; {by.type} is surer here" if by else ""
        return SpanShown.model_validate(heard.span).model_dump() | {
            "doubt": "" if heard.has_say else record,
            "overruled": heard.taken.words if heard.taken else overruled,
            "taken": heard.taken.rule if heard.taken else "",
        }


class SpanWish(Wire):
    start: Offset
    end: Offset
    type: Code


Spans = Annotated[list[SpanWish], Field(max_length=MOST_SPANS)]


class TokenShown(Shown):
    start: Offset
    end: Offset


class AnnotationShown(Shown):
    state: str
    version: int
    spans: list[SpanShown]
    turned_down: list[SpanShown] = Field(description="evidence that is not offered again")
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
    next: int | None = Field(default=None, description="the sentence after which the next page begins")


class QueueItemShown(Shown):
    id: int
    text_id: int
    title: str
    split: str
    number: int
    of: int = Field(description="sentences of its text")
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
    layer: int | None = Field(
        default=None,
        ge=0,
        le=MOST_NUMBER,
        description="the layer whose annotation is meant; gold if none is named",
    )
    source: str = Field(
        default="", max_length=40, description="of the span that is looked for; gold if nothing is said"
    )
    type: str = Field(default="", max_length=40, description="code of the span's type")
    named: str = Field(default="", max_length=400, description="what the span covers, as a whole")
    least: float | None = Field(default=None, description="least probability of the span")
    most: float | None = Field(default=None, description="largest probability of the span")
    state: str = Field(default="", max_length=40)
    title: str = Field(default="", max_length=400, description="stands in the text's title")
    group: str = Field(default="", max_length=200)
    since: date | None = None
    until: date | None = None


class PortionWish(Wire):
    """Which sentences are gone through."""

    split: str = Field(default="", max_length=40, description="of texts of this split; of all without one")
    round: int | None = Field(default=None, ge=0, le=MOST_NUMBER, description="of texts of this round")


class QueueWish(PortionWish):
    """Part of the queue: after or before what a page named, or around a sentence; without any of these its start."""

    show: Show = "all"
    after: int | None = Field(default=None, ge=0, le=MOST_NUMBER, description="`next` of a page")
    before: int | None = Field(default=None, ge=0, le=MOST_NUMBER, description="`previous` of a page")
    at: int | None = Field(
        default=None, ge=0, le=MOST_NUMBER, description="a sentence; it comes along even if it is not shown"
    )
    limit: int = Field(default=200, ge=1, le=5000)


class OrderWish(QueueWish, SearchWish):
    """Which sentences, in which order, and which part of them."""

    by: By = "reading"
    seed: int = Field(default=0, ge=-MOST_NUMBER, le=MOST_NUMBER)
    turn: int = Field(
        default=0,
        ge=-(2**53),
        le=2**53,
        description="the same turn shows the same order; take a new one to order anew",
    )


class CorrectionWish(SearchWish):
    """Gold spans that a search describes, and the type that they shall have; none for removing them."""

    split: str = Field(default="", max_length=40)
    round: int | None = Field(default=None, ge=0, le=MOST_NUMBER)
    code: str = Field(default="", max_length=40)


class ProposalShown(Shown):
    """One sentence as it stands and as it would be."""

    stave: StaveShown = Field(description="with the lanes `now` and `then`")
    version: int
    then: list[SpanShown]


class ProposalPage(Shown):
    total: int = Field(description="sentences; no more than the first are shown")
    proposals: list[ProposalShown]


class PlaceWish(Wire):
    """A sentence that is to have these spans, and the version of it that was seen."""

    sentence_id: Annotated[int, Field(ge=0, le=MOST_NUMBER)]
    version: Annotated[int, Field(ge=0, le=MOST_NUMBER)]
    spans: Spans


class AtOnceWish(Wire):
    kind: Literal["mark alike", "correct", "take over"]
    token: UUID | None = Field(default=None, description="names this act: sent twice it is done once")
    looked_through: bool = Field(
        default=False,
        description="you have read each of these sentences: those that are signed stay signed, by you; else they are begun",
    )
    places: list[PlaceWish] = Field(max_length=MOST_AT_ONCE)


class AtOnceShown(Shown):
    sentences: int


class QueuePage(Shown):
    items: list[QueueItemShown]
    previous: int | None = Field(
        description="hand this back as `before` for what comes before; null at the start"
    )
    next: int | None = Field(description="hand this back as `after` for what comes next; null at the end")
    moment: int = Field(description="hand this back as `since` to learn what acts touch from here on")


class QueueCounts(Shown):
    """How far the sentences of a portion are signed, whatever is shown of them."""

    total: int
    signed: int
    empty: int = Field(description="of the signed ones, those without a span")
    asked: int = Field(description="sentences with a question that has no answer yet")
    first_open: int | None = Field(description="the first sentence in reading order that is not signed")


class QueueTexts(Shown):
    texts: list[int] = Field(description="each once, as its sentences come")


class StandingShown(Shown):
    id: int
    state: str
    spans: int
    asked: bool


class StandingsShown(Shown):
    """Sentences that acts have touched, as they stand now."""

    moment: int = Field(description="hand this back as `since` the next time")
    sentences: list[StandingShown]


class DeskTextShown(Shown):
    id: int
    title: str
    group: str
    split: str
    source: str = Field(description="the file or address that it came from")
    place: str = Field(description="where in it")


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
    aside: list[AsideShown] = Field(description="of these, what is quoted from others, and signatures")
    annotation: AnnotationShown
    lanes: dict[str, list[EvidenceShown]]
    resolved: list[SpanShown]
    weighs_from: float | None = Field(
        description="from which probability on the answer takes a span; null where the pipeline does not weigh them"
    )
    quiet: str | None = Field(description="why there are no suggestions, if there are none on purpose")


class ReadingShown(Shown):
    """A sentence in the course of its text."""

    stave: StaveShown = Field(description="with gold alone, also while it is not signed")
    state: str
    before: str = Field(
        description="words of its text between it and the sentence before, of which none is made"
    )
    after: str = Field(description="likewise after the last sentence of a text")


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


class _ActWish(Wire):
    """What every act says: the version of the sentence that you saw, and a name for itself."""

    version: Annotated[int, Field(ge=0, le=MOST_NUMBER)]
    token: UUID | None = None


class MarksWish(_ActWish):
    """The spans, and the evidence turned down, that the sentence is to have. What was signed is begun then."""

    kind: Literal["mark", "change", "remove", "take", "turn down", "offer again"]
    spans: Spans
    turned_down: Spans = Field(default=[])
    verdicts: Annotated[list[VerdictWish], Field(max_length=MOST_SPANS)] = Field(default=[])


class SigningWish(_ActWish):
    """You have read the sentence, and these spans are all of it; none for *sign as empty*."""

    kind: Literal["sign", "sign as empty"]
    spans: Spans
    turned_down: Spans = Field(default=[])
    verdicts: Annotated[list[VerdictWish], Field(max_length=MOST_SPANS)] = Field(default=[])


class WithdrawalWish(_ActWish):
    """The sentence is signed no more."""

    kind: Literal["unsign"]


class QuestionWish(_ActWish):
    kind: Literal["ask"]
    question: Annotated[str, Field(max_length=2000, description="empty to take it back")]


class AnswerWish(_ActWish):
    """What a lead says to the question that stands there."""

    kind: Literal["answer"]
    answer: Annotated[str, Field(max_length=2000)]


ActWish = Annotated[
    MarksWish | SigningWish | WithdrawalWish | QuestionWish | AnswerWish, Field(discriminator="kind")
]


class ProposeWish(Wire):
    """Whose finds become a layer."""

    name: str = Field(max_length=200, description="of the layer; one that was proposed before is made anew")
    lists: list[Id] | None = Field(
        default=None,
        max_length=10_000,
        description="numbers of lists; null for all that are on",
    )


class LayerShown(Shown):
    id: int
    kind: str = Field(description="gold, annotator, imported or proposed")
    name: str


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
