"""The Desk: marking, signing, undo, conflicts, and the log of acts."""

from __future__ import annotations

import uuid
from typing import Any

import pytest

from acting import act
from conftest import Api
from urdaten.places.desk import acts
from urdaten.places.texts import acts as texts
from urdaten.platform.database import transaction

BODY = "Pellin 🚢 is in from Varnby. Nothing further."


@pytest.fixture
def desk(api: Api) -> Api:
    for code, name, key in (("VES", "vessel", "v"), ("PRT", "port", "p")):
        api.post("/types", {"code": code, "name": name, "key": key, "hue": 1})
    api.post("/texts", {"title": "33/1", "body": BODY, "split": "train"})
    return api


def sentence(api: Api, number: int = 0) -> dict[str, Any]:
    items = api.get("/desk/queue")["items"]
    opened: dict[str, Any] = api.get(f"/desk/sentences/{items[number]['id']}")
    return opened


def span(words: str, code: str) -> dict[str, Any]:
    start = BODY.index(words)
    return {"start": start, "end": start + len(words), "type": code}


def put(api: Api, number: int, kind: str, *spans: dict[str, Any], expect: int = 200, **more: Any) -> Any:
    now = sentence(api, number)
    wish = act(kind, now["annotation"]["version"], spans, **more)
    return api.put(f"/desk/sentences/{now['id']}", wish, expect)


PELLIN, VARNBY = span("Pellin", "VES"), span("Varnby", "PRT")


def keys(annotation: dict[str, Any]) -> list[tuple[int, int, str]]:
    return [(s["start"], s["end"], s["type"]) for s in annotation["spans"]]


def test_offsets_are_code_points(desk: Api) -> None:
    opened = sentence(desk)
    words = [BODY[t["start"] : t["end"]] for t in opened["tokens"]]
    assert words == ["Pellin", "🚢", "is", "in", "from", "Varnby", "."]
    assert opened["words"] == BODY[opened["start"] : opened["end"]]
    assert (opened["before"], opened["after"]) == ("", " Nothing further.")


def test_marking_and_signing(desk: Api) -> None:
    assert sentence(desk)["annotation"] == {
        "state": "untouched",
        "version": 0,
        "spans": [],
        "turned_down": [],
        "question": "",
        "answer": "",
    }
    put(desk, 0, "mark", PELLIN)
    done = put(desk, 0, "sign", PELLIN, VARNBY)
    assert (done["state"], done["version"]) == ("signed", 2)
    assert keys(sentence(desk)["annotation"]) == [(0, 6, "VES"), (20, 26, "PRT")]
    empty = put(desk, 1, "sign as empty")
    assert (empty["state"], empty["spans"]) == ("signed", [])
    items = desk.get("/desk/queue")["items"]
    assert [(i["state"], i["spans"]) for i in items] == [("signed", 2), ("signed", 0)]
    assert desk.get("/figures")["signed"] == 2


@pytest.mark.parametrize(
    ("spans", "words"),
    [
        ([{"start": 0, "end": 999, "type": "VES"}], "leaves its sentence"),
        ([{"start": 5, "end": 5, "type": "VES"}], "does not lie within"),
        ([{"start": 0, "end": 7, "type": "VES"}], "white space"),
        ([span("Nothing", "VES")], "leaves its sentence"),
        ([PELLIN | {"type": "XYZ"}], "no type 'XYZ'"),
        ([PELLIN, span("Pellin 🚢", "PRT")], "overlap"),
    ],
)
def test_spans_that_cannot_stand_are_refused_and_change_nothing(
    desk: Api, spans: list[dict[str, Any]], words: str
) -> None:
    put(desk, 0, "mark", VARNBY)
    problem = put(desk, 0, "mark", *spans, expect=422)
    assert words in problem["detail"]
    assert keys(sentence(desk)["annotation"]) == [(20, 26, "PRT")]
    assert len(desk.get(f"/desk/sentences/{sentence(desk)['id']}/history")) == 1


@pytest.mark.parametrize(
    ("kind", "spans", "words"),
    [
        ("guess", [], "does not match any of the expected tags"),
        ("sign as empty", [PELLIN], "remove them first"),
        ("sign", [], "signed as empty"),
    ],
)
def test_acts_that_make_no_sense_are_refused(
    desk: Api, kind: str, spans: list[dict[str, Any]], words: str
) -> None:
    assert words in put(desk, 0, kind, *spans, expect=422)["detail"]


