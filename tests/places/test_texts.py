"""The texts place."""

from __future__ import annotations

import tracemalloc
from typing import Any

import pytest

from acting import act
from conftest import Api
from urdaten.demo.files import Demo
from urdaten.places.texts import acts as texts
from urdaten.platform.database import transaction

BODY = "Pellin is in 🚢 from Varnby.\nShe lies at Sill Wharf 3."


def add(api: Api, **more: Any) -> dict[str, Any]:
    text: dict[str, Any] = api.post("/texts", {"title": "33/1", "body": BODY} | more)
    return text


def sentences(api: Api, text: dict[str, Any]) -> list[dict[str, Any]]:
    page = api.get(f"/texts/{text['id']}/sentences", limit=2000)
    found: list[dict[str, Any]] = page["sentences"]
    assert page["next"] is None
    assert len(found) == text["sentences"]
    return found


def test_a_text_is_pasted_split_into_sentences_and_read_back_to_the_letter(api: Api) -> None:
    body = "  \nPellin is in 🚢 from Varnby.\r\nShe lies at Sill Wharf 3. \n"
    made = add(api, body=body, group="week-33", dated="2026-08-17", split="train")
    read = api.get(f"/texts/{made['id']}")
    assert read == made
    assert read["body"] == body
    words = [body[s["start"] : s["end"]] for s in sentences(api, read)]
    assert words == ["Pellin is in 🚢 from Varnby.", "She lies at Sill Wharf 3."]
    assert {s["state"] for s in sentences(api, read)} == {"untouched"}
    assert (read["sentences"], read["signed"], read["spans"]) == (2, 0, 0)


def test_a_text_says_how_its_sentences_stand_page_by_page(demo_api: Api, part: Demo) -> None:
    first = part.bulletins[0]
    text = demo_api.get(f"/texts/{demo_api.get('/texts', search=first.title)['texts'][0]['id']}")
    assert text["signed"] == text["sentences"] > 2
    assert text["spans"] == len(first.gold)
    seen: list[dict[str, Any]] = []
    after: dict[str, int] = {}
    while True:
        page = demo_api.get(f"/texts/{text['id']}/sentences", limit=2, **after)
        seen += page["sentences"]
        if page["next"] is None:
            break
        after = {"after": page["next"]}
    assert [s["number"] for s in seen] == list(range(text["sentences"]))
    assert {s["state"] for s in seen} == {"signed"}
    assert [s["spans"] for s in seen] == [
        sum(s["start"] <= span.start and span.end <= s["end"] for span in first.gold) for s in seen
    ]
    demo_api.get("/texts/99999/sentences", expect=404)


@pytest.mark.parametrize(
    ("part", "field", "status"),
    [
        ({"body": " \n\t"}, "body", 422),
        ({"body": "a\0b"}, "body", 422),
        ({"body": "x" * 1_000_001}, "body", 422),
        ({"title": " "}, "title", 422),
        ({"split": "exam"}, "split", 422),
        ({"body": BODY, "title": "again"}, "body", 409),
    ],
)
def test_a_wrong_text_is_refused_at_its_field(
    api: Api, part: dict[str, Any], field: str, status: int
) -> None:
    add(api)
    problem = api.post("/texts", {"title": "33/2", "body": "Another."} | part, expect=status)
    assert problem["field"] == field
    assert api.get("/texts/count")["total"] == 1


def test_the_same_body_names_the_text_that_has_it(api: Api) -> None:
    add(api)
    assert "“33/1”" in api.post("/texts", {"title": "x", "body": BODY}, expect=409)["detail"]


def test_what_is_said_of_a_text_changes_and_its_body_does_not(api: Api) -> None:
    made = add(api)
    changed = api.put(
        f"/texts/{made['id']}",
        {"title": "33/9", "group": "w", "split": "dev", "dated": "2026-08-18", "version": 1},
    )
    assert (changed["title"], changed["split"], changed["body"]) == ("33/9", "dev", BODY)
    api.put(f"/texts/{made['id']}", {"title": "x", "body": "new", "version": 2}, expect=422)
    api.put("/texts/999", {"title": "x", "version": 1}, expect=404)


