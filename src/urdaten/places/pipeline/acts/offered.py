"""Rules offered from gold."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import islice

from sqlalchemy.orm import Session

from urdaten.core.rules import Offer, Offers
from urdaten.places.desk import acts as desk
from urdaten.places.lists import acts as lists
from urdaten.places.pipeline.acts.makers import read_makers
from urdaten.places.pipeline.acts.trial import spans_before
from urdaten.places.rules import acts as rules
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types

# So many code points are learnt from, the last text whole.
SIGNS = 200_000
MOST = 10
# What is judged by is not learnt from.
_JUDGED_BY = "test"


@dataclass(frozen=True, kw_only=True)
class Offered:
    """What is offered for a type, and what it was learnt from: signed sentences, and whether these are all that there are outside
    test texts and texts without suggestions."""

    offers: Sequence[Offer]
    sentences: int
    all: bool


def offered(db: Session, project: Project, code: str) -> Offered:
    """Rules for a type beside those that are on, learnt from signed sentences, the one that adds most first. Raises BadInput
    for a type that there is not."""
    types.type_numbers(db, project.id, [code])
    read, every = texts.first_texts(db, project.id, SIGNS)
    quiet = desk.quiet_among(db, project, read)
    read = [text for text in read if text.id not in quiet and text.split != _JUDGED_BY]
    if not read:
        return Offered(offers=(), sentences=0, all=every)
    batch = texts.batch_of(db, read, project.language)
    sentences = texts.sentences_of(db, [text.id for text in read])
    states = desk.states_of(db, [one.id for own in sentences.values() for one in own])
    signed = [
        (k, sentence, states[sentence.id].spans)
        for k, text in enumerate(read)
        for sentence in sentences[text.id]
        if sentence.id in states and states[sentence.id].state == desk.SIGNED
    ]
    found = Offers(
        batch,
        spans_before(db, project, read_makers(db, project), read, None),
        [(k, sentence.start, sentence.end) for k, sentence, _ in signed],
        [(k, s.start, s.end) for k, _, spans in signed for s in spans if s.type == code],
        type=code,
        base=rules.words_of(db, project.id),
        lists=[one.name for one in lists.lists_on(db, project.id)],
    )
    return Offered(offers=list(islice(found.found(MOST), MOST)), sentences=len(signed), all=every)
