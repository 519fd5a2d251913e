"""Rules name types, lists and fragments, and follow when those get other names; rules stand in an order."""

from __future__ import annotations

from typing import Any

import pytest

from conftest import Api


def rule(name: str, pattern: str, type: str = "VES", **more: Any) -> dict[str, Any]:
    return {"name": name, "type": type, "pattern": pattern, **more}


@pytest.fixture
def port(api: Api) -> Api:
    for code, key in (("VES", "v"), ("PRT", "p"), ("QTY", "q"), ("CGO", "c")):
        api.post("/types", {"code": code, "name": code.lower(), "key": key, "hue": 1})
    api.post(
        "/texts", {"title": "1", "body": "Amber Quay sailed with 400 t of salt. Lindmoor came from Lindmoor."}
    )
    made = api.post("/lists", {"name": "vessels", "type": "VES"})
    api.post(f"/lists/{made['id']}/entries", {"preferred": "Lindmoor"})
    return api


def finds(port: Api) -> dict[str, int]:
    return {one["name"]: one["finds"] for one in port.get("/rules")}


def test_rules_see_lists_and_what_rules_before_them_found(port: Api) -> None:
    port.post("/rules", rule("goods", "found(QTY) 'of' [small]", "CGO"))
    assert finds(port) == {"goods": 0}
    amount = port.post("/rules", rule("amount", "figure 't'", "QTY"))
    assert finds(port) == {"goods": 0, "amount": 1}
    port.put(f"/rules/{amount['id']}/place", {"place": 0}, expect=204)
    assert [one["name"] for one in port.get("/rules")] == ["amount", "goods"]
    assert finds(port) == {"amount": 1, "goods": 1}
    port.post("/rules", rule("ship", "[list(vessels)] 'came'"))
    assert finds(port)["ship"] == 1
    port.put(f"/rules/{amount['id']}", rule("amount", "figure 't'", "QTY", on=False, version=1))
    assert finds(port) == {"amount": 0, "goods": 0, "ship": 1}
    port.put("/rules/99999/place", {"place": 0}, expect=404)


def test_a_rule_follows_the_lists_that_it_looks_at(port: Api) -> None:
    port.post("/rules", rule("ship", "list(vessels) ('came' or 'sailed')"))
    assert finds(port) == {"ship": 1}
    (one,) = port.get("/lists")
    port.post(f"/lists/{one['id']}/entries", {"preferred": "Amber Quay"})
    assert finds(port) == {"ship": 2}
    changed = {"name": "vessels", "type": "VES", "on": False, "version": one["version"]}
    off = port.put(f"/lists/{one['id']}", changed)
    assert finds(port) == {"ship": 0}
    port.put(f"/lists/{one['id']}", changed | {"on": True, "version": off["version"]})
    assert finds(port) == {"ship": 2}


def test_names_are_followed_where_they_stand(port: Api) -> None:
    port.post(
        "/rules",
        rule("ship", "[list(vessels) and not found(PRT)] as PRT # list(vessels)\nunless found(PRT) in text"),
    )
    (one,) = port.get("/lists")
    port.put(f"/lists/{one['id']}", {"name": "ships, all", "type": "VES", "version": one["version"]})
    kind = next(each for each in port.get("/types")["types"] if each["code"] == "PRT")
    port.put(
        f"/types/{kind['id']}",
        {"code": "HBR", "name": "harbour", "key": "h", "hue": 1, "version": kind["version"]},
    )
    (made,) = port.get("/rules")
    assert made["pattern"] == (
        '[list("ships, all") and not found(HBR)] as HBR # list(vessels)\nunless found(HBR) in text'
    )
    assert made["finds"] == 2
    port.delete(f"/lists/{one['id']}")
    (made,) = port.get("/rules")
    assert (made["finds"], made["trouble"]) == (
        0,
        "It names the list “vessels”, which is not there any more.",
    )


def test_a_type_that_a_pattern_names_is_merged_in_it_and_not_retired(port: Api) -> None:
    port.post("/rules", rule("ship", "[capital] as PRT 'from'"))
    scheme = port.get("/types")
    types = {one["code"]: one["id"] for one in scheme["types"]}
    refused = port.post(f"/types/{types['PRT']}/retire", {"scheme": scheme["version"]}, expect=409)
    assert "ship" in refused["detail"]
    merge = {"into": types["VES"], "scheme": scheme["version"]}
    port.post(f"/types/{types['PRT']}/merge", merge, expect=200)
    assert [one["pattern"] for one in port.get("/rules")] == ["[capital] as VES 'from'"]


