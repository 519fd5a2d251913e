"""Figures of annotation: how much is marked and signed, by type, by text and in all."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime
from itertools import pairwise
from statistics import mean

from sqlalchemy import ARRAY, BigInteger, ColumnElement, Integer, Subquery, Text, cast, func, select
from sqlalchemy.orm import Session, aliased

from urdaten.core.spans import Overlap
from urdaten.places.desk.acts.annotation import SIGNED
from urdaten.places.desk.acts.changing import SIGNING
from urdaten.places.desk.acts.layers import gold_of
from urdaten.places.desk.acts.quiet import is_loud
from urdaten.places.desk.tables import (
    ActRow,
    AnnotationRow,
    LayerRow,
    RoundRow,
    RoundTextRow,
    SpanRow,
    TallyRow,
    VerdictRow,
)
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts
from urdaten.platform.database import among


@dataclass(frozen=True, kw_only=True)
class Tally:
    """Figures of one text."""

    sentences: int
    signed: int
    spans: int


def span_counts(db: Session, project_id: int) -> dict[int, int]:
    """Gold spans per type number."""
    query = (
        select(SpanRow.type_id, func.count())
        .join(AnnotationRow, AnnotationRow.id == SpanRow.annotation_id)
        .where(AnnotationRow.layer_id == gold_of(project_id))
        .group_by(SpanRow.type_id)
    )
    return {type_id: count for type_id, count in db.execute(query)}


def gold_by_type(db: Session, project: Project) -> dict[int, int]:
    """Spans per type number in signed sentences of texts that are not quiet."""
    index = texts.text_index(project.id)
    sentences = texts.sentence_index(project.id)
    query = (
        select(SpanRow.type_id, func.count())
        .join(AnnotationRow, AnnotationRow.id == SpanRow.annotation_id)
        .join(sentences, sentences.c.id == AnnotationRow.sentence_id)
        .join(index, index.c.id == sentences.c.text_id)
        .where(AnnotationRow.layer_id == gold_of(project.id), AnnotationRow.state == SIGNED)
        .where(is_loud(db, project, index))
        .group_by(SpanRow.type_id)
    )
    return {type_id: count for type_id, count in db.execute(query)}


def untouched_texts(db: Session, project_id: int) -> set[int]:
    """Texts in which nothing stands in any layer, and nobody has ever marked or signed anything."""
    index = texts.sentence_index(project_id)
    everything = set(db.scalars(select(index.c.text_id).distinct()))
    marked = select(index.c.text_id).join(AnnotationRow, AnnotationRow.sentence_id == index.c.id)
    acted = select(index.c.text_id).join(ActRow, ActRow.sentence_id == index.c.id)
    return everything - set(db.scalars(marked)) - set(db.scalars(acted))


def signed_in_any_layer(db: Session, project_id: int, text_ids: Sequence[int]) -> dict[int, int]:
    """How many signatures stand in each of these texts, in all layers together; texts without any are absent."""
    index = texts.sentence_index(project_id)
    query = (
        select(index.c.text_id, func.count())
        .select_from(AnnotationRow)
        .join(index, index.c.id == AnnotationRow.sentence_id)
        .where(among(index.c.text_id, text_ids), AnnotationRow.state == SIGNED)
        .group_by(index.c.text_id)
    )
    return {number: count for number, count in db.execute(query)}


def sentences_held(db: Session, sentence_ids: Iterable[int]) -> set[int]:
    """Those of these sentences in which something stands, in any layer, or somebody has ever done anything."""
    numbers = list(sentence_ids)
    stands = select(AnnotationRow.sentence_id).where(among(AnnotationRow.sentence_id, numbers))
    done = select(ActRow.sentence_id).where(among(ActRow.sentence_id, numbers))
    return {*db.scalars(stands), *db.scalars(done)}


def overlapping_sentences(db: Session, project_id: int, overlap: Overlap) -> int:
    """In how many sentences of any layer spans stand as a scheme with this rule does not let them."""
    if overlap == "free":
        return 0
    one, other = aliased(SpanRow), aliased(SpanRow)
    meet = (
        (one.annotation_id == other.annotation_id)
        & (one.id < other.id)
        & (one.start < other.end)
        & (other.start < one.end)
    )
    if overlap == "nested":
        holds = (one.start <= other.start) & (other.end <= one.end)
        lies = (other.start <= one.start) & (one.end <= other.end)
        meet = meet & ~holds & ~lies
    query = (
        select(func.count(one.annotation_id.distinct()))
        .join(other, meet)
        .join(AnnotationRow, AnnotationRow.id == one.annotation_id)
        .join(LayerRow, LayerRow.id == AnnotationRow.layer_id)
        .where(LayerRow.project_id == project_id)
    )
    return db.scalar(query) or 0


def _summed(name: str) -> ColumnElement[int]:
    return func.coalesce(func.sum(getattr(TallyRow, name)), 0)


def tallies(db: Session, project_id: int, text_ids: Sequence[int]) -> dict[int, Tally]:
    """Figures of each text."""
    index = texts.text_index(project_id)
    query = (
        select(index.c.id, index.c.sentences, _summed("signed"), _summed("spans"))
        .outerjoin(TallyRow, TallyRow.text_id == index.c.id)
        .where(among(index.c.id, text_ids))
        .group_by(index.c.id, index.c.sentences)
    )
    found = {
        number: Tally(sentences=count, signed=signed, spans=spans)
        for number, count, signed, spans in db.execute(query)
    }
    return {number: found.get(number, Tally(sentences=0, signed=0, spans=0)) for number in text_ids}


@dataclass(frozen=True, kw_only=True)
class Counts:
    """How far the signing of some sentences has come."""

    total: int = 0
    signed: int = 0
    # Of the signed ones, those without a span.
    empty: int = 0
    # Sentences with a question to the lead that has no answer yet.
    asked: int = 0


@dataclass(frozen=True, kw_only=True)
class Progress(Counts):
    """Counts, and where to go on."""

    # The first sentence in reading order that is not signed.
    first_open: int | None


def progress(db: Session, project_id: int, split: str = "", round_id: int | None = None) -> Progress:
    """Progress over all sentences, or over those of one split, one round, or both."""
    index = texts.text_index(project_id)
    wanted = [index.c.split == split] if split else []
    if round_id is not None:
        own = select(RoundTextRow.text_id).where(RoundTextRow.round_id == round_id)
        wanted.append(index.c.id.in_(own))
    total = db.scalar(select(func.coalesce(func.sum(index.c.sentences), 0)).where(*wanted)) or 0
    counted = select(_summed("signed"), _summed("empty"), _summed("asked"))
    signed, empty, asked = db.execute(
        counted.select_from(TallyRow).join(index, index.c.id == TallyRow.text_id).where(*wanted)
        if wanted
        else counted.where(TallyRow.project_id == project_id)
    ).one()
    first = _first_open(db, project_id, index, wanted) if signed < total else None
    return Progress(total=total, signed=signed, empty=empty, asked=asked, first_open=first)


def _first_open(
    db: Session, project_id: int, index: Subquery, wanted: Sequence[ColumnElement[bool]]
) -> int | None:
    # Sums of all texts at once, and no limit: one would make the database look them up one by one, as if the first text
    # were likely to be open.
    sums = select(TallyRow.text_id, _summed("signed").label("signed"))
    sums_of_all = sums.where(TallyRow.project_id == project_id).group_by(TallyRow.text_id).subquery()
    left = index.c.sentences > func.coalesce(sums_of_all.c.signed, 0)
    first = (
        select(func.min(index.c.position))
        .outerjoin(sums_of_all, sums_of_all.c.text_id == index.c.id)
        .where(left, *wanted)
        .scalar_subquery()
    )
    done = select(_summed("signed")).where(TallyRow.text_id == index.c.id).scalar_subquery()
    unfinished = select(index.c.id).where(index.c.position == first, index.c.sentences > done, *wanted)
    text = db.scalar(unfinished.order_by(index.c.id).limit(1))
    if text is None:
        return None
    held = texts.sentence_index(project_id)
    signed = select(AnnotationRow.id).where(
        AnnotationRow.sentence_id == held.c.id,
        AnnotationRow.layer_id == gold_of(project_id),
        AnnotationRow.state == SIGNED,
    )
    query = select(held.c.id).where(held.c.text_id == text, ~signed.exists())
    return db.scalar(query.order_by(held.c.number).limit(1))


def progress_by_round(db: Session, project_id: int) -> dict[int, Counts]:
    """How far each round has come."""
    index = texts.text_index(project_id)
    rounds = select(RoundRow.id).where(RoundRow.project_id == project_id)
    sums = (
        select(RoundTextRow.round_id, func.sum(index.c.sentences))
        .join(index, index.c.id == RoundTextRow.text_id)
        .group_by(RoundTextRow.round_id)
    )
    totals = {number: total for number, total in db.execute(sums)}
    query = (
        select(RoundTextRow.round_id, _summed("signed"), _summed("empty"), _summed("asked"))
        .join(TallyRow, TallyRow.text_id == RoundTextRow.text_id)
        .where(TallyRow.project_id == project_id)
        .group_by(RoundTextRow.round_id)
    )
    counted = {number: counts for number, *counts in db.execute(query)}
    found = {}
    for number in db.scalars(rounds):
        signed, empty, asked = counted.get(number, (0, 0, 0))
        found[number] = Counts(total=totals.get(number, 0), signed=signed, empty=empty, asked=asked)
    return found


# Acts of these standings have not been undone.
_STANDING = ("done", "kept")
# A longer gap between two signings was a pause.
_LAST_SIGNING, _FEWEST_SIGNING, _PAUSE_S = 50, 5, 300.0


def pace(db: Session, project_id: int, account_id: int) -> float | None:
    """Seconds that the account lately took from one signing to the next, pauses left out; None after too few."""
    query = select(ActRow.created_at).where(
        ActRow.project_id == project_id,
        ActRow.account_id == account_id,
        ActRow.kind.in_(SIGNING),
        ActRow.standing.in_(_STANDING),
    )
    times = db.scalars(query.order_by(ActRow.id.desc()).limit(_LAST_SIGNING)).all()
    gaps = [(later - earlier).total_seconds() for later, earlier in pairwise(times)]
    worked = [gap for gap in gaps if gap <= _PAUSE_S]
    return mean(worked) if len(worked) >= _FEWEST_SIGNING else None


def signings_since(db: Session, project_id: int, moment: datetime | None, splits: Sequence[str]) -> int:
    """How many signings that stand were made in texts of these splits after a moment, or ever."""
    index = texts.sentence_index(project_id)
    query = (
        select(func.count())
        .select_from(ActRow)
        .join(index, index.c.id == ActRow.sentence_id)
        .where(ActRow.project_id == project_id, ActRow.kind.in_(SIGNING), ActRow.standing.in_(_STANDING))
        .where(index.c.split.in_(splits))
    )
    if moment is not None:
        query = query.where(ActRow.created_at > moment)
    return db.scalar(query) or 0


@dataclass(frozen=True, kw_only=True)
class Acceptance:
    """What annotators said of a source's evidence."""

    source: str
    taken: int
    turned_down: int