@pytest.mark.parametrize(
    ("kind", "more"),
    [
        ("mark", {"state": "signed"}),
        ("mark", {"answer": "forged"}),
        ("sign", {"state": "draft"}),
        ("sign", {"question": "?"}),
        ("unsign", {"state": "signed"}),
        ("ask", {"question": "?", "answer": "forged"}),
        ("ask", {"question": "?", "turned_down": []}),
        ("answer", {"answer": "yes", "question": "another"}),
    ],
)
def test_an_act_carries_nothing_but_what_it_may_change(desk: Api, kind: str, more: dict[str, Any]) -> None:
    assert "Extra inputs" in put(desk, 0, kind, expect=422, **more)["detail"]


def test_only_signing_signs_and_a_change_makes_it_begun(desk: Api) -> None:
    jo = desk.other("jo")
    put(jo, 0, "sign", PELLIN)
    changed = put(desk, 0, "mark", PELLIN, VARNBY)
    assert changed["state"] == "draft"
    (last,) = [a for a in desk.get(f"/desk/sentences/{sentence(desk)['id']}/history") if a["who"] == "Ines"]
    assert "signed_by" not in last["after"]
    assert last["before"]["signed_by"] == jo.request("GET", "/api/me").json()["id"]
    # Taking the change back leaves what Jo signed as Jo signed it.
    undone = desk.post("/desk/undo", expect=200)
    assert undone["annotation"]["state"] == "signed"
    log = desk.get(f"/desk/sentences/{sentence(desk)['id']}/history")
    assert log[-1]["after"] == log[0]["after"]


def test_evidence_that_is_turned_down_leaves_a_signature_as_it_is(desk: Api) -> None:
    put(desk, 0, "sign", PELLIN)
    judged = put(desk, 0, "turn down", PELLIN, turned_down=[VARNBY])
    assert judged["state"] == "signed"


def test_a_stale_write_gets_both_versions_and_loses_neither(desk: Api) -> None:
    jo = desk.other("jo")
    old = sentence(desk)
    put(jo, 0, "mark", VARNBY)
    change = act("mark", old["annotation"]["version"], [PELLIN])
    problem = desk.put(f"/desk/sentences/{old['id']}", change, expect=409)
    assert problem["type"] == "urn:urdaten:stale-write"
    assert problem["theirs"] == {"state": "draft", "version": 1, "spans": [[20, 26, "PRT"]], "by": "Jo"}
    assert problem["yours"]["spans"] == [[0, 6, "VES"]]
    assert keys(sentence(desk)["annotation"]) == [(20, 26, "PRT")]


def test_an_act_sent_twice_is_done_once(desk: Api) -> None:
    token = str(uuid.uuid4())
    first = put(desk, 0, "mark", PELLIN, token=token)
    change = act("mark", 0, [PELLIN], token=token)
    again = desk.put(f"/desk/sentences/{sentence(desk)['id']}", change)
    assert first == again
    assert len(desk.get(f"/desk/sentences/{sentence(desk)['id']}/history")) == 1


def test_undo_and_redo_run_across_sentences(desk: Api) -> None:
    first, second = sentence(desk, 0)["id"], sentence(desk, 1)["id"]
    put(desk, 0, "mark", PELLIN)
    put(desk, 0, "sign", PELLIN)
    put(desk, 1, "sign as empty")
    undone = [desk.post("/desk/undo", expect=200) for _ in range(3)]
    assert [(u["sentence_id"], u["annotation"]["state"]) for u in undone] == [
        (second, "untouched"),
        (first, "draft"),
        (first, "untouched"),
    ]
    assert "nothing to undo" in desk.post("/desk/undo", expect=404)["detail"]
    redone = [desk.post("/desk/redo", expect=200) for _ in range(3)]
    assert [(r["sentence_id"], r["annotation"]["state"]) for r in redone] == [
        (first, "draft"),
        (first, "signed"),
        (second, "signed"),
    ]
    assert keys(sentence(desk, 0)["annotation"]) == [(0, 6, "VES")]
    desk.post("/desk/redo", expect=404)


def test_a_new_act_ends_what_could_be_done_again(desk: Api) -> None:
    put(desk, 0, "mark", PELLIN)
    desk.post("/desk/undo", expect=200)
    put(desk, 0, "mark", VARNBY)
    desk.post("/desk/redo", expect=404)
    desk.post("/desk/undo", expect=200)
    assert sentence(desk)["annotation"]["spans"] == []


