"""Reading texts through: sentence after sentence, text after text of a group."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy.orm import Session

from urdaten.places.desk import acts
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts


@dataclass(frozen=True, kw_only=True)
class Read:
    """One sentence as it stands."""

    text: texts.Text
    sentence: texts.Sentence
    annotation: acts.Annotation


@dataclass(frozen=True, kw_only=True)
class Reading:
    """Some sentences in reading order, and the text and number of the sentence that comes next."""

    sentences: list[Read]
    group: str
    next: tuple[int, int] | None


def read_on(db: Session, project: Project, text_id: int, number: int, limit: int) -> Reading:
    """At most `limit` sentences from this one on: to the end of the text, then through the later texts of its group.

    Raises NotFound for a text that is not there.
    """
    first = texts.read_text(db, project.id, text_id)
    found: list[tuple[texts.Text, texts.Sentence]] = []
    following: tuple[int, int] | None = None
    for text in texts.texts_from(db, project.id, first):
        room = limit - len(found)
        sentences = texts.page_of_one(db, text.id, after=number - 1, limit=room + 1)
        number = 0
        found += [(text, sentence) for sentence in sentences[:room]]
        if len(sentences) > room:
            following = text.id, sentences[room].number
            break
    states = acts.states_of(db, [sentence.id for _, sentence in found])
    blank = acts.Annotation()
    return Reading(
        sentences=[Read(text=t, sentence=s, annotation=states.get(s.id, blank)) for t, s in found],
        group=first.group,
        next=following,
    )
