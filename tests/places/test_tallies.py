"""Counts that are carried along by acts are what one would count."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from contextlib import contextmanager

import pytest
from hypothesis import HealthCheck, given
from hypothesis import settings as hypothesis_settings
from hypothesis import strategies as st
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from urdaten.core.spans import Span
from urdaten.errors import NotFound, UrdatenError
from urdaten.places.desk import acts as desk
from urdaten.places.desk.tables import TallyRow
from urdaten.places.team import acts as team
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types
from urdaten.platform.database import engine_for, transaction
from urdaten.platform.settings import Settings

BODIES = ("Pellin sails. Marrow stays. Osk waits.", "Pellin is late. Nobody knows.")
KINDS = ("sign", "sign as empty", "mark", "remove", "unsign", "ask", "answer", "undo", "redo")
STEPS = st.lists(
    st.tuples(st.sampled_from(KINDS), st.integers(0, 4), st.sampled_from(["gold", "own"])), max_size=30
)


@contextmanager
def rolled_back(settings: Settings) -> Iterator[Session]:
    with Session(engine_for(settings.database_url), expire_on_commit=False) as db:
        yield db
        db.rollback()


def filled(db: Session) -> list[texts.Sentence]:
    """Two texts of a scheme with one type, of the splits train and test; their sentences."""
    types.add_type(db, 1, 1, types.TypeDraft(code="VES", name="vessel", key="v", hue=1))
    drafts = [
        (texts.TextDraft(title=body[:6], split=split), body)
        for body, split in zip(BODIES, ("train", "test"), strict=True)
    ]
    made = texts.add_texts(db, team.project_by_id(db, 1), drafts)
    held = texts.sentences_of(db, [text.id for text in made])
    return [sentence for text in made for sentence in held[text.id]]


def counted(db: Session, sentences: list[texts.Sentence]) -> desk.Progress:
    """The slow way: look at what stands in each."""
    stand = [desk.annotation_of(db, sentence.id) for sentence in sentences]
    signed = [one.state == desk.SIGNED for one in stand]
    return desk.Progress(
        total=len(sentences),
        signed=sum(signed),
        empty=sum(one.state == desk.SIGNED and not one.spans for one in stand),
        asked=sum(bool(one.question and not one.answer) for one in stand),
        first_open=next((s.id for s, done in zip(sentences, signed, strict=True) if not done), None),
    )


def do(db: Session, kind: str, sentence: texts.Sentence, layer: int) -> None:
    version = desk.annotation_of(db, sentence.id, layer).version
    spans = (Span(sentence.start, sentence.start + 3, "VES", "gold"),)
    act: desk.Act
    match kind:
        case "undo" | "redo":
            (desk.undo if kind == "undo" else desk.redo)(db, 1, 1)
            return
        case "sign":
            act = desk.Signing(kind=kind, version=version, wanted=spans)
        case "sign as empty":
            act = desk.Signing(kind=kind, version=version, wanted=())
        case "mark" | "remove":
            act = desk.Marks(kind=kind, version=version, wanted=spans if kind == "mark" else ())
        case "unsign":
            act = desk.Withdrawal(kind=kind, version=version)
        case "ask":
            act = desk.Question(kind=kind, version=version, words="Which one?")
        case _:
            act = desk.Answer(kind=kind, version=version, words="This.")
    desk.annotate(db, 1, 1, sentence.id, act, layer)


def sums(db: Session) -> list[tuple[int, ...]]:
    columns = (TallyRow.signed, TallyRow.empty, TallyRow.asked, TallyRow.spans)
    query = select(TallyRow.text_id, *map(func.sum, columns)).group_by(TallyRow.text_id)
    return sorted(tuple(row) for row in db.execute(query) if any(row[1:]))


@hypothesis_settings(
    max_examples=40, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture]
)
@given(steps=STEPS)
def test_counts_follow_every_act(settings: Settings, steps: list[tuple[str, int, str]]) -> None:
    with rolled_back(settings) as db:
        sentences = filled(db)
        layers = {"gold": desk.gold_layer(db, 1), "own": desk.add_layer(db, 1, "own").id}
        for kind, number, layer in steps:
            try:
                do(db, kind, sentences[number], layers[layer])
            except (NotFound, UrdatenError):
                continue  # nothing to undo, or to answer
            assert desk.progress(db, 1) == counted(db, sentences)
        for split, own in (("train", sentences[:3]), ("test", sentences[3:]), ("dev", [])):
            assert desk.progress(db, 1, split) == counted(db, own)
        ids = sorted({sentence.text_id for sentence in sentences})
        spans = [
            sum(len(desk.annotation_of(db, s.id).spans) for s in sentences if s.text_id == i) for i in ids
        ]
        tallies = desk.tallies(db, 1, ids)
        assert [tallies[i].spans for i in ids] == spans
        assert [tallies[i].sentences for i in ids] == [3, 2]
        assert desk.shares(db, [1])[1].signed == counted(db, sentences).signed
        before = sums(db)
        desk.tally_anew(db, 1)
        assert sums(db) == before


def test_many_at_once_are_counted_by_text(settings: Settings) -> None:
    with rolled_back(settings) as db:
        sentences = filled(db)
        spans = [Span(sentences[0].start, sentences[0].end, "VES", "gold")]
        desk.sign_many(db, 1, 1, {s.id: spans if s is sentences[0] else () for s in sentences})
        done = desk.progress(db, 1)
        assert (done.signed, done.empty, done.first_open) == (5, 4, None)
        desk.change_many(db, 1, 1, desk.CORRECT, {sentences[0].id: (1, ())})
        assert desk.progress(db, 1) == counted(db, sentences)
        desk.undo(db, 1, 1)
        assert desk.progress(db, 1) == counted(db, sentences)


def test_a_type_that_is_retired_takes_its_spans_out_of_the_counts(settings: Settings) -> None:
    with rolled_back(settings) as db:
        sentences = filled(db)
        do(db, "sign", sentences[0], desk.gold_layer(db, 1))
        (one,) = types.list_types(db, 1)
        types.retire_type(db, 1, 1, one.id, one.version)
        assert desk.progress(db, 1) == counted(db, sentences)
        assert desk.tallies(db, 1, [sentences[0].text_id])[sentences[0].text_id].spans == 0


def test_counts_go_with_a_text_and_follow_its_split(settings: Settings) -> None:
    with rolled_back(settings) as db:
        sentences = filled(db)
        for sentence in sentences:
            do(db, "sign as empty", sentence, desk.gold_layer(db, 1))
        texts.change_text(db, 1, sentences[0].text_id, texts.TextDraft(title="Pellin", split="dev"), 1)
        assert desk.progress(db, 1, "dev").signed == 3
        assert desk.progress(db, 1, "train").total == 0
        texts.remove_texts(db, 1, None, [sentences[0].text_id], lambda _: {})
        left = desk.progress(db, 1)
        assert (left.total, left.signed) == (2, 2)


def test_two_who_sign_in_one_text_do_not_wait_for_each_other(settings: Settings) -> None:
    with transaction(settings.database_url) as db:
        sentences = filled(db)
        gold = desk.gold_layer(db, 1)
        do(db, "sign as empty", sentences[0], gold)
    done = threading.Event()

    def sign_another() -> None:
        with transaction(settings.database_url) as other:
            do(other, "sign as empty", sentences[2], gold)
        done.set()

    with transaction(settings.database_url) as db:
        do(db, "sign as empty", sentences[1], gold)
        thread = threading.Thread(target=sign_another)
        thread.start()
        assert done.wait(20), "it waited for the row that the first one holds"
    thread.join()
    with transaction(settings.database_url) as db:
        assert desk.progress(db, 1).signed == 3
        rows = db.scalar(select(func.count()).select_from(TallyRow)) or 0
        assert rows == 2
        do(db, "sign as empty", sentences[3], gold)
        do(db, "unsign", sentences[0], gold)
        assert desk.progress(db, 1).signed == 3


def test_sentences_are_counted_anew_where_texts_are_split_again(settings: Settings) -> None:
    with rolled_back(settings) as db:
        project = team.project_by_id(db, 1)
        (text,) = texts.add_texts(db, project, [(texts.TextDraft(title="t"), "It came at ca. Five today.")])
        before = desk.progress(db, 1).total
        project = team.set_abbreviations(db, 1, frozenset({"ca"}))
        texts.split_again(db, project, lambda: {text.id})
        after = desk.progress(db, 1).total
        assert (before, after) == (2, 1)
        assert after == texts.count_sentences(db, text.id)


@pytest.mark.parametrize("round_texts", [1, 2])
def test_a_round_counts_its_own_texts(settings: Settings, round_texts: int) -> None:
    with rolled_back(settings) as db:
        sentences = filled(db)
        do(db, "sign as empty", sentences[3], desk.gold_layer(db, 1))
        do(db, "ask", sentences[4], desk.gold_layer(db, 1))
        ids = sorted({sentence.text_id for sentence in sentences})[2 - round_texts :]
        made = desk.add_round(db, 1, desk.RoundDraft(name="r"), ids)
        expected = counted(db, [s for s in sentences if s.text_id in ids])
        assert desk.progress(db, 1, "", made) == expected
        by_round = desk.progress_by_round(db, 1)[made]
        assert (by_round.total, by_round.signed, by_round.asked) == (
            expected.total,
            expected.signed,
            expected.asked,
        )
