"""Undo and redo, on the log of acts."""

from __future__ import annotations

from dataclasses import dataclass
from uuid import UUID

from sqlalchemy import ColumnElement, select
from sqlalchemy.orm import Session

from urdaten.errors import BadSpan, NotFound
from urdaten.places.desk.acts.annotation import Annotation, annotation_of, as_json, from_json, states_of
from urdaten.places.desk.acts.storing import Step, check_overlap, lock, log, store
from urdaten.places.desk.tables import ActRow


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
    sent = None if token is None else db.scalar(select(ActRow).where(in_project, ActRow.token == token))
    if sent is not None:
        moved = int(sent.before != sent.after)
        stands = annotation_of(db, sent.sentence_id)
        return Travelled(sentence_id=sent.sentence_id, annotation=stands, sentences=moved, left=1 - moved)
    mine = (
        in_project & (ActRow.account_id == account_id) & (ActRow.standing == ("done" if back else "undone"))
    )
    wanted = select(ActRow).where(mine) if of is None else select(ActRow).where(mine, ActRow.token == of)
    wanted = wanted.order_by(ActRow.id.desc() if back else ActRow.id).limit(1)
    row = db.scalar(wanted.with_for_update())
    if row is None:
        raise NotFound(f"There is nothing to {'undo' if back else 'do again'}.")
    rows = [row]
    if row.batch is not None:
        alike = select(ActRow).where(mine, ActRow.batch == row.batch).order_by(ActRow.id)
        rows = list(db.scalars(alike.with_for_update()))
    overlap = lock(db, project_id, [act.sentence_id for act in rows])
    now = states_of(db, [act.sentence_id for act in rows])
    steps: dict[int, Step] = {}
    for act in rows:
        stands = now.get(act.sentence_id, Annotation())
        after = from_json(act.before if back else act.after)
        if as_json(stands) != (act.after if back else act.before):
            continue
        try:
            check_overlap(after.spans, overlap)
        except BadSpan:
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
        now |= store(db, project_id, account_id, steps)
        log(db, project_id, account_id, kind, steps, standing="passed", token=token)
    else:
        stands = now.get(row.sentence_id, Annotation())
        nothing = {row.sentence_id: Step(before=stands, after=stands)}
        log(db, project_id, account_id, f"{kind}, left alone", nothing, standing="passed", token=token)
    first = next(iter(steps), row.sentence_id)
    return Travelled(
        sentence_id=first,
        annotation=now.get(first, Annotation()),
        sentences=len(steps),
        left=len(rows) - len(steps),
    )