def test_each_undoes_their_own_acts_and_never_over_somebody_elses(desk: Api) -> None:
    jo = desk.other("jo")
    put(desk, 0, "mark", PELLIN)
    put(jo, 1, "sign as empty")
    desk.post("/desk/undo", expect=200)
    assert sentence(desk, 1)["annotation"]["state"] == "signed"
    desk.post("/desk/redo", expect=200)
    put(jo, 0, "mark", PELLIN, VARNBY)
    left = desk.post("/desk/undo", expect=200)
    assert (left["sentences"], left["left"], left["sentence_id"]) == (0, 1, sentence(desk)["id"])
    assert len(left["annotation"]["spans"]) == len(sentence(desk)["annotation"]["spans"]) == 2


def test_an_act_that_cannot_be_undone_any_more_bars_none_before_it(desk: Api) -> None:
    jo = desk.other("jo")
    put(desk, 0, "mark", PELLIN)
    put(desk, 1, "sign as empty")
    put(jo, 1, "unsign")
    assert desk.post("/desk/undo", expect=200)["sentences"] == 0
    assert desk.post("/desk/undo", expect=200)["sentences"] == 1
    assert sentence(desk)["annotation"]["spans"] == []
    desk.post("/desk/undo", expect=404)
    # Nor does one that cannot be done again.
    put(jo, 0, "mark", VARNBY)
    assert desk.post("/desk/redo", expect=200)["sentences"] == 0
    desk.post("/desk/redo", expect=404)


def test_one_act_of_several_is_undone_by_its_token_and_once_only(desk: Api) -> None:
    first, second, undoing, doing = (str(uuid.uuid4()) for _ in range(4))
    put(desk, 0, "mark", PELLIN, token=first)
    put(desk, 1, "sign as empty", token=second)
    for _ in range(2):
        undone = desk.post("/desk/undo", {"of": first, "token": undoing}, expect=200)
        assert (undone["sentence_id"], undone["sentences"]) == (sentence(desk)["id"], 1)
    assert sentence(desk)["annotation"]["spans"] == []
    assert sentence(desk, 1)["annotation"]["state"] == "signed"
    desk.post("/desk/undo", {"of": first}, expect=404)
    desk.other("jo").post("/desk/undo", {"of": second}, expect=404)
    for _ in range(2):
        desk.post("/desk/redo", {"of": first, "token": doing}, expect=200)
    assert keys(sentence(desk)["annotation"]) == [(0, 6, "VES")]


def test_undoing_that_was_left_alone_passes_over_no_second_act_when_it_is_sent_again(desk: Api) -> None:
    put(desk, 0, "mark", PELLIN)
    put(desk, 1, "sign as empty")
    put(desk.other("jo"), 1, "unsign")
    undoing = {"token": str(uuid.uuid4())}
    for _ in range(2):
        left = desk.post("/desk/undo", undoing, expect=200)
        assert (left["sentences"], left["left"]) == (0, 1)
    assert keys(sentence(desk)["annotation"]) == [(0, 6, "VES")]
    log = desk.get(f"/desk/sentences/{sentence(desk, 1)['id']}/history")
    assert [a["kind"] for a in log] == ["sign as empty", "unsign", "undo sign as empty, left alone"]


def test_the_log_says_who_did_what(desk: Api) -> None:
    put(desk, 0, "mark", PELLIN)
    put(desk.other("jo"), 0, "sign", PELLIN)
    desk.other("jo").post("/desk/undo", expect=200)
    log = desk.get(f"/desk/sentences/{sentence(desk)['id']}/history")
    assert [(a["who"], a["kind"]) for a in log] == [("Ines", "mark"), ("Jo", "sign"), ("Jo", "undo sign")]
    assert log[1]["before"] == {"state": "draft", "spans": [[0, 6, "VES"]]}
    signing = log[1]["after"]
    assert (signing["state"], signing["spans"]) == ("signed", [[0, 6, "VES"]])
    assert signing["signed_by"] == desk.other("jo").request("GET", "/api/me").json()["id"]


def test_test_texts_get_no_suggestions_and_say_why(demo_api: Api) -> None:
    items = demo_api.get("/desk/queue", split="test")["items"]
    opened = demo_api.get(f"/desk/sentences/{items[0]['id']}")
    assert opened["lanes"] == {}
    assert opened["resolved"] == []
    assert "without suggestions" in opened["quiet"]
    train = demo_api.get(f"/desk/sentences/{demo_api.get('/desk/queue', split='train')['items'][1]['id']}")
    assert train["quiet"] is None
    assert {s["type"] for s in train["lanes"]["lists"]} >= {"VES", "PRT"}
    assert {s["why"] for s in train["lanes"]["rules"]} >= {"rule “clock time, four figures”"}


