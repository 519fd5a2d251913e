"""Routes of the Desk."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import asdict
from typing import Annotated

from fastapi import APIRouter, Query

from urdaten.core.spans import Span
from urdaten.places.desk import acts, proposals, queue, reading
from urdaten.places.desk.ranking import Ordering
from urdaten.places.desk.search import Search
from urdaten.places.desk.wire import (
    AcceptanceShown,
    ActShown,
    ActWish,
    AnnotationShown,
    AnswerWish,
    AtOnceShown,
    AtOnceWish,
    ContributionShown,
    CorrectionWish,
    DeskSentenceShown,
    LayerShown,
    MarksWish,
    OrderWish,
    PaceShown,
    PortionWish,
    ProposalPage,
    ProposalShown,
    ProposeWish,
    QuestionWish,
    QueueCounts,
    QueueItemShown,
    QueuePage,
    QueueTexts,
    QueueWish,
    ReadingPage,
    ReadingPlace,
    ReadingShown,
    SearchWish,
    SigningWish,
    SpanShown,
    SpanWish,
    StandingShown,
    StandingsShown,
    StavePage,
    ToldShown,
    TravelShown,
    TravelWish,
    WhyShown,
)
from urdaten.places.pipeline.wire import make_stave
from urdaten.places.tagger import acts as tagger
from urdaten.places.tagger.wire import JobShown
from urdaten.places.team.wire import Annotator, Belongs, Id, Lead, OfProject
from urdaten.places.texts.acts import sentences_by_text
from urdaten.platform.web import Db, Me

MOST_REASONS = 10
# Of what stands between two sentences.
BETWEEN = 2_000
MOST_STAVES = 200
# Of the sentences that are proposed at once: their code points, and their spans.
MOST_SIGNS_AT_ONCE = 300_000
MOST_SPANS_AT_ONCE = 10_000
MOST_NUMBER = 2**31 - 1

router = APIRouter(prefix="/api/projects/{project}/desk", tags=["desk"])


@router.get("/queue", operation_id="readQueue")
def read_queue(project: OfProject, db: Db, wish: Annotated[QueueWish, Query()]) -> QueuePage:
    """Part of the queue in reading order."""
    # Asked first: what comes in while the page is made is told again, not left out.
    moment = acts.moment(db)
    portion = acts.Portion(split=wish.split, round_id=wish.round, show=wish.show)
    return _page(queue.read_queue(db, project, portion, _cut(wish)), moment)


@router.get("/queue/ordered", operation_id="readOrderedQueue")
def read_ordered_queue(project: OfProject, db: Db, wish: Annotated[OrderWish, Query()]) -> QueuePage:
    """Part of the queue of those sentences that a search finds, by most disputes between sources, by the tagger's doubt,
    by new words, at random, or in reading order."""
    moment = acts.moment(db)
    return _page(queue.read_ordered(db, project, _ordering(wish), wish.show, _cut(wish)), moment)


@router.get("/queue/texts", operation_id="readQueueTexts")
def read_queue_texts(project: OfProject, db: Db, wish: Annotated[OrderWish, Query()]) -> QueueTexts:
    """The texts of the whole queue."""
    return QueueTexts(texts=queue.texts_of_queue(db, project, _ordering(wish), wish.show))


@router.get("/queue/counts", operation_id="readQueueCounts")
def read_queue_counts(project: OfProject, db: Db, wish: Annotated[PortionWish, Query()]) -> QueueCounts:
    """How far the sentences of a portion are signed."""
    acts.check_round(db, project.id, wish.round)
    return QueueCounts(**asdict(acts.progress(db, project.id, wish.split, wish.round)))


def _cut(wish: QueueWish) -> queue.Cut:
    return queue.Cut(after=wish.after, before=wish.before, at=wish.at, limit=wish.limit)


def _ordering(wish: OrderWish) -> Ordering:
    return Ordering(
        by=wish.by,
        split=wish.split,
        round_id=wish.round,
        seed=wish.seed,
        turn=wish.turn,
        search=_search(wish),
    )


@router.get("/queue/changes", operation_id="readQueueChanges")
def read_queue_changes(
    project: OfProject, db: Db, since: Annotated[int, Query(ge=0, le=2**53)]
) -> StandingsShown:
    """How sentences stand that acts have touched since that moment."""
    moment = acts.moment(db)
    touched = acts.sentences_of_acts(db, project.id, since)
    known = acts.standings(db, touched)
    blank = acts.Standing()
    return StandingsShown(
        moment=moment,
        sentences=[StandingShown(id=i, **asdict(known.get(i, blank))) for i in sorted(touched)],
    )


def _search(wish: SearchWish) -> Search:
    return Search(**{name: getattr(wish, name) for name in SearchWish.model_fields})


@router.get("/sentences/{sentence_id}/alike", operation_id="proposeAlike")
def propose_alike(
    sentence_id: Id,
    project: OfProject,
    db: Db,
    start: Annotated[int, Query(ge=0, le=MOST_NUMBER)],
    end: Annotated[int, Query(ge=0, le=MOST_NUMBER)],
    type: Annotated[str, Query(max_length=40)],
) -> ProposalPage:
    """The words from `start` to `end` marked alike in every unsigned sentence that has them; nothing is changed."""
    return _proposals(project, proposals.mark_alike(db, project, sentence_id, start, end, type))


@router.get("/corrections", operation_id="proposeCorrection")
def propose_correction(project: OfProject, db: Db, wish: Annotated[CorrectionWish, Query()]) -> ProposalPage:
    """Gold spans that a search describes given another type, or removed; nothing is changed."""
    found = proposals.correct(db, project, _search(wish), wish.split, wish.round, wish.code)
    return _proposals(project, found)


def _proposals(project: OfProject, found: Iterable[proposals.Proposal]) -> ProposalPage:
    """As many as can be looked through, and sent back, at once, one at least; the others are counted."""
    shown: list[ProposalShown] = []
    total = signs = spans = 0
    for proposal in found:
        total += 1
        signs += proposal.sentence.end - proposal.sentence.start
        spans += len(proposal.then)
        fits = total <= acts.MOST_AT_ONCE and signs <= MOST_SIGNS_AT_ONCE and spans <= MOST_SPANS_AT_ONCE
        if fits or total == 1:
            shown.append(_proposal(project, proposal))
    return ProposalPage(total=total, proposals=shown)


def _proposal(project: OfProject, proposal: proposals.Proposal) -> ProposalShown:
    now = proposal.now
    lanes = {"now": now.spans, "then": proposal.then}
    return ProposalShown(
        stave=make_stave(project, proposal.text, proposal.sentence, now.state == acts.SIGNED, lanes),
        version=now.version,
        then=[SpanShown.model_validate(span) for span in proposal.then],
    )


@router.post("/at-once", operation_id="changeAtOnce")
def change_at_once(wish: AtOnceWish, project: OfProject, me: Annotator, db: Db) -> AtOnceShown:
    """Give many sentences other spans in one act, which is undone as one."""
    wanted = {p.sentence_id: (p.version, [_span(s) for s in p.spans]) for p in wish.places}
    sentences = acts.change_many(
        db,
        project.id,
        me.id,
        wish.kind,
        wanted,
        looked_through=wish.looked_through,
        token=wish.token,
    )
    return AtOnceShown(sentences=sentences)


def _page(page: queue.Page, moment: int) -> QueuePage:
    items = [QueueItemShown.model_validate(item) for item in page.items]
    return QueuePage(items=items, previous=page.previous, next=page.next, moment=moment)


@router.get("/pace", operation_id="readPace")
def read_pace(project: OfProject, me: Me, db: Db) -> PaceShown:
    """How quickly you signed of late."""
    return PaceShown(seconds=acts.pace(db, project.id, me.id))


@router.get("/acceptance", operation_id="readAcceptance")
def read_acceptance(project: OfProject, db: Db) -> list[AcceptanceShown]:
    """How often evidence was taken and turned down at the Desk, by source."""
    return [AcceptanceShown.model_validate(one) for one in acts.acceptance(db, project.id)]


@router.get("/sentences/{sentence_id}", operation_id="openSentence")
def open_sentence(
    sentence_id: Id,
    project: OfProject,
    db: Db,
    evidence: Annotated[
        bool, Query(description="without it the answer does not wait until the whole text is looked through")
    ] = True,
) -> DeskSentenceShown:
    shown = queue.open_sentence(db, project, sentence_id, with_evidence=evidence)
    aside = [{"start": start, "end": end} for start, end in shown.aside]
    return DeskSentenceShown.model_validate(vars(shown) | {"aside": aside})


@router.get("/sentences/{sentence_id}/why", operation_id="explainSpan")
def explain_span(
    sentence_id: Id,
    project: OfProject,
    db: Db,
    start: Annotated[int, Query(ge=0, le=MOST_NUMBER)],
    end: Annotated[int, Query(ge=0, le=MOST_NUMBER)],
    type: Annotated[str, Query(max_length=40)],
) -> WhyShown:
    made = queue.why(db, project, sentence_id, Span(start, end, type))
    listed, rest = made.contributions[:MOST_REASONS], made.contributions[MOST_REASONS:]
    return WhyShown(
        difference=made.difference,
        runner_up=[SpanShown.model_validate(s) for s in made.runner_up],
        contributions=[ContributionShown.model_validate(c) for c in listed],
        rest=len(rest),
        rest_value=sum(c.value for c in rest),
    )


@router.get("/sentences/{sentence_id}/elsewhere", operation_id="readElsewhere")
def read_elsewhere(
    sentence_id: Id,
    project: OfProject,
    db: Db,
    start: Annotated[int, Query(ge=0, le=MOST_NUMBER)],
    end: Annotated[int, Query(ge=0, le=MOST_NUMBER)],
) -> ToldShown:
    """How the words from `start` to `end` were signed in this and other sentences."""
    told = queue.told(db, project, sentence_id, start, end)
    return ToldShown(as_span=told.as_span, inside=told.inside, bare=told.bare, sentences=len(told.sentences))


@router.get("/sentences/{sentence_id}/elsewhere/staves", operation_id="readElsewhereStaves")
def read_elsewhere_staves(
    sentence_id: Id,
    project: OfProject,
    db: Db,
    start: Annotated[int, Query(ge=0, le=MOST_NUMBER)],
    end: Annotated[int, Query(ge=0, le=MOST_NUMBER)],
) -> StavePage:
    """The signed sentences that hold these words."""
    told = queue.told(db, project, sentence_id, start, end)
    listed = told.sentences[:MOST_STAVES]
    states = acts.states_of(db, listed)
    staves = [
        make_stave(project, text, sentence, True, {"gold": states[sentence.id].spans})
        for text, sentences in sentences_by_text(db, listed)
        for sentence in sentences
    ]
    return StavePage(total=len(told.sentences), staves=staves)


@router.get("/reading", operation_id="readOn")
def read_on(
    project: OfProject,
    db: Db,
    text: Annotated[
        int,
        Query(
            ge=0, le=MOST_NUMBER, description="the text in which to begin, or in which the last page ended"
        ),
    ],
    number: Annotated[int, Query(ge=0, le=MOST_NUMBER, description="its first sentence to show")] = 0,
    limit: Annotated[int, Query(ge=1, le=200)] = 60,
) -> ReadingPage:
    """Sentences in reading order with their gold, to the end of the text and on through the texts of its group."""
    page = reading.read_on(db, project, text, number, limit)
    return ReadingPage(
        sentences=[
            ReadingShown(
                stave=make_stave(project, s.text, s.sentence, True, {"gold": s.annotation.spans}),
                state=s.annotation.state,
                before=s.before[-BETWEEN:],
                after=s.after[:BETWEEN],
            )
            for s in page.sentences
        ],
        group=page.group,
        next=ReadingPlace(text=page.next[0], number=page.next[1]) if page.next else None,
    )


@router.put("/sentences/{sentence_id}", operation_id="annotate")
def annotate(
    sentence_id: Id, wish: ActWish, project: OfProject, belongs: Belongs, me: Annotator, db: Db
) -> AnnotationShown:
    """One act on a sentence, in gold. Answers are a lead's to give."""
    if wish.kind == "answer":
        belongs.must_lead()
    made = acts.annotate(db, project.id, me.id, sentence_id, _act(wish))
    if wish.kind in acts.SIGNING:
        tagger.retrain_if_due(db, project, me.id)
    return AnnotationShown.model_validate(made)


