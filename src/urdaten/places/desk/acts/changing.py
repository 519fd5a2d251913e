"""Acts of annotation: every change of a sentence is one logged act, which undo and redo run on."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from typing import Any
from uuid import UUID

from sqlalchemy import delete, func, insert, select, update
from sqlalchemy.orm import Session

from urdaten.core.spans import Overlap, Span, check_span, forbidden_pairs
from urdaten.errors import BadInput, BadSpan, Clash, NotFound, StaleWrite
from urdaten.places.desk.acts.annotation import (
    DRAFT,
    SIGNED,
    UNTOUCHED,
    Annotation,
    annotation_of,
    as_json,
    from_json,
)
from urdaten.places.desk.tables import ActRow, AnnotationRow, SpanRow, TurnedDownRow, VerdictRow
from urdaten.places.team import acts as team
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types
from urdaten.platform.revisions import bump

PLACE = "desk"
_LOCK_CLASS = 0x0DE5C
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


def _check(db: Session, project_id: int, text: texts.Text, sentence: texts.Sentence, change: Change) -> None:
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
    overlap: Overlap = team.project_by_id(db, project_id).overlap
    pairs = forbidden_pairs(change.spans, overlap)
    if pairs:
        left, right = pairs[0]
        way = "keeps spans apart" if overlap == "apart" else "lets spans lie within each other, not cross"
        raise BadSpan(
            f"The spans {left.type} {left.start}–{left.end} and {right.type} {right.start}–{right.end} overlap; "
            f"this scheme {way}.",
            start=right.start,
            end=right.end,
        )


def _store(
    db: Session, project_id: int, sentence_id: int, account_id: int | None, now: Annotation, after: Annotation
) -> Annotation:
    version = now.version + 1
    signed = after.state == SIGNED
    row = db.get(AnnotationRow, sentence_id)
    if row is None:
        row = AnnotationRow(sentence_id=sentence_id, project_id=project_id)
        db.add(row)
    row.state, row.version = after.state, version
    row.question, row.answer = after.question, after.answer
    if not signed:
        row.signed_by, row.signed_at = None, None
    elif now.state != SIGNED or now.spans != after.spans:
        row.signed_by, row.signed_at = account_id, datetime.now(UTC)
    db.flush()
    for table, spans in ((SpanRow, after.spans), (TurnedDownRow, after.turned_down)):
        db.execute(delete(table).where(table.sentence_id == sentence_id))
        if not spans:
            continue
        numbers = types.type_numbers(db, project_id, {span.type for span in spans})
        rows = [
            {"sentence_id": sentence_id, "start": s.start, "end": s.end, "type_id": numbers[s.type]}
            for s in spans
        ]
        db.execute(insert(table), rows)
    bump(db, project_id, PLACE)
    return replace(after, version=version, signed_by=row.signed_by)


def _lock(db: Session, sentence_id: int) -> None:
    # One writer at a time on a sentence, also while it has no annotation row yet.
    db.execute(select(func.pg_advisory_xact_lock(_LOCK_CLASS, sentence_id)))


def annotate(
    db: Session, project_id: int, account_id: int | None, sentence_id: int, change: Change
) -> Annotation:
    """Make a sentence what the change says. The same token sent again changes nothing more.

    Raises BadInput or BadSpan for a change that cannot stand, StaleWrite when somebody else wrote
    since the given version; nothing is changed then.
    """
    text, sentence = texts.read_sentence(db, project_id, sentence_id)
    _lock(db, sentence_id)
    now = annotation_of(db, sentence_id)
    if change.token is not None and db.scalar(
        select(ActRow.id).where(ActRow.project_id == project_id, ActRow.token == change.token)
    ):
        return now
    _check(db, project_id, text, sentence, change)
    after = change.wanted
    if change.version != now.version:
        raise StaleWrite(
            "Somebody else changed this sentence since you opened it; look at both versions and choose.",
            theirs=as_json(now) | {"version": now.version},
            yours=as_json(after) | {"version": change.version},
        )
    stored = _store(db, project_id, sentence_id, account_id, now, after)
    mine = (ActRow.project_id == project_id) & (ActRow.account_id == account_id)
    db.execute(update(ActRow).where(mine, ActRow.standing == "undone").values(standing="passed"))
    act = _append(db, project_id, account_id, sentence_id, change.kind, now, stored, "done", change.token)
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


def _append(
    db: Session,
    project_id: int,
    account_id: int | None,
    sentence_id: int,
    kind: str,
    before: Annotation,
    after: Annotation,
    standing: str,
    token: UUID | None = None,
) -> int:
    row = ActRow(
        project_id=project_id,
        sentence_id=sentence_id,
        account_id=account_id,
        kind=kind,
        before=as_json(before),
        after=as_json(after),
        standing=standing,
        token=token,
    )
    db.add(row)
    db.flush()
    return row.id


def undo(db: Session, project_id: int, account_id: int) -> tuple[int, Annotation]:
    """Take back the account's newest act that stands; (sentence, what stands there now).

    Raises NotFound when there is none, Clash when somebody has changed the sentence since.
    """
    return _travel(db, project_id, account_id, back=True)


def redo(db: Session, project_id: int, account_id: int) -> tuple[int, Annotation]:
    """Do again the account's oldest act that was undone. Raises as `undo`."""
    return _travel(db, project_id, account_id, back=False)


