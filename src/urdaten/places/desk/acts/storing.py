"""How what stands in sentences is written, and how the log of acts grows: the only writer of the Desk's tables."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from typing import Any
from uuid import UUID

from sqlalchemy import delete, insert, select, text, update
from sqlalchemy.orm import Session

from urdaten.core.spans import Overlap, Span, forbidden_pairs
from urdaten.errors import BadSpan
from urdaten.places.desk.acts.annotation import Annotation, as_json
from urdaten.places.desk.tables import ActRow, AnnotationRow, QuestionRow, SpanRow, TurnedDownRow
from urdaten.places.team import acts as team
from urdaten.places.types import acts as types
from urdaten.platform.database import among
from urdaten.platform.revisions import bump

PLACE = "desk"
_LOCK_CLASS = 0x0DE5C


@dataclass(frozen=True, kw_only=True)
class Step:
    """One sentence from what stood in it to what shall."""

    before: Annotation
    after: Annotation


def lock(db: Session, project_id: int, sentences: list[int]) -> Overlap:
    """One writer at a time on a sentence, also while it has no annotation row yet, and none while the scheme narrows.

    Several sentences are locked in the order of their numbers, so that two writers never wait for each other. Answers
    how the scheme lets spans stand to each other.
    """
    overlap = team.hold_overlap(db, project_id)
    db.execute(
        text("SELECT pg_advisory_xact_lock(:kind, number) FROM unnest(:numbers ::int[]) AS number"),
        {"kind": _LOCK_CLASS, "numbers": sorted(sentences)},
    )
    return overlap


def check_overlap(spans: Sequence[Span], overlap: Overlap) -> None:
    """Raises BadSpan for spans of one sentence that the scheme does not let stand together."""
    pairs = forbidden_pairs(spans, overlap)
    if pairs:
        left, right = pairs[0]
        way = "keeps spans apart" if overlap == "apart" else "lets spans lie within each other, not cross"
        raise BadSpan(
            f"The spans {left.type} {left.start}–{left.end} and {right.type} {right.start}–{right.end} overlap; "
            f"this scheme {way}.",
            start=right.start,
            end=right.end,
        )


def store(
    db: Session, project_id: int, layer: int, account_id: int | None, steps: Mapping[int, Step]
) -> dict[int, Annotation]:
    """Write each sentence's `after` into a layer; what stands there then, with its version. Takes everything as checked,
    also whose signing it is."""
    mine = among(AnnotationRow.sentence_id, steps) & (AnnotationRow.layer_id == layer)
    rows = {row.sentence_id: row for row in db.scalars(select(AnnotationRow).where(mine))}
    scheme = types.scheme_version(db, project_id)
    stored: dict[int, Annotation] = {}
    for sentence_id, step in steps.items():
        row = rows.get(sentence_id)
        if row is None:
            row = rows[sentence_id] = AnnotationRow(sentence_id=sentence_id, layer_id=layer)
            db.add(row)
        after = step.after
        row.state, row.version, row.scheme = after.state, step.before.version + 1, scheme
        row.signed_by, row.signed_at = after.signed_by, after.signed_at
        stored[sentence_id] = replace(after, version=row.version)
    db.flush()
    numbers = {code: number for number, code in types.type_codes(db, project_id).items()}
    for table, told in ((SpanRow, _spans), (TurnedDownRow, _turned_down)):
        changed = [i for i, step in steps.items() if told(step.before) != told(step.after)]
        if not changed:
            continue
        db.execute(delete(table).where(among(table.annotation_id, (rows[i].id for i in changed))))
        listed: list[dict[str, Any]] = [
            {"annotation_id": rows[i].id, "start": s.start, "end": s.end, "type_id": numbers[s.type]}
            for i in changed
            for s in told(steps[i].after)
        ]
        if listed:
            db.execute(insert(table), listed)
    for sentence_id, step in steps.items():
        if (step.before.question, step.before.answer) != (step.after.question, step.after.answer):
            _store_question(db, rows[sentence_id].id, account_id, step.after)
    db.flush()
    bump(db, project_id, PLACE)
    return stored


def _store_question(db: Session, annotation_id: int, account_id: int | None, after: Annotation) -> None:
    row = db.get(QuestionRow, annotation_id)
    if row is None:
        row = QuestionRow(annotation_id=annotation_id, words="", answer="")
        db.add(row)
    now = datetime.now(UTC)
    if row.words != after.question:
        row.words, row.asked_by, row.asked_at = after.question, account_id, now
    if row.answer != after.answer:
        row.answer = after.answer
        row.answered_by, row.answered_at = (account_id, now) if after.answer else (None, None)
    if not row.words and not row.answer:
        # Nothing was asked after all.
        db.expunge(row) if row in db.new else db.delete(row)


def _spans(annotation: Annotation) -> tuple[Span, ...]:
    return annotation.spans


def _turned_down(annotation: Annotation) -> tuple[Span, ...]:
    return annotation.turned_down


def log(
    db: Session,
    project_id: int,
    layer: int,
    account_id: int | None,
    kind: str,
    steps: Mapping[int, Step],
    *,
    standing: str = "done",
    token: UUID | None = None,
    batch: UUID | None = None,
) -> list[int]:
    """One act per sentence at the end of the log; their numbers. What the account had undone can no longer be redone,
    unless the acts are undoing or redoing themselves, or nobody's doing (standing "passed")."""
    if standing == "done":
        mine = (ActRow.project_id == project_id) & (ActRow.account_id == account_id)
        db.execute(update(ActRow).where(mine, ActRow.standing == "undone").values(standing="dropped"))
    numbers = {code: number for number, code in types.type_codes(db, project_id).items()}
    rows = [
        {
            "project_id": project_id,
            "layer_id": layer,
            "sentence_id": sentence_id,
            "account_id": account_id,
            "kind": kind,
            "before": as_json(step.before, numbers),
            "after": as_json(step.after, numbers),
            "standing": standing,
            # It names the first of them: those of one batch go together.
            "token": token if i == 0 else None,
            "batch": batch,
        }
        for i, (sentence_id, step) in enumerate(steps.items())
    ]
    made = db.scalars(insert(ActRow).returning(ActRow.id, sort_by_parameter_order=True), rows)
    return list(made)
