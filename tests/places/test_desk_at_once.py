"""Changes of many sentences at once: what is proposed, that it is all or nothing, and that one undo takes it back."""

from __future__ import annotations

import uuid
from typing import Any

import pytest

from acting import act
from conftest import Api
from places.test_desk import keys
from urdaten.places.desk import routes

BODIES = (
    ("33/1", "train", "Pellin is in. The Pellin Dock is dry. Ketta and pellin sail."),
    ("33/2", "none", "PELLIN lies off. Pellin Dock again."),
    ("exam", "test", "Pellin for the exam."),
)


@pytest.fixture
def desk(api: Api) -> Api:
    for code, name, key in (("VES", "vessel", "v"), ("BTH", "berth", "b")):
        api.post("/types", {"code": code, "name": name, "key": key, "hue": 1})
    for title, split, body in BODIES:
        api.post("/texts", {"title": title, "split": split, "body": body})
    return api


def opened(api: Api, words: str) -> dict[str, Any]:
    items = api.get("/desk/queue")["items"]
    number = next(item["id"] for item in items if item["words"].startswith(words))
    shown: dict[str, Any] = api.get(f"/desk/sentences/{number}")
    return shown


def annotate(api: Api, words: str, state: str, *spans: tuple[str, str]) -> dict[str, Any]:
    shown = opened(api, words)
    listed = [
        {"start": at, "end": at + len(name), "type": code}
        for name, code in spans
        for at in [shown["start"] + shown["words"].index(name)]
    ]
    kind = "sign" if state == "signed" else "mark"
    wish = act(kind, shown["annotation"]["version"], listed)
    made: dict[str, Any] = api.put(f"/desk/sentences/{shown['id']}", wish)
    return made


def alike(api: Api, words: str = "Pellin is", code: str = "VES", expect: int = 200) -> Any:
    shown = opened(api, words)
    span = {"start": shown["start"], "end": shown["start"] + 6, "type": code}
    return api.get(f"/desk/sentences/{shown['id']}/alike", expect, **span)


def places(page: dict[str, Any]) -> list[dict[str, Any]]:
    return [
        {
            "sentence_id": p["stave"]["sentence_id"],
            "version": p["version"],
            "spans": [{name: s[name] for name in ("start", "end", "type")} for s in p["then"]],
        }
        for p in page["proposals"]
    ]


def at_once(api: Api, kind: str, page: dict[str, Any], expect: int = 200, **more: Any) -> Any:
    return api.ask("POST", "/desk/at-once", expect, json={"kind": kind, "places": places(page)} | more)


def proposed(page: dict[str, Any]) -> list[str]:
    return [p["stave"]["words"] for p in page["proposals"]]


def test_alike_are_unsigned_sentences_where_nothing_stands_on_the_words(desk: Api) -> None:
    annotate(desk, "Pellin is", "draft", ("Pellin", "VES"))
    annotate(desk, "The Pellin Dock", "draft", ("Pellin Dock", "BTH"))
    page = alike(desk)
    assert proposed(page) == ["Ketta and pellin sail.", "PELLIN lies off.", "Pellin Dock again."]
    first = page["proposals"][0]["stave"]
    assert first["lanes"]["now"] == []
    start = BODIES[0][2].index("pellin")
    assert keys({"spans": first["lanes"]["then"]}) == [(start, start + 6, "VES")]
    annotate(desk, "Ketta and", "signed", ("Ketta", "VES"))
    assert proposed(alike(desk)) == ["PELLIN lies off.", "Pellin Dock again."]


def test_what_was_turned_down_is_not_proposed_again(desk: Api) -> None:
    shown = opened(desk, "PELLIN")
    down = {"start": shown["start"], "end": shown["start"] + 6, "type": "VES"}
    wish = act("turn down", 0, turned_down=[down])
    desk.put(f"/desk/sentences/{shown['id']}", wish)
    assert "PELLIN lies off." not in proposed(alike(desk))
    assert "PELLIN lies off." in proposed(alike(desk, code="BTH"))


def test_as_many_are_proposed_as_can_be_looked_through_and_sent_at_once(
    desk: Api, monkeypatch: pytest.MonkeyPatch
) -> None:
    desk.post(
        "/texts", {"title": "33/3", "body": "pellin, pellin pellin! Nobody. Pellin here. Pellin there."}
    )
    everything = alike(desk)
    found = [len(p["then"]) for p in everything["proposals"]]
    assert (everything["total"], found) == (len(found), [1, 1, 1, 1, 3, 1, 1])
    for name, most, shown in (
        ("MOST_SPANS_AT_ONCE", 4, 4),
        ("MOST_SPANS_AT_ONCE", 0, 1),
        ("MOST_SIGNS_AT_ONCE", 1, 1),
    ):
        with monkeypatch.context() as small:
            small.setattr(routes, name, most)
            page = alike(desk)
        assert page["total"] == everything["total"]
        assert page["proposals"] == everything["proposals"][:shown]


def test_nothing_is_proposed_from_test_texts_or_for_parts_of_words(desk: Api) -> None:
    assert "without suggestions" in alike(desk, "Pellin for", expect=403)["detail"]
    shown = opened(desk, "Pellin is")
    part = {"start": shown["start"], "end": shown["start"] + 3, "type": "VES"}
    assert "whole words" in desk.get(f"/desk/sentences/{shown['id']}/alike", 422, **part)["detail"]
    assert "no type" in alike(desk, code="XYZ", expect=422)["detail"]


