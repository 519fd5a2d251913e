"""The act of annotation: every change of a sentence is one act of the log."""

from __future__ import annotations

from dataclasses import dataclass
from uuid import UUID

from sqlalchemy import select
from sqlalchemy.orm import Session

from urdaten.core.spans import Overlap, Span, check_span
from urdaten.errors import BadInput, BadSpan, StaleWrite
from urdaten.places.desk.acts.annotation import DRAFT, SIGNED, UNTOUCHED, Annotation, annotation_of, as_json
from urdaten.places.desk.acts.history import last_hand
from urdaten.places.desk.acts.storing import Step, check_overlap, lock, log, store
from urdaten.places.desk.tables import ActRow, VerdictRow
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types

KINDS = (
    "mark",
    "change",
    "remove",
    "take",
    "turn down",
    "offer again",
    "sign",
    "sign as empty",
    "unsign",
    "ask",
    "answer",
)
MOST_WORDS_OF_A_QUESTION = 2000


@dataclass(frozen=True, kw_only=True)
class Verdict:
    """What an act says of one span of evidence."""

    span: Span
    source: str
    maker: str
    taken: bool


@dataclass(frozen=True, kw_only=True)
class Change:
    """What an annotator wants a sentence to be, and the version that they saw."""

    kind: str
    version: int
    state: str
    spans: tuple[Span, ...]
    turned_down: tuple[Span, ...] = ()
    question: str = ""
    answer: str = ""
    verdicts: tuple[Verdict, ...] = ()
    token: UUID | None = None

    @property
    def wanted(self) -> Annotation:
        return Annotation(
            state=self.state,
            spans=tuple(sorted(self.spans)),
            turned_down=tuple(sorted(self.turned_down)),
            question=self.question.strip(),
            answer=self.answer.strip(),
        )


def _check(
    db: Session,
    project_id: int,
    text: texts.Text,
    sentence: texts.Sentence,
    change: Change,
    overlap: Overlap,
) -> None:
    if change.kind not in KINDS:
        raise BadInput(f"An act is one of {', '.join(KINDS)}, not {change.kind!r}.", field="kind")
    if change.state not in (UNTOUCHED, DRAFT, SIGNED):
        raise BadInput(f"A state is untouched, draft or signed, not {change.state!r}.", field="state")
    if change.state == UNTOUCHED and change.spans:
        raise BadInput("A sentence with spans is not untouched.", field="state")
    if change.kind == "sign as empty" and change.spans:
        raise BadInput("A sentence with spans cannot be signed as empty; remove them first.", field="spans")
    for words, field in ((change.question, "question"), (change.answer, "answer")):
        if len(words) > MOST_WORDS_OF_A_QUESTION or "\0" in words:
            raise BadInput(f"This {field} is too long, or holds NUL characters.", field=field)
    judged = [verdict.span for verdict in change.verdicts]
    every = [*change.spans, *change.turned_down, *judged]
    types.type_numbers(db, project_id, {span.type for span in every})
    for span in every:
        check_span(span.start, span.end, text.body)
        if span.start < sentence.start or span.end > sentence.end:
            raise BadSpan(
                f"The span from {span.start} to {span.end} leaves its sentence, which runs from "
                f"{sentence.start} to {sentence.end}.",
                start=span.start,
                end=span.end,
            )
    for spans in (change.spans, change.turned_down):
        if len(set(spans)) < len(spans):
            raise BadInput("One and the same span stands there twice.", field="spans")
    check_overlap(change.spans, overlap)


def annotate(
    db: Session, project_id: int, account_id: int | None, sentence_id: int, change: Change
) -> Annotation:
    """Make a sentence what the change says. The same token sent again changes nothing more.

    Raises BadInput or BadSpan for a change that cannot stand, StaleWrite when somebody else wrote
    since the given version; nothing is changed then.
    """
    text, sentence = texts.read_sentence(db, project_id, sentence_id)
    overlap = lock(db, project_id, [sentence_id])
    now = annotation_of(db, sentence_id)
    if change.token is not None and db.scalar(
        select(ActRow.id).where(ActRow.project_id == project_id, ActRow.token == change.token)
    ):
        return now
    _check(db, project_id, text, sentence, change, overlap)
    after = change.wanted
    if change.version != now.version:
        raise StaleWrite(
            "Somebody else changed this sentence since you opened it; look at both versions and choose.",
            theirs=as_json(now) | {"version": now.version, "by": last_hand(db, sentence_id)},
            yours=as_json(after) | {"version": change.version},
        )
    step = {sentence_id: Step(before=now, after=after)}
    stored = store(db, project_id, account_id, step)[sentence_id]
    (act,) = log(db, project_id, account_id, change.kind, step, token=change.token)
    if change.verdicts:
        numbers = types.type_numbers(db, project_id, ())
        db.add_all(
            VerdictRow(
                act_id=act,
                source=verdict.source,
                maker=verdict.maker,
                start=verdict.span.start,
                end=verdict.span.end,
                type_id=numbers[verdict.span.type],
                taken=verdict.taken,
            )
            for verdict in change.verdicts
        )
        db.flush()
    return stored
