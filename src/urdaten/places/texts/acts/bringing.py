"""Many texts at once, with what their sources say of them."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from json import dumps

from sqlalchemy import func, select, text
from sqlalchemy.orm import Session

from urdaten.core.text import batch_of
from urdaten.places.team.acts import Project
from urdaten.places.texts.acts.aside import annotated_parts
from urdaten.places.texts.acts.changing import PLACE, check_body, check_draft
from urdaten.places.texts.acts.indexing import searched_by
from urdaten.places.texts.acts.reading import TextDraft
from urdaten.places.texts.tables import TextRow
from urdaten.platform.database import copy_numbers, copy_rows, count_anew, engine_for
from urdaten.platform.revisions import bump

Bounds = tuple[int, int]
_PENDING = "1GB"


@dataclass(frozen=True, kw_only=True)
class NewText:
    """A text as a source has it. Its sentences are those of the source, where it has any."""

    draft: TextDraft
    body: str
    meta: Mapping[str, str] = field(default_factory=dict)
    source: str = ""
    place: str = ""
    aside: Sequence[Bounds] = ()
    # Is that annotated like the rest?
    aside_annotated: bool = False
    sentences: Sequence[Bounds] = ()
    # By which it is searched; see acts.indexing.
    words: str = ""
    # As `digest_of` has it, where somebody has asked already.
    digest: str = ""


def digest_of(body: str) -> str:
    """By which a project knows a body again."""
    return hashlib.sha256(body.encode()).hexdigest()


def held_digests(db: Session, project_id: int) -> dict[str, int]:
    """Every body's digest, with the number of its text."""
    query = select(TextRow.body_digest, TextRow.id).where(TextRow.project_id == project_id)
    return {digest: number for digest, number in db.execute(query)}


class Bringing:
    """Texts that come at the end of the reading order, a portion at a time, all in one transaction.

    Takes it as known that none is in the project yet, and none comes twice.
    """

    def __init__(self, db: Session, project: Project) -> None:
        self._db, self._project = db, project
        last = db.scalar(select(func.max(TextRow.position)).where(TextRow.project_id == project.id))
        self._position = 0 if last is None else last + 1
        self._sequence = db.scalar(text("SELECT pg_get_serial_sequence('text', 'id')"))
        # What is searched by is put in order once, by `settle`, not with every few texts.
        db.execute(text(f"SET LOCAL gin_pending_list_limit = '{_PENDING}'"))

    def add(self, portion: Sequence[NewText]) -> list[int]:
        """Numbers of the texts, whose sentences are those that they have. Raises BadInput for a title, split or body that cannot
        be kept."""
        for one in portion:
            check_draft(one.draft)
            check_body(one.body)
        numbers = self._reserved(len(portion))
        copy_rows(self._db, "text", _TEXT, self._rows(portion, numbers))
        copy_numbers(
            self._db,
            "sentence",
            ("text_id", "number", "start", "end"),
            (
                (number, k, start, end)
                for number, one in zip(numbers, portion, strict=True)
                for k, (start, end) in enumerate(one.sentences)
            ),
        )
        return numbers

    def end(self) -> None:
        """Tell everybody, when all have come."""
        count_anew(self._db, "text", "sentence")
        bump(self._db, self._project.id, PLACE)

    def _rows(self, portion: Sequence[NewText], numbers: Sequence[int]) -> Iterable[tuple[object, ...]]:
        for one, number in zip(portion, numbers, strict=True):
            draft = one.draft
            yield (
                number,
                self._project.id,
                draft.title.strip(),
                one.body,
                one.digest or digest_of(one.body),
                draft.group.strip(),
                draft.dated,
                draft.split,
                self._position,
                len(one.sentences),
                1,
                dumps(dict(one.meta)) if one.meta else "{}",
                one.source,
                one.place,
                dumps([list(pair) for pair in one.aside]) if one.aside else "[]",
                one.words,
            )
            self._position += 1

    def _reserved(self, count: int) -> list[int]:
        """Numbers that no other text gets."""
        query = text("SELECT array_agg(nextval(CAST(:sequence AS regclass))) FROM generate_series(1, :count)")
        numbers: list[int] = self._db.scalar(query, {"sequence": self._sequence, "count": count}) or []
        return numbers


def settle(database_url: str) -> None:
    """Put in order what texts are searched by, after many have come, and note what everybody sees: searches and counts are
    slower until then. The database would do it by itself, but slowly, while people work."""
    with engine_for(database_url).connect() as connection:
        # It cannot be part of a transaction.
        connection.execution_options(isolation_level="AUTOCOMMIT")
        connection.execute(text("VACUUM (ANALYZE) text, sentence"))


def with_sentences(project: Project, portion: Sequence[NewText]) -> list[NewText]:
    """The texts with their sentences, where their source has none, and with the words that they are searched by."""
    bodies = [one.body for one in portion]
    batch = batch_of(bodies, project.language, abbreviations=project.abbreviations)
    searched = searched_by(batch, [one.draft.title for one in portion])
    return [
        replace(one, sentences=one.sentences or _parts(one, bounds), words=words)
        for one, bounds, words in zip(portion, batch.sentence_bounds(), searched, strict=True)
    ]


def _parts(one: NewText, bounds: Sequence[Bounds]) -> Sequence[Bounds]:
    return bounds if one.aside_annotated else annotated_parts(bounds, one.aside, one.body)


_TEXT = (
    *(
        "id",
        "project_id",
        "title",
        "body",
        "body_digest",
        "group",
        "dated",
        "split",
        "position",
        "sentences",
        "version",
    ),
    *("meta", "source", "place", "aside", "words"),
)


def whole_over(sentences: Iterable[Bounds], spans: Iterable[Bounds]) -> list[Bounds]:
    """Sentences so that each span lies within one: those that a span reaches over are joined, and one that lies beside all is
    a sentence of its own."""
    made: list[Bounds] = []
    for start, end in sorted([*sentences, *spans]):
        if made and start < made[-1][1]:
            made[-1] = (made[-1][0], max(end, made[-1][1]))
        else:
            made.append((start, end))
    return made