def test_what_is_made_at_once_is_undone_and_redone_at_once(desk: Api) -> None:
    annotate(desk, "Pellin is", "draft", ("Pellin", "VES"))
    page = alike(desk)
    assert at_once(desk, "mark alike", page) == {"sentences": 4}
    assert keys(opened(desk, "PELLIN")["annotation"]) == [(0, 6, "VES")]
    assert opened(desk, "PELLIN")["annotation"]["state"] == "draft"
    undone = desk.post("/desk/undo", expect=200)
    assert (undone["sentences"], undone["left"]) == (4, 0)
    assert opened(desk, "PELLIN")["annotation"]["spans"] == []
    assert len(opened(desk, "Pellin is")["annotation"]["spans"]) == 1
    assert desk.post("/desk/redo", expect=200)["sentences"] == 4
    assert keys(opened(desk, "Pellin Dock")["annotation"]) == [(17, 23, "VES")]
    log = desk.get(f"/desk/sentences/{opened(desk, 'PELLIN')['id']}/history")
    assert [act["kind"] for act in log] == ["mark alike", "undo mark alike", "redo mark alike"]


def test_undoing_leaves_alone_what_others_have_changed_since(desk: Api) -> None:
    page = alike(desk)
    count = len(page["proposals"])
    at_once(desk, "mark alike", page)
    annotate(desk.other("jo"), "PELLIN", "signed", ("PELLIN", "BTH"))
    undone = desk.post("/desk/undo", expect=200)
    assert (undone["sentences"], undone["left"]) == (count - 1, 1)
    assert keys(opened(desk, "PELLIN")["annotation"]) == [(0, 6, "BTH")]
    assert desk.post("/desk/redo", expect=200)["sentences"] == count - 1
    assert keys(opened(desk, "PELLIN")["annotation"]) == [(0, 6, "BTH")]


def test_a_correction_changes_or_removes_what_the_search_describes(desk: Api) -> None:
    annotate(desk, "Pellin is", "signed", ("Pellin", "VES"))
    annotate(desk, "Ketta and", "signed", ("Ketta", "VES"), ("pellin", "VES"))
    annotate(desk, "Pellin for", "signed", ("Pellin", "VES"))
    page = desk.get("/desk/corrections", type="VES", named="pellin", code="BTH")
    assert page["total"] == 3
    at_once(desk, "correct", page)
    ketta = opened(desk, "Ketta and")
    assert [t for _, _, t in keys(ketta["annotation"])] == ["VES", "BTH"]
    assert ketta["annotation"]["state"] == "draft", "nobody has signed this"
    removing = desk.get("/desk/corrections", type="BTH", split="test")
    assert proposed(removing) == ["Pellin for the exam."]
    assert removing["proposals"][0]["then"] == []
    at_once(desk, "correct", removing)
    assert opened(desk, "Pellin for")["annotation"]["spans"] == []


def test_who_has_looked_through_a_correction_signs_it_and_the_log_says_so(desk: Api) -> None:
    jo = desk.other("jo")
    annotate(jo, "Pellin is", "signed", ("Pellin", "VES"))
    annotate(jo, "Pellin for", "draft", ("Pellin", "VES"))
    page = desk.get("/desk/corrections", type="VES", code="BTH")
    at_once(desk, "correct", page, looked_through=True)
    signed, begun = opened(desk, "Pellin is"), opened(desk, "Pellin for")
    assert (signed["annotation"]["state"], begun["annotation"]["state"]) == ("signed", "draft")
    last = desk.get(f"/desk/sentences/{signed['id']}/history")[-1]
    assert (last["who"], last["kind"]) == ("Ines", "correct, looked through")
    ids = {api.request("GET", "/api/me").json()["id"]: api for api in (desk, jo)}
    assert ids[last["after"]["signed_by"]] is desk
    assert ids[last["before"]["signed_by"]] is jo
    # Undone, it is again what Jo signed.
    desk.post("/desk/undo", expect=200)
    back = desk.get(f"/desk/sentences/{signed['id']}/history")[-1]["after"]
    assert (back["state"], ids[back["signed_by"]]) == ("signed", jo)


def test_many_at_once_sent_twice_are_done_once(desk: Api) -> None:
    annotate(desk, "Pellin is", "draft", ("Pellin", "VES"))
    page = desk.get("/desk/corrections", type="VES", code="BTH")
    token = str(uuid.uuid4())
    for _ in range(2):
        assert at_once(desk, "correct", page, token=token) == {"sentences": 1}
    number = opened(desk, "Pellin is")["id"]
    assert len(desk.get(f"/desk/sentences/{number}/history")) == 2
    at_once(desk.other("jo"), "correct", page, token=token, expect=409)


def test_a_correction_has_to_say_which_spans_it_means(desk: Api) -> None:
    assert desk.get("/desk/corrections", 422, words="Pellin", code="BTH")["field"] == "type"
    assert desk.get("/desk/corrections", 422, type="VES", source="lists")["field"] == "source"


def test_all_or_none_are_changed(desk: Api) -> None:
    page = alike(desk)
    annotate(desk.other("jo"), "PELLIN", "draft")
    assert "1 of these sentences" in at_once(desk, "mark alike", page, expect=409)["detail"]
    assert opened(desk, "Ketta and")["annotation"]["spans"] == []
    crossing = alike(desk)
    crossing["proposals"][0]["then"] *= 2
    assert at_once(desk, "mark alike", crossing, expect=422)["type"].endswith("bad-span")
    nothing: dict[str, Any] = {"proposals": []}
    assert at_once(desk, "correct", nothing, expect=422)["field"] == "places"
    foreign = {"kind": "correct", "places": [{"sentence_id": 999_999, "version": 0, "spans": []}]}
    desk.ask("POST", "/desk/at-once", 409, json=foreign)
