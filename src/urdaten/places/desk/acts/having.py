"""Which texts stand in gold as somebody asks, and how many do."""

from __future__ import annotations

from sqlalchemy import ColumnElement, Select, Subquery, case, func, select
from sqlalchemy.orm import Session

from urdaten.errors import BadInput
from urdaten.places.desk.acts.annotation import SIGNED
from urdaten.places.desk.acts.layers import gold_of
from urdaten.places.desk.acts.quiet import is_loud
from urdaten.places.desk.tables import AnnotationRow, SpanRow, TallyRow
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts

# How far a text has come: all of its sentences are signed, some are, none is; or one has a question without an answer.
WHOLE, PART, NONE, ASKED = "signed", "partly signed", "not signed", "asked"
HOW_FAR = (WHOLE, PART, NONE, ASKED)


def _how_far(
    project_id: int, only: Select[int] | None = None
) -> tuple[Subquery, ColumnElement[str], ColumnElement[int]]:
    """Every text, or some, how far it has come, and how many of its questions are open."""
    index = texts.text_index(project_id)
    sums = (
        select(
            TallyRow.text_id,
            func.sum(TallyRow.signed).label("signed"),
            func.sum(TallyRow.asked).label("asked"),
        )
        .where(TallyRow.project_id == project_id)
        .group_by(TallyRow.text_id)
        .subquery()
    )
    signed = func.coalesce(sums.c.signed, 0)
    state = case((signed == 0, NONE), (signed < index.c.sentences, PART), else_=WHOLE)
    query = select(index.c.id, state.label("state"), func.coalesce(sums.c.asked, 0).label("asked")).outerjoin(
        sums, sums.c.text_id == index.c.id
    )
    every = (query if only is None else query.where(index.c.id.in_(only))).subquery()
    return every, every.c.state, every.c.asked


def texts_of_state(project_id: int, state: str) -> Select[int]:
    """For queries: the numbers of texts that have come so far. Raises BadInput for what is not one of HOW_FAR."""
    if state not in HOW_FAR:
        raise BadInput(f"A text is one of {', '.join(HOW_FAR)}, not {state!r}.", field="state")
    every, is_, asked = _how_far(project_id)
    return select(every.c.id).where(asked > 0 if state == ASKED else is_ == state)


def count_states(db: Session, project_id: int, among: Select[int]) -> list[tuple[str, int]]:
    """How many of these texts have come how far, in the order of HOW_FAR."""
    # Those that have not been begun need not be looked at one by one.
    begun = select(TallyRow.text_id).where(TallyRow.project_id == project_id)
    every, state, asked = _how_far(project_id, begun)
    query = select(state, func.count(), func.count().filter(asked > 0)).where(every.c.id.in_(among))
    found = list(db.execute(query.group_by(state)))
    counts = {name: count for name, count, _ in found} | {ASKED: sum(open_ for *_, open_ in found)}
    meant = db.scalar(select(func.count()).select_from(among.subquery())) or 0
    counts[NONE] = meant - counts.get(WHOLE, 0) - counts.get(PART, 0)
    return [(name, counts.get(name, 0)) for name in HOW_FAR]


def texts_with(project_id: int, type_id: int, words: str = "") -> Select[int]:
    """For queries: the numbers of texts with a gold span of a type, on these very words where there are any."""
    index, spans = _spans(project_id, type_id)
    query = spans.with_only_columns(index.c.text_id)
    return query.where(_covered(index) == words) if words else query


def count_types(db: Session, project_id: int, among: Select[int]) -> list[tuple[int, int]]:
    """Numbers of types, and in how many of these texts each has a gold span; the most frequent ones first."""
    index, spans = _spans(project_id, None)
    count = func.count(index.c.text_id.distinct())
    query = spans.with_only_columns(SpanRow.type_id, count).where(index.c.text_id.in_(among))
    found = db.execute(query.group_by(SpanRow.type_id).order_by(count.desc(), SpanRow.type_id))
    return [(number, texts_) for number, texts_ in found]


def count_values(
    db: Session, project_id: int, type_id: int, among: Select[int], limit: int
) -> list[tuple[str, int]]:
    """On what words gold spans of a type stand in these texts, and in how many texts; the most frequent ones first."""
    index, spans = _spans(project_id, type_id)
    words, count = _covered(index), func.count(index.c.text_id.distinct())
    query = spans.with_only_columns(words, count).where(index.c.text_id.in_(among))
    found = db.execute(query.group_by(words).order_by(count.desc(), words).limit(limit))
    return [(name, texts_) for name, texts_ in found]


def gold_values(db: Session, project_id: int) -> list[tuple[int, int, str, int]]:
    """Text, type, words, and how many gold spans of that type stand on those very words in that text."""
    index, spans = _spans(project_id, None)
    words = _covered(index)
    query = spans.with_only_columns(index.c.text_id, SpanRow.type_id, words, func.count())
    rows = db.execute(query.group_by(index.c.text_id, SpanRow.type_id, words))
    return [(text, type_id, name, count) for text, type_id, name, count in rows]


def loud_gold(db: Session, project: Project, type_id: int) -> list[tuple[str, int, int, int]]:
    """Of a type, in signed sentences of texts that are not quiet: the words of spans, how many stand on them, in how many texts,
    and the first of the sentences; the most frequent ones first."""
    index, spans = _spans(project.id, type_id)
    every = texts.text_index(project.id)
    words, count = _covered(index), func.count()
    query = (
        spans.with_only_columns(
            words, count, func.count(index.c.text_id.distinct()), func.min(AnnotationRow.sentence_id)
        )
        .join(every, every.c.id == index.c.text_id)
        .where(AnnotationRow.state == SIGNED, is_loud(db, project, every))
        .group_by(words)
        .order_by(count.desc(), words)
    )
    rows = db.execute(query)
    return [(str(name), int(total), int(within), int(first)) for name, total, within, first in rows]


def gold_spans(db: Session, project_id: int, among: Select[int]) -> list[tuple[int, int, int, int, int, str]]:
    """Text, sentence, type, start, end and words of every gold span in signed sentences of these texts, in the order of texts."""
    index, spans = _spans(project_id, None)
    query = spans.with_only_columns(
        index.c.text_id,
        AnnotationRow.sentence_id,
        SpanRow.type_id,
        SpanRow.start,
        SpanRow.end,
        _covered(index),
    ).where(AnnotationRow.state == SIGNED, index.c.text_id.in_(among))
    rows = db.execute(query.order_by(index.c.text_id, SpanRow.start, SpanRow.end))
    return [tuple(row) for row in rows]


def _spans(project_id: int, type_id: int | None) -> tuple[Subquery, Select[int]]:
    """Gold spans, with the sentences and bodies that they stand in."""
    index = texts.body_index(project_id)
    query = (
        select(SpanRow.id)
        .join(AnnotationRow, AnnotationRow.id == SpanRow.annotation_id)
        .join(index, index.c.id == AnnotationRow.sentence_id)
        .where(AnnotationRow.layer_id == gold_of(project_id))
    )
    return index, query if type_id is None else query.where(SpanRow.type_id == type_id)


def _covered(index: Subquery) -> ColumnElement[str]:
    return func.substr(index.c.body, SpanRow.start + 1, SpanRow.end - SpanRow.start)
