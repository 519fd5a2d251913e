"""The spans that findings are made of: gold, or what a source says, in the texts that somebody means."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Iterator

from sqlalchemy.orm import Session

from urdaten.core.findings import Found, FoundSpan, found_of
from urdaten.errors import BadInput
from urdaten.places.desk import acts as desk
from urdaten.places.desk.lanes import GOLD, SOURCES, lane_spans
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types
from urdaten.platform.revisions import revisions

# So many gatherings are kept, for the next question about the same.
_KEPT = 6
# Of more texts than these a sample is read: nobody waits for all of a large corpus.
MOST_READ = 5_000


_held: OrderedDict[tuple[object, ...], Found] = OrderedDict()
_lock = threading.Lock()


def gather(
    db: Session, project: Project, lane: str, which: texts.Which, key: str, *, whole: bool = False
) -> Found:
    """What stands in signed gold, or in a lane of evidence, there in MOST_READ texts at most unless it is to be the whole; kept until anything in the project changes.

    key: names the texts that are meant. Raises BadInput for a lane that there is not.
    """
    if lane not in SOURCES:
        raise BadInput(f"A source is one of {', '.join(SOURCES)}, not {lane!r}.", field="lane")
    # Where the database is, too: numbers of projects are the same in another one.
    address = str(db.get_bind().engine.url)
    stamp = tuple(sorted(revisions(db, project.id).items()))
    name = (address, project.id, lane, key, whole, stamp)
    with _lock:
        if name in _held:
            _held.move_to_end(name)
            return _held[name]
    if lane == GOLD:
        made = found_of(_gold(db, project, which))
    else:
        read = which if whole else texts.sampled(db, project.id, which, MOST_READ)
        made = found_of(_evidence(db, project, lane, read))
    with _lock:
        _held[name] = made
        while len(_held) > _KEPT:
            _held.popitem(last=False)
    return made


def _gold(db: Session, project: Project, which: texts.Which) -> Iterator[FoundSpan]:
    codes = types.type_codes(db, project.id)
    for text, sentence, type_id, start, end, words in desk.gold_spans(
        db, project.id, texts.numbers_of(project.id, which)
    ):
        if type_id in codes:
            yield FoundSpan(
                text=text, sentence=sentence, type=codes[type_id], start=start, end=end, words=words
            )


def _evidence(db: Session, project: Project, lane: str, which: texts.Which) -> Iterator[FoundSpan]:
    """Nothing is suggested in texts that are annotated without: they are left out here as well."""
    for portion in texts.in_portions(db, project.id, which):
        quiet = desk.quiet_among(db, project, portion)
        loud = [text for text in portion if text.id not in quiet]
        held = texts.sentences_of(db, [text.id for text in loud])
        spans = lane_spans(db, project, lane, loud, held)
        for text in loud:
            for sentence in held[text.id]:
                for span in spans.get(sentence.id, ()):
                    yield FoundSpan(
                        text=text.id,
                        sentence=sentence.id,
                        type=span.type,
                        start=span.start,
                        end=span.end,
                        words=text.body[span.start : span.end],
                        maker=span.maker,
                    )