def test_pages_follow_each_other_without_gap_or_repetition(demo_api: Api, part: Demo) -> None:
    titles: list[str] = []
    after = None
    while True:
        page = demo_api.get("/texts", limit=7, **({} if after is None else {"after": after}))
        titles += [t["title"] for t in page["texts"]]
        after = page["next"]
        if after is None:
            break
    assert len(titles) == len(set(titles)) == demo_api.get("/texts/count")["total"] == len(part.bulletins)
    assert titles[:2] == ["27/1", "27/2"]


def test_search_and_split(demo_api: Api, part: Demo) -> None:
    assert {t["split"] for t in demo_api.get("/texts", split="dev")["texts"]} == {"dev"}
    wanted = [b.title for b in part.bulletins if "fender" in b.body]
    assert [t["title"] for t in demo_api.get("/texts", search="fender")["texts"]] == wanted != []
    assert demo_api.get("/texts", search="100%_")["texts"] == []
    head = demo_api.get("/texts", search="27/1")["texts"][0]
    assert head["signed"] == head["sentences"] > 1
    assert head["spans"] == len(part.bulletins[0].gold)


SPLIT_BODY = "The hyd. Pump leaks at shed 2. They mend the hyd. pump, and the hyd. arm too. All is dry."


def test_abbreviations_are_suggested_kept_and_split_what_nobody_has_marked(api: Api) -> None:
    free = add(api, title="free", body=SPLIT_BODY)
    more = add(api, title="other", body="The hyd. winch and the hyd. ram. One hyd. hose, 3 hyd. seals.")
    assert free["sentences"] == 4
    others = sentences(api, more)
    before = api.get("/texts/abbreviations")
    assert before == {"own": [], "suggested": ["hyd"], "split_anew": 0}
    made = api.put("/texts/abbreviations", {"words": ["Hyd.", " w.c. ", ""]})
    assert made == {"own": ["hyd", "w.c"], "suggested": [], "split_anew": 1}
    read = sentences(api, api.get(f"/texts/{free['id']}"))
    first = read[0]
    assert SPLIT_BODY[first["start"] : first["end"]] == "The hyd. Pump leaks at shed 2."
    assert [s["number"] for s in read] == [0, 1, 2]
    assert sentences(api, more) == others, "it is split as it was"
    assert add(api, title="new", body="One hyd. Pump.")["sentences"] == 1
    # Taken back, a text that somebody has marked keeps its sentences, and they stay in step with its gold.
    sentence = read[0]
    now = api.get(f"/desk/sentences/{sentence['id']}")["annotation"]["version"]
    api.put(f"/desk/sentences/{sentence['id']}", act("sign as empty", now))
    assert api.put("/texts/abbreviations", {"words": []})["split_anew"] == 1
    again = sentences(api, api.get(f"/texts/{free['id']}"))
    assert [s["id"] for s in again] == [s["id"] for s in read]
    assert again[0]["state"] == "signed"


@pytest.mark.parametrize("word", ["two words", "-", "x" * 21, "a..b", "?!"])
def test_what_is_no_abbreviation_is_refused(api: Api, word: str) -> None:
    problem = api.put("/texts/abbreviations", {"words": ["approx.", word]}, expect=422)
    assert problem["field"] == "words"
    assert word.strip() in problem["detail"]
    assert api.get("/texts/abbreviations")["own"] == []


def test_many_sentences_of_a_long_text_are_read_with_its_body_once(api: Api) -> None:
    made = add(api, body="Pellin lies at Sill Wharf 3.\n" * 4000)
    add(api, title="33/2")
    with transaction(api.settings.database_url) as db:
        wanted = [sentence.id for sentence in texts.sentences_of(db, [made["id"]])[made["id"]]]
        assert len(wanted) == 4000
        tracemalloc.start()
        ((text, held),) = texts.sentences_by_text(db, reversed(wanted))
        _, most = tracemalloc.get_traced_memory()
        tracemalloc.stop()
        assert (text.id, [s.id for s in held]) == (made["id"], wanted)
        assert texts.sentences_by_text(db, wanted, project_id=999) == []
    # A body beside each sentence would be 4 000 times 116 kB.
    assert most < 40_000_000
