"""Acts on texts."""

from __future__ import annotations

import hashlib
from bisect import bisect_right
from collections.abc import Callable, Collection, Iterable, Sequence
from dataclasses import asdict, dataclass
from datetime import date
from functools import lru_cache

from sqlalchemy import (
    ARRAY,
    BindParameter,
    Select,
    String,
    Subquery,
    any_,
    cast,
    delete,
    func,
    select,
    tuple_,
    update,
)
from sqlalchemy.orm import Session

from urdaten.core.spans import Span
from urdaten.core.text import Analysis, Vocabulary, analyse, analyse_many
from urdaten.errors import BadInput, Clash, NotFound
from urdaten.places.team.acts import Project, hold_overlap
from urdaten.places.texts.tables import SentenceRow, TextRow
from urdaten.platform.database import MANY, among, copy_rows, count_anew
from urdaten.platform.revisions import bump
from urdaten.platform.versions import check_seen

SPLITS = ("train", "dev", "test", "none")
MOST_CODE_POINTS = 1_000_000
PLACE = "texts"


@dataclass(frozen=True, kw_only=True)
class TextDraft:
    """What is said of a text besides its body."""

    title: str
    group: str = ""
    dated: date | None = None
    split: str = "none"


@dataclass(frozen=True, kw_only=True)
class Text(TextDraft):
    """A text as other places see it."""

    id: int
    body: str
    position: int
    version: int


@dataclass(frozen=True, kw_only=True)
class Sentence:
    """A sentence as other places see it; bounds are code points in its text's body."""

    id: int
    text_id: int
    number: int
    start: int
    end: int


def _text(row: TextRow) -> Text:
    return Text(
        id=row.id,
        title=row.title,
        body=row.body,
        group=row.group,
        dated=row.dated,
        split=row.split,
        position=row.position,
        version=row.version,
    )


def _sentence(row: SentenceRow) -> Sentence:
    return Sentence(id=row.id, text_id=row.text_id, number=row.number, start=row.start, end=row.end)


def _check(draft: TextDraft) -> None:
    if not draft.title.strip():
        raise BadInput("A text needs a title.", field="title")
    if draft.split not in SPLITS:
        raise BadInput(f"A split is one of {', '.join(SPLITS)}, not {draft.split!r}.", field="split")


def _check_body(body: str) -> None:
    if "\0" in body:
        raise BadInput(
            "The body holds NUL characters, so it is not a text; choose another file.", field="body"
        )
    if len(body) > MOST_CODE_POINTS:
        raise BadInput(
            f"The body has {len(body)} code points; the most is {MOST_CODE_POINTS}. Split it up.",
            field="body",
        )


def add_texts(db: Session, project: Project, drafts: Sequence[tuple[TextDraft, str]]) -> list[Text]:
    """New texts at the end of the reading order, all or none.

    Raises BadInput for an empty or overlong body or one that holds NUL, Clash for a body that is
    already in the project.
    """
    project_id = project.id
    last = db.scalar(select(func.max(TextRow.position)).where(TextRow.project_id == project_id))
    position = 0 if last is None else last + 1
    digests = [hashlib.sha256(body.encode()).hexdigest() for _, body in drafts]
    same = select(TextRow.body_digest, TextRow.title).where(TextRow.project_id == project_id)
    held = {
        digest: title
        for digest, title in db.execute(same.where(TextRow.body_digest == any_(cast(digests, ARRAY(String)))))
    }
    rows: list[TextRow] = []
    for draft, body in drafts:
        _check(draft)
        _check_body(body)
    analyses = analyse_many(
        [body for _, body in drafts], project.language, abbreviations=project.abbreviations
    )
    for (draft, body), digest, analysis in zip(drafts, digests, analyses, strict=True):
        if not len(analysis):
            raise BadInput("The body holds no words.", field="body")
        if digest in held:
            raise Clash(f"This very text is already here as “{held[digest]}”.", field="body")
        held[digest] = draft.title
        rows.append(
            TextRow(
                project_id=project_id,
                title=draft.title.strip(),
                body=body,
                body_digest=digest,
                group=draft.group.strip(),
                dated=draft.dated,
                split=draft.split,
                position=position,
                sentences=len(analysis.sentence_bounds()),
            )
        )
        position += 1
    db.add_all(rows)
    db.flush()
    _add_sentences(
        db,
        (
            (row.id, number, start, end)
            for row, analysis in zip(rows, analyses, strict=True)
            for number, (start, end) in enumerate(analysis.sentence_bounds())
        ),
    )
    if len(rows) >= MANY:
        count_anew(db, "text", "sentence")
    bump(db, project_id, PLACE)
    return [_text(row) for row in rows]


