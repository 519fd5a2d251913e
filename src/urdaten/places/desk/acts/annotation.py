"""What stands in a sentence, as it is read and as the log keeps it."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from urdaten.core.spans import Span
from urdaten.places.desk.tables import AnnotationRow, SpanRow, TurnedDownRow
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types
from urdaten.platform.database import among

UNTOUCHED, DRAFT, SIGNED = "untouched", "draft", "signed"


@dataclass(frozen=True, kw_only=True)
class Annotation:
    """What stands in a sentence."""

    state: str = UNTOUCHED
    version: int = 0
    spans: tuple[Span, ...] = ()
    # Evidence that shall not be offered again.
    turned_down: tuple[Span, ...] = ()
    question: str = ""
    answer: str = ""
    signed_by: int | None = None


def states_of(db: Session, sentence_ids: Iterable[int]) -> dict[int, Annotation]:
    """What stands in each sentence; untouched ones are absent."""
    ids = list(sentence_ids)
    rows = db.scalars(select(AnnotationRow).where(among(AnnotationRow.sentence_id, ids))).all()
    if not rows:
        return {}
    codes = types.type_codes(db, rows[0].project_id)
    spans = _spans(db, SpanRow, ids, codes)
    turned_down = _spans(db, TurnedDownRow, ids, codes)
    return {
        row.sentence_id: Annotation(
            state=row.state,
            version=row.version,
            spans=spans.get(row.sentence_id, ()),
            turned_down=turned_down.get(row.sentence_id, ()),
            question=row.question,
            answer=row.answer,
            signed_by=row.signed_by,
        )
        for row in rows
    }


def _spans(
    db: Session, table: type[SpanRow | TurnedDownRow], ids: list[int], codes: Mapping[int, str]
) -> dict[int, tuple[Span, ...]]:
    found: dict[int, list[Span]] = {}
    query = select(table.sentence_id, table.start, table.end, table.type_id)
    for sentence, start, end, kind in db.execute(query.where(among(table.sentence_id, ids))):
        found.setdefault(sentence, []).append(Span(start, end, codes[kind], "gold"))
    return {sentence: tuple(sorted(spans)) for sentence, spans in found.items()}


def annotation_of(db: Session, sentence_id: int) -> Annotation:
    return states_of(db, [sentence_id]).get(sentence_id, Annotation())


def signed_versions(db: Session, project_id: int, splits: Sequence[str]) -> dict[int, int]:
    """Version of each signed sentence of these splits: one that has not risen says that the sentence is as before."""
    index = texts.sentence_index(project_id)
    query = (
        select(AnnotationRow.sentence_id, AnnotationRow.version)
        .join(index, index.c.id == AnnotationRow.sentence_id)
        .where(AnnotationRow.state == SIGNED, index.c.split.in_(splits))
    )
    return {sentence: version for sentence, version in db.execute(query)}


@dataclass(frozen=True, kw_only=True)
class Standing:
    """How far a sentence has come, in short."""

    state: str = UNTOUCHED
    spans: int = 0
    # Is there a question to the lead that has no answer?
    asked: bool = False


def standings(db: Session, sentence_ids: Collection[int]) -> dict[int, Standing]:
    """Of each sentence; untouched ones are absent."""
    counting = (
        select(SpanRow.sentence_id, func.count())
        .where(among(SpanRow.sentence_id, sentence_ids))
        .group_by(SpanRow.sentence_id)
    )
    counts = {sentence: count for sentence, count in db.execute(counting)}
    asked = (AnnotationRow.question != "") & (AnnotationRow.answer == "")
    query = select(AnnotationRow.sentence_id, AnnotationRow.state, asked)
    return {
        sentence: Standing(state=state, spans=counts.get(sentence, 0), asked=is_asked)
        for sentence, state, is_asked in db.execute(
            query.where(among(AnnotationRow.sentence_id, sentence_ids))
        )
    }


def as_json(annotation: Annotation) -> dict[str, Any]:
    """As acts are logged; what is empty is left out, but for the spans."""

    def listed(spans: Iterable[Span]) -> list[list[Any]]:
        return [[span.start, span.end, span.type] for span in spans]

    more = {
        "turned_down": listed(annotation.turned_down),
        "question": annotation.question,
        "answer": annotation.answer,
    }
    return {"state": annotation.state, "spans": listed(annotation.spans)} | {
        name: value for name, value in more.items() if value
    }


def from_json(values: Mapping[str, Any]) -> Annotation:
    def read(name: str) -> tuple[Span, ...]:
        return tuple(Span(start, end, code, "gold") for start, end, code in values.get(name, ()))

    return Annotation(
        state=values["state"],
        spans=read("spans"),
        turned_down=read("turned_down"),
        question=values.get("question", ""),
        answer=values.get("answer", ""),
    )
