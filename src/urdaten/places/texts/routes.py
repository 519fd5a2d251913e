"""Routes of the texts place."""

from __future__ import annotations

from dataclasses import asdict
from typing import Annotated

from fastapi import APIRouter, Query

from urdaten.places.desk import acts as desk
from urdaten.places.team.acts import Project, project_by_id
from urdaten.places.team.wire import Annotator, Id, Lead, OfProject
from urdaten.places.texts import abbreviations, acts
from urdaten.places.texts.at_once_routes import PageWish, chosen, removed
from urdaten.places.texts.wire import (
    AbbreviationsShown,
    AbbreviationsWish,
    AsideWish,
    ChangedTextWish,
    FilterWish,
    NewTextWish,
    SentencePage,
    SentenceState,
    TextActShown,
    TextCount,
    TextHead,
    TextPage,
    TextShown,
    TextWish,
)
from urdaten.platform.web import Db

router = APIRouter(prefix="/api/projects/{project}/texts", tags=["texts"])
OPENING = 120


def _draft(wish: TextWish) -> acts.TextDraft:
    return acts.TextDraft(title=wish.title, group=wish.group, dated=wish.dated, split=wish.split)


def _shown(db: Db, project: Project, text: acts.Text) -> TextShown:
    tally = desk.tallies(db, project.id, [text.id])[text.id]
    aside = [{"start": start, "end": end} for start, end in text.aside]
    asked = bool(aside) and acts.is_aside_annotated(text, acts.sentences_of(db, [text.id])[text.id])
    return TextShown.model_validate(asdict(text) | asdict(tally) | {"aside": aside, "aside_annotated": asked})


@router.get("", operation_id="listTexts")
def read_page(
    project: OfProject,
    db: Db,
    asked: Annotated[PageWish, Query()],
) -> TextPage:
    which, limit = desk.which_of(db, project.id, chosen(asked)), asked.limit
    texts = acts.page_of_texts(db, project.id, which, after=asked.after, limit=limit + 1)
    more, texts = len(texts) > limit, texts[:limit]
    tallies = desk.tallies(db, project.id, [text.id for text in texts])
    heads = []
    for text in texts:
        opening = " ".join(text.body[: OPENING * 2].split())
        tally = tallies[text.id]
        heads.append(
            TextHead(
                id=text.id,
                title=text.title,
                group=text.group,
                dated=text.dated,
                split=text.split,
                opening=opening[:OPENING],
                sentences=tally.sentences,
                signed=tally.signed,
                spans=tally.spans,
            )
        )
    return TextPage(texts=heads, next=texts[-1].id if more else None)


@router.get("/count", operation_id="countTexts")
def count(project: OfProject, db: Db, asked: Annotated[FilterWish, Query()]) -> TextCount:
    """How many fit; apart from the texts themselves, which are there sooner."""
    which = desk.which_of(db, project.id, chosen(asked))
    total = acts.count_texts(db, project.id)
    return TextCount(
        total=total, found=total if which == acts.Which() else acts.count_which(db, project.id, which)
    )


@router.get("/abbreviations", operation_id="readAbbreviations")
def read_abbreviations(project: OfProject, db: Db) -> AbbreviationsShown:
    """The project's own abbreviations, and words of its texts that look like some."""
    found = abbreviations.read_abbreviations(db, project)
    return AbbreviationsShown.model_validate(asdict(found) | {"split_anew": 0})


@router.put("/abbreviations", operation_id="setAbbreviations")
def set_abbreviations(wish: AbbreviationsWish, project: OfProject, _me: Lead, db: Db) -> AbbreviationsShown:
    """Set the project's abbreviations. Texts in which nobody has marked anything yet are split anew by them."""
    changed = abbreviations.set_abbreviations(
        db, project, wish.words, lambda: desk.untouched_texts(db, project.id)
    )
    found = abbreviations.read_abbreviations(db, project_by_id(db, project.id))
    return AbbreviationsShown.model_validate(asdict(found) | {"split_anew": changed})


@router.get("/{text_id}", operation_id="readText")
def read(text_id: Id, project: OfProject, db: Db) -> TextShown:
    return _shown(db, project, acts.read_text(db, project.id, text_id))


@router.get("/{text_id}/sentences", operation_id="listSentences")
def read_sentences(
    text_id: Id,
    project: OfProject,
    db: Db,
    after: Annotated[int | None, Query(ge=0, le=2**31 - 1)] = None,
    limit: Annotated[int, Query(ge=1, le=2000)] = 500,
) -> SentencePage:
    """The sentences of a text and how they stand in gold."""
    text = acts.read_text(db, project.id, text_id)
    sentences = acts.page_of_one(db, text.id, after=after, limit=limit + 1)
    more, sentences = len(sentences) > limit, sentences[:limit]
    standings = desk.standings(db, [s.id for s in sentences])
    shown = []
    for s in sentences:
        stand = standings.get(s.id, desk.Standing())
        shown.append(
            SentenceState(
                id=s.id, number=s.number, start=s.start, end=s.end, state=stand.state, spans=stand.spans
            )
        )
    return SentencePage(sentences=shown, next=sentences[-1].number if more else None)


@router.post("", status_code=201, operation_id="addText")
def add(wish: NewTextWish, project: OfProject, _me: Annotator, db: Db) -> TextShown:
    (text,) = acts.add_texts(db, project, [(_draft(wish), wish.body)])
    return _shown(db, project, text)


@router.put("/{text_id}", operation_id="changeText")
def change(text_id: Id, wish: ChangedTextWish, project: OfProject, _me: Lead, db: Db) -> TextShown:
    return _shown(db, project, acts.change_text(db, project.id, text_id, _draft(wish), wish.version))


@router.put("/{text_id}/aside", operation_id="annotateAside")
def annotate_aside(text_id: Id, wish: AsideWish, project: OfProject, _me: Lead, db: Db) -> TextShown:
    """Whether words quoted from others and signatures are annotated like the rest; what is annotated already stays."""
    text = acts.annotate_aside(
        db, project, text_id, wish.annotated, lambda numbers: desk.sentences_held(db, numbers)
    )
    return _shown(db, project, text)


@router.delete("/{text_id}", operation_id="removeText")
def remove(text_id: Id, project: OfProject, me: Lead, db: Db) -> TextActShown:
    """Move a text to the bin, with whatever is marked and signed in it."""
    return TextActShown.model_validate(removed(db, project, me.id, [text_id]))
