"""What stands in a sentence, as it is read and as the log keeps it."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import (
    ScalarSelect,
    func,
    select,
)
from sqlalchemy.orm import Session

from urdaten.core.spans import Span
from urdaten.places.desk.acts.layers import gold_of, in_layer
from urdaten.places.desk.tables import AnnotationRow, LayerRow, QuestionRow, SpanRow, TurnedDownRow
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types
from urdaten.platform.database import among

UNTOUCHED, DRAFT, SIGNED = "untouched", "draft", "signed"


@dataclass(frozen=True, kw_only=True)
class Annotation:
    """What stands in a sentence, in one layer."""

    state: str = UNTOUCHED
    version: int = 0
    spans: tuple[Span, ...] = ()
    # Evidence that shall not be offered again.
    turned_down: tuple[Span, ...] = ()
    question: str = ""
    answer: str = ""
    # Whose signing it is, and of when; None for both where it is not signed.
    signed_by: int | None = None
    signed_at: datetime | None = None


def _listed(table: type[SpanRow | TurnedDownRow]) -> ScalarSelect[Any]:
    """Spans of an annotation as a JSON array of [start, end, number of the type]."""
    one = func.jsonb_build_array(table.start, table.end, table.type_id)
    return select(func.jsonb_agg(one)).where(table.annotation_id == AnnotationRow.id).scalar_subquery()


# What is read of an annotation, with its question joined to it; `annotation_from` takes these.
STANDING = (
    AnnotationRow.state,
    AnnotationRow.version,
    AnnotationRow.signed_by,
    AnnotationRow.signed_at,
    QuestionRow.words,
    QuestionRow.answer,
    _listed(SpanRow),
    _listed(TurnedDownRow),
)


def annotation_from(values: Sequence[Any], codes: Mapping[int, str]) -> Annotation:
    """From the values of STANDING, under these codes of the types."""
    state, version, signed_by, signed_at, words, answer, spans, turned_down = values

    def read(listed: list[list[int]] | None) -> tuple[Span, ...]:
        return tuple(sorted(Span(a, b, codes[kind], "gold") for a, b, kind in listed or ()))

    return Annotation(
        state=state,
        version=version,
        spans=read(spans),
        turned_down=read(turned_down),
        question=words or "",
        answer=answer or "",
        signed_by=signed_by,
        signed_at=signed_at,
    )


def states_of(db: Session, sentence_ids: Iterable[int], layer: int | None = None) -> dict[int, Annotation]:
    """What stands in each sentence, in gold unless another layer is named; untouched ones are absent."""
    # All that stands comes in one statement, so that it agrees with itself.
    query = (
        select(AnnotationRow.sentence_id, LayerRow.project_id, *STANDING)
        .join(LayerRow, LayerRow.id == AnnotationRow.layer_id)
        .outerjoin(QuestionRow, QuestionRow.annotation_id == AnnotationRow.id)
        .where(among(AnnotationRow.sentence_id, sentence_ids), in_layer(layer))
    )
    rows = db.execute(query).all()
    if not rows:
        return {}
    codes = types.type_codes(db, rows[0][1])
    return {sentence: annotation_from(standing, codes) for sentence, _, *standing in rows}


def annotation_of(db: Session, sentence_id: int, layer: int | None = None) -> Annotation:
    """As `states_of`, of one sentence."""
    return states_of(db, [sentence_id], layer).get(sentence_id, Annotation())


def signed_versions(
    db: Session, project_id: int, splits: Sequence[str], wanted: Collection[int] | None = None
) -> dict[int, int]:
    """Version of each signed sentence of these splits, in reading order; given `wanted`, of these sentences alone.

    One that has not risen says that the sentence is as before.
    """
    index = texts.sentence_index(project_id)
    query = (
        select(AnnotationRow.sentence_id, AnnotationRow.version)
        .join(index, index.c.id == AnnotationRow.sentence_id)
        .where(AnnotationRow.layer_id == gold_of(project_id), AnnotationRow.state == SIGNED)
        .where(index.c.split.in_(splits))
        .order_by(index.c.position, index.c.text_id, index.c.number)
    )
    if wanted is not None:
        query = query.where(among(AnnotationRow.sentence_id, wanted))
    return {sentence: version for sentence, version in db.execute(query)}


def is_any_signed(db: Session, project_id: int, split: str) -> bool:
    """Is any sentence of this split signed?"""
    index = texts.sentence_index(project_id)
    query = (
        select(AnnotationRow.sentence_id)
        .join(index, index.c.id == AnnotationRow.sentence_id)
        .where(AnnotationRow.layer_id == gold_of(project_id), AnnotationRow.state == SIGNED)
        .where(index.c.split == split)
        .limit(1)
    )
    return db.scalar(query) is not None


@dataclass(frozen=True, kw_only=True)
class Standing:
    """How far a sentence has come, in short."""

    state: str = UNTOUCHED
    spans: int = 0
    # Is there a question to the lead that has no answer?
    asked: bool = False


def standings(db: Session, sentence_ids: Collection[int]) -> dict[int, Standing]:
    """Of each sentence, in gold; untouched ones are absent."""
    counted = func.count(SpanRow.id)
    asked = func.bool_or((QuestionRow.words != "") & (QuestionRow.answer == ""))
    query = (
        select(AnnotationRow.sentence_id, AnnotationRow.state, counted, func.coalesce(asked, False))
        .outerjoin(SpanRow, SpanRow.annotation_id == AnnotationRow.id)
        .outerjoin(QuestionRow, QuestionRow.annotation_id == AnnotationRow.id)
        .where(among(AnnotationRow.sentence_id, sentence_ids), in_layer(None))
        .group_by(AnnotationRow.id)
    )
    return {
        sentence: Standing(state=state, spans=count, asked=is_asked)
        for sentence, state, count, is_asked in db.execute(query)
    }


def as_json(annotation: Annotation, name_of: Mapping[str, Any] | None = None) -> dict[str, Any]:
    """As acts are logged, with each type as `name_of` has it, for the log its number; what is empty is left out, but
    for the spans."""

    def listed(spans: Iterable[Span]) -> list[list[Any]]:
        return [[span.start, span.end, name_of[span.type] if name_of else span.type] for span in spans]

    more = {
        "turned_down": listed(annotation.turned_down),
        "question": annotation.question,
        "answer": annotation.answer,
        "signed_by": annotation.signed_by,
        "signed_at": annotation.signed_at.isoformat() if annotation.signed_at else None,
    }
    return {"state": annotation.state, "spans": listed(annotation.spans)} | {
        name: value for name, value in more.items() if value
    }


def from_json(values: Mapping[str, Any], codes: Mapping[int, str]) -> Annotation:
    """From the log. Raises KeyError for a type that is not among the codes."""

    def read(name: str) -> tuple[Span, ...]:
        return tuple(sorted(Span(a, b, codes[number], "gold") for a, b, number in values.get(name, ())))

    at = values.get("signed_at")
    return Annotation(
        state=values["state"],
        spans=read("spans"),
        turned_down=read("turned_down"),
        question=values.get("question", ""),
        answer=values.get("answer", ""),
        signed_by=values.get("signed_by"),
        signed_at=datetime.fromisoformat(at) if at else None,
    )


def shown(values: Mapping[str, Any], codes: Mapping[int, str]) -> dict[str, Any]:
    """A logged state with codes in the place of numbers; a type that is not known goes by its number."""
    named = {
        name: [[a, b, codes.get(number, f"#{number}")] for a, b, number in values[name]]
        for name in ("spans", "turned_down")
        if name in values
    }
    return {**values, **named}


def annotated_texts(
    db: Session, project_id: int, *, layer: int | None = None, state: str = "", type: str = ""
) -> set[int]:
    """The texts with annotation in this state, or in any, and with a span of this type, or of any or none."""
    index = texts.sentence_index(project_id)
    query = (
        select(index.c.text_id)
        .join(AnnotationRow, AnnotationRow.sentence_id == index.c.id)
        .where(AnnotationRow.layer_id == (gold_of(project_id) if layer is None else layer))
    )
    if state:
        query = query.where(AnnotationRow.state == state)
    if type:
        numbers = [number for number, code in types.type_codes(db, project_id).items() if code == type]
        held = select(SpanRow.annotation_id).where(among(SpanRow.type_id, numbers))
        query = query.where(AnnotationRow.id.in_(held))
    return set(db.scalars(query.distinct()))