def _act(wish: ActWish) -> acts.Act:
    kind, version, token = wish.kind, wish.version, wish.token
    if isinstance(wish, MarksWish | SigningWish):
        made = acts.Signing if isinstance(wish, SigningWish) else acts.Marks
        return made(
            kind=kind,
            version=version,
            token=token,
            wanted=tuple(_span(s) for s in wish.spans),
            down=tuple(_span(s) for s in wish.turned_down),
            said=tuple(
                acts.Verdict(span=_span(v), source=v.source, maker=v.maker, taken=v.taken)
                for v in wish.verdicts
            ),
        )
    if isinstance(wish, QuestionWish):
        return acts.Question(kind=kind, version=version, token=token, words=wish.question)
    if isinstance(wish, AnswerWish):
        return acts.Answer(kind=kind, version=version, token=token, words=wish.answer)
    return acts.Withdrawal(kind=kind, version=version, token=token)


@router.get("/layers", operation_id="listLayers")
def read_layers(project: OfProject, db: Db) -> list[LayerShown]:
    """Whose annotation the project holds: gold first."""
    return [LayerShown.model_validate(layer) for layer in acts.read_layers(db, project.id)]


@router.post("/layers/from-lists", status_code=202, operation_id="proposeFromLists")
def propose_from_lists(wish: ProposeWish, project: OfProject, me: Lead, db: Db) -> JobShown:
    """Make a layer of what lists find in unsigned sentences, without what is unclear; in the background."""
    return JobShown.model_validate(acts.start_proposing(db, project.id, me.id, wish.name, wish.lists))


