"""Rounds: their texts and people, how far they have come, and where nothing is suggested."""

from __future__ import annotations

from typing import Any

import pytest

from acting import act
from conftest import Api

BODIES = (
    ("33/1", "train", "Pellin is in. Pellin sails."),
    ("33/2", "train", "Ketta and Pellin lie off. Nothing else."),
    ("33/3", "none", "Pellin waits."),
    ("exam", "test", "Pellin for the exam."),
)


@pytest.fixture
def desk(api: Api) -> Api:
    api.post("/types", {"code": "VES", "name": "vessel", "key": "v", "hue": 1})
    for title, split, body in BODIES:
        api.post("/texts", {"title": title, "split": split, "body": body})
    vessels = api.post("/lists", {"name": "vessels", "type": "VES"})
    api.post(f"/lists/{vessels['id']}/entries", {"preferred": "Pellin"})
    return api


def text(api: Api, title: str) -> int:
    number: int = next(t["id"] for t in api.get("/texts")["texts"] if t["title"] == title)
    return number


def begin(api: Api, *titles: str, name: str = "First", **more: Any) -> int:
    made: int = api.post("/desk/rounds", {"name": name, "texts": [text(api, t) for t in titles], **more})
    return made


def change(api: Api, number: int, expect: int = 204, **more: Any) -> Any:
    version = next((one["version"] for one in rounds(api) if one["id"] == number), 1)
    wish = {"name": "First", "version": version, **more}
    return api.ask("PUT", f"/desk/rounds/{number}", expect, json=wish)


def rounds(api: Api) -> list[dict[str, Any]]:
    listed: list[dict[str, Any]] = api.get("/desk/rounds")["rounds"]
    return listed


def words(page: dict[str, Any]) -> list[str]:
    return [item["words"] for item in page["items"]]


def opened(api: Api, start: str) -> dict[str, Any]:
    number = next(i["id"] for i in api.get("/desk/queue")["items"] if i["words"].startswith(start))
    shown: dict[str, Any] = api.get(f"/desk/sentences/{number}")
    return shown


def sign(api: Api, start: str, *names: str, question: str = "") -> None:
    shown = opened(api, start)
    spans = [
        {"start": at, "end": at + len(name), "type": "VES"}
        for name in names
        for at in [shown["start"] + shown["words"].index(name)]
    ]
    kind = "sign" if spans else "sign as empty"
    api.put(f"/desk/sentences/{shown['id']}", act(kind, 0, spans))
    if question:
        api.put(f"/desk/sentences/{shown['id']}", act("ask", 1, question=question))


def test_the_queue_of_a_round_holds_its_texts_in_every_order(desk: Api) -> None:
    number = begin(desk, "33/3", "33/2")
    wanted = ["Ketta and Pellin lie off.", "Nothing else.", "Pellin waits."]
    assert words(desk.get("/desk/queue", round=number)) == wanted
    counts = desk.get("/desk/queue/counts", round=number)
    assert (counts["total"], counts["signed"]) == (3, 0)
    assert words(desk.get("/desk/queue", round=number, split="none")) == ["Pellin waits."]
    for by in ("reading", "disputes", "doubt", "novelty", "random"):
        assert sorted(words(desk.get("/desk/queue/ordered", by=by, round=number))) == sorted(wanted)
    found = desk.get("/desk/queue/ordered", round=number, words="pellin", turn=1)
    assert words(found) == [wanted[0], wanted[2]]


def test_a_round_s_queue_comes_in_pages(desk: Api) -> None:
    number = begin(desk, "33/1", "33/3")
    first = desk.get("/desk/queue", round=number, limit=2)
    assert words(first) == ["Pellin is in.", "Pellin sails."]
    second = desk.get("/desk/queue", round=number, limit=2, after=first["next"])
    assert (words(second), second["next"]) == (["Pellin waits."], None)


def test_progress_is_that_of_the_round(desk: Api) -> None:
    number = begin(desk, "33/1", "33/2")
    sign(desk, "Pellin is", "Pellin", question="Is this the tug?")
    sign(desk, "Nothing")
    sign(desk, "Pellin waits", "Pellin")
    (shown,) = rounds(desk)
    figures = {name: shown[name] for name in ("texts", "sentences", "signed", "empty", "asked")}
    assert figures == {"texts": 2, "sentences": 4, "signed": 2, "empty": 1, "asked": 1}
    page = desk.get("/desk/queue/counts", round=number)
    assert [page[name] for name in ("total", "signed", "empty", "asked")] == [4, 2, 1, 1]
    assert page["first_open"] == opened(desk, "Pellin sails")["id"]


def test_nothing_is_suggested_in_a_round_that_says_so(desk: Api) -> None:
    for start in ("Pellin is", "Pellin waits"):
        sign(desk, start, "Pellin")
    before = opened(desk, "Ketta")
    assert {lane for lane, spans in before["lanes"].items() if spans} == {"lists", "learned"}
    number = begin(desk, "33/2", suggestions=False)
    quiet = opened(desk, "Ketta")
    assert (quiet["lanes"], quiet["resolved"]) == ({}, [])
    assert quiet["quiet"] == "The round “First” is annotated without suggestions."
    assert opened(desk, "Pellin is")["quiet"] is None, "in other texts all is as before"
    change(desk, number, suggestions=False, open=False)
    assert opened(desk, "Ketta")["lanes"] == before["lanes"], "an ended round silences nothing"


