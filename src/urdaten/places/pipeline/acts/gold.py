"""Gold as evidence is held against it."""

from __future__ import annotations

from collections.abc import Iterable

from sqlalchemy.orm import Session

from urdaten.places.desk import acts as desk
from urdaten.places.texts import acts as texts


def gold_by_sentence(
    db: Session, wanted: Iterable[texts.Text]
) -> dict[int, list[tuple[texts.Sentence, desk.Annotation]]]:
    """Signed sentences of each text, with what stands in them."""
    by_text = texts.sentences_of(db, [text.id for text in wanted])
    states = desk.states_of(db, [s.id for sentences in by_text.values() for s in sentences])
    return {
        text_id: [
            (s, states[s.id]) for s in sentences if s.id in states and states[s.id].state == desk.SIGNED
        ]
        for text_id, sentences in by_text.items()
    }
