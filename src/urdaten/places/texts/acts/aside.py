"""What others are quoted with and how mails are signed: kept with the text, and annotated where somebody asks for it."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Sequence

from sqlalchemy import Integer, delete, update
from sqlalchemy.orm import Session

from urdaten.core.text import apart_from
from urdaten.core.text import batch_of as make_batch
from urdaten.errors import Clash
from urdaten.places.team.acts import Project, hold_overlap
from urdaten.places.texts.acts.reading import Sentence, Text, own_row, sentences_of, text_of
from urdaten.places.texts.tables import SentenceRow
from urdaten.platform.database import among, columns_of, copy_rows
from urdaten.platform.revisions import bump

PLACE = "texts"
Bounds = tuple[int, int]


def annotated_parts(sentences: Sequence[Bounds], aside: Sequence[Bounds], body: str) -> list[Bounds]:
    """The sentences of a text in which nobody asked for what stands aside; all of them where there is nothing else."""
    if not aside:
        return list(sentences)
    return apart_from(sentences, aside, body) or list(sentences)


def is_aside_annotated(text: Text, sentences: Iterable[Sentence]) -> bool:
    """Do any of a text's sentences lie in what stands aside?"""
    return any(_overlaps(one, text.aside) for one in sentences)


def annotate_aside(
    db: Session,
    project: Project,
    text_id: int,
    wanted: bool,
    held: Callable[[Collection[int]], Collection[int]],
) -> Text:
    """Give a text sentences in what stands aside, or take them away; the others stay as they are.

    held: those of some sentences in which somebody has worked. Raises NotFound, and Clash where something would be lost or
    nothing left.
    """
    hold_overlap(db, project.id, to_change=True)
    row = own_row(db, project.id, text_id, to_change=True)
    text = text_of(row)
    sentences = sentences_of(db, [text_id])[text_id]
    gone: list[int] = []
    new: list[Bounds] = []
    if wanted:
        stand = [(one.start, one.end) for one in sentences]
        (cut,) = make_batch(
            [text.body], project.language, abbreviations=project.abbreviations
        ).sentence_bounds()
        parts = apart_from(cut, stand, text.body)
        new = [one for one in parts if _overlaps(one, text.aside)]
    else:
        gone = [one.id for one in sentences if _overlaps(one, text.aside)]
        marked = held(gone)
        if marked:
            raise Clash(
                f"Somebody has worked in {len(marked)} of the sentences that stand aside, so they stay; nothing was changed."
            )
        if len(gone) == len(sentences):
            raise Clash("There is nothing else in this text; nothing was changed.")
    if not gone and not new:
        return text
    kept = [one for one in sentences if one.id not in set(gone)]
    starts = sorted([*(one.start for one in kept), *(start for start, _ in new)])
    number_of = {start: number for number, start in enumerate(starts)}
    db.execute(delete(SentenceRow).where(among(SentenceRow.id, gone)))
    # By way of numbers that none has, so that no two have one at any time.
    own = SentenceRow.text_id == text_id
    db.execute(update(SentenceRow).where(own).values(number=-SentenceRow.number - 1))
    db.execute(
        _RENUMBER, {"ids": [one.id for one in kept], "numbers": [number_of[one.start] for one in kept]}
    )
    copy_rows(
        db,
        "sentence",
        ("text_id", "number", "start", "end"),
        ((text_id, number_of[start], start, end) for start, end in new),
    )
    row.sentences = len(starts)
    row.cut += 1
    db.flush()
    bump(db, project.id, PLACE)
    return text_of(row)


def _overlaps(one: Sentence | Bounds, aside: Iterable[Bounds]) -> bool:
    start, end = (one.start, one.end) if isinstance(one, Sentence) else one
    return any(a < end and start < b for a, b in aside)


_TO = columns_of(ids=Integer(), numbers=Integer())
_RENUMBER = (
    update(SentenceRow)
    .where(SentenceRow.id == _TO.c.ids)
    .values(number=_TO.c.numbers)
    .execution_options(synchronize_session=False)
)