def test_no_other_way_leads_to_suggestions_in_a_quiet_round(desk: Api) -> None:
    begin(desk, "33/2", suggestions=False)
    shown, other = opened(desk, "Ketta"), opened(desk, "Pellin is")
    at = {"start": 10, "end": 16}
    for way in ("elsewhere", "elsewhere/staves", "why", "alike"):
        more: dict[str, Any] = {"type": "VES"} if way in ("why", "alike") else {}
        answer = desk.get(f"/desk/sentences/{shown['id']}/{way}", 403, **at, **more)
        assert "The round “First”" in answer["detail"], way
    alike = desk.get(f"/desk/sentences/{other['id']}/alike", start=0, end=6, type="VES")
    proposed = [p["stave"]["words"] for p in alike["proposals"]]
    assert proposed == ["Pellin sails.", "Pellin waits."]
    found = desk.get("/desk/queue/ordered", source="lists", named="pellin")
    assert words(found) == ["Pellin is in.", "Pellin sails.", "Pellin waits."]
    ranked = desk.get("/desk/queue/ordered", by="disputes")["items"]
    worth = {item["words"]: item["worth"] for item in ranked}
    assert worth["Ketta and Pellin lie off."] is None
    assert worth["Pellin waits."] is not None
    assert [item["title"] for item in ranked[-3:]] == ["33/2", "33/2", "exam"], "quiet texts come last"


def test_of_two_quiet_rounds_the_one_that_comes_first_is_named(desk: Api) -> None:
    begin(desk, "33/2", name="Later", suggestions=False, priority=2)
    begin(desk, "33/2", name="Sooner", suggestions=False, priority=1)
    assert "“Sooner”" in opened(desk, "Ketta")["quiet"]


def test_rounds_stand_open_ones_first_by_priority(desk: Api) -> None:
    begin(desk, "33/1", name="b", priority=2)
    begin(desk, "33/1", name="a", open=False)
    begin(desk, "33/1", name="c")
    assert [r["name"] for r in rounds(desk)] == ["c", "b", "a"]


def test_texts_are_added_or_put_in_their_place(desk: Api) -> None:
    number = begin(desk, "33/1")
    change(desk, number, texts=[text(desk, "33/1"), text(desk, "33/3")])
    assert rounds(desk)[0]["texts"] == 2
    change(desk, number, note="Only the texts stay as they are.")
    assert rounds(desk)[0]["texts"] == 2
    change(desk, number, texts=[text(desk, "33/2")], keep_texts=False)
    assert words(desk.get("/desk/queue", round=number)) == ["Ketta and Pellin lie off.", "Nothing else."]
    desk.delete(f"/texts/{text(desk, '33/2')}", expect=200)
    assert rounds(desk)[0]["texts"] == 0, "a removed text is in no round"


def test_people_are_asked_by_name(desk: Api) -> None:
    people = desk.get("/desk/rounds")["people"]
    assert [person["name"] for person in people] == ["Ines", "Jo", "Rea"]
    number = begin(desk, "33/1", people=[people[1]["id"]])
    assert [person["name"] for person in rounds(desk)[0]["people"]] == ["Jo"]
    change(desk, number)
    assert rounds(desk)[0]["people"] == []


def test_corrections_stay_within_the_round(desk: Api) -> None:
    for start in ("Pellin is", "Pellin waits"):
        sign(desk, start, "Pellin")
    number = begin(desk, "33/3")
    wish: dict[str, Any] = {"type": "VES", "named": "pellin", "code": ""}
    inside = desk.get("/desk/corrections", **wish, round=number)
    assert [p["stave"]["words"] for p in inside["proposals"]] == ["Pellin waits."]
    assert desk.get("/desk/corrections", **wish)["total"] == 2


def test_removing_a_round_leaves_what_was_annotated_in_it(desk: Api) -> None:
    number = begin(desk, "33/1", suggestions=False)
    sign(desk, "Pellin is", "Pellin")
    desk.delete(f"/desk/rounds/{number}")
    assert rounds(desk) == []
    assert opened(desk, "Pellin is")["annotation"]["state"] == "signed"
    assert opened(desk, "Pellin sails")["quiet"] is None
    for path in ("/desk/queue", "/desk/queue/ordered"):
        assert "may have been removed" in desk.get(path, 404, round=number)["detail"]
    change(desk, number, 404)


@pytest.mark.parametrize(
    ("wish", "field", "said"),
    [
        ({"name": "  "}, "name", "1 to 60"),
        ({"name": "n" * 61}, "name", "1 to 60"),
        ({"note": "n" * 2001}, "note", "not 2001"),
        ({"priority": 0}, "priority", "1 comes first"),
        ({"priority": 100}, "priority", "not 100"),
        ({"people": [4711]}, "people", "Account 4711 is no member"),
        ({"texts": [4711]}, "texts", "no text 4711"),
        ({"texts": []}, "texts", "needs texts"),
        ({"texts": [], "keep_texts": False}, "texts", "needs texts"),
    ],
)
def test_what_cannot_be_a_round_is_refused_at_its_field(
    desk: Api, wish: dict[str, Any], field: str, said: str
) -> None:
    whole = {"name": "First", "texts": [text(desk, "33/1")]} | wish
    answer = desk.ask("POST", "/desk/rounds", 422, json=whole)
    assert (answer["field"], said in answer["detail"]) == (field, True), answer
    assert rounds(desk) == []


def test_a_name_is_given_once_and_a_change_is_all_or_nothing(desk: Api) -> None:
    number = begin(desk, "33/1")
    again = {"name": " First ", "texts": [text(desk, "33/2")]}
    assert desk.ask("POST", "/desk/rounds", 409, json=again)["field"] == "name"
    begin(desk, "33/2", name="Second")
    assert change(desk, number, 409, name="Second")["field"] == "name"
    before = rounds(desk)
    change(desk, number, 422, note="new", texts=[4711])
    assert rounds(desk) == before
