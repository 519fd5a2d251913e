"""Sentences behind a figure, as staves; and how far the figures are."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Collection, Iterable, Iterator, Mapping, Sequence
from functools import partial

from pydantic import BaseModel, Field
from sqlalchemy.orm import Session

from urdaten.core.spans import Span
from urdaten.errors import BadInput
from urdaten.places.desk import acts as desk
from urdaten.places.desk.wire import SpanShown, StavePage, StaveShown, TokenShown
from urdaten.places.pipeline import acts
from urdaten.places.tagger.wire import JobShown
from urdaten.places.team.acts import Project
from urdaten.places.team.wire import Shown
from urdaten.places.texts import acts as texts

# A page of them: some screens full.
STAVES = 60


class FindsWish(BaseModel):
    """Which finds: "right" and "wrong" against gold, "alone" for right ones that no other list or rule has, "open" in unsigned
    sentences, "" for all; from which sentence on."""

    outcome: str = Field(default="", max_length=40)
    after: int | None = Field(default=None, ge=0, le=2**31 - 1)


class StandingShown(Shown):
    """How far the figures of lists and rules are counted."""

    texts: int
    behind: int = Field(description="texts whose finds have yet to be counted")
    job: JobShown | None = Field(description="what is counting, or was the last to do so")


def shown_spans(spans: Sequence[Span]) -> list[SpanShown]:
    return [SpanShown.model_validate(span) for span in spans]


def make_stave(
    project: Project,
    text: texts.Text,
    sentence: texts.Sentence,
    signed: bool,
    lanes: Mapping[str, Sequence[Span]],
    differs: bool = False,
) -> StaveShown:
    """A stave whose lanes hold the given spans, cut down to the sentence."""
    return StaveShown(
        sentence_id=sentence.id,
        text_id=text.id,
        title=text.title,
        number=sentence.number,
        start=sentence.start,
        end=sentence.end,
        words=text.body[sentence.start : sentence.end],
        tokens=[
            TokenShown.model_validate(token)
            for token in texts.tokens_between(text, project.language, sentence.start, sentence.end)
        ],
        signed=signed,
        lanes={
            name: shown_spans([s for s in spans if sentence.start <= s.start and s.end <= sentence.end])
            for name, spans in lanes.items()
        },
        differs=differs,
    )


def hit_stave(project: Project, hit: acts.Hit) -> StaveShown:
    """A sentence in which a rule finds something, with gold beside it where it is signed."""
    lanes = {"gold": hit.gold, "rules": hit.found}
    return make_stave(project, hit.text, hit.sentence, hit.outcome != "open", lanes, hit.outcome == "wrong")


def finds_page(
    db: Session,
    project: Project,
    source: str,
    number: int,
    maker: str,
    wish: FindsWish,
    *,
    takes: bool = False,
) -> StavePage:
    """Sentences in which one list or rule, by its number and name, finds something, with gold beside it where it is signed;
    `takes` says of a rule that it only takes spans away.

    Raises BadInput for an outcome that there is not, NotFound where the sentence that it goes on from is gone.
    """

    def counted(outcome: str, begin: int | None) -> tuple[int, list[int]]:
        return acts.texts_with(db, project, source, number, outcome, STAVES, begin=begin)

    def rows(wanted: Sequence[texts.Text]) -> Iterator[_Row]:
        for spans, others in acts.finds_of(db, project, wanted, source, maker):
            yield partial(_against_gold, source, wish.outcome, takes, spans, others)

    return page_of(*_staves(db, project, wish, counted, rows))


def missed_page(db: Session, project: Project, number: int, code: str, wish: FindsWish) -> StavePage:
    """Signed sentences with gold spans of a type, by its number and code, that no rule finds, and what rules find there."""

    def counted(_outcome: str, begin: int | None) -> tuple[int, list[int]]:
        return acts.texts_with(db, project, acts.MISSED, number, "", STAVES, begin=begin)

    def rows(wanted: Sequence[texts.Text]) -> Iterator[_Row]:
        for spans in acts.marked_by_rules(db, project, wanted):
            yield partial(_missed, code, spans)

    return page_of(*_staves(db, project, wish, counted, rows))


def entry_page(
    db: Session, project: Project, entry: int, wish: FindsWish
) -> tuple[StavePage, dict[str, int]]:
    """As finds_page, of one entry of a list, with a lane of the answer that all sources come to; and how many of its finds in
    these sentences are not in that answer, by what stands there instead: a source, or "left out" for nothing. What an entry finds
    alone is not counted; raises BadInput for that too."""
    if wish.outcome == "alone":
        raise BadInput("What an entry finds alone is not counted; ask for its list.", field="outcome")

    def counted(outcome: str, begin: int | None) -> tuple[int, list[int]]:
        return acts.texts_with_entry(db, project, entry, outcome, STAVES, begin=begin)

    def rows(wanted: Sequence[texts.Text]) -> Iterator[_Row]:
        for spans in acts.entry_matches(db, project, wanted, entry):
            yield partial(_against_gold, "lists", wish.outcome, False, spans, frozenset())

    shown = page_of(*_staves(db, project, wish, counted, rows))
    wanted = texts.read_texts(db, project.id, list(dict.fromkeys(stave.text_id for stave in shown.staves)))
    answers = {
        text.id: one.resolved for text, one in zip(wanted, acts.evidence(db, project, wanted), strict=True)
    }
    beaten: Counter[str] = Counter()
    for stave in shown.staves:
        own = [s for s in answers.get(stave.text_id, ()) if stave.start <= s.start and s.end <= stave.end]
        stave.lanes["together"] = shown_spans(own)
        for span in stave.lanes["lists"]:
            if any((s.start, s.end, s.type) == (span.start, span.end, span.type) for s in own):
                continue
            over = [s.source for s in own if s.start < span.end and span.start < s.end]
            beaten[over[0] if over else "left out"] += 1
    return shown, dict(beaten)


# What a sentence shows in its lanes, and whether it differs from gold; None for one that is not asked for.
_Row = Callable[[texts.Sentence, desk.Annotation], tuple[dict[str, Sequence[Span]], bool] | None]


def _against_gold(
    source: str,
    outcome: str,
    takes: bool,
    found: Sequence[Span],
    others: Collection[Span],
    sentence: texts.Sentence,
    annotation: desk.Annotation,
) -> tuple[dict[str, Sequence[Span]], bool] | None:
    here = texts.within(found, sentence)
    outcomes = {"open"}
    if annotation.state == desk.SIGNED:
        good = [span for span in here if (span in annotation.spans) != takes]
        outcomes = {"right"} if good else set()
        outcomes |= {"wrong"} if len(good) < len(here) else set()
        outcomes |= {"alone"} if any(span not in others for span in good) else set()
    if not here or (outcome and outcome not in outcomes):
        return None
    return {"gold": annotation.spans, source: here}, "wrong" in outcomes


def _missed(
    code: str, marked: Sequence[Span], sentence: texts.Sentence, annotation: desk.Annotation
) -> tuple[dict[str, Sequence[Span]], bool] | None:
    here = texts.within(marked, sentence)
    if annotation.state != desk.SIGNED or all(s in here for s in annotation.spans if s.type == code):
        return None
    return {"gold": annotation.spans, "rules": here}, True


def _staves(
    db: Session,
    project: Project,
    wish: FindsWish,
    counted: Callable[[str, int | None], tuple[int, list[int]]],
    rows: Callable[[Sequence[texts.Text]], Iterable[_Row]],
) -> tuple[int, list[StaveShown]]:
    """How many sentences there are, and those of one page and one more; `rows` has one for each of some texts."""
    outcome, after = wish.outcome, wish.after
    if outcome not in acts.OUTCOMES:
        raise BadInput(
            f"An outcome is right, wrong, alone, open or nothing, not {outcome!r}.", field="outcome"
        )
    acts.counted(db, project)
    last = None if after is None else texts.read_sentence(db, project.id, after)[1]
    total, numbers = counted(outcome, last.text_id if last else None)
    wanted = texts.read_texts(db, project.id, numbers)
    by_text = texts.sentences_of(db, numbers)
    states = desk.states_of(db, [s.id for sentences in by_text.values() for s in sentences])
    blank = desk.Annotation()
    staves: list[StaveShown] = []
    for text, row in zip(wanted, rows(wanted), strict=True):
        for sentence in by_text[text.id]:
            if last and sentence.text_id == last.text_id and sentence.number <= last.number:
                continue
            annotation = states.get(sentence.id, blank)
            if told := row(sentence, annotation):
                signed = annotation.state == desk.SIGNED
                staves.append(make_stave(project, text, sentence, signed, *told))
            if len(staves) > STAVES:
                return total, staves
    return total, staves


def page_of(total: int, staves: list[StaveShown]) -> StavePage:
    """A page of staves, of which one more than fits says that there is another."""
    shown = staves[:STAVES]
    return StavePage(total=total, staves=shown, next=shown[-1].sentence_id if len(staves) > STAVES else None)
