"""Undo and redo, on the log of acts."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any
from uuid import UUID

from sqlalchemy import ColumnElement, select
from sqlalchemy.orm import Session

from urdaten.errors import BadSpan, Busy, NotFound
from urdaten.places.desk.acts.annotation import Annotation, annotation_of, as_json, from_json, states_of
from urdaten.places.desk.acts.changing import is_done
from urdaten.places.desk.acts.storing import Step, check_overlap, lock, log, store
from urdaten.places.desk.tables import ActRow
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types


@dataclass(frozen=True, kw_only=True)
class Travelled:
    """What undo or redo came to."""

    # The first sentence of those that were changed, or of the act where none was, and what stands in it now.
    sentence_id: int
    annotation: Annotation
    # How many sentences were changed, and how many of the same act others, or a new scheme, have changed since and
    # were left alone. An act that could be moved nowhere is passed over the next time.
    sentences: int
    left: int


def undo(
    db: Session, project_id: int, account_id: int, *, of: UUID | None = None, token: UUID | None = None
) -> Travelled:
    """Take back the account's newest act that stands, or the one whose token is `of`; acts made at once go at once.

    The same token sent again changes nothing more. Raises NotFound when there is no such act.
    """
    return _travel(db, project_id, account_id, of, token, back=True)


def redo(
    db: Session, project_id: int, account_id: int, *, of: UUID | None = None, token: UUID | None = None
) -> Travelled:
    """Do again the account's oldest act that was undone, or the one whose token is `of`. Otherwise as `undo`."""
    return _travel(db, project_id, account_id, of, token, back=False)


def _travel(
    db: Session, project_id: int, account_id: int, of: UUID | None, token: UUID | None, *, back: bool
) -> Travelled:
    in_project: ColumnElement[bool] = ActRow.project_id == project_id
    wished = "done" if back else "undone"
    mine = in_project & (ActRow.account_id == account_id) & (ActRow.standing == wished)
    if token is not None and is_done(db, project_id, account_id, token):
        return _travelled_before(db, project_id, token)
    wanted = select(ActRow).where(mine) if of is None else select(ActRow).where(mine, ActRow.token == of)
    row = db.scalar(wanted.order_by(ActRow.id.desc() if back else ActRow.id).limit(1))
    if row is None:
        # Sent twice, as after a reload, it may have been done between the two looks.
        if token is not None and is_done(db, project_id, account_id, token):
            return _travelled_before(db, project_id, token)
        raise NotFound(f"There is nothing to {'undo' if back else 'redo'}.")
    alike = select(ActRow).where(mine, ActRow.id == row.id)
    if row.batch is not None:
        alike = select(ActRow).where(mine, ActRow.batch == row.batch).order_by(ActRow.id)
    # Sentences first, as every act does: two that lock in another order would wait for each other.
    overlap = lock(db, project_id, [act.sentence_id for act in db.scalars(alike)])
    rows = list(db.scalars(alike.with_for_update().execution_options(populate_existing=True)))
    if not rows:
        if token is not None and is_done(db, project_id, account_id, token):
            return _travelled_before(db, project_id, token)
        raise Busy("This act was moved elsewhere in this very moment; look, and try again.", retry_after=1)
    layer = row.layer_id
    codes = types.type_codes(db, project_id)
    numbers = {code: number for number, code in codes.items()}
    # An act on a text that has been removed meanwhile is left alone.
    there = texts.sentences_there(db, project_id, [act.sentence_id for act in rows])
    now = states_of(db, there, layer)
    steps: dict[int, Step] = {}
    for act in rows:
        stands = now.get(act.sentence_id, Annotation())
        left = act.after if back else act.before
        if act.sentence_id not in there or not _same(as_json(stands, numbers), left):
            continue
        try:
            after = from_json(act.before if back else act.after, codes)
            check_overlap(after.spans, overlap)
        except (BadSpan, KeyError):
            # The scheme does not let these spans stand any more, or has lost their type.
            continue
        steps[act.sentence_id] = Step(before=stands, after=after)
    for act in rows:
        if act.sentence_id in steps:
            act.standing = "undone" if back else "done"
        else:
            act.standing = "kept" if back else "dropped"
    db.flush()
    kind = f"{'undo' if back else 'redo'} {row.kind}"
    if steps:
        now |= store(db, project_id, layer, account_id, steps)
        log(db, project_id, layer, account_id, kind, steps, standing="passed", token=token)
    else:
        stands = now.get(row.sentence_id, Annotation())
        nothing = {row.sentence_id: Step(before=stands, after=stands)}
        log(db, project_id, layer, account_id, f"{kind}, left alone", nothing, standing="passed", token=token)
    first = next(iter(steps), row.sentence_id)
    return Travelled(
        sentence_id=first,
        annotation=now.get(first, Annotation()),
        sentences=len(steps),
        left=len(rows) - len(steps),
    )


def _travelled_before(db: Session, project_id: int, token: UUID) -> Travelled:
    sent = db.scalars(select(ActRow).where(ActRow.project_id == project_id, ActRow.token == token)).one()
    moved = int(sent.before != sent.after)
    stands = annotation_of(db, sent.sentence_id, sent.layer_id)
    return Travelled(sentence_id=sent.sentence_id, annotation=stands, sentences=moved, left=1 - moved)


_CONTENT = ("state", "spans", "turned_down", "question", "answer")


def _same(one: Mapping[str, Any], other: Mapping[str, Any]) -> bool:
    """Is it the same that stands? Whose signing it is does not count: another's signing of the same came by an act of its
    own, which left a trace in what stands only if it changed it."""
    return all((one.get(name) or None) == (other.get(name) or None) for name in _CONTENT)