def split_again(db: Session, project: Project, untouched: Callable[[], Collection[int]]) -> int:
    """Split texts in which nothing is marked as they would be split now; how many of them changed.

    untouched: which texts those are, asked again while nobody can mark anything.
    """
    hold_overlap(db, project.id, to_change=True)
    text_ids = set(untouched())
    texts = [text for text in all_texts(db, project.id) if text.id in text_ids]
    bodies = [text.body for text in texts]
    analyses = analyse_many(bodies, project.language, abbreviations=project.abbreviations)
    before = sentences_of(db, [text.id for text in texts])
    changed: list[int] = []
    rows: list[tuple[int, int, int, int]] = []
    for text, analysis in zip(texts, analyses, strict=True):
        bounds = analysis.sentence_bounds()
        if bounds != [(sentence.start, sentence.end) for sentence in before[text.id]]:
            changed.append(text.id)
            rows += [(text.id, number, start, end) for number, (start, end) in enumerate(bounds)]
    if changed:
        db.execute(delete(SentenceRow).where(SentenceRow.text_id.in_(changed)))
        _add_sentences(db, rows)
        count_sentences_anew(db, project.id)
        bump(db, project.id, PLACE)
    return len(changed)


def _add_sentences(db: Session, rows: Iterable[tuple[int, int, int, int]]) -> None:
    copy_rows(db, "sentence", ("text_id", "number", "start", "end"), rows)


def count_sentences_anew(db: Session, project_id: int) -> None:
    """Note how many sentences each text has, after they came by another way than `add_texts`."""
    count = select(func.count()).where(SentenceRow.text_id == TextRow.id).scalar_subquery()
    counted = update(TextRow).where(TextRow.project_id == project_id, TextRow.sentences != count)
    db.execute(counted.values(sentences=count).execution_options(synchronize_session=False))


def _own(db: Session, project_id: int, text_id: int, *, to_change: bool = False) -> TextRow:
    row = db.get(TextRow, text_id, with_for_update=to_change or None)
    if row is None or row.project_id != project_id:
        raise NotFound(f"There is no text {text_id} in this project; it may have been removed.")
    return row


def read_text(db: Session, project_id: int, text_id: int) -> Text:
    return _text(_own(db, project_id, text_id))


def change_text(db: Session, project_id: int, text_id: int, draft: TextDraft, version: int) -> Text:
    """The text with another title, group, date or split; its body never changes.

    Raises BadInput, and StaleWrite when it is not in the version that was seen.
    """
    row = _own(db, project_id, text_id, to_change=True)
    _check(draft)
    stands = {name: getattr(row, name) for name in (*TextDraft.__dataclass_fields__, "version")}
    check_seen(f"“{row.title}”", stands, asdict(draft), version)
    row.title, row.group, row.dated, row.split = (
        draft.title.strip(),
        draft.group.strip(),
        draft.dated,
        draft.split,
    )
    row.version += 1
    db.flush()
    bump(db, project_id, PLACE)
    return _text(row)


def remove_text(db: Session, project_id: int, text_id: int, signed: Callable[[], int]) -> None:
    """Remove a text without signed sentences. Raises Clash otherwise.

    signed: how many signatures stand in it, asked while nobody can sign anything.
    """
    hold_overlap(db, project_id, to_change=True)
    row = _own(db, project_id, text_id, to_change=True)
    if count := signed():
        raise Clash(
            f"“{row.title}” has {count} signed {'sentence' if count == 1 else 'sentences'}; "
            "withdraw the signatures at the Desk before you delete it."
        )
    db.delete(row)
    db.flush()
    bump(db, project_id, PLACE)


def _in_order(project_id: int) -> Select[TextRow]:
    return select(TextRow).where(TextRow.project_id == project_id).order_by(TextRow.position, TextRow.id)


