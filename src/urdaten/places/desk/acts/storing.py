"""How what stands in sentences is written, and how the log of acts grows: the only writer of the Desk's tables."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime
from typing import cast
from uuid import UUID

from sqlalchemy import (
    ARRAY,
    DateTime,
    Integer,
    Text,
    Uuid,
    bindparam,
    delete,
    func,
    select,
    update,
)
from sqlalchemy.dialects.postgresql import JSONB, insert
from sqlalchemy.orm import Session

from urdaten.core.spans import Overlap, Span, forbidden_pairs
from urdaten.errors import BadSpan
from urdaten.places.desk.acts.annotation import Annotation, as_json
from urdaten.places.desk.acts.tallying import tally
from urdaten.places.desk.tables import ActRow, AnnotationRow, QuestionRow, SpanRow, TurnedDownRow
from urdaten.places.team import acts as team
from urdaten.places.types import acts as types
from urdaten.platform.database import columns_of, table_of
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
    team.hold(db, project_id)
    locked = {"kind": _LOCK_CLASS, "numbers": sorted(sentences), "project": project_id}
    _, overlap = db.execute(_LOCK, locked).one()
    return cast("Overlap", overlap)


_NUMBERS = func.unnest(bindparam("numbers", type_=ARRAY(Integer))).column_valued()
_LOCK = select(
    func.count(func.pg_advisory_xact_lock(bindparam("kind", type_=Integer), _NUMBERS)),
    team.overlap_of(bindparam("project", type_=Integer)),
)


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
    db: Session,
    project_id: int,
    layer: int,
    account_id: int | None,
    steps: Mapping[int, Step],
    codes: Mapping[int, str] | None = None,
) -> dict[int, Annotation]:
    """Write each sentence's `after` into a layer; what stands there then, with its version. Takes everything as checked,
    also whose signing it is, and that `before` is what stands.

    codes: the scheme's `type_codes`, from whoever has them at hand.
    """
    stored = {i: replace(step.after, version=step.before.version + 1) for i, step in steps.items()}
    numbers = _standing_rows(db, project_id, layer, stored)
    present = types.type_codes(db, project_id) if codes is None else codes
    kinds = {code: number for number, code in present.items()}
    for row, told in ((SpanRow, _spans), (TurnedDownRow, _turned_down)):
        gone, new = _Listed(), _Listed()
        for i, step in steps.items():
            before, after = told(step.before), told(step.after)
            gone.add(numbers[i], set(before).difference(after), kinds)
            new.add(numbers[i], set(after).difference(before), kinds)
        if gone.annotations:
            db.execute(_REMOVE[row], vars(gone))
        if new.annotations:
            db.execute(_ADD[row], vars(new))
    for i, step in steps.items():
        if (step.before.question, step.before.answer) != (step.after.question, step.after.answer):
            _store_question(db, numbers[i], account_id, step.after)
    db.flush()
    tally(db, project_id, layer, steps)
    bump(db, project_id, PLACE)
    return stored


def _standing_rows(
    db: Session, project_id: int, layer: int, stored: Mapping[int, Annotation]
) -> dict[int, int]:
    """Write how each sentence stands, without its spans; the number of each one's row."""
    written = {
        "sentences": list(stored),
        "states": [one.state for one in stored.values()],
        "versions": [one.version for one in stored.values()],
        "signers": [one.signed_by for one in stored.values()],
        "moments": [one.signed_at for one in stored.values()],
        "layer": layer,
        "project": project_id,
    }
    return {sentence: number for sentence, number in db.execute(_WRITE, written)}


@dataclass
class _Listed:
    """Rows of spans as columns, for one statement however many they are."""

    annotations: list[int] = field(default_factory=list)
    starts: list[int] = field(default_factory=list)
    ends: list[int] = field(default_factory=list)
    kinds: list[int] = field(default_factory=list)

    def add(self, annotation: int, spans: Iterable[Span], kinds: Mapping[str, int]) -> None:
        for span in spans:
            self.annotations.append(annotation)
            self.starts.append(span.start)
            self.ends.append(span.end)
            self.kinds.append(kinds[span.type])


# Made once: every act asks some of them.
_ANNOTATION, _ACT = table_of(AnnotationRow), table_of(ActRow)
_OF_SPANS = {row: table_of(row) for row in (SpanRow, TurnedDownRow)}
_LISTED = columns_of(annotations=Integer(), starts=Integer(), ends=Integer(), kinds=Integer())
_REMOVE = {
    row: delete(table).where(
        table.c.annotation_id == _LISTED.c.annotations,
        table.c.start == _LISTED.c.starts,
        table.c.end == _LISTED.c.ends,
        table.c.type_id == _LISTED.c.kinds,
    )
    for row, table in _OF_SPANS.items()
}
_ADD = {
    row: insert(table).from_select(["annotation_id", "start", "end", "type_id"], select(*_LISTED.c))
    for row, table in _OF_SPANS.items()
}
_STANDING = columns_of(
    sentences=Integer(), states=Text(), versions=Integer(), signers=Integer(), moments=DateTime(timezone=True)
)
_NEW = insert(_ANNOTATION).from_select(
    ["sentence_id", "state", "version", "signed_by", "signed_at", "layer_id", "scheme"],
    select(
        *_STANDING.c,
        bindparam("layer", type_=Integer()),
        types.version_of(bindparam("project", type_=Integer)),
    ),
)
_WRITE = _NEW.on_conflict_do_update(
    index_elements=["sentence_id", "layer_id"],
    set_={name: _NEW.excluded[name] for name in ("state", "version", "signed_by", "signed_at", "scheme")},
).returning(_ANNOTATION.c.sentence_id, _ANNOTATION.c.id)


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
    codes: Mapping[int, str] | None = None,
) -> list[int]:
    """One act per sentence at the end of the log; their numbers. What the account had undone can no longer be redone,
    unless the acts are undoing or redoing themselves, or nobody's doing (standing "passed")."""
    present = types.type_codes(db, project_id) if codes is None else codes
    numbers = {code: number for number, code in present.items()}
    written = {
        "sentences": list(steps),
        "befores": [as_json(step.before, numbers) for step in steps.values()],
        "afters": [as_json(step.after, numbers) for step in steps.values()],
        # It names the first of them: those of one batch go together.
        "tokens": [token, *([None] * (len(steps) - 1))],
        "project": project_id,
        "layer": layer,
        "account": account_id,
        "of_kind": kind,
        "as_standing": standing,
        "of_batch": batch,
    }
    return sorted(db.scalars(_LOG_DONE if standing == "done" else _LOG, written))


# Its parameters are named unlike columns, or the update beside it would set those.
_LOGGED = columns_of(sentences=Integer(), befores=JSONB(), afters=JSONB(), tokens=Uuid())
_LOG = (
    insert(_ACT)
    .from_select(
        [
            "sentence_id",
            "before",
            "after",
            "token",
            "project_id",
            "layer_id",
            "account_id",
            "kind",
            "standing",
            "batch",
        ],
        select(
            *_LOGGED.c,
            *(bindparam(name, type_=Integer()) for name in ("project", "layer", "account")),
            *(bindparam(name, type_=Text()) for name in ("of_kind", "as_standing")),
            bindparam("of_batch", type_=Uuid()),
        ),
    )
    .returning(_ACT.c.id)
)
_LOG_DONE = _LOG.add_cte(
    update(_ACT)
    .where(
        _ACT.c.project_id == bindparam("project"),
        _ACT.c.account_id == bindparam("account"),
        _ACT.c.standing == "undone",
    )
    .values(standing="dropped")
    .cte("dropped")
)
