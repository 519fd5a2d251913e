"""The corpus as JSON Lines, written by the database: as core.formats writes them, many times as fast."""

from __future__ import annotations

from collections import deque
from collections.abc import Iterator, Mapping, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import ExitStack

from sqlalchemy import (
    ARRAY,
    ColumnElement,
    Integer,
    Select,
    String,
    any_,
    bindparam,
    case,
    cast,
    collate,
    func,
    literal,
    select,
    text,
    type_coerce,
)
from sqlalchemy.dialects.postgresql import aggregate_order_by
from sqlalchemy.orm import InstrumentedAttribute, Session

from urdaten.places.desk.acts.annotation import SIGNED
from urdaten.places.desk.acts.layers import gold_layer
from urdaten.places.desk.tables import AnnotationRow, SpanRow
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types
from urdaten.platform.database import beside, has_written

# So many texts are written by one statement, and by so many connections at a time.
_AT_ONCE, _CONNECTIONS = 1000, 2


def corpus_lines(
    db: Session, project: Project, which: texts.Which, *, layer: int | None, unsigned: bool
) -> Iterator[str]:
    """A line for each of these texts, in reading order; without `unsigned` those alone that have a signed sentence."""
    layer = gold_layer(db, project.id) if layer is None else layer
    query = _lines(project.id, layer, types.type_codes(db, project.id), unsigned)
    numbers = texts.in_order_of(db, project.id, which)
    portions = [numbers[at : at + _AT_ONCE] for at in range(0, len(numbers), _AT_ONCE)]
    if len(portions) <= _CONNECTIONS or has_written(db):
        for portion in portions:
            yield from db.scalars(query, {"texts": portion})
        return
    with ExitStack() as stack:
        hands = [
            (stack.enter_context(beside(db)), stack.enter_context(ThreadPoolExecutor(1)))
            for _ in range(_CONNECTIONS)
        ]

        for session, _ in hands:
            # A plan for any portion would be one for a few texts; and no table is read whole for each.
            session.execute(text("SET LOCAL plan_cache_mode = force_custom_plan"))
            session.execute(text("SET LOCAL enable_seqscan = off"))

        def written(number: int) -> Future[Sequence[str]]:
            session, hand = hands[number % len(hands)]
            return hand.submit(lambda: session.scalars(query, {"texts": portions[number]}).all())

        ahead = deque(written(number) for number in range(len(hands)))
        for number in range(len(portions)):
            lines = ahead.popleft().result()
            if number + len(hands) < len(portions):
                ahead.append(written(number + len(hands)))
            yield from lines


def _lines(project_id: int, layer: int, codes: Mapping[int, str], unsigned: bool) -> Select[str]:
    """The lines of the texts with the numbers `texts`, in reading order."""
    wanted = bindparam("texts", type_=ARRAY(Integer))
    held, sentences = texts.told_of(project_id), texts.bare_sentences()
    stands = (AnnotationRow.sentence_id == sentences.c.id) & (AnnotationRow.layer_id == layer)
    is_signed = func.coalesce(AnnotationRow.state == SIGNED, False)
    bounds = _glued(
        '{"start": ',
        sentences.c.start,
        ', "end": ',
        sentences.c.end,
        case((is_signed, ', "signed": true}'), else_=', "signed": false}'),
    )
    cut = (
        select(
            sentences.c.text_id,
            func.string_agg(bounds, aggregate_order_by(literal(", "), sentences.c.number)).label("told"),
            func.bool_or(is_signed).label("signed"),
        )
        .select_from(sentences)
        .outerjoin(AnnotationRow, stands)
        .where(sentences.c.text_id == any_(wanted))
        .group_by(sentences.c.text_id)
        .subquery()
    )
    code: ColumnElement[str] = case(codes, value=SpanRow.type_id) if codes else literal("")
    span = _glued(
        '{"start": ', SpanRow.start, ', "end": ', SpanRow.end, ', "type": ', func.to_json(code), "}"
    )
    order = (SpanRow.start, SpanRow.end, collate(code, "C"))
    marked = (
        select(
            sentences.c.text_id,
            func.string_agg(span, aggregate_order_by(literal(", "), *order)).label("told"),
        )
        .select_from(sentences)
        .join(AnnotationRow, stands)
        .join(SpanRow, SpanRow.annotation_id == AnnotationRow.id)
        .where(sentences.c.text_id == any_(wanted))
        .group_by(sentences.c.text_id)
        .subquery()
    )
    line = _glued(
        '{"text": ',
        func.to_json(held.c.body),
        ', "id": "',
        held.c.id,
        '"',
        *(_member(name, func.to_json(held.c[name]), held.c[name] != "") for name in ("title", "group")),
        _member("date", func.to_json(held.c.dated), held.c.dated.is_not(None)),
        _member("split", func.to_json(held.c.split), held.c.split != ""),
        _member("meta", held.c.meta, type_coerce(cast(held.c.meta, String), String) != "{}"),
        ', "spans": [',
        func.coalesce(marked.c.told, ""),
        "]",
        _member("sentences", _glued("[", cut.c.told, "]"), cut.c.told.is_not(None)),
        "}\n",
    )
    query = (
        select(line)
        .select_from(held)
        .outerjoin(cut, cut.c.text_id == held.c.id)
        .outerjoin(marked, marked.c.text_id == held.c.id)
        .where(held.c.id == any_(wanted))
        .order_by(held.c.position, held.c.id)
    )
    return query if unsigned else query.where(cut.c.signed)


def _member(name: str, value: ColumnElement[str], there: ColumnElement[bool]) -> ColumnElement[str]:
    return case((there, _glued(f', "{name}": ', value)), else_="")


def _glued(
    *parts: str | ColumnElement[str] | ColumnElement[int] | InstrumentedAttribute[int],
) -> ColumnElement[str]:
    """One after the other; none of them null. Several times as fast as `format` of the database."""
    first, *rest = (literal(part) if isinstance(part, str) else cast(part, String) for part in parts)
    whole: ColumnElement[str] = first
    for part in rest:
        whole = whole.concat(part)
    return whole
