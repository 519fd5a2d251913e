"""The lists and rules places, and the evidence that they give."""

from __future__ import annotations

from typing import Any

import pytest

from acting import act, stave_pages
from conftest import Api
from urdaten.places.pipeline import wire
from urdaten.places.pipeline.acts import trial

VES = {"code": "VES", "name": "vessel", "key": "v", "hue": 1}
BODY = "Amber Quay is in. The amber is dry. A. Quay sails at 0600."


@pytest.fixture
def port(api: Api) -> Api:
    api.post("/types", VES)
    api.post("/texts", {"title": "33/1", "body": BODY})
    return api


def new_list(api: Api) -> int:
    made = api.post("/lists", {"name": "vessels", "type": "VES"})
    api.post(f"/lists/{made['id']}/entries", {"preferred": "Amber Quay", "variants": ["A. Quay"]})
    return int(made["id"])


def lane(api: Api, name: str, number: int = 0) -> list[str]:
    item = api.get("/desk/queue")["items"][number]
    opened = api.get(f"/desk/sentences/{item['id']}")
    return [BODY[s["start"] : s["end"]] for s in opened["lanes"][name]]


def test_a_list_gives_evidence_as_soon_as_it_holds_a_name(port: Api) -> None:
    made = new_list(port)
    assert lane(port, "lists") == ["Amber Quay"]
    assert lane(port, "lists", 1) == []
    assert lane(port, "lists", 2) == ["A. Quay"]
    (shown,) = port.get("/lists")
    assert (shown["entries"], shown["finds"], shown["judged"]) == (1, 2, 0)
    port.put(f"/lists/{made}", {"name": "vessels", "type": "VES", "on": False, "version": 1})
    assert lane(port, "lists") == []
    port.put(f"/lists/{made}", {"name": "ships", "type": "VES", "on": True, "version": 2})
    assert lane(port, "lists") == ["Amber Quay"]
    port.delete(f"/lists/{made}")
    assert lane(port, "lists") == []


def test_entries_are_added_changed_found_and_removed(port: Api) -> None:
    made = new_list(port)
    entry = port.post(
        f"/lists/{made}/entries",
        {"preferred": "  Grey   Mallard ", "variants": ["G. Mallard", "", "G. Mallard"]},
    )
    assert (entry["preferred"], entry["variants"]) == ("Grey Mallard", ["G. Mallard"])
    port.put(
        f"/lists/{made}/entries/{entry['id']}",
        {"preferred": "Grey Mallard", "variants": ["Mallard"], "note": "tug", "version": 1},
    )
    assert [e["note"] for e in port.get(f"/lists/{made}/entries", search="mallard")["entries"]] == ["tug"]
    assert len(port.get(f"/lists/{made}/entries", search="a. quay")["entries"]) == 1
    port.delete(f"/lists/{made}/entries/{entry['id']}")
    assert [e["preferred"] for e in port.get(f"/lists/{made}/entries")["entries"]] == ["Amber Quay"]
    port.delete(f"/lists/{made}/entries/{entry['id']}", expect=404)


def test_entries_come_in_pages(port: Api) -> None:
    made = new_list(port)
    for number in range(7):
        port.post(f"/lists/{made}/entries", {"preferred": f"Ship {number}"})
    names: list[str] = []
    after = None
    while True:
        page = port.get(f"/lists/{made}/entries", limit=3, **({} if after is None else {"after": after}))
        names += [e["preferred"] for e in page["entries"]]
        after = page["next"]
        if after is None:
            break
    assert names == ["Amber Quay", *(f"Ship {n}" for n in range(7))]


def test_wrong_lists_and_entries_are_refused(port: Api) -> None:
    made = new_list(port)
    assert port.post("/lists", {"name": "vessels", "type": "VES"}, expect=409)["field"] == "name"
    assert port.post("/lists", {"name": " ", "type": "VES"}, expect=422)["field"] == "name"
    assert port.post("/lists", {"name": "x", "type": "NOPE"}, expect=422)["field"] == "type"
    entries = f"/lists/{made}/entries"
    assert "already in the list" in port.post(entries, {"preferred": "Amber Quay"}, expect=409)["detail"]
    assert port.post(entries, {"preferred": ""}, expect=422)["field"] == "preferred"
    assert port.post(entries, {"preferred": "x" * 301}, expect=422)["field"] == "preferred"
    assert len(port.get(entries)["entries"]) == 1
    port.get("/lists/99/entries", expect=404)


