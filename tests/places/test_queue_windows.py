"""Windows of the queue against the slow way: list everything, then cut."""

from __future__ import annotations

import random
from collections.abc import Iterator
from typing import Any

import pytest
from hypothesis import HealthCheck, given
from hypothesis import settings as hypothesis_settings
from hypothesis import strategies as st
from sqlalchemy import text
from sqlalchemy.orm import Session

from conftest import Api
from urdaten.errors import NotFound
from urdaten.places.desk import acts as desk
from urdaten.places.team import acts as team
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types
from urdaten.platform.database import engine_for, transaction
from urdaten.platform.settings import Settings

SPLITS = ("train", "dev", "none")


@pytest.fixture
def settings_filled(settings: Settings) -> Settings:
    """Twelve texts of one to six sentences, out of the order of their numbers, in three splits; a round of every second;
    some sentences signed, some begun, some with a question, one with its answer."""
    drawn = random.Random(4)
    with transaction(settings.database_url) as db:
        types.add_type(db, 1, 1, types.TypeDraft(code="VES", name="vessel", key="v", hue=1))
        drafts = [
            (
                texts.TextDraft(title=f"{k}", split=SPLITS[k % 3]),
                " ".join(f"Pellin lies at berth {k} line {n}." for n in range((1, 2, 3, 1, 5, 2)[k % 6])),
            )
            for k in range(12)
        ]
        made = texts.add_texts(db, team.project_by_id(db, 1), drafts)
        db.execute(text("UPDATE text SET position = 40 - (id * 7) % 12"))
        held = texts.sentences_of(db, [t.id for t in made])
        odd = [t.id for t in made][1::2]
        desk.add_round(db, 1, desk.RoundDraft(name="odd"), odd)
        for sentence in (s for own in held.values() for s in own):
            what = drawn.choice(["", "", "sign as empty", "sign as empty", "ask", "answer"])
            if what == "sign as empty":
                desk.annotate(db, 1, 1, sentence.id, desk.Signing(kind=what, version=0, wanted=()))
            elif what:
                desk.annotate(db, 1, 1, sentence.id, desk.Question(kind="ask", version=0, words="Which?"))
            if what == "answer":
                desk.annotate(db, 1, 1, sentence.id, desk.Answer(kind=what, version=1, words="This."))
    return settings


def in_order(db: Session) -> list[tuple[texts.Text, texts.Sentence]]:
    everything = texts.all_texts(db, 1)
    held = texts.sentences_of(db, [one.id for one in everything])
    return [(one, s) for one in everything for s in held[one.id]]


def listed(db: Session, portion: desk.Portion) -> list[int]:
    """The slow way: look at each."""
    round_texts = None if portion.round_id is None else desk.texts_of_round(db, 1, portion.round_id)
    found = []
    for one, sentence in in_order(db):
        stands = desk.annotation_of(db, sentence.id)
        shown = {
            "all": True,
            "open": stands.state != desk.SIGNED,
            "asked": bool(stands.question and not stands.answer),
        }[portion.show]
        if shown and portion.split in ("", one.split) and (round_texts is None or one.id in round_texts):
            found.append(sentence.id)
    return found


@hypothesis_settings(
    max_examples=40, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture]
)
@given(
    show=st.sampled_from(["all", "open", "asked"]),
    split=st.sampled_from(["", *SPLITS, "test"]),
    in_round=st.booleans(),
    limit=st.integers(0, 9),
    at=st.integers(-1, 50),
    back=st.booleans(),
)
def test_a_window_is_a_cut_of_what_is_listed(
    settings_filled: Settings, show: desk.Show, split: str, in_round: bool, limit: int, at: int, back: bool
) -> None:
    with Session(engine_for(settings_filled.database_url)) as db:
        (round_of,) = desk.read_rounds(db, 1)
        portion = desk.Portion(split=split, round_id=round_of.id if in_round else None, show=show)
        order = [sentence.id for _, sentence in in_order(db)]
        wanted = listed(db, portion)
        beside = None if at < 0 else order[at % len(order)]
        if beside is None:
            expected = (wanted[-limit:] if limit else []) if back else wanted[:limit]
        else:
            place = order.index(beside)
            if back:
                before = [number for number in wanted if order.index(number) < place]
                expected = before[-limit:] if limit else []
            else:
                expected = [number for number in wanted if order.index(number) > place][:limit]
        assert desk.window(db, 1, portion, beside, limit, back=back) == expected
        holders = {s.id: one.id for one, s in in_order(db)}
        assert desk.texts_listed(db, 1, portion) == list(dict.fromkeys(holders[n] for n in wanted))


