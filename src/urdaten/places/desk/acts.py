"""Acts of annotation: every change of a sentence is one logged act, which undo and redo run on."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any
from uuid import UUID

from sqlalchemy import ColumnElement, delete, func, insert, select, update
from sqlalchemy.orm import Session

from urdaten.core.spans import Span, check_span, overlapping_pairs
from urdaten.errors import BadInput, BadSpan, Clash, NotFound, StaleWrite
from urdaten.places.desk.tables import ActRow, AnnotationRow, SpanRow
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types
from urdaten.platform.accounts import Account
from urdaten.platform.revisions import bump

PLACE = "desk"
_LOCK_CLASS = 0x0DE5C
UNTOUCHED, DRAFT, SIGNED = "untouched", "draft", "signed"
KINDS = ("mark", "change", "remove", "sign", "sign as empty", "unsign")


@dataclass(frozen=True, kw_only=True)
class Annotation:
    """What stands in a sentence."""

    state: str = UNTOUCHED
    version: int = 0
    spans: tuple[Span, ...] = ()
    signed_by: int | None = None


@dataclass(frozen=True, kw_only=True)
class Change:
    """What an annotator wants a sentence to be, and the version that they saw."""

    kind: str
    version: int
    state: str
    spans: tuple[Span, ...]
    token: UUID | None = None


@dataclass(frozen=True, kw_only=True)
class Act:
    """An act as the history shows it."""

    id: int
    at: datetime
    who: str
    kind: str
    before: dict[str, Any]
    after: dict[str, Any]


@dataclass(frozen=True, kw_only=True)
class Tally:
    """Figures of one text."""

    sentences: int
    signed: int
    spans: int


def states_of(db: Session, sentence_ids: Iterable[int]) -> dict[int, Annotation]:
    """What stands in each sentence; untouched ones are absent."""
    ids = list(sentence_ids)
    rows = db.scalars(select(AnnotationRow).where(AnnotationRow.sentence_id.in_(ids))).all()
    if not rows:
        return {}
    codes = types.type_codes(db, rows[0].project_id)
    spans: dict[int, list[Span]] = {}
    for span in db.scalars(select(SpanRow).where(SpanRow.sentence_id.in_(ids))):
        spans.setdefault(span.sentence_id, []).append(Span(span.start, span.end, codes[span.type_id], "gold"))
    return {
        row.sentence_id: Annotation(
            state=row.state,
            version=row.version,
            spans=tuple(sorted(spans.get(row.sentence_id, ()))),
            signed_by=row.signed_by,
        )
        for row in rows
    }


def annotation_of(db: Session, sentence_id: int) -> Annotation:
    return states_of(db, [sentence_id]).get(sentence_id, Annotation())


def span_counts(db: Session, project_id: int) -> dict[int, int]:
    """Gold spans per type number."""
    query = (
        select(SpanRow.type_id, func.count())
        .join(AnnotationRow, AnnotationRow.sentence_id == SpanRow.sentence_id)
        .where(AnnotationRow.project_id == project_id)
        .group_by(SpanRow.type_id)
    )
    return {type_id: count for type_id, count in db.execute(query)}


def untouched_texts(db: Session, project_id: int) -> set[int]:
    """Texts in which nobody has ever marked or signed anything."""
    index = texts.sentence_index(project_id)
    everything = set(db.scalars(select(index.c.text_id).distinct()))
    marked = select(index.c.text_id).join(AnnotationRow, AnnotationRow.sentence_id == index.c.id)
    acted = select(index.c.text_id).join(ActRow, ActRow.sentence_id == index.c.id)
    return everything - set(db.scalars(marked)) - set(db.scalars(acted))


def tallies(db: Session, project_id: int, text_ids: Sequence[int]) -> dict[int, Tally]:
    """Figures of each text."""
    index = texts.sentence_index(project_id)
    signed: ColumnElement[int] = func.count().filter(AnnotationRow.state == SIGNED)
    query = (
        select(index.c.text_id, func.count(), signed)
        .outerjoin(AnnotationRow, AnnotationRow.sentence_id == index.c.id)
        .where(index.c.text_id.in_(text_ids))
        .group_by(index.c.text_id)
    )
    counted = {text_id: (count, done) for text_id, count, done in db.execute(query)}
    span_query = (
        select(index.c.text_id, func.count())
        .join(SpanRow, SpanRow.sentence_id == index.c.id)
        .where(index.c.text_id.in_(text_ids))
        .group_by(index.c.text_id)
    )
    spans = {text_id: count for text_id, count in db.execute(span_query)}
    return {
        text_id: Tally(
            sentences=counted.get(text_id, (0, 0))[0],
            signed=counted.get(text_id, (0, 0))[1],
            spans=spans.get(text_id, 0),
        )
        for text_id in text_ids
    }


@dataclass(frozen=True, kw_only=True)
class Progress:
    """How far the signing of a project or of one split has come."""

    total: int
    signed: int
    # The first sentence in reading order that is not signed.
    first_open: int | None


def progress(db: Session, project_id: int, split: str = "") -> Progress:
    """Progress over all sentences, or over those of one split."""
    index = texts.sentence_index(project_id)
    states = select(
        index.c.id,
        index.c.position,
        index.c.text_id,
        index.c.number,
        (func.coalesce(AnnotationRow.state, "") == SIGNED).label("signed"),
    ).outerjoin_from(index, AnnotationRow, AnnotationRow.sentence_id == index.c.id)
    if split:
        states = states.where(index.c.split == split)
    row = states.subquery()
    total, signed = db.execute(select(func.count(), func.count().filter(row.c.signed)).select_from(row)).one()
    first = (
        select(row.c.id).where(~row.c.signed).order_by(row.c.position, row.c.text_id, row.c.number).limit(1)
    )
    return Progress(total=total, signed=signed, first_open=db.scalar(first))


def latest_act(db: Session, project_id: int) -> int:
    """Number of the project's newest act, 0 before the first."""
    return db.scalar(select(func.max(ActRow.id)).where(ActRow.project_id == project_id)) or 0


