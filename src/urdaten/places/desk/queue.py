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
from urdaten.places.desk.lanes import PIPELINE
from urdaten.places.desk.ranking import Ordering, rank
from urdaten.places.desk.search import Search
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
    # Sentences of its text.
    of: int
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
    # Of it, half-open bounds of what others are quoted with, and of signatures.
    aside: list[tuple[int, int]]
    annotation: Annotation
    lanes: dict[str, list[Heard]]
    resolved: list[Span]
    # From which probability on the answer takes a span, where the pipeline weighs them.
    weighs_from: float | None
    quiet: str | None


@dataclass(frozen=True, kw_only=True)
class Page:
    """Some sentences of the queue, and how to ask for those before and after them; None where there are none."""

    items: list[QueueItem]
    previous: int | None
    next: int | None


@dataclass(frozen=True, kw_only=True)
class Cut:
    """Which part of the queue: after or before what a page named, or around a sentence; without any of these its start."""

    after: int | None = None
    before: int | None = None
    at: int | None = None
    limit: int = 200


def read_queue(db: Session, project: Project, portion: acts.Portion, cut: Cut) -> Page:
    """Part of the queue in reading order. Around a sentence that is not in it means around its first one.

    Raises NotFound for a round, or for a sentence to go on from, that is not there.
    """
    acts.check_round(db, project.id, portion.round_id)

    def window(beside: int | None, limit: int, *, back: bool = False) -> list[int]:
        return acts.window(db, project.id, portion, beside, limit, back=back)

    # One more than is wanted says whether there are more.
    limit, at = cut.limit, cut.at
    if at is not None and acts.is_listed(db, project.id, portion, at):
        half = limit // 2
        earlier, later = window(at, half + 1, back=True), window(at, limit + 1)
        numbers = [*_last(earlier, half), at, *later[:limit]]
        begin, end = len(earlier) > half, len(later) > limit
    elif cut.before is not None:
        found = window(cut.before, limit + 1, back=True)
        numbers, begin, end = _last(found, limit), len(found) > limit, True
    else:
        found = window(cut.after, limit + 1)
        numbers, begin, end = found[:limit], cut.after is not None, len(found) > limit
    pairs = [(text, s) for text, held in texts.sentences_by_text(db, numbers) for s in held]
    return Page(
        items=_items(db, pairs, {}),
        previous=pairs[0][1].id if pairs and begin else None,
        next=pairs[-1][1].id if pairs and end else None,
    )


def _last(found: list[int], count: int) -> list[int]:
    return found[max(0, len(found) - count) :]


def read_ordered(db: Session, project: Project, order: Ordering, show: acts.Show, cut: Cut) -> Page:
    """Part of the queue in another order; pages name places of it."""
    ranking = rank(db, project, order)
    at = None if cut.at is None else ranking.place_of(db, cut.at)
    limit = cut.limit
    if at is not None:
        earlier = _shown_before(db, project, ranking, show, at, limit // 2)
        later = _shown_from(db, project, ranking, show, at + 1, limit)
        found = [*earlier, *((at, *pair) for pair in ranking.part(db, at, at + 1)), *later]
    elif cut.before is not None:
        found = _shown_before(db, project, ranking, show, cut.before, limit)
    else:
        found = _shown_from(db, project, ranking, show, cut.after or 0, limit)
    pairs = {
        s.id: (text, s) for text, held in texts.sentences_by_text(db, [n for _, n, _ in found]) for s in held
    }
    # A text may have been removed since the sentences were ranked.
    present = [pairs[number] for _, number, _ in found if number in pairs]
    first, last = (found[0][0], found[-1][0] + 1) if found else (0, ranking.length)
    return Page(
        items=_items(db, present, {number: worth for _, number, worth in found}),
        previous=first if _shown_before(db, project, ranking, show, first, 1) else None,
        next=last if _shown_from(db, project, ranking, show, last, 1) else None,
    )


# Place, sentence, and what it was ranked by.
_Placed = tuple[int, int, float | None]
# So many places of a ranking are looked at first; twice as many each time that too few of them are shown.
_LOOK = 500


def _shown_from(
    db: Session, project: Project, ranking: acts.Kept | acts.Made, show: acts.Show, begin: int, limit: int
) -> list[_Placed]:
    found: list[_Placed] = []
    look = max(_LOOK, limit)
    while len(found) < limit and begin < ranking.length:
        found += _shown_part(db, project, ranking, show, begin, begin + look)
        begin, look = begin + look, 2 * look
    return found[:limit]


def _shown_before(
    db: Session, project: Project, ranking: acts.Kept | acts.Made, show: acts.Show, end: int, limit: int
) -> list[_Placed]:
    found: list[_Placed] = []
    look = max(_LOOK, limit)
    while len(found) < limit and end > 0:
        found = _shown_part(db, project, ranking, show, max(0, end - look), end) + found
        end, look = end - look, 2 * look
    return found[-limit:] if limit else []


def _shown_part(
    db: Session, project: Project, ranking: acts.Kept | acts.Made, show: acts.Show, begin: int, end: int
) -> list[_Placed]:
    part = ranking.part(db, begin, end)
    shown = acts.shown_among(db, project.id, show, [number for number, _ in part])
    return [(begin + k, number, worth) for k, (number, worth) in enumerate(part) if number in shown]


def texts_of_queue(db: Session, project: Project, order: Ordering, show: acts.Show) -> list[int]:
    """The texts of the queue, each once, as its sentences come."""
    if order.by == "reading" and order.search == Search():
        acts.check_round(db, project.id, order.round_id)
        portion = acts.Portion(split=order.split, round_id=order.round_id, show=show)
        return acts.texts_listed(db, project.id, portion)
    ranking = rank(db, project, order)
    numbers = [number for _, number, _ in _shown_part(db, project, ranking, show, 0, ranking.length)]
    holders = {s.id: text.id for text, held in texts.sentences_by_text(db, numbers) for s in held}
    return list(dict.fromkeys(holders[number] for number in numbers if number in holders))


def _items(
    db: Session, pairs: Sequence[tuple[texts.Text, texts.Sentence]], worth: Mapping[int, float | None]
) -> list[QueueItem]:
    states = acts.standings(db, [sentence.id for _, sentence in pairs])
    blank = acts.Standing()
    lengths = texts.lengths(db, {text.id for text, _ in pairs})
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
                of=lengths[text.id],
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
    weighs_from: float | None = None
    if quiet is None and with_evidence:
        makers = pipeline.read_makers(db, project)
        (found,) = pipeline.evidence(db, project, [text], makers)
        lanes = {name: texts.within(spans, sentence) for name, spans in found.lanes.items()}
        lanes[learned.SOURCE] = learned.suggestions(db, project, text, [sentence])
        records = pipeline.track_records(db, project, makers)
        own = texts.within(found.resolved, sentence) if found.is_own else None
        heard, resolved = weigh(lanes, records, project.overlap, makers.ranks, own)
        weighs_from = found.weighs_from
        if found.is_own:
            said = {span for spans in lanes.values() for span in spans}
            if more := [Heard(span) for span in resolved if span not in said]:
                heard[PIPELINE] = more
        for span, why in found.taken:
            if sentence.start <= span.start and span.end <= sentence.end:
                heard[span.source].append(Heard(span, records.get((span.source, span.maker)), taken=why))
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
        aside=[
            (start, end)
            for start, end in text.aside
            if sentence.start - CONTEXT < end and start < sentence.end + CONTEXT
        ],
        annotation=acts.annotation_of(db, sentence_id),
        lanes=heard,
        resolved=resolved,
        weighs_from=weighs_from,
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
