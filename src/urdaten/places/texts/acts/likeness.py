"""Which texts of a project are nearly the same: found by a job, and kept until texts come or go."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from urdaten.core.text import Like, Recurring
from urdaten.places.texts.acts.changing import PLACE
from urdaten.places.texts.tables import LikenessRow, TextRow
from urdaten.platform.jobs import JobView, add_job, jobs_by_id
from urdaten.platform.revisions import bump

JOB = "likeness"
MOST_RECURRING, MOST_TEXTS = 10_000, 200


@dataclass(frozen=True, kw_only=True)
class Pair:
    """A text, an earlier one that it is most like, and the share of runs of words that both have."""

    text: int
    earlier: int
    share: float


@dataclass(frozen=True, kw_only=True)
class Repeat:
    """A sentence that stands word for word in several texts: where it does first, and the numbers of all of them."""

    text: int
    start: int
    end: int
    texts: tuple[int, ...]


@dataclass(frozen=True, kw_only=True)
class Likeness:
    """What is known of a project's texts."""

    pairs: tuple[Pair, ...]
    repeats: tuple[Repeat, ...]
    # Were all of its texts, as they are now, looked at?
    holds: bool
    # That looks at them, or did.
    job: JobView | None


def read_likeness(db: Session, project_id: int) -> Likeness:
    row = db.get(LikenessRow, project_id)
    if row is None:
        return Likeness(pairs=(), repeats=(), holds=False, job=None)
    there = set(db.scalars(select(TextRow.id).where(TextRow.project_id == project_id)))
    pairs = [Pair(text=text, earlier=earlier, share=share) for text, earlier, share in row.pairs]
    return Likeness(
        pairs=tuple(pair for pair in pairs if pair.text in there and pair.earlier in there),
        repeats=tuple(
            Repeat(text=text, start=start, end=end, texts=tuple(one for one in texts if one in there))
            for text, start, end, texts in row.recurring
            if text in there
        ),
        # Bodies never change, so that only a text that came can be like another.
        holds=row.newest >= max(there, default=0),
        job=jobs_by_id(db, [row.job_id]).get(row.job_id) if row.job_id else None,
    )


def start_likeness(db: Session, project_id: int, account_id: int) -> JobView:
    """Look for texts that are nearly the same. Raises Clash while this is being done."""
    job = add_job(
        db,
        project_id=project_id,
        account_id=account_id,
        kind=JOB,
        title="look for texts that are nearly the same",
        params={},
        alone="Texts that are nearly the same are being looked for already.",
    )
    row = db.get(LikenessRow, project_id, with_for_update=True)
    if row is None:
        row = LikenessRow(project_id=project_id, newest=0, pairs=[])
        db.add(row)
    row.job_id = job.id
    return job


def keep_likeness(
    db: Session,
    project_id: int,
    numbers: Sequence[int],
    found: Sequence[Like],
    recurring: Sequence[Recurring],
) -> None:
    """numbers: of the texts that were looked at, in the order that `found` and `recurring` speak of. Of sentences that recur
    those in most texts are kept."""
    row = db.get(LikenessRow, project_id, with_for_update=True)
    if row is not None:
        row.newest = max(numbers, default=0)
        row.pairs = [[numbers[like.text], numbers[like.earlier], round(like.share, 4)] for like in found]
        most = sorted(recurring, key=lambda one: -len(one.texts))[:MOST_RECURRING]
        row.recurring = [
            [numbers[one.text], one.start, one.end, [numbers[text] for text in one.texts[:MOST_TEXTS]]]
            for one in most
        ]
        bump(db, project_id, PLACE)
