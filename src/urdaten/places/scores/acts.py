"""Acts on scorecards."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import ColumnElement, func, insert, literal, select, tuple_
from sqlalchemy.orm import Session

from urdaten.core.scoring import Figures, SpanScores, outcomes
from urdaten.core.spans import Span
from urdaten.errors import BadInput, Clash, NotFound
from urdaten.places.desk import acts as desk
from urdaten.places.desk.wire import StavePage
from urdaten.places.pipeline import acts as pipeline
from urdaten.places.pipeline.wire import STAVES, make_stave, page_of
from urdaten.places.scores.tables import ScorecardRow, ScoredSentenceRow
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts
from urdaten.platform.jobs import JobView, add_job
from urdaten.platform.revisions import bump

PLACE = "scores"
JOB = "scoring"
# What a figure counts: recall is about all that is in gold, precision about all that was found.
OUTCOMES = {
    "right": {"right"},
    "missed": {"missed"},
    "surplus": {"surplus"},
    "gold": {"right", "missed"},
    "found": {"right", "surplus"},
}


@dataclass(frozen=True, kw_only=True)
class Scorecard:
    """A scorecard as other places see it."""

    id: int
    source: str
    title: str
    figures: dict[str, Any]
    made_from: dict[str, Any]
    created_at: datetime


@dataclass(frozen=True, kw_only=True)
class ScoredSentence:
    """One sentence of a scoring."""

    sentence_id: int
    gold: Sequence[Span]
    found: Sequence[Span]


def _scorecard(row: ScorecardRow) -> Scorecard:
    return Scorecard(
        id=row.id,
        source=row.source,
        title=row.title,
        figures=row.figures,
        made_from=row.made_from,
        created_at=row.created_at,
    )


def start_scoring(db: Session, project_id: int, account_id: int) -> JobView:
    """Score every source on the signed sentences of the test split, in the background.

    Raises Clash while a scoring is going on, and when there is nothing to score against.
    """
    if not desk.is_any_signed(db, project_id, "test"):
        raise Clash("No sentence of the test split is signed, so there is nothing to score against.")
    return add_job(
        db,
        project_id=project_id,
        account_id=account_id,
        kind=JOB,
        title="Scoring on the test split",
        params={},
        alone="A scoring is going on already.",
    )


def _figures(figures: Figures) -> dict[str, Any]:
    return {
        "right": figures.right,
        "missed": figures.missed,
        "surplus": figures.surplus,
        "precision": figures.precision,
        "recall": figures.recall,
        "f1": figures.f1,
    }


def keep_scorecard(
    db: Session,
    project_id: int,
    job_id: int,
    source: str,
    title: str,
    scores: SpanScores,
    sentences: Sequence[ScoredSentence],
    made_from: dict[str, Any],
) -> None:
    """Freeze a scorecard with the sentences behind it."""
    figures = {
        "overall": _figures(scores.overall),
        "f1_low": scores.f1_low,
        "f1_high": scores.f1_high,
        "types": {code: _figures(figures) for code, figures in scores.types.items()},
    }
    row = ScorecardRow(
        project_id=project_id,
        job_id=job_id,
        source=source,
        title=title,
        figures=figures,
        made_from=made_from,
    )
    db.add(row)
    db.flush()
    if sentences:
        db.execute(
            insert(ScoredSentenceRow),
            [
                {
                    "scorecard_id": row.id,
                    "sentence_id": s.sentence_id,
                    "gold": [[x.start, x.end, x.type] for x in s.gold],
                    "found": [[x.start, x.end, x.type, x.probability, x.source, x.why] for x in s.found],
                    "outcomes": [f"{code} {outcome}" for code, outcome in outcomes(s.gold, s.found)],
                }
                for s in sentences
            ],
        )
    bump(db, project_id, PLACE)


def read_scorecards(db: Session, project_id: int) -> list[Scorecard]:
    """Every scorecard, the newest scoring first, the whole before its parts."""
    query = select(ScorecardRow).where(ScorecardRow.project_id == project_id)
    rows = db.scalars(query.order_by(ScorecardRow.job_id.desc().nulls_last(), ScorecardRow.id))
    return [_scorecard(row) for row in rows]


def latest_whole(db: Session, project_id: int) -> Scorecard | None:
    """The newest scorecard of everything together."""
    return next((card for card in read_scorecards(db, project_id) if card.source == "resolved"), None)


def read_scorecard(db: Session, project_id: int, scorecard_id: int) -> Scorecard:
    row = db.get(ScorecardRow, scorecard_id)
    if row is None or row.project_id != project_id:
        raise NotFound(f"There is no scorecard {scorecard_id} in this project.")
    return _scorecard(row)


def remove_scorecard(db: Session, project_id: int, scorecard_id: int) -> None:
    read_scorecard(db, project_id, scorecard_id)
    db.delete(db.get_one(ScorecardRow, scorecard_id))
    db.flush()
    bump(db, project_id, PLACE)


def made_from_now(db: Session, project_id: int) -> dict[str, Any]:
    """The versions that a scoring begun now measures."""
    return {
        "act": desk.latest_act(db, project_id),
        "evidence": list(pipeline.stamp(db, project_id)),
        "pipeline": pipeline.number_of(db, project_id),
    }


def out_of_date(db: Session, project_id: int, card: Scorecard) -> list[str]:
    """In words, what has changed since the card was frozen."""
    changes = []
    changed = desk.sentences_changed_since(db, project_id, card.made_from["act"], ("test",))
    if changed:
        changes.append(f"test gold has changed in {changed} {'sentence' if changed == 1 else 'sentences'}")
    parts = (
        "the lists have changed",
        "the rules have changed",
        "the types have changed",
        "another tagger is in use",
    )
    for then, now, words in zip(
        card.made_from["evidence"], pipeline.stamp(db, project_id), parts, strict=True
    ):
        if then != now:
            changes.append(words)
    if card.made_from.get("pipeline", 0) != pipeline.number_of(db, project_id):
        changes.append("the pipeline has changed")
    return changes


def sentences_behind(
    db: Session, project: Project, scorecard_id: int, code: str, outcome: str, after: int | None = None
) -> StavePage:
    """Staves of the sentences behind one figure, after the sentence `after`: those with this outcome for this type.

    An empty outcome means any, an empty code any type; "gold" and "found" are what recall and
    precision are about. Gold and finds are as they were frozen.
    """
    read_scorecard(db, project.id, scorecard_id)
    if outcome and outcome not in OUTCOMES:
        raise BadInput(f"An outcome is one of {', '.join(OUTCOMES)}, not {outcome!r}.", field="outcome")
    index = texts.sentence_index(project.id)
    order = (index.c.position, index.c.text_id, index.c.number)
    every = (
        select(ScoredSentenceRow)
        .join(index, index.c.id == ScoredSentenceRow.sentence_id)
        .where(ScoredSentenceRow.scorecard_id == scorecard_id, _with_outcome(code, outcome))
    )
    query = every.order_by(*order).limit(STAVES + 1)
    if after is not None:
        last = db.execute(select(*order).where(index.c.id == after)).first()
        if last is None:
            raise texts.no_sentence(after)
        query = query.where(tuple_(*order) > tuple_(*(literal(value) for value in last)))
    rows = {row.sentence_id: row for row in db.scalars(query)}
    staves = []
    for text, sentences in texts.sentences_by_text(db, rows):
        for sentence in sentences:
            row = rows[sentence.id]
            lanes = {
                "gold": [Span(a, b, c, "gold") for a, b, c in row.gold],
                "found": [Span(a, b, c, source, p, why) for a, b, c, p, source, why in row.found],
            }
            staves.append(make_stave(project, text, sentence, True, lanes, differs=True))
    total = db.scalar(select(func.count()).select_from(every.subquery()))
    return page_of(total or 0, staves)


def _with_outcome(code: str, outcome: str) -> ColumnElement[bool]:
    """Does a scored sentence have such an outcome, for this type or any?"""
    each = func.jsonb_array_elements_text(ScoredSentenceRow.outcomes).table_valued("value")
    query = select(each.c.value)
    if code:
        query = query.where(func.split_part(each.c.value, " ", 1) == code)
    if outcome:
        query = query.where(func.split_part(each.c.value, " ", 2).in_(OUTCOMES[outcome]))
    return query.exists()
