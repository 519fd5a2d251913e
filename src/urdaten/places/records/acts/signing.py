"""Signing records: by hand, and those that come signed from elsewhere."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import delete, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from urdaten.core.records import Signed, Signings, Template, fitting_spans
from urdaten.core.text import fold
from urdaten.errors import Clash, NotFound
from urdaten.places.records.acts.assembling import Ground, ground_of
from urdaten.places.records.acts.keeping import part_kept, value_kept
from urdaten.places.records.acts.reading import StoredRecord, read_record
from urdaten.places.records.acts.templates import FOUND, PLACE, REFUSED, SIGNED, StoredTemplate, read_template
from urdaten.places.records.tables import RecordRow, SignedTextRow
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts
from urdaten.platform.revisions import bump


def sign_record(db: Session, project_id: int, record_id: int, account_id: int) -> StoredRecord:
    """Sign a record as it stands. When all of a text's are signed or turned down, they are all that the text has."""
    return _put(db, project_id, record_id, SIGNED, account_id)


def refuse_record(db: Session, project_id: int, record_id: int, account_id: int) -> StoredRecord:
    """Turn a record down: it is none, and does not come back."""
    return _put(db, project_id, record_id, REFUSED, account_id)


def reopen_record(db: Session, project_id: int, record_id: int, account_id: int) -> StoredRecord:
    """Take back that it was signed or turned down; it is assembled anew the next time."""
    return _put(db, project_id, record_id, FOUND, account_id)


def _put(db: Session, project_id: int, record_id: int, state: str, account_id: int) -> StoredRecord:
    template, before = read_record(db, project_id, record_id)
    row = db.get(RecordRow, record_id, with_for_update=True)
    if row is None:
        raise NotFound("This record is gone: the records have been assembled anew. Choose it again.")
    if row.state == state:
        words = {SIGNED: "signed", REFUSED: "turned down", FOUND: "neither signed nor turned down"}
        raise Clash(f"This record is {words[state]} already.")
    row.state = state
    row.signed_by = None if state == FOUND else account_id
    row.signed_at = None if state == FOUND else datetime.now(UTC)
    row.differs = {}
    row.looks = [look for look in row.looks if look != "differs"]
    db.flush()
    _mark_text(db, template.id, before.text_id, account_id)
    bump(db, project_id, PLACE)
    return read_record(db, project_id, record_id)[1]


def _mark_text(db: Session, template_id: int, text_id: int, account_id: int) -> None:
    """A text is signed when nothing of it is left to be."""
    left = db.scalar(
        select(func.count())
        .select_from(RecordRow)
        .where(RecordRow.template_id == template_id, RecordRow.text_id == text_id, RecordRow.state == FOUND)
    )
    if left:
        db.execute(
            delete(SignedTextRow).where(
                SignedTextRow.template_id == template_id, SignedTextRow.text_id == text_id
            )
        )
        return
    _keep_text(db, template_id, text_id, account_id)


def _keep_text(db: Session, template_id: int, text_id: int, account_id: int | None) -> None:
    made = insert(SignedTextRow).values(
        template_id=template_id, text_id=text_id, signed_by=account_id, signed_at=datetime.now(UTC)
    )
    db.execute(made.on_conflict_do_nothing())


def signed_texts(db: Session, template_id: int) -> list[int]:
    """Texts of which all records are signed, by number, ascending."""
    query = select(SignedTextRow.text_id).where(SignedTextRow.template_id == template_id)
    return sorted(db.scalars(query))


def signings_of(db: Session, project: Project, stored: StoredTemplate) -> Signings:
    """What signed texts teach of a template; those of the test split teach nothing."""
    wanted = set(signed_texts(db, stored.id))
    chosen = [text for text in texts.all_texts(db, project.id) if text.id in wanted and text.split != "test"]
    ground = ground_of(db, project, chosen)
    by_text: dict[int, list[dict[str, list[str]]]] = {}
    rows = db.scalars(
        select(RecordRow)
        .where(RecordRow.template_id == stored.id, RecordRow.state == SIGNED)
        .order_by(RecordRow.text_id, RecordRow.position, RecordRow.id)
    )
    for row in rows:
        values = {name: [one["text"] for one in own] for name, own in row.values.items()}
        by_text.setdefault(row.text_id, []).append(values)
    return _signings(ground, [by_text.get(text.id, []) for text in chosen])


def _signings(ground: Ground, records: Sequence[Sequence[Signed]]) -> Signings:
    return Signings(
        batch=ground.batch,
        spans=ground.spans,
        records=records,
        groups=[text.group or f"text {text.id}" for text in ground.texts],
        names=ground.names,
        about=ground.about,
        words=ground.words,
    )


def bring_in_signed(
    db: Session,
    project: Project,
    template_id: int,
    records: Mapping[int, Sequence[Signed]],
    account_id: int | None,
) -> int:
    """Records of texts, by number, that were signed elsewhere: all that these texts have. How many there are.

    Each value is tied to the words of its text that say it, where there are such. What was there of these texts goes.
    """
    stored = read_template(db, project.id, template_id)
    chosen = [text for text in texts.all_texts(db, project.id) if text.id in records]
    ground = ground_of(db, project, chosen)
    numbers = [text.id for text in chosen]
    db.execute(delete(RecordRow).where(RecordRow.template_id == template_id, RecordRow.text_id.in_(numbers)))
    fitting = fitting_spans(stored.template, _signings(ground, [records[n] for n in numbers]))
    count = 0
    for text, own in zip(chosen, fitting, strict=True):
        for made in own:
            db.add(
                RecordRow(
                    template_id=template_id,
                    text_id=text.id,
                    state=SIGNED,
                    signed_by=account_id,
                    signed_at=datetime.now(UTC),
                    **_columns(stored.template, made),
                )
            )
            count += 1
        _keep_text(db, template_id, text.id, account_id)
    db.flush()
    bump(db, project.id, PLACE)
    return count


def _columns(template: Template, made: Any) -> dict[str, Any]:
    anchor = template.anchor
    starts = [part.span.start for parts in made.parts.values() for part in parts]
    own = [part.span.start for part in made.parts.get(anchor, ())]
    return {
        "position": (own or [min(starts, default=0)])[0],
        "entity": fold(made.value(anchor)) if anchor else "",
        "values": {name: [value_kept(value) for value in values] for name, values in made.values.items()},
        "parts": {name: [part_kept(part, anchor) for part in parts] for name, parts in made.parts.items()},
        "rivals": [],
        "missing": made.missing,
        "looks": ["missing"] if made.missing else [],
        "probability": None,
    }