def acceptance(db: Session, project_id: int) -> list[Acceptance]:
    """By source, in all acts that were not undone."""
    taken = func.count().filter(VerdictRow.taken)
    query = (
        select(VerdictRow.source, taken, func.count() - taken)
        .join(ActRow, ActRow.id == VerdictRow.act_id)
        .where(ActRow.project_id == project_id, ActRow.standing.in_(_STANDING))
        .group_by(VerdictRow.source)
        .order_by(VerdictRow.source)
    )
    return [Acceptance(source=source, taken=yes, turned_down=no) for source, yes, no in db.execute(query)]


def latest_act(db: Session, project_id: int) -> int:
    """Number of the project's newest act, 0 before the first. Whoever keeps it as what something was made from waits for
    the writers before, so that no act with a smaller number comes in later."""
    return db.scalar(select(func.max(ActRow.id)).where(ActRow.project_id == project_id)) or 0


def moment(db: Session) -> int:
    """A moment for `sentences_of_acts`: all acts of transactions before it are to be seen."""
    now = func.pg_snapshot_xmin(func.pg_current_snapshot())
    return db.scalar(select(cast(cast(now, Text), BigInteger))) or 0


def sentences_of_acts(db: Session, project_id: int, since: int, layer: int | None = None) -> set[int]:
    """Sentences that acts in gold, or another layer, have touched since a moment. Some may be told twice, none is left out."""
    query = select(ActRow.sentence_id).where(ActRow.project_id == project_id, ActRow.transaction >= since)
    query = query.where(ActRow.layer_id == (gold_of(project_id) if layer is None else layer))
    return set(db.scalars(query.distinct()))