def page_of_texts(
    db: Session,
    project_id: int,
    *,
    after: int | None,
    limit: int,
    search: str = "",
    split: str = "",
    only: Collection[int] | None = None,
) -> list[Text]:
    """Texts in reading order, those after the text with this number; at most `limit`, and `only` these if they are given."""
    query = _in_order(project_id).limit(limit)
    if after is not None:
        row = _own(db, project_id, after)
        query = query.where(tuple_(TextRow.position, TextRow.id) > (row.position, row.id))
    if search:
        query = query.where(
            TextRow.title.icontains(search, autoescape=True) | TextRow.body.icontains(search, autoescape=True)
        )
    if split:
        query = query.where(TextRow.split == split)
    if only is not None:
        query = query.where(among(TextRow.id, only))
    return [_text(row) for row in db.scalars(query)]


def first_texts(db: Session, project_id: int, signs: int) -> tuple[list[Text], bool]:
    """The first texts in reading order, until they come to so many code points; and whether these are all."""
    taken: list[Text] = []
    with db.scalars(_in_order(project_id).execution_options(yield_per=100)) as rows:
        for row in rows:
            if signs <= 0:
                return taken, False
            taken.append(_text(row))
            signs -= len(row.body)
    return taken, True


def count_texts(db: Session, project_id: int) -> int:
    return db.scalar(select(func.count()).where(TextRow.project_id == project_id)) or 0


@dataclass(frozen=True)
class Token:
    """Half-open code point bounds of a token in its text's body."""

    start: int
    end: int


def tokens_between(text: Text, language: str, start: int, end: int) -> list[Token]:
    """Tokens of a text that lie within [start, end)."""
    analysis = analysis_of(text.body, language)
    first, last = analysis.token_range(start, end)
    pairs = zip(analysis.start[first:last].tolist(), analysis.end[first:last].tolist(), strict=True)
    return [Token(a, b) for a, b in pairs]


def within(spans: Sequence[Span], sentence: Sentence) -> list[Span]:
    """Spans that lie in a sentence as a whole."""
    return [span for span in spans if sentence.start <= span.start and span.end <= sentence.end]


def by_sentence(spans: Iterable[Span], sentences: Sequence[Sentence]) -> dict[int, list[Span]]:
    """Spans of a text by the sentence that they lie in as a whole; the sentences are given in order."""
    found: dict[int, list[Span]] = {sentence.id: [] for sentence in sentences}
    starts = [sentence.start for sentence in sentences]
    for span in spans:
        at = bisect_right(starts, span.start) - 1
        if at >= 0 and span.end <= sentences[at].end:
            found[sentences[at].id].append(span)
    return found


def all_texts(db: Session, project_id: int, splits: Iterable[str] = SPLITS) -> list[Text]:
    """Every text of the given splits, in reading order."""
    return [_text(row) for row in db.scalars(_in_order(project_id).where(TextRow.split.in_(list(splits))))]


def group_sizes(db: Session, project_id: int) -> dict[str, int]:
    """How many texts each named group has."""
    query = select(TextRow.group, func.count()).where(TextRow.project_id == project_id, TextRow.group != "")
    return {group: count for group, count in db.execute(query.group_by(TextRow.group))}


def texts_of_groups(db: Session, project_id: int, groups: Iterable[str]) -> list[Text]:
    """Every text of the given groups, in reading order."""
    return [_text(row) for row in db.scalars(_in_order(project_id).where(TextRow.group.in_(list(groups))))]


def sentences_of(db: Session, text_ids: Iterable[int]) -> dict[int, list[Sentence]]:
    """Sentences of each text, in order."""
    found: dict[int, list[Sentence]] = {text_id: [] for text_id in text_ids}
    # Columns, not rows of the mapper: there are thousands.
    query = (
        select(SentenceRow.id, SentenceRow.text_id, SentenceRow.number, SentenceRow.start, SentenceRow.end)
        .where(among(SentenceRow.text_id, found))
        .order_by(SentenceRow.text_id, SentenceRow.number)
    )
    for number, text_id, at, start, end in db.execute(query):
        found[text_id].append(Sentence(id=number, text_id=text_id, number=at, start=start, end=end))
    return found


def count_sentences(db: Session, text_id: int) -> int:
    return db.scalar(select(func.count()).where(SentenceRow.text_id == text_id)) or 0