@router.get("/layers/{layer_id}/proposals", operation_id="proposeLayer")
def propose_layer(layer_id: Id, project: OfProject, db: Db) -> ProposalPage:
    """What a layer has in unsigned sentences, added to gold; nothing is changed."""
    return _proposals(project, proposals.from_layer(db, project, layer_id))


@router.delete("/layers/{layer_id}", status_code=204, operation_id="removeLayer")
def remove_layer(layer_id: Id, project: OfProject, _me: Lead, db: Db) -> None:
    """Delete a layer of what was proposed."""
    acts.remove_layer(db, project.id, layer_id)


def _span(wish: SpanWish) -> Span:
    return Span(wish.start, wish.end, wish.type, "gold")


@router.post("/undo", operation_id="undo")
def undo(project: OfProject, me: Annotator, db: Db, wish: TravelWish | None = None) -> TravelShown:
    meant = wish or TravelWish()
    return TravelShown.model_validate(acts.undo(db, project.id, me.id, of=meant.of, token=meant.token))


@router.post("/redo", operation_id="redo")
def redo(project: OfProject, me: Annotator, db: Db, wish: TravelWish | None = None) -> TravelShown:
    meant = wish or TravelWish()
    return TravelShown.model_validate(acts.redo(db, project.id, me.id, of=meant.of, token=meant.token))


@router.get("/sentences/{sentence_id}/history", operation_id="readHistory")
def history(
    sentence_id: Id,
    project: OfProject,
    db: Db,
    layer: Annotated[int | None, Query(ge=0, le=MOST_NUMBER)] = None,
) -> list[ActShown]:
    """Who did what in a sentence, in gold unless another layer is named."""
    if layer is not None:
        acts.read_layer(db, project.id, layer)
    return [ActShown.model_validate(act) for act in acts.history(db, project.id, sentence_id, layer)]
