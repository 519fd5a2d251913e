"""Texts as they come, are changed and go."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Collection, Iterable, Sequence
from dataclasses import asdict

from sqlalchemy import (
    ARRAY,
    String,
    any_,
    cast,
    delete,
    func,
    select,
    update,
)
from sqlalchemy.orm import Session

from urdaten.core.text import Batch, analyse_many, batch_of
from urdaten.errors import BadInput, Clash
from urdaten.places.team.acts import Project, hold_overlap
from urdaten.places.texts.acts.aside import annotated_parts, is_aside_annotated
from urdaten.places.texts.acts.indexing import searched_by
from urdaten.places.texts.acts.reading import (
    SPLITS,
    Text,
    TextDraft,
    all_texts,
    own_row,
    sentences_of,
    text_of,
)
from urdaten.places.texts.tables import SentenceRow, TextRow
from urdaten.platform.database import MANY, copy_rows, count_anew
from urdaten.platform.revisions import bump
from urdaten.platform.versions import check_seen

MOST_CODE_POINTS = 1_000_000


PLACE = "texts"


def check_draft(draft: TextDraft) -> None:
    """Raises BadInput for a title or split that cannot be kept."""
    if not draft.title.strip():
        raise BadInput("A text needs a title.", field="title")
    if draft.split not in SPLITS:
        raise BadInput(f"A split is one of {', '.join(SPLITS)}, not {draft.split!r}.", field="split")


def check_body(body: str) -> None:
    """Raises BadInput for what is no text, or too long a one."""
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
        check_draft(draft)
        check_body(body)
    analyses = analyse_many(
        [body for _, body in drafts], project.language, abbreviations=project.abbreviations
    )
    searched = searched_by(Batch.joined(analyses), [draft.title for draft, _ in drafts]) if drafts else []
    for (draft, body), digest, analysis, words in zip(drafts, digests, analyses, searched, strict=True):
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
                words=words,
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
    return [text_of(row) for row in rows]


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
        if not is_aside_annotated(text, before[text.id]):
            bounds = annotated_parts(bounds, text.aside, text.body)
        if bounds != [(sentence.start, sentence.end) for sentence in before[text.id]]:
            changed.append(text.id)
            rows += [(text.id, number, start, end) for number, (start, end) in enumerate(bounds)]
    if changed:
        db.execute(delete(SentenceRow).where(SentenceRow.text_id.in_(changed)))
        db.execute(update(TextRow).where(TextRow.id.in_(changed)).values(cut=TextRow.cut + 1))
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


def change_text(db: Session, project_id: int, text_id: int, draft: TextDraft, version: int) -> Text:
    """The text with another title, group, date or split; its body never changes.

    Raises BadInput, and StaleWrite when it is not in the version that was seen.
    """
    row = own_row(db, project_id, text_id, to_change=True)
    check_draft(draft)
    stands = {name: getattr(row, name) for name in (*TextDraft.__dataclass_fields__, "version")}
    check_seen(f"“{row.title}”", stands, asdict(draft), version)
    row.title, row.group, row.dated, row.split = (
        draft.title.strip(),
        draft.group.strip(),
        draft.dated,
        draft.split,
    )
    row.version += 1
    if row.title != stands["title"]:
        (row.words,) = searched_by(batch_of([row.body]), [row.title])
    db.flush()
    bump(db, project_id, PLACE)
    return text_of(row)