def sign(api: Api, number: int, *spans: tuple[int, int]) -> None:
    item = api.get("/desk/queue")["items"][number]
    marked = [{"start": a, "end": b, "type": "VES"} for a, b in spans]
    kind = "sign" if marked else "sign as empty"
    api.put(f"/desk/sentences/{item['id']}", act(kind, 0, marked))


def test_finds_are_right_wrong_or_open_and_open_their_sentences(port: Api) -> None:
    made = new_list(port)
    sign(port, 0, (0, 10))
    sign(port, 2)
    port.post("/texts", {"title": "33/2", "body": "Amber Quay again."})
    (shown,) = port.get("/lists")
    assert (shown["finds"], shown["judged"], shown["right"]) == (3, 2, 1)
    numbers = {
        o: port.get(f"/lists/{made}/finds", outcome=o)["total"] for o in ("", "right", "wrong", "open")
    }
    assert numbers == {"": 3, "right": 1, "wrong": 1, "open": 1}
    (stave,) = port.get(f"/lists/{made}/finds", outcome="wrong")["staves"]
    assert (stave["words"], stave["differs"], stave["lanes"]["gold"]) == ("A. Quay sails at 0600.", True, [])
    port.get(f"/lists/{made}/finds", expect=422, outcome="maybe")


def ids(api: Api, path: str, **wish: Any) -> list[list[int]]:
    return [[stave["sentence_id"] for stave in page] for page in stave_pages(api, path, **wish)]


@pytest.mark.parametrize("size", [1, 2, 3, 4, 60])
def test_finds_come_in_pages_that_begin_within_a_text_too(
    port: Api, monkeypatch: pytest.MonkeyPatch, size: int
) -> None:
    made = new_list(port)
    for title in ("33/2", "33/3"):
        port.post(
            "/texts",
            {"title": title, "body": f"{title}: Amber Quay again. Nothing here. Amber Quay sails. A. Quay."},
        )
    (whole,) = ids(port, f"/lists/{made}/finds")
    assert len(whole) == 8
    monkeypatch.setattr(wire, "STAVES", size)
    told = ids(port, f"/lists/{made}/finds", outcome="open")
    assert [number for page in told for number in page] == whole
    assert [len(page) for page in told[:-1]] == [size] * (len(told) - 1)
    assert told[-1], "a page more than there are sentences"
    assert port.get(f"/lists/{made}/finds", after=whole[3])["total"] == 8
    port.get(f"/lists/{made}/finds", expect=404, after=99_999)
    port.get(f"/lists/{made}/finds", expect=422, after=-1)


RULE: dict[str, Any] = {
    "name": "four figures",
    "type": "VES",
    "pattern": r"like(/\d{4}/)",
    "must_find": ["at 0600", "at noon"],
    "must_not_find": ["crane 2"],
}


def test_a_rule_is_added_tried_changed_and_removed(port: Api) -> None:
    made = port.post("/rules", RULE)
    assert (made["finds"], made["failing"], made["trouble"]) == (1, 1, None)
    assert lane(port, "rules", 2) == ["0600"]
    trial = port.post("/rules/try", RULE | {"pattern": "'noon'\nfigure"}, expect=200)
    assert [(e["text"], e["holds"]) for e in trial["examples"]] == [
        ("at 0600", True),
        ("at noon", True),
        ("crane 2", False),
    ]
    assert trial["finds"] == 1
    changed = port.put(f"/rules/{made['id']}", RULE | {"on": False, "version": 1})
    assert not changed["on"]
    assert lane(port, "rules", 2) == []
    assert port.get("/figures")["rules_failing"] == 1
    port.delete(f"/rules/{made['id']}")
    assert port.get("/rules") == []


