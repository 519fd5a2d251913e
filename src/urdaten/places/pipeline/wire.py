"""Sentences behind a figure, as staves."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from sqlalchemy.orm import Session

from urdaten.core.spans import Span
from urdaten.errors import BadInput
from urdaten.places.desk import acts as desk
from urdaten.places.desk.wire import SpanShown, StavePage, StaveShown, TokenShown
from urdaten.places.pipeline import acts
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts

MOST_STAVES = 500
FIND_OUTCOMES = ("", "right", "wrong", "open")


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


def finds_page(db: Session, project: Project, source: str, maker: str, outcome: str) -> StavePage:
    """Sentences in which one list or rule finds something, with gold beside it where it is signed.

    outcome: "right" and "wrong" against gold, "open" in unsigned sentences, "" for all.
    """
    if outcome not in FIND_OUTCOMES:
        raise BadInput(f"An outcome is right, wrong, open or nothing, not {outcome!r}.", field="outcome")
    everything = texts.all_texts(db, project.id)
    # What is found in quiet texts is a suggestion there like any other.
    quiet = desk.quiet_among(db, project, everything)
    everything = [text for text in everything if text.id not in quiet]
    by_text = texts.sentences_of(db, [text.id for text in everything])
    states = desk.states_of(db, [s.id for sentences in by_text.values() for s in sentences])
    blank = desk.Annotation()
    staves: list[StaveShown] = []
    total = 0
    for text, found in zip(everything, acts.evidence(db, project, everything), strict=True):
        mine = [span for span in found.lanes[source] if span.maker == maker]
        for sentence in by_text[text.id] if mine else ():
            here = [s for s in mine if sentence.start <= s.start and s.end <= sentence.end]
            annotation = states.get(sentence.id, blank)
            signed = annotation.state == desk.SIGNED
            outcomes = {("right" if s in annotation.spans else "wrong") if signed else "open" for s in here}
            if not here or (outcome and outcome not in outcomes):
                continue
            total += 1
            if len(staves) < MOST_STAVES:
                lanes = {"gold": annotation.spans, source: here}
                staves.append(make_stave(project, text, sentence, signed, lanes, "wrong" in outcomes))
    return StavePage(total=total, staves=staves)