def test_a_sentence_can_be_had_without_waiting_for_its_evidence(demo_api: Api) -> None:
    number = demo_api.get("/desk/queue", split="train")["items"][1]["id"]
    full = demo_api.get(f"/desk/sentences/{number}")
    bare = demo_api.get(f"/desk/sentences/{number}", evidence=False)
    assert full["lanes"]["lists"]
    assert (bare["lanes"], bare["resolved"]) == ({}, [])
    assert bare == full | {"lanes": {}, "resolved": []}


def test_the_queue_says_what_acts_have_touched_since(desk: Api) -> None:
    since = desk.get("/desk/queue")["moment"]
    put(desk, 0, "mark", PELLIN)
    changes = desk.get("/desk/queue/changes", since=since)
    first = sentence(desk)["id"]
    assert changes["sentences"] == [{"id": first, "state": "draft", "spans": 1, "asked": False}]
    assert desk.get("/desk/queue/changes", since=changes["moment"])["sentences"] == []
    desk.post("/desk/undo", expect=200)
    (undone,) = desk.get("/desk/queue/changes", since=changes["moment"])["sentences"]
    assert (undone["state"], undone["spans"]) == ("untouched", 0)


def test_an_act_that_was_on_its_way_is_told_though_later_ones_came_in_before_it(desk: Api) -> None:
    numbers = [sentence(desk, i)["id"] for i in (0, 1)]
    url = desk.settings.database_url
    with transaction(url) as slow:
        acts.annotate(slow, 1, 1, numbers[0], acts.Signing(kind="sign as empty", version=0, wanted=()))
        with transaction(url) as quick:
            acts.annotate(quick, 1, 1, numbers[1], acts.Signing(kind="sign as empty", version=0, wanted=()))
        seen = desk.get("/desk/queue")
        assert [item["state"] for item in seen["items"]] == ["untouched", "signed"]
    told = desk.get("/desk/queue/changes", since=seen["moment"])["sentences"]
    assert numbers[0] in {one["id"] for one in told}


def test_a_token_names_one_act_of_one_person(desk: Api) -> None:
    token = str(uuid.uuid4())
    put(desk, 0, "mark", PELLIN, token=token)
    assert "name" in put(desk, 1, "sign as empty", expect=409, token=token)["detail"]
    put(desk.other("jo"), 0, "mark", VARNBY, expect=409, token=token)
    assert keys(sentence(desk)["annotation"]) == [(0, 6, "VES")]
    assert sentence(desk, 1)["annotation"]["state"] == "untouched"


@pytest.mark.parametrize("limit", [1, 2, 7, 5000])
def test_the_queue_comes_in_pages_without_gap_or_repetition(desk: Api, limit: int) -> None:
    # Texts of one sentence and of many, so that pages end within texts and between them.
    for count in (1, 5, 2, 1):
        body = "\n".join(f"Line {number} of {count} {limit}." for number in range(count))
        desk.post("/texts", {"title": f"{count}", "body": f"{body}\nEnd {len(desk.get('/texts')['texts'])}."})
    seen: list[dict[str, Any]] = []
    after: dict[str, int] = {}
    while True:
        page = desk.get("/desk/queue", limit=limit, **after)
        assert 0 < len(page["items"]) <= limit
        seen += page["items"]
        if page["next"] is None:
            break
        assert len(page["items"]) == limit
        after = {"after": page["next"]}
    with transaction(desk.settings.database_url) as db:
        everything = texts.all_texts(db, 1)
        held = texts.sentences_of(db, [text.id for text in everything])
    wanted = [(sentence.id, sentence.number) for text in everything for sentence in held[text.id]]
    assert [(item["id"], item["number"]) for item in seen] == wanted


def test_the_queue_knows_what_is_signed_beyond_its_page(demo_api: Api) -> None:
    items = demo_api.get("/desk/queue", limit=5000)["items"]
    counts = demo_api.get("/desk/queue/counts")
    signed = [item["state"] == "signed" for item in items]
    assert len(signed) == counts["total"] == demo_api.get("/figures")["sentences"]
    assert sum(signed) == counts["signed"] == demo_api.get("/figures")["signed"]
    assert counts["first_open"] == items[signed.index(False)]["id"]
    train = demo_api.get("/desk/queue/counts", split="train")
    assert train["total"] == train["signed"] > 3
    assert train["first_open"] is None
    page = demo_api.get("/desk/queue", split="train", limit=3)
    assert {item["split"] for item in page["items"]} == {"train"}


def test_what_is_not_there_is_said(desk: Api) -> None:
    desk.get("/desk/sentences/99999", expect=404)
    desk.get("/desk/sentences/99999/history", expect=404)
    desk.get("/desk/queue", expect=404, after=99999)
