"""The corpus as JSON Lines, written by the database: as core.formats writes them, many times as fast."""

from __future__ import annotations

from collections.abc import Iterator

from sqlalchemy import ColumnElement, String, case, collate, func, lateral, literal, select, true, type_coerce
from sqlalchemy.dialects.postgresql import aggregate_order_by
from sqlalchemy.orm import Session

from urdaten.places.desk.acts.annotation import SIGNED
from urdaten.places.desk.acts.layers import gold_layer
from urdaten.places.desk.tables import AnnotationRow, SpanRow
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types

# So many lines come at a time.
_AT_ONCE = 2000


def corpus_lines(
    db: Session, project: Project, which: texts.Which, *, layer: int | None, unsigned: bool
) -> Iterator[str]:
    """A line for each of these texts, in reading order; without `unsigned` those alone that have a signed sentence."""
    layer = gold_layer(db, project.id) if layer is None else layer
    codes = types.type_codes(db, project.id)
    held, sentences = texts.chosen(project.id, which), texts.bare_sentences()
    stands = (AnnotationRow.sentence_id == sentences.c.id) & (AnnotationRow.layer_id == layer)
    is_signed = func.coalesce(AnnotationRow.state == SIGNED, False)
    bounds = func.format(
        '{"start": %s, "end": %s, "signed": %s}',
        sentences.c.start,
        sentences.c.end,
        case((is_signed, "true"), else_="false"),
    )
    cut = lateral(
        select(
            func.string_agg(bounds, aggregate_order_by(literal(", "), sentences.c.number)).label("told"),
            func.bool_or(is_signed).label("signed"),
        )
        .select_from(sentences)
        .outerjoin(AnnotationRow, stands)
        .where(sentences.c.text_id == held.c.id)
    )
    code: ColumnElement[str] = case(codes, value=SpanRow.type_id) if codes else literal("")
    span = func.format('{"start": %s, "end": %s, "type": %s}', SpanRow.start, SpanRow.end, func.to_json(code))
    order = (SpanRow.start, SpanRow.end, collate(code, "C"))
    marked = lateral(
        select(func.string_agg(span, aggregate_order_by(literal(", "), *order)).label("told"))
        .select_from(sentences)
        .join(AnnotationRow, stands)
        .join(SpanRow, SpanRow.annotation_id == AnnotationRow.id)
        .where(sentences.c.text_id == held.c.id)
    )
    head = [
        _member("id", func.to_json(func.concat(held.c.id)), literal(True)),
        *(_member(name, func.to_json(held.c[name]), held.c[name] != "") for name in ("title", "group")),
        _member("date", func.to_json(func.concat(held.c.dated)), held.c.dated.is_not(None)),
        _member("split", func.to_json(held.c.split), held.c.split != ""),
        _member("meta", held.c.meta, type_coerce(func.concat(held.c.meta), String) != "{}"),
    ]
    line = func.format(
        '{"text": %s' + "%s" * len(head) + ', "spans": [%s]%s}\n',
        func.to_json(held.c.body),
        *head,
        marked.c.told,
        _member("sentences", func.format("[%s]", cut.c.told), cut.c.told.is_not(None)),
    )
    query = select(line).select_from(held).join(cut, true()).join(marked, true())
    if not unsigned:
        query = query.where(cut.c.signed)
    query = query.order_by(held.c.position, held.c.id)
    with db.execute(query.execution_options(yield_per=_AT_ONCE)) as rows:
        for (written,) in rows:
            yield written


def _member(name: str, value: ColumnElement[str], there: ColumnElement[bool]) -> ColumnElement[str]:
    return case((there, func.format(f', "{name}": %s', value)), else_="")
