"""Entries of lists: what each is worth, what is done to many at once, and undone."""

from __future__ import annotations

from typing import Any

import pytest

from conftest import Api
from places.test_lists_and_rules import new_list, sign

VES = {"code": "VES", "name": "vessel", "key": "v", "hue": 1}
PRT = {"code": "PRT", "name": "port", "key": "p", "hue": 9}
BODIES = (
    "Amber Quay is in. The amber quay is dry. A. Quay sails at 0600.",
    "Haldis and Pellin wait. Grey Mallard sails.",
)


@pytest.fixture
def port(api: Api) -> Api:
    api.post("/types", VES)
    api.post("/types", PRT)
    for number, body in enumerate(BODIES):
        api.post("/texts", {"title": f"33/{number}", "body": body})
    return api


def worths(api: Api, made: int, **wish: Any) -> dict[str, dict[str, float]]:
    return {e["preferred"]: e["worth"] for e in api.get(f"/lists/{made}/entries", **wish)["entries"]}


def names(api: Api, made: int, **wish: Any) -> list[str]:
    return [e["preferred"] for e in api.get(f"/lists/{made}/entries", **wish)["entries"]]


def furnished(api: Api) -> int:
    """A list with a name that is right, one that is wrong, one that is found nowhere."""
    made = new_list(api)
    for name in ("Haldis", "Pellin", "Osk"):
        api.post(f"/lists/{made}/entries", {"preferred": name})
    sign(api, 0, (0, 10))
    sign(api, 3, (0, 6))
    return made


def test_each_name_is_held_against_gold(port: Api) -> None:
    made = furnished(port)
    found = worths(port, made)
    assert found["Amber Quay"] == {
        "finds": 2,
        "judged": 1,
        "right": 1,
        "small": 1,
        "harm": pytest.approx(-30),
    }
    assert (found["Haldis"]["judged"], found["Haldis"]["right"]) == (1, 1)
    assert (found["Pellin"]["judged"], found["Pellin"]["right"]) == (1, 0)
    # F1 is 4 of 5, and without it 4 of 4.
    assert found["Pellin"]["harm"] == pytest.approx(20)
    assert found["Osk"] == {"finds": 0, "judged": 0, "right": 0, "small": 0, "harm": 0}
    assert port.get(f"/lists/{made}/entries/counts") == {
        "all": 4, "never": 1, "harmful": 1, "common": 1, "two": 0, "off": 0,
    }  # fmt: skip


def test_entries_are_filtered_and_ordered(port: Api) -> None:
    made = furnished(port)
    ports = port.post("/lists", {"name": "ports", "type": "PRT"})["id"]
    port.post(f"/lists/{ports}/entries", {"preferred": "Mole", "variants": ["pellin"]})
    shown = {show: names(port, made, show=show) for show in ("", "never", "harmful", "common", "two", "off")}
    assert shown == {
        "": ["Amber Quay", "Haldis", "Osk", "Pellin"],
        "never": ["Osk"],
        "harmful": ["Pellin"],
        "common": ["Amber Quay"],
        "two": ["Pellin"],
        "off": [],
    }
    assert names(port, made, order="harm")[0] == "Pellin"
    assert names(port, made, order="finds")[0] == "Amber Quay"
    assert names(port, made, search="a. quay", order="finds") == ["Amber Quay"]
    port.get(f"/lists/{made}/entries", expect=422, show="nice")
    port.get(f"/lists/{made}/entries", expect=422, order="luck")
    port.delete(f"/lists/{ports}")
    assert names(port, made, show="two") == []


@pytest.mark.parametrize("order", ["name", "harm", "finds"])
def test_pages_go_on_where_the_one_before_ends(port: Api, order: str) -> None:
    made = furnished(port)
    port.post("/texts", {"title": "33/9", "body": "Osk is in."})
    whole = names(port, made, order=order)
    assert len(whole) == 4
    told: list[str] = []
    after: dict[str, int] = {}
    while True:
        page = port.get(f"/lists/{made}/entries", limit=1, order=order, **after)
        told += [e["preferred"] for e in page["entries"]]
        if page["next"] is None:
            break
        after = {"after": page["next"]}
    assert told == whole


