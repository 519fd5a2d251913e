"""What an act sees of its sentence: everything that it needs to know, in one statement."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any
from uuid import UUID

from sqlalchemy import ColumnElement, Integer, Select, Uuid, and_, bindparam, select
from sqlalchemy.orm import Session

from urdaten.places.desk.acts.annotation import STANDING, Annotation, annotation_from
from urdaten.places.desk.acts.layers import gold_layer
from urdaten.places.desk.tables import ActRow, AnnotationRow, LayerRow, QuestionRow
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types


@dataclass(frozen=True, kw_only=True)
class Sight:
    """A sentence in a layer, as it is in the database at one moment."""

    sentence: texts.Sentence
    words: str
    layer: int
    # The scheme's `type_codes`.
    codes: dict[int, str]
    now: Annotation
    # Who did the act of this name, and on which sentence; None where nobody has.
    done: tuple[int | None, int] | None


def _sight(layer: ColumnElement[bool]) -> Select[Any]:
    project = bindparam("project", type_=Integer)
    alone = texts.sentence_alone(bindparam("sentence", type_=Integer), project)
    return (
        select(
            *alone.c,
            types.codes_of(project),
            LayerRow.id,
            ActRow.id,
            ActRow.account_id,
            ActRow.sentence_id,
            AnnotationRow.id,
            *STANDING,
        )
        .select_from(alone)
        .outerjoin(LayerRow, and_(LayerRow.project_id == project, layer))
        .outerjoin(
            AnnotationRow,
            and_(AnnotationRow.sentence_id == alone.c.id, AnnotationRow.layer_id == LayerRow.id),
        )
        .outerjoin(QuestionRow, QuestionRow.annotation_id == AnnotationRow.id)
        .outerjoin(ActRow, and_(ActRow.project_id == project, ActRow.token == bindparam("token", type_=Uuid)))
    )


# Made once: every act asks one of them.
_IN_GOLD = _sight(LayerRow.kind == "gold")
_IN_LAYER = _sight(LayerRow.id == bindparam("layer", type_=Integer))


def see(
    db: Session, project_id: int, sentence_id: int, *, layer: int | None = None, token: UUID | None = None
) -> Sight:
    """The sentence in gold, or in another layer of the project; the rest of its text is not read.

    token: of the act that is meant to be done. Raises NotFound.
    """
    asked = {"project": project_id, "sentence": sentence_id, "layer": layer, "token": token}
    found = db.execute(_IN_GOLD if layer is None else _IN_LAYER, asked).first()
    if found is None:
        raise texts.no_sentence(sentence_id)
    number, text_id, at, start, end, words, listed, held, act, by, where, annotation, *standing = found
    codes = {kind: code for kind, code in listed or ()}
    return Sight(
        sentence=texts.Sentence(id=number, text_id=text_id, number=at, start=start, end=end),
        words=words,
        layer=gold_layer(db, project_id) if held is None else held,
        codes=codes,
        now=Annotation() if annotation is None else annotation_from(standing, codes),
        done=None if act is None else (by, where),
    )