@pytest.mark.parametrize(
    ("part", "field", "status"),
    [
        ({"pattern": "("}, "pattern", 422),
        ({"pattern": "optional 'x'"}, "pattern", 422),
        ({"pattern": "list(nobody)"}, "pattern", 422),
        ({"pattern": "found(NOPE)"}, "pattern", 422),
        ({"pattern": "use(nothing)"}, "pattern", 422),
        ({"type": "NOPE"}, "type", 422),
        ({"name": ""}, "name", 422),
        ({}, "name", 409),
    ],
)
def test_wrong_rules_are_refused(port: Api, part: dict[str, Any], field: str, status: int) -> None:
    port.post("/rules", RULE)
    other = {} if status == 409 else {"name": "another"}
    assert port.post("/rules", RULE | other | part, expect=status)["field"] == field
    assert len(port.get("/rules")) == 1


# Some thousand steps for each letter.
COSTLY = "text(/(?:" + "|".join(f"a{{{n},200}}" for n in range(1, 25)) + ")b/)"


def test_a_rule_that_takes_too_many_steps_says_so_and_blocks_nothing(port: Api) -> None:
    port.post("/texts", {"title": "33/3", "body": "a" * 2000})
    port.post("/texts", {"title": "33/4", "body": "an ab on board"})
    port.post("/rules", RULE | {"name": "slow", "pattern": COSTLY, "must_find": [], "must_not_find": []})
    port.post("/rules", RULE)
    slow, quick = port.get("/rules")
    assert "“slow” took more than" in slow["trouble"]
    # It is left out of that text alone, wherever this stands among the others.
    assert slow["finds"] == 1
    assert (quick["trouble"], quick["finds"]) == (None, 1)
    assert lane(port, "rules", 2) == ["0600"]
    refused = port.post("/rules/try", RULE | {"pattern": COSTLY}, expect=422)
    assert ("steps on one text" in refused["detail"], refused["field"]) == (True, "pattern")


def test_a_rule_is_tried_on_the_first_texts_and_within_its_share_of_steps(
    port: Api, monkeypatch: pytest.MonkeyPatch
) -> None:
    everything = port.post("/rules/try", RULE, expect=200)
    assert (everything["finds"], everything["all"]) == (1, True)
    port.post("/texts", {"title": "33/5", "body": "at 0700", "split": "test"})
    assert port.post("/rules/try", RULE, expect=200) == everything
    port.post("/texts", {"title": "33/6", "body": "at 0800"})
    more = port.post("/rules/try", RULE, expect=200)
    assert (more["finds"], more["texts"]) == (2, everything["texts"] + 1)
    with monkeypatch.context() as small:
        small.setattr(trial, "TRIAL_SIGNS", 1)
        first = port.post("/rules/try", RULE, expect=200)
        assert (first["texts"], first["all"]) == (1, False)
    monkeypatch.setattr(trial, "TRIAL_STEPS", 2)
    assert "its share of steps" in port.post("/rules/try", RULE, expect=422)["detail"]


def test_a_rule_that_takes_too_many_steps_on_its_own_example_fails_it_and_nothing_else(port: Api) -> None:
    slow = RULE | {"pattern": COSTLY, "must_find": ["a" * 2000], "must_not_find": []}
    made = port.post("/rules", slow)
    assert (made["failing"], made["trouble"]) == (1, None)
    assert port.get("/figures")["rules_failing"] == 1


def test_rule_finds_open_their_sentences(demo_api: Api) -> None:
    rules = {r["name"]: r for r in demo_api.get("/rules")}
    rule = rules["from and for, a port"]
    page = demo_api.get(f"/rules/{rule['id']}/finds", outcome="wrong")
    assert (
        0
        < page["total"]
        == sum(map(len, stave_pages(demo_api, f"/rules/{rule['id']}/finds", outcome="wrong")))
    )
    assert page["total"] <= rule["judged"] - rule["right"]
    assert all(stave["differs"] for stave in page["staves"])
