"""The bin: texts that were removed, with everything that belongs to them, until they are put back or deleted for good."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import delete, func, select, update
from sqlalchemy.orm import Session

from urdaten.errors import Clash, NotFound
from urdaten.places.team.acts import hold_overlap
from urdaten.places.texts.acts.at_once import TextAct, Undone, keep_removal
from urdaten.places.texts.acts.changing import PLACE
from urdaten.places.texts.tables import BinnedTextRow, LikenessRow, TextActRow, TextRow
from urdaten.platform.accounts import Account
from urdaten.platform.database import among, table_of
from urdaten.platform.packing import Packed, put_back, take_out
from urdaten.platform.revisions import bump

# So many are taken out, or put back, at a time: all that belongs to them is in memory then.
AT_ONCE = 500


@dataclass(frozen=True, kw_only=True)
class Binned:
    """A text in the bin."""

    id: int
    title: str
    sentences: int
    # Signatures in any layer.
    signed: int
    at: datetime
    who: str


def remove_texts(
    db: Session,
    project_id: int,
    account_id: int | None,
    numbers: Sequence[int],
    signed: Callable[[Sequence[int]], Mapping[int, int]],
) -> TextAct:
    """Move texts to the bin, with whatever is marked and signed in them. Raises NotFound where none of them is there.

    signed: how many signatures stand in each, asked while nobody can sign anything.
    """
    # Nobody writes in any sentence until this transaction ends.
    hold_overlap(db, project_id, to_change=True)
    gone: list[int] = []
    query = select(TextRow.id, TextRow.title, TextRow.body_digest, TextRow.sentences).where(
        TextRow.project_id == project_id
    )
    for at in range(0, len(numbers), AT_ONCE):
        heads = db.execute(query.where(among(TextRow.id, numbers[at : at + AT_ONCE])).with_for_update())
        rows = {number: (title, digest, sentences) for number, title, digest, sentences in heads}
        signatures = signed(list(rows))
        held = take_out(db, table_of(TextRow), list(rows))
        for number, (title, digest, sentences) in rows.items():
            db.add(
                BinnedTextRow(
                    id=number,
                    project_id=project_id,
                    account_id=account_id,
                    title=title,
                    body_digest=digest,
                    sentences=sentences,
                    signed=signatures.get(number, 0),
                    held=held[number],
                )
            )
        db.flush()
        db.expunge_all()
        gone += rows
    if not gone:
        raise NotFound("None of these texts is here any more; look again.")
    act = keep_removal(db, project_id, account_id, sorted(gone))
    bump(db, project_id, PLACE)
    return act


def read_bin(db: Session, project_id: int, *, limit: int) -> list[Binned]:
    """The texts in the bin, the last ones first."""
    query = (
        select(
            BinnedTextRow.id,
            BinnedTextRow.title,
            BinnedTextRow.sentences,
            BinnedTextRow.signed,
            BinnedTextRow.created_at,
            Account.name,
        )
        .outerjoin(Account, Account.id == BinnedTextRow.account_id)
        .where(BinnedTextRow.project_id == project_id)
        .order_by(BinnedTextRow.created_at.desc(), BinnedTextRow.id)
        .limit(limit)
    )
    return [
        Binned(id=number, title=title, sentences=sentences, signed=signed, at=at, who=name or "")
        for number, title, sentences, signed, at, name in db.execute(query)
    ]


def count_binned(db: Session, project_id: int) -> int:
    query = select(func.count()).select_from(BinnedTextRow)
    return db.scalar(query.where(BinnedTextRow.project_id == project_id)) or 0


def binned_numbers(db: Session, project_id: int) -> list[int]:
    """Of every text in the bin."""
    return list(db.scalars(select(BinnedTextRow.id).where(BinnedTextRow.project_id == project_id)))


def restore_texts(
    db: Session, project_id: int, numbers: Sequence[int], mend: Callable[[Packed], Packed]
) -> Undone:
    """Put texts back from the bin, as they were; those whose body has come again meanwhile stay in it.

    mend: brings what is marked in one into line with the scheme as it is now.
    """
    hold_overlap(db, project_id, to_change=True)
    back = 0
    again = select(TextRow.body_digest).where(TextRow.project_id == project_id)
    for at in range(0, len(numbers), AT_ONCE):
        query = select(BinnedTextRow).where(
            BinnedTextRow.project_id == project_id,
            among(BinnedTextRow.id, numbers[at : at + AT_ONCE]),
            BinnedTextRow.body_digest.not_in(again),
        )
        found = db.scalars(query.order_by(BinnedTextRow.id).with_for_update()).all()
        # One body may lie here twice: deleted, come again, deleted again. The one that came last comes back.
        rows = list({row.body_digest: row for row in found}.values())
        put_back(db, table_of(TextRow), [mend(row.held) for row in rows])
        db.execute(delete(BinnedTextRow).where(among(BinnedTextRow.id, [row.id for row in rows])))
        back += len(rows)
        db.expunge_all()
    if back:
        # They were not there when the others were looked at.
        db.execute(update(LikenessRow).where(LikenessRow.project_id == project_id).values(newest=0))
        bump(db, project_id, PLACE)
    return Undone(texts=back, left=len(set(numbers)) - back)


def undo_removal(db: Session, row: TextActRow, mend: Callable[[Packed], Packed]) -> Undone:
    """Put back the texts of an act."""
    number, project_id, numbers = row.id, row.project_id, list(row.steps)
    row.undone_at = func.now()
    db.flush()
    undone = restore_texts(db, project_id, numbers, mend)
    if not undone.texts:
        raise Clash(f"None of the texts of act {number} is in the bin any more, or each has come again.")
    return undone


def empty_bin(db: Session, project_id: int, numbers: Sequence[int] | None) -> int:
    """Delete texts in the bin for good, or all of them; how many there were."""
    query = delete(BinnedTextRow).where(BinnedTextRow.project_id == project_id)
    if numbers is not None:
        query = query.where(among(BinnedTextRow.id, numbers))
    gone = len(db.execute(query.returning(BinnedTextRow.id)).all())
    bump(db, project_id, PLACE)
    return gone