def sentences_changed_since(db: Session, project_id: int, act_id: int, splits: Sequence[str]) -> int:
    """How many sentences of these splits acts in gold after this one have touched."""
    index = texts.sentence_index(project_id)
    query = (
        select(func.count(ActRow.sentence_id.distinct()))
        .join(index, index.c.id == ActRow.sentence_id)
        .where(ActRow.project_id == project_id, ActRow.id > act_id, index.c.split.in_(splits))
        .where(ActRow.layer_id == gold_of(project_id))
    )
    return db.scalar(query) or 0


@dataclass(frozen=True, kw_only=True)
class Share:
    """How large a project is, how far it has come, and when somebody last did something in it."""

    texts: int = 0
    sentences: int = 0
    signed: int = 0
    changed_at: datetime | None = None


def shares(db: Session, project_ids: Sequence[int]) -> dict[int, Share]:
    """Of each project."""
    sizes = texts.sizes(db, project_ids)
    query = select(TallyRow.project_id, func.sum(TallyRow.signed)).where(
        among(TallyRow.project_id, project_ids)
    )
    signed = {number: count for number, count in db.execute(query.group_by(TallyRow.project_id))}
    # The newest act of each is looked up in the index; grouping would read all of them.
    asked = func.unnest(cast(list(project_ids), ARRAY(Integer))).column_valued("asked")
    newest = select(func.max(ActRow.created_at)).where(ActRow.project_id == asked).scalar_subquery()
    changed = {number: at for number, at in db.execute(select(asked, newest))}
    return {
        number: Share(
            texts=sizes.get(number, (0, 0))[0],
            sentences=sizes.get(number, (0, 0))[1],
            signed=signed.get(number, 0),
            changed_at=changed.get(number),
        )
        for number in project_ids
    }