def sentences_changed_since(db: Session, project_id: int, act_id: int, splits: Sequence[str]) -> int:
    """How many sentences of these splits acts after this one have touched."""
    index = texts.sentence_index(project_id)
    query = (
        select(func.count(ActRow.sentence_id.distinct()))
        .join(index, index.c.id == ActRow.sentence_id)
        .where(ActRow.project_id == project_id, ActRow.id > act_id, index.c.split.in_(splits))
    )
    return db.scalar(query) or 0


def _as_json(annotation: Annotation) -> dict[str, Any]:
    spans = [[span.start, span.end, span.type] for span in annotation.spans]
    return {"state": annotation.state, "spans": spans}


def _check(db: Session, project_id: int, text: texts.Text, sentence: texts.Sentence, change: Change) -> None:
    if change.kind not in KINDS:
        raise BadInput(f"An act is one of {', '.join(KINDS)}, not {change.kind!r}.", field="kind")
    if change.state not in (UNTOUCHED, DRAFT, SIGNED):
        raise BadInput(f"A state is untouched, draft or signed, not {change.state!r}.", field="state")
    if change.state == UNTOUCHED and change.spans:
        raise BadInput("A sentence with spans is not untouched.", field="state")
    if change.kind == "sign as empty" and change.spans:
        raise BadInput("A sentence with spans cannot be signed as empty; remove them first.", field="spans")
    types.type_numbers(db, project_id, {span.type for span in change.spans})
    for span in change.spans:
        check_span(span.start, span.end, text.body)
        if span.start < sentence.start or span.end > sentence.end:
            raise BadSpan(
                f"The span from {span.start} to {span.end} leaves its sentence, which runs from "
                f"{sentence.start} to {sentence.end}.",
                start=span.start,
                end=span.end,
            )
    pairs = overlapping_pairs(change.spans)
    if pairs:
        left, right = pairs[0]
        raise BadSpan(
            f"The spans {left.type} {left.start}–{left.end} and {right.type} {right.start}–{right.end} overlap; "
            "this scheme keeps spans apart.",
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
    if not signed:
        row.signed_by, row.signed_at = None, None
    elif now.state != SIGNED or now.spans != after.spans:
        row.signed_by, row.signed_at = account_id, datetime.now(UTC)
    db.flush()
    db.execute(delete(SpanRow).where(SpanRow.sentence_id == sentence_id))
    numbers = types.type_numbers(db, project_id, {span.type for span in after.spans})
    if after.spans:
        db.execute(
            insert(SpanRow),
            [
                {"sentence_id": sentence_id, "start": s.start, "end": s.end, "type_id": numbers[s.type]}
                for s in after.spans
            ],
        )
    bump(db, project_id, PLACE)
    return Annotation(
        state=after.state, version=version, spans=tuple(sorted(after.spans)), signed_by=row.signed_by
    )


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
    after = Annotation(state=change.state, spans=tuple(sorted(change.spans)))
    if change.version != now.version:
        raise StaleWrite(
            "Somebody else changed this sentence since you opened it; look at both versions and choose.",
            theirs=_as_json(now) | {"version": now.version},
            yours=_as_json(after) | {"version": change.version},
        )
    stored = _store(db, project_id, sentence_id, account_id, now, after)
    mine = (ActRow.project_id == project_id) & (ActRow.account_id == account_id)
    db.execute(update(ActRow).where(mine, ActRow.standing == "undone").values(standing="passed"))
    _append(db, project_id, account_id, sentence_id, change.kind, now, stored, "done", change.token)
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
) -> None:
    db.add(
        ActRow(
            project_id=project_id,
            sentence_id=sentence_id,
            account_id=account_id,
            kind=kind,
            before=_as_json(before),
            after=_as_json(after),
            standing=standing,
            token=token,
        )
    )
    db.flush()


