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
    # Words between it and the sentence before, and after it where it is the last of its text: those are in no sentence.
    before: str
    after: str


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
    found: list[tuple[texts.Text, texts.Sentence, str, str]] = []
    following: tuple[int, int] | None = None
    for text in texts.texts_from(db, project.id, first):
        room = limit - len(found)
        # With the one before the first and the one after the last.
        ahead = 1 if number else 0
        page = texts.page_of_one(db, text.id, after=number - ahead - 1, limit=ahead + room + 1)
        number = 0
        own = page[ahead : ahead + room]
        ends = [0, *(one.end for one in page)] if not ahead else [one.end for one in page]
        more = len(page) > ahead + room
        for at, sentence in enumerate(own):
            after = "" if more or at + 1 < len(own) else text.body[sentence.end :].strip()
            found.append((text, sentence, text.body[ends[at] : sentence.start].strip(), after))
        if more:
            following = text.id, page[ahead + room].number
            break
    states = acts.states_of(db, [sentence.id for _, sentence, *_ in found])
    blank = acts.Annotation()
    return Reading(
        sentences=[
            Read(text=text, sentence=one, annotation=states.get(one.id, blank), before=before, after=after)
            for text, one, before, after in found
        ],
        group=first.group,
        next=following,
    )