def pages(api: Api, path: str, start: dict[str, Any], way: str, **more: Any) -> Iterator[list[int]]:
    """Page after page one way."""
    asked, cursor = start, "after" if way == "next" else "before"
    while True:
        page = api.get(path, **asked, **more)
        yield [item["id"] for item in page["items"]]
        if page[way] is None:
            return
        asked = {cursor: page[way]}


@pytest.fixture
def queue(api: Api, settings_filled: Settings) -> Api:
    assert api.settings.database_url == settings_filled.database_url
    return api


@pytest.mark.parametrize(
    ("path", "more"),
    [
        ("/desk/queue", {}),
        ("/desk/queue", {"show": "open"}),
        ("/desk/queue", {"show": "asked", "split": "dev"}),
        ("/desk/queue/ordered", {"by": "random", "seed": 3}),
        ("/desk/queue/ordered", {"by": "random", "seed": 3, "show": "open"}),
        ("/desk/queue/ordered", {"by": "novelty", "show": "asked"}),
        ("/desk/queue/ordered", {"words": "berth", "show": "open"}),
    ],
)
@pytest.mark.parametrize("limit", [5, 5000])
def test_pages_both_ways_from_any_sentence_make_up_the_queue(
    queue: Api, path: str, more: dict[str, Any], limit: int
) -> None:
    everything = [n for page in pages(queue, path, {}, "next", limit=limit, **more) for n in page]
    assert len(set(everything)) == len(everything) > 0
    assert everything == [item["id"] for item in queue.get(path, limit=5000, **more)["items"]]
    for at in {everything[0], everything[len(everything) // 2], everything[-1]}:
        first = queue.get(path, at=at, limit=limit, **more)
        shown = [item["id"] for item in first["items"]]
        assert at in shown
        if first["next"] is not None:
            later = [
                n
                for page in pages(queue, path, {"after": first["next"]}, "next", limit=limit, **more)
                for n in page
            ]
            shown += later
        if first["previous"] is not None:
            start = {"before": first["previous"]}
            for page in pages(queue, path, start, "previous", limit=limit, **more):
                shown = page + shown
        assert shown == everything


@pytest.mark.parametrize("path", ["/desk/queue", "/desk/queue/ordered"])
def test_the_open_sentence_comes_along_though_it_is_not_shown(queue: Api, path: str) -> None:
    every = queue.get(path)["items"]
    signed = next(item["id"] for item in every if item["state"] == "signed")
    page = queue.get(path, at=signed, show="open")
    assert [item["id"] for item in page["items"] if item["state"] == "signed"] == [signed]
    numbers = [item["id"] for item in every if item["state"] != "signed" or item["id"] == signed]
    assert [item["id"] for item in page["items"]] == numbers


def test_around_a_sentence_of_another_portion_the_queue_begins_at_its_start(queue: Api) -> None:
    every = queue.get("/desk/queue")["items"]
    elsewhere = next(item["id"] for item in every if item["split"] != "dev")
    around, plain = queue.get("/desk/queue", at=elsewhere, split="dev"), queue.get("/desk/queue", split="dev")
    # The moment is the database server's, which goes on by whatever other databases do beside it.
    assert around | {"moment": 0} == plain | {"moment": 0}
    assert queue.get("/desk/queue", at=2**31 - 1)["items"] == every


def test_texts_of_the_queue_come_once_each_as_they_are_listed(queue: Api) -> None:
    for more in ({}, {"show": "open"}, {"by": "random", "seed": 5}, {"words": "line 1", "show": "asked"}):
        path = "/desk/queue" if set(more) <= {"show"} else "/desk/queue/ordered"
        items = queue.get(path, limit=5000, **more)["items"]
        wanted = list(dict.fromkeys(item["text_id"] for item in items))
        assert queue.get("/desk/queue/texts", **more) == {"texts": wanted}


def test_a_sentence_says_how_many_its_text_has(queue: Api) -> None:
    for item in queue.get("/desk/queue")["items"]:
        assert item["of"] == sum(
            other["text_id"] == item["text_id"] for other in queue.get("/desk/queue")["items"]
        )


def test_what_is_not_there_cannot_be_gone_on_from(queue: Api) -> None:
    for more in ({"after": 2**31 - 1}, {"before": 2**31 - 1}, {"round": 99}):
        queue.get("/desk/queue", expect=404, **more)
    queue.get("/desk/queue/counts", round=99, expect=404)


def test_a_window_of_another_project_is_not_shown(queue: Api, settings_filled: Settings) -> None:
    sentence = queue.get("/desk/queue")["items"][0]["id"]
    with transaction(settings_filled.database_url) as db:
        other = team.create_project(db, name="Other", language="en").id
        assert desk.window(db, other, desk.Portion(), None, 9) == []
        assert not desk.is_listed(db, other, desk.Portion(), sentence)
        with pytest.raises(NotFound):
            desk.window(db, other, desk.Portion(), sentence, 9)