def _from_json(values: Mapping[str, Any]) -> Annotation:
    spans = tuple(Span(start, end, code, "gold") for start, end, code in values["spans"])
    return Annotation(state=values["state"], spans=spans)


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
    if _as_json(now) != (row.after if back else row.before):
        raise Clash(
            "This sentence has been changed by somebody else since; open it and change it by hand.",
            sentence_id=row.sentence_id,
        )
    after = _from_json(row.before if back else row.after)
    stored = _store(db, project_id, row.sentence_id, account_id, now, after)
    row.standing = "undone" if back else "done"
    kind = f"{'undo' if back else 'redo'} {row.kind}"
    _append(db, project_id, account_id, row.sentence_id, kind, now, stored, "passed")
    return row.sentence_id, stored


def history(db: Session, project_id: int, sentence_id: int) -> list[Act]:
    """Every act on a sentence, oldest first."""
    texts.read_sentence(db, project_id, sentence_id)
    query = (
        select(ActRow, Account.name)
        .outerjoin(Account, Account.id == ActRow.account_id)
        .where(ActRow.sentence_id == sentence_id)
        .order_by(ActRow.id)
    )
    return [
        Act(
            id=row.id,
            at=row.created_at,
            who=name or "loaded with the project",
            kind=row.kind,
            before=row.before,
            after=row.after,
        )
        for row, name in db.execute(query)
    ]


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
    blank = _as_json(Annotation())
    db.execute(
        insert(ActRow),
        [
            common
            | {
                "sentence_id": i,
                "account_id": account_id,
                "kind": "sign" if spans else "sign as empty",
                "before": blank,
                "after": _as_json(Annotation(state=SIGNED, spans=tuple(sorted(spans)))),
                "standing": "passed",
            }
            for i, spans in signings.items()
        ],
    )
    bump(db, project_id, PLACE)