def _travel(db: Session, project_id: int, account_id: int, *, back: bool) -> tuple[int, Annotation]:
    query = select(ActRow).where(
        ActRow.project_id == project_id,
        ActRow.account_id == account_id,
        ActRow.standing == ("done" if back else "undone"),
    )
    row = db.scalar(query.order_by(ActRow.id.desc() if back else ActRow.id).limit(1).with_for_update())
    if row is None:
        raise NotFound(f"There is nothing to {'undo' if back else 'do again'}.")
    _lock(db, row.sentence_id)
    now = annotation_of(db, row.sentence_id)
    if as_json(now) != (row.after if back else row.before):
        raise Clash(
            "This sentence has been changed by somebody else since; open it and change it by hand.",
            sentence_id=row.sentence_id,
        )
    after = from_json(row.before if back else row.after)
    stored = _store(db, project_id, row.sentence_id, account_id, now, after)
    row.standing = "undone" if back else "done"
    kind = f"{'undo' if back else 'redo'} {row.kind}"
    _append(db, project_id, account_id, row.sentence_id, kind, now, stored, "passed")
    return row.sentence_id, stored


def sign_many(
    db: Session, project_id: int, account_id: int | None, signings: Mapping[int, Sequence[Span]]
) -> None:
    """Sign untouched sentences with the given spans, for loading gold that was settled elsewhere.

    The acts are logged but cannot be undone one by one. Spans are taken as checked.
    """
    if not signings:
        return
    now = datetime.now(UTC)
    numbers = types.type_numbers(db, project_id, {s.type for spans in signings.values() for s in spans})
    common: dict[str, Any] = {"project_id": project_id}
    db.execute(
        insert(AnnotationRow),
        [
            common
            | {"sentence_id": i, "state": SIGNED, "version": 1, "signed_by": account_id, "signed_at": now}
            | {"question": "", "answer": ""}
            for i in signings
        ],
    )
    rows: list[dict[str, Any]] = [
        {"sentence_id": i, "start": s.start, "end": s.end, "type_id": numbers[s.type]}
        for i, spans in signings.items()
        for s in spans
    ]
    if rows:
        db.execute(insert(SpanRow), rows)
    blank = as_json(Annotation())
    db.execute(
        insert(ActRow),
        [
            common
            | {
                "sentence_id": i,
                "account_id": account_id,
                "kind": "sign" if spans else "sign as empty",
                "before": blank,
                "after": as_json(Annotation(state=SIGNED, spans=tuple(sorted(spans)))),
                "standing": "passed",
            }
            for i, spans in signings.items()
        ],
    )
    bump(db, project_id, PLACE)