def test_unknown_names_are_told_of_with_the_nearest_and_their_place(port: Api) -> None:
    for pattern, near, column in (
        ("'a' list(vesels)", "vessels", 10),
        ("'a' found(VE)", "VES", 11),
        ("[capital] as PRTT", "PRT", 14),
    ):
        refused = port.post("/rules", rule("r", pattern), expect=422)
        assert f"did you mean {near}?" in refused["detail"]
        assert (refused["field"], refused["line"], refused["column"]) == ("pattern", 1, column)


def test_fragments_are_added_used_renamed_and_removed(port: Api) -> None:
    made = port.post("/rules/fragments", {"name": "unit", "pattern": "('t' or 'kg')", "about": "weights"})
    assert (made["version"], made["used_by"]) == (1, [])
    port.post("/rules", rule("amount", "figure use(unit)", "QTY"))
    assert finds(port) == {"amount": 1}
    (held,) = port.get("/rules/fragments")
    assert held["used_by"] == ["amount"]
    refused = port.delete(f"/rules/fragments/{made['id']}", expect=409)
    assert "“unit” is used by “amount”" in refused["detail"]
    changed = {"name": "unit of weight", "pattern": "('kg' or 'oz')", "about": "", "version": 1}
    port.put(f"/rules/fragments/{made['id']}", changed)
    port.put(f"/rules/fragments/{made['id']}", changed, expect=409)
    assert [(one["pattern"], one["finds"]) for one in port.get("/rules")] == [
        ("figure use(unit of weight)", 0)
    ]
    for pattern in ("use(unit of weight)", "'a' use(nothing)", "['a']", "'x' 'y' {"):
        wish = changed | {"pattern": pattern, "version": 2}
        assert port.put(f"/rules/fragments/{made['id']}", wish, expect=422)["field"] == "pattern"
    # What a rule needs of it is kept: it asks of one word here.
    port.post("/rules", rule("no amount", "figure not use(unit of weight)", "QTY"))
    two = changed | {"pattern": "'kg' 'net'", "version": 2}
    assert "asks of one word" in port.put(f"/rules/fragments/{made['id']}", two, expect=422)["detail"]
    assert port.get("/rules/fragments")[0]["pattern"] == "('kg' or 'oz')"
    for one in port.get("/rules"):
        port.delete(f"/rules/{one['id']}")
    port.delete(f"/rules/fragments/{made['id']}")
    assert port.get("/rules/fragments") == []


@pytest.mark.parametrize(("name", "status"), [("", 422), ("a (b)", 422), ("unit", 409)])
def test_names_of_fragments_that_cannot_be(port: Api, name: str, status: int) -> None:
    port.post("/rules/fragments", {"name": "unit", "pattern": "'t'"})
    assert port.post("/rules/fragments", {"name": name, "pattern": "'t'"}, expect=status)["field"] == "name"


def test_a_rule_takes_away_what_lists_found_and_the_lane_still_shows_it(port: Api) -> None:
    port.post("/rules", rule("port", "'from' [found(VES)]\nretype VES", "PRT"))
    assert finds(port) == {"port": 1}
    second = port.get("/desk/queue")["items"][1]
    lanes = port.get(f"/desk/sentences/{second['id']}")["lanes"]
    assert [one["type"] for one in lanes["lists"]] == ["VES", "VES"]
    assert [one["type"] for one in lanes["rules"]] == ["PRT"]


def test_a_rule_is_tried_in_its_place(port: Api) -> None:
    amount = port.post("/rules", rule("amount", "figure 't'", "QTY"))
    goods = rule(
        "goods", "found(QTY) 'of' [small]", "CGO", must_find=["with 3 t of salt"], must_not_find=["of salt"]
    )
    trial = port.post("/rules/try", goods, expect=200)
    assert ([one["holds"] for one in trial["examples"]], trial["finds"]) == ([True, True], 1)
    # In the place of the first one it sees nothing before it.
    trial = port.post("/rules/try", goods | {"rule": amount["id"]}, expect=200)
    assert ([one["holds"] for one in trial["examples"]], trial["finds"]) == ([False, True], 0)
    assert (trial["judged"], trial["right"]) == (0, 0)
    assert trial["aloud"] == ["After a span of QTY, then “of”, it marks a word in small letters as CGO."]
