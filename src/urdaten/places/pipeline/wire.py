"""Sentences behind a figure, as staves; and how far the figures are."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from pydantic import Field
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

MOST_STAVES = 500


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


def finds_page(
    db: Session, project: Project, source: str, number: int, maker: str, outcome: str
) -> StavePage:
    """Sentences in which one list or rule, by its number and name, finds something, with gold beside it where it is signed.

    outcome: "right" and "wrong" against gold, "open" in unsigned sentences, "" for all.
    """
    if outcome not in acts.OUTCOMES:
        raise BadInput(f"An outcome is right, wrong, open or nothing, not {outcome!r}.", field="outcome")
    acts.counted(db, project)
    total, numbers = acts.texts_with(db, project, source, number, outcome, MOST_STAVES)
    wanted = texts.read_texts(db, project.id, numbers)
    by_text = texts.sentences_of(db, numbers)
    states = desk.states_of(db, [s.id for sentences in by_text.values() for s in sentences])
    blank = desk.Annotation()
    staves: list[StaveShown] = []
    for text, spans in zip(wanted, acts.matches(db, project, wanted), strict=True):
        mine = [span for span in spans if (span.source, span.maker) == (source, maker)]
        found = texts.by_sentence(mine, by_text[text.id])
        for sentence in by_text[text.id]:
            here = found[sentence.id]
            annotation = states.get(sentence.id, blank)
            signed = annotation.state == desk.SIGNED
            outcomes = {("right" if s in annotation.spans else "wrong") if signed else "open" for s in here}
            if not here or (outcome and outcome not in outcomes):
                continue
            lanes = {"gold": annotation.spans, source: here}
            staves.append(make_stave(project, text, sentence, signed, lanes, "wrong" in outcomes))
    return StavePage(total=total, staves=staves[:MOST_STAVES])
