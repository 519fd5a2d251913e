"""What the Desk shows: the queue of sentences, and one sentence with its lanes."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy.orm import Session

from urdaten.core.memory import Told
from urdaten.core.pipeline import Heard, weigh
from urdaten.core.spans import Span
from urdaten.core.tagger import Explanation
from urdaten.errors import BadSpan
from urdaten.places.desk import acts, learned
from urdaten.places.desk.acts import Annotation
from urdaten.places.desk.acts.quiet import quiet_reason, refuse_where_quiet
from urdaten.places.desk.ranking import Ordering, rank
from urdaten.places.pipeline import acts as pipeline
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts

# As much as a row of the queue can show.
ROW_LENGTH = 120
# How far the text around an open sentence is sent along.
CONTEXT = 1000


@dataclass(frozen=True, kw_only=True)
class QueueItem:
    """One sentence in the queue."""

    id: int
    text_id: int
    title: str
    split: str
    number: int
    # Its first ROW_LENGTH code points.
    words: str
    state: str
    spans: int
    # Is there a question to the lead that has no answer?
    asked: bool
    # What the order goes by; None in reading order, at random, and for quiet texts.
    worth: float | None


@dataclass(frozen=True, kw_only=True)
class DeskSentence:
    """A sentence as the Desk opens it. All offsets are code points in the text's body."""

    id: int
    text: texts.Text
    number: int
    of: int
    start: int
    end: int
    words: str
    tokens: list[texts.Token]
    # The text's body on either side, no more than CONTEXT code points of it.
    before: str
    after: str
    annotation: Annotation
    lanes: dict[str, list[Heard]]
    resolved: list[Span]
    quiet: str | None


def read_queue(
    db: Session, project: Project, *, after: int | None, split: str, limit: int, round_id: int | None = None
) -> tuple[list[QueueItem], int | None]:
    """One page of the queue in reading order: the sentences after this one, and after which the next page starts.

    Raises NotFound for a sentence or a round that is not there.
    """
    only = None if round_id is None else acts.texts_of_round(db, project.id, round_id)
    page, more = texts.page_of_sentences(db, project.id, after=after, limit=limit, split=split, only=only)
    pairs = [(text, sentence) for text, sentences in page for sentence in sentences]
    return _items(db, pairs, {}), pairs[-1][1].id if more else None


def read_ordered(
    db: Session, project: Project, order: Ordering, *, after: int, limit: int
) -> tuple[list[QueueItem], int | None]:
    """One page of the queue in another order, from place `after` on, and where the next page starts."""
    ranking = rank(db, project, order)
    page = ranking[after : after + limit]
    pairs = {
        s.id: (text, s) for text, held in texts.sentences_by_text(db, [i for i, _ in page]) for s in held
    }
    # A text may have been removed since the sentences were ranked.
    present = [pairs[number] for number, _ in page if number in pairs]
    more = after + limit < len(ranking)
    return _items(db, present, dict(page)), after + limit if more else None


def _items(
    db: Session, pairs: Sequence[tuple[texts.Text, texts.Sentence]], worth: Mapping[int, float | None]
) -> list[QueueItem]:
    states = acts.standings(db, [sentence.id for _, sentence in pairs])
    blank = acts.Standing()
    items = []
    for text, sentence in pairs:
        standing = states.get(sentence.id, blank)
        items.append(
            QueueItem(
                id=sentence.id,
                text_id=text.id,
                title=text.title,
                split=text.split,
                number=sentence.number,
                words=text.body[sentence.start : min(sentence.end, sentence.start + ROW_LENGTH)],
                state=standing.state,
                spans=standing.spans,
                asked=standing.asked,
                worth=worth.get(sentence.id),
            )
        )
    return items


def open_sentence(
    db: Session, project: Project, sentence_id: int, *, with_evidence: bool = True
) -> DeskSentence:
    """One sentence with its context, its annotation and, if it is wanted and its text is not quiet, its evidence."""
    text, sentence = texts.read_sentence(db, project.id, sentence_id)
    quiet = quiet_reason(db, project, text)
    heard: dict[str, list[Heard]] = {}
    resolved: list[Span] = []
    if quiet is None and with_evidence:
        makers = pipeline.read_makers(db, project)
        (found,) = pipeline.evidence(db, project, [text], makers)
        lanes = {name: texts.within(spans, sentence) for name, spans in found.lanes.items()}
        lanes[learned.SOURCE] = learned.suggestions(db, project, text, [sentence])
        heard, resolved = weigh(lanes, pipeline.track_records(db, project, makers), project.overlap)
    return DeskSentence(
        id=sentence.id,
        text=text,
        number=sentence.number,
        of=texts.count_sentences(db, text.id),
        start=sentence.start,
        end=sentence.end,
        words=text.body[sentence.start : sentence.end],
        tokens=texts.tokens_between(text, project.language, sentence.start, sentence.end),
        before=text.body[max(0, sentence.start - CONTEXT) : sentence.start],
        after=text.body[sentence.end : sentence.end + CONTEXT],
        annotation=acts.annotation_of(db, sentence_id),
        lanes=heard,
        resolved=resolved,
        quiet=quiet,
    )


def told(db: Session, project: Project, sentence_id: int, start: int, end: int) -> Told:
    """How words of a sentence were signed elsewhere. Raises NotAllowed in quiet texts, BadSpan for no words of it."""
    text, sentence = texts.read_sentence(db, project.id, sentence_id)
    refuse_where_quiet(db, project, text)
    if not sentence.start <= start < end <= sentence.end:
        raise BadSpan("These words do not lie in this sentence.", start=start, end=end)
    return learned.told(db, project, text, start, end)


def why(db: Session, project: Project, sentence_id: int, span: Span) -> Explanation:
    """Why the tagger in use sets a span of a sentence, or does not.

    Raises NotAllowed in quiet texts, BadSpan for a span outside the sentence, NotFound without a tagger.
    """
    text, sentence = texts.read_sentence(db, project.id, sentence_id)
    refuse_where_quiet(db, project, text)
    if not (sentence.start <= span.start and span.end <= sentence.end):
        raise BadSpan("The span does not lie in this sentence.", start=span.start, end=span.end)
    return pipeline.why_tagged(db, project, text, span)