def test_an_entry_says_why(port: Api) -> None:
    made = furnished(port)
    ports = port.post("/lists", {"name": "ports", "type": "PRT"})["id"]
    other = port.post(f"/lists/{ports}/entries", {"preferred": "PELLIN"})
    numbers = {e["preferred"]: e["id"] for e in port.get(f"/lists/{made}/entries")["entries"]}
    told = port.get(f"/lists/{made}/entries/{numbers['Pellin']}/why")
    assert told["elsewhere"] == [
        {"list_id": ports, "list": "ports", "entry_id": other["id"], "preferred": "PELLIN"}
    ]
    (stave,) = told["finds"]["staves"]
    assert stave["differs"]
    assert [(s["start"], s["end"], s["type"]) for s in stave["lanes"]["lists"]] == [(11, 17, "VES")]
    # Of two types on one place one gives way.
    assert told["beaten"] == {"lists": 1}
    assert [(s["start"], s["type"]) for s in stave["lanes"]["together"]] == [(0, "VES"), (11, "PRT")]
    assert port.get(f"/lists/{made}/entries/{numbers['Pellin']}/why", outcome="right")["finds"]["total"] == 0
    for outcome in ("alone", "maybe"):
        port.get(f"/lists/{made}/entries/{numbers['Pellin']}/why", expect=422, outcome=outcome)
    assert port.get(f"/lists/{made}/entries/{numbers['Pellin']}")["worth"]["finds"] == 1
    port.get(f"/lists/{made}/entries/{other['id']}/why", expect=404)
    port.get(f"/lists/{made}/entries/{other['id']}", expect=404)


def test_a_name_is_turned_off_and_figures_follow(port: Api) -> None:
    made = furnished(port)
    pellin = next(e for e in port.get(f"/lists/{made}/entries")["entries"] if e["preferred"] == "Pellin")
    (before,) = port.get("/lists")
    wish = {
        name: pellin[name] for name in ("preferred", "variants", "note", "identifier", "source", "version")
    }
    port.put(f"/lists/{made}/entries/{pellin['id']}", wish | {"on": False})
    (after,) = port.get("/lists")
    assert (before["finds"] - after["finds"], before["judged"] - after["judged"]) == (1, 1)
    assert names(port, made, show="off") == ["Pellin"]
    act = port.get("/lists/acts/latest")["act"]
    assert act["said"] == "turning “Pellin” off"
    assert port.post(f"/lists/acts/{act['id']}/undo", expect=200) == {"entries": 1, "left": 0}
    (undone,) = port.get("/lists")
    assert undone["finds"] == before["finds"]
    assert "already" not in port.post(f"/lists/acts/{act['id']}/undo", expect=409)["title"]


def test_what_harms_is_looked_through_and_turned_off(port: Api) -> None:
    made = furnished(port)
    harm = port.get(f"/lists/{made}/harm")
    assert [e["preferred"] for e in harm["entries"]] == ["Pellin"]
    assert (harm["precision"], harm["recall"], harm["f1"]) == (pytest.approx(2 / 3), 1, pytest.approx(0.8))
    assert (harm["precision_after"], harm["recall_after"], harm["f1_after"]) == (1, 1, 1)
    numbers = [e["id"] for e in harm["entries"]]
    act = port.post(f"/lists/{made}/entries/switch", {"entries": numbers, "on": False}, expect=200)
    assert (act["entries"], act["said"]) == (1, "turning 1 name off")
    assert port.get(f"/lists/{made}/harm")["entries"] == []
    assert port.get(f"/lists/{made}/harm")["f1"] == 1


def test_many_are_changed_at_once_and_undone(port: Api) -> None:
    made = furnished(port)
    every = {"filter": {"search": "", "show": "", "order": "name"}}
    path = f"/lists/{made}/entries"
    assert "You saw 3" in port.post(f"{path}/delete", every | {"expected": 3}, expect=409)["detail"]
    port.post(f"{path}/delete", {}, expect=422)
    port.post(f"{path}/delete", every | {"entries": [1]}, expect=422)
    act = port.post(f"{path}/delete", every | {"expected": 4}, expect=200)
    assert (act["said"], names(port, made)) == ("the deletion of 4 names", [])
    port.post(f"{path}/delete", {"entries": [999]}, expect=404)
    # One of them has come again meanwhile: it stays, and the others come back with their numbers.
    port.post(path, {"preferred": "Osk", "note": "another one"})
    assert port.post(f"/lists/acts/{act['id']}/undo", expect=200) == {"entries": 3, "left": 1}
    entries = port.get(path)["entries"]
    assert [(e["preferred"], e["note"]) for e in entries] == [
        ("Amber Quay", ""), ("Haldis", ""), ("Osk", "another one"), ("Pellin", ""),
    ]  # fmt: skip
    assert worths(port, made)["Pellin"]["finds"] == 1
    assert port.get("/lists")[0]["entries"] == 4
    off = port.post(f"{path}/switch", every | {"on": False}, expect=200)
    assert off["entries"] == 4
    assert port.get("/lists")[0]["finds"] == 0
    again = port.post(f"{path}/switch", every | {"on": False}, expect=200)
    assert again["entries"] == 0
    # Somebody has changed one since.
    one = entries[1]
    port.put(
        f"{path}/{one['id']}",
        {"preferred": "Haldis", "on": False, "note": "tug", "version": one["version"] + 1},
    )
    assert port.post(f"/lists/acts/{off['id']}/undo", expect=200) == {"entries": 3, "left": 1}
    assert names(port, made, show="off") == ["Haldis"]


