"""How far gold has come in each text, counted along with every act, so that figures are read and not counted anew.

A text's counts are spread over several rows. Whoever adds to them takes a row that nobody holds just now, or makes one,
so nobody waits for anybody else's transaction; the counts are their sums.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import TYPE_CHECKING, Any

from sqlalchemy import ColumnElement, Integer, and_, bindparam, delete, func, insert, lateral, select, true
from sqlalchemy.orm import Session

from urdaten.places.desk.acts.annotation import SIGNED, Annotation
from urdaten.places.desk.acts.layers import gold_of
from urdaten.places.desk.tables import AnnotationRow, LayerRow, QuestionRow, SpanRow, TallyRow
from urdaten.places.texts import acts as texts
from urdaten.platform.database import columns_of, table_of

if TYPE_CHECKING:
    from urdaten.places.desk.acts.storing import Step

COUNTED = ("signed", "empty", "asked", "spans")


def _worth(one: Annotation) -> tuple[int, int, int, int]:
    """What a sentence adds to each of COUNTED."""
    signed = one.state == SIGNED
    return signed, signed and not one.spans, bool(one.question and not one.answer), len(one.spans)


def tally(db: Session, project_id: int, layer: int, steps: Mapping[int, Step]) -> None:
    """Count what these steps change, where the layer is the project's gold."""
    changed: dict[int, Iterable[int]] = {}
    for sentence, step in steps.items():
        before, after = _worth(step.before), _worth(step.after)
        if before != after:
            changed[sentence] = [now - then for then, now in zip(before, after, strict=True)]
    if changed:
        columns = dict(zip(COUNTED, map(list, zip(*changed.values(), strict=True)), strict=True))
        asked = {f"add_{name}": column for name, column in columns.items()}
        db.execute(_ADD, {"sentences": list(changed), "project": project_id, "layer": layer, **asked})


_TABLE = table_of(TallyRow)
_CHANGED = columns_of(sentences=Integer(), **{f"add_{name}": Integer() for name in COUNTED})
_WHERE = texts.sentence_index(bindparam("project", type_=Integer))
_IS_GOLD = and_(LayerRow.id == bindparam("layer", type_=Integer), LayerRow.kind == "gold")
_BY_TEXT = (
    select(_WHERE.c.text_id, *(func.sum(_CHANGED.c[f"add_{name}"]).label(name) for name in COUNTED))
    .select_from(_CHANGED)
    .join(_WHERE, _WHERE.c.id == _CHANGED.c.sentences)
    .join(LayerRow, _IS_GOLD)
    .group_by(_WHERE.c.text_id)
    .cte("by_text")
)
_FREE = lateral(
    select(_TABLE.c.id)
    .where(_TABLE.c.text_id == _BY_TEXT.c.text_id)
    .order_by(_TABLE.c.id)
    .limit(1)
    .with_for_update(skip_locked=True)
)
_HELD = select(_FREE.c.id, *_BY_TEXT.c).select_from(_BY_TEXT).join(_FREE, true()).cte("held")
_ADDED = (
    _TABLE.update()
    .where(_TABLE.c.id == _HELD.c.id)
    .values({_TABLE.c[name]: _TABLE.c[name] + _HELD.c[name] for name in COUNTED})
    .returning(_TABLE.c.text_id)
    .cte("added")
)
# Made once: every act asks it.
_ADD = insert(_TABLE).from_select(
    ["text_id", *COUNTED, "project_id"],
    select(*_BY_TEXT.c, bindparam("project", type_=Integer)).where(
        _BY_TEXT.c.text_id.not_in(select(_ADDED.c.text_id))
    ),
)


def tally_anew(db: Session, project_id: int) -> None:
    """Count from what stands, for gold that came by another way than acts."""
    index = texts.sentence_index(project_id)
    spans = select(func.count()).where(SpanRow.annotation_id == AnnotationRow.id).scalar_subquery()
    one = (
        select(
            index.c.text_id,
            (AnnotationRow.state == SIGNED).label("signed"),
            spans.label("spans"),
            func.coalesce(and_(QuestionRow.words != "", QuestionRow.answer == ""), False).label("asked"),
        )
        .join(index, index.c.id == AnnotationRow.sentence_id)
        .outerjoin(QuestionRow, QuestionRow.annotation_id == AnnotationRow.id)
        .where(AnnotationRow.layer_id == gold_of(project_id))
        .subquery()
    )
    counts: dict[str, ColumnElement[Any]] = {
        "signed": func.count().filter(one.c.signed),
        "empty": func.count().filter(one.c.signed & (one.c.spans == 0)),
        "asked": func.count().filter(one.c.asked),
        "spans": func.sum(one.c.spans),
    }
    db.execute(delete(_TABLE).where(_TABLE.c.project_id == project_id))
    counted = select(one.c.text_id, *(counts[name] for name in COUNTED), bindparam(None, project_id, Integer))
    db.execute(
        insert(_TABLE).from_select(["text_id", *COUNTED, "project_id"], counted.group_by(one.c.text_id))
    )