def sentences_by_text(
    db: Session, sentence_ids: Iterable[int], project_id: int | None = None
) -> list[tuple[Text, list[Sentence]]]:
    """The sentences with these numbers, by text in reading order; given a project, those of others are left out."""
    query = select(SentenceRow).where(among(SentenceRow.id, sentence_ids)).order_by(SentenceRow.number)
    found: dict[int, list[Sentence]] = {}
    for sentence in db.scalars(query):
        found.setdefault(sentence.text_id, []).append(_sentence(sentence))
    # Bodies come once each: beside every sentence of a long text they would fill the memory.
    holders = select(TextRow).where(among(TextRow.id, found)).order_by(TextRow.position, TextRow.id)
    if project_id is not None:
        holders = holders.where(TextRow.project_id == project_id)
    return [(_text(text), found[text.id]) for text in db.scalars(holders)]


def sentence_index(project_id: int | BindParameter[int]) -> Subquery:
    """For joins by other places: every sentence of a project.

    Columns: id, text_id, number in its text, position of its text, split.
    """
    return (
        select(SentenceRow.id, SentenceRow.text_id, SentenceRow.number, TextRow.position, TextRow.split)
        .join(TextRow, TextRow.id == SentenceRow.text_id)
        .where(TextRow.project_id == project_id)
        .subquery()
    )


def text_index(project_id: int) -> Subquery:
    """For joins by other places: columns id, title, position, split and sentences of every text of a project."""
    columns = (TextRow.id, TextRow.title, TextRow.position, TextRow.split, TextRow.sentences)
    return select(*columns).where(TextRow.project_id == project_id).subquery()


def sentences_there(db: Session, project_id: int, sentence_ids: Iterable[int]) -> set[int]:
    """Which of these sentences the project still has."""
    query = select(SentenceRow.id).join(TextRow, TextRow.id == SentenceRow.text_id)
    return set(db.scalars(query.where(TextRow.project_id == project_id, among(SentenceRow.id, sentence_ids))))


def sizes(db: Session, project_ids: Iterable[int]) -> dict[int, tuple[int, int]]:
    """How many texts and sentences each project has; empty ones are absent."""
    query = select(TextRow.project_id, func.count(), func.sum(TextRow.sentences)).where(
        among(TextRow.project_id, project_ids)
    )
    return {number: (count, total) for number, count, total in db.execute(query.group_by(TextRow.project_id))}


def read_sentence(db: Session, project_id: int, sentence_id: int) -> tuple[Text, Sentence]:
    """A sentence with its text. Raises NotFound."""
    row = db.get(SentenceRow, sentence_id)
    if row is None:
        raise no_sentence(sentence_id)
    return read_text(db, project_id, row.text_id), _sentence(row)


def no_sentence(sentence_id: int) -> NotFound:
    """What is said of a sentence that is not there."""
    return NotFound(f"There is no sentence {sentence_id}; its text may have been removed.")


def sentence_alone(sentence_id: BindParameter[int], project_id: BindParameter[int]) -> Subquery:
    """For queries: columns id, text_id, number, start, end and words of a sentence, if the project has it."""
    words = func.substr(TextRow.body, SentenceRow.start + 1, SentenceRow.end - SentenceRow.start)
    return (
        select(
            SentenceRow.id,
            SentenceRow.text_id,
            SentenceRow.number,
            SentenceRow.start,
            SentenceRow.end,
            words.label("words"),
        )
        .join(TextRow, TextRow.id == SentenceRow.text_id)
        .where(SentenceRow.id == sentence_id, TextRow.project_id == project_id)
        .subquery()
    )


@lru_cache(maxsize=4096)
def analysis_of(body: str, language: str) -> Analysis:
    """Tokens of a body, which never changes, so they are kept. For its sentences ask analyses_of."""
    return analyse(body, language)


def analyses_of(db: Session, texts: Sequence[Text], language: str) -> tuple[list[Analysis], Vocabulary]:
    """Analyses of texts that share one vocabulary, in the sentences that they were split into when they were added."""
    vocabulary = Vocabulary()
    made = analyse_many([text.body for text in texts], language, vocabulary)
    query = (
        select(SentenceRow.text_id, SentenceRow.start)
        .where(among(SentenceRow.text_id, (text.id for text in texts)))
        .order_by(SentenceRow.text_id, SentenceRow.number)
    )
    starts: dict[int, list[int]] = {}
    for text_id, start in db.execute(query):
        starts.setdefault(text_id, []).append(start)
    return [
        analysis.with_sentences(starts[text.id]) for text, analysis in zip(texts, made, strict=True)
    ], vocabulary