def test_everything_that_is_done_to_a_list_is_undone_in_turn(port: Api) -> None:
    made = new_list(port)
    port.put(
        f"/lists/{made}",
        {"name": "ships", "type": "PRT", "on": True, "options": {"slips": True}, "version": 1},
    )
    port.delete(f"/lists/{made}")
    assert port.get("/lists") == []
    port.get(f"/lists/{made}/entries", expect=404)

    def undo() -> list[tuple[str, str, bool, int]]:
        act = port.get("/lists/acts/latest")["act"]
        port.post(f"/lists/acts/{act['id']}/undo", expect=200)
        return [(x["name"], x["type"], x["options"]["slips"], x["entries"]) for x in port.get("/lists")]

    assert undo() == [("ships", "PRT", True, 1)]
    assert undo() == [("vessels", "VES", False, 1)]
    assert undo() == [("vessels", "VES", False, 0)]
    assert undo() == []
    assert port.get("/lists/acts/latest")["act"] is None


def test_a_list_comes_back_only_where_its_name_and_type_are_free(port: Api) -> None:
    made = new_list(port)
    port.delete(f"/lists/{made}")
    gone = port.get("/lists/acts/latest")["act"]["id"]
    other = port.post("/lists", {"name": "vessels", "type": "PRT"})
    assert "is called" in port.post(f"/lists/acts/{gone}/undo", expect=409)["detail"]
    port.delete(f"/lists/{other['id']}")
    version = port.get("/types")["version"]
    number = {t["code"]: t["id"] for t in port.get("/types")["types"]}["VES"]
    port.post(f"/types/{number}/retire", {"scheme": version}, expect=204)
    assert "not in the scheme" in port.post(f"/lists/acts/{gone}/undo", expect=409)["detail"]
    assert port.get("/lists") == []


def test_options_are_kept_and_wrong_ones_refused(port: Api) -> None:
    made = new_list(port)
    options = {"case": "exact", "near": [" berth ", "at quay"], "within": 3, "shortest": 2}
    kept = port.put(f"/lists/{made}", {"name": "vessels", "type": "VES", "options": options, "version": 1})
    assert (
        kept["options"] | {"case": "exact", "near": ["berth", "at quay"], "within": 3, "shortest": 2}
        == kept["options"]
    )
    for wrong, field in (
        ({"within": 0}, "within"),
        ({"shortest": -1}, "shortest"),
        ({"exact_below": 1000}, "exact_below"),
        ({"near": [" "]}, "near"),
        ({"not_after": ["x" * 101]}, "not_after"),
        ({"not_before": ["x"] * 201}, "not_before"),
    ):
        refused = port.put(
            f"/lists/{made}", {"name": "x", "type": "VES", "options": wrong, "version": 2}, expect=422
        )
        assert refused["field"] == field
    assert port.put(
        f"/lists/{made}", {"name": "x", "type": "VES", "options": {"case": "odd"}, "version": 2}, expect=422
    )


@pytest.mark.parametrize(
    ("wish", "field"),
    [
        ({"preferred": "x" * 301}, "preferred"),
        ({"preferred": "x", "variants": ["y" * 301]}, "variants"),
        ({"preferred": "x", "variants": [f"v{k}" for k in range(201)]}, "variants"),
        ({"preferred": "x", "identifier": "i" * 301}, "identifier"),
        ({"preferred": "x", "note": "n" * 2001}, "note"),
        ({"preferred": " "}, "preferred"),
    ],
)
def test_an_entry_that_cannot_be_kept_is_refused(port: Api, wish: dict[str, Any], field: str) -> None:
    made = new_list(port)
    assert port.post(f"/lists/{made}/entries", wish, expect=422)["field"] == field
    assert names(port, made) == ["Amber Quay"]


def test_gold_that_no_list_has_is_offered(port: Api) -> None:
    made = new_list(port)
    port.post("/texts", {"title": "t", "body": "Orda is in.", "split": "test"})
    sign(port, 3, (0, 6), (11, 17))
    sign(port, 4, (24, 36))
    sign(port, 5, (0, 4))
    port.post(f"/lists/{made}/entries", {"preferred": "Grey Mallards", "variants": ["G. Mallard"]})
    page = port.get(f"/lists/{made}/missing")
    assert page["total"] == 3
    told = {one["words"]: [(kin["preferred"], kin["kind"]) for kin in one["kin"]] for one in page["names"]}
    assert told == {"Haldis": [], "Pellin": [], "Grey Mallard": [("Grey Mallards", "slip")]}
    port.post(f"/lists/{made}/entries", {"preferred": "haldis", "source": "gold", "on": False})
    assert {one["words"] for one in port.get(f"/lists/{made}/missing")["names"]} == {"Pellin", "Grey Mallard"}
    entry = next(e for e in port.get(f"/lists/{made}/entries")["entries"] if e["preferred"] == "haldis")
    assert entry["source"] == "gold"
    # A list of another type has nothing to do with it.
    ports = port.post("/lists", {"name": "ports", "type": "PRT"})["id"]
    assert port.get(f"/lists/{ports}/missing") == {"total": 0, "names": []}
