"""The types place."""

from __future__ import annotations

from typing import Any

import pytest

from conftest import Api

VES: dict[str, Any] = {
    "code": "VES",
    "name": "vessel",
    "key": "v",
    "hue": 16,
    "definition": "A ship by its name.",
    "counts": ["Amber Quay"],
    "counts_not": ["MV"],
    "rulings": ["A former name counts."],
}


def test_a_type_is_added_seen_changed_and_removed(api: Api) -> None:
    made = api.post("/types", VES)
    assert made == VES | {"id": made["id"], "spans": 0}
    changed = api.put(f"/types/{made['id']}", VES | {"code": "SHP", "name": "ship", "key": "s"})
    assert (changed["code"], changed["name"], changed["key"]) == ("SHP", "ship", "s")
    scheme = api.get("/types")
    assert scheme["version"] == 2
    assert [t["code"] for t in scheme["types"]] == ["SHP"]
    api.put(f"/types/{made['id']}", VES | {"code": "SHP", "name": "ship", "key": "s"})
    assert api.get("/types")["version"] == 2, "a change that changes nothing makes no version"
    api.delete(f"/types/{made['id']}")
    assert api.get("/types") == {"version": 3, "overlap": "apart", "types": []}
    api.delete(f"/types/{made['id']}", expect=404)


@pytest.mark.parametrize(
    ("part", "field", "status"),
    [
        ({"code": "VES", "key": "x"}, "code", 409),
        ({"code": "NEW", "key": "v"}, "key", 409),
        ({"code": "new"}, "code", 422),
        ({"code": "TOOLONG"}, "code", 422),
        ({"code": "ÄÖ"}, "code", 422),
        ({"code": "NEW", "key": "vv"}, "key", 422),
        ({"code": "NEW", "key": "V"}, "key", 422),
        ({"code": "NEW", "key": "x", "hue": 24}, "hue", 422),
        ({"code": "NEW", "key": "x", "name": "  "}, "name", 422),
    ],
)
def test_a_wrong_type_is_refused_at_its_field_and_changes_nothing(
    api: Api, part: dict[str, Any], field: str, status: int
) -> None:
    api.post("/types", VES)
    before = api.get("/types")
    problem = api.post("/types", VES | part, expect=status)
    assert problem["field"] == field
    other = api.post("/types", VES | {"code": "PRT", "key": "p"})
    assert (
        api.put(f"/types/{other['id']}", VES | {"code": "PRT", "key": "p"} | part, expect=status)["field"]
        == field
    )
    api.delete(f"/types/{other['id']}")
    assert api.get("/types")["types"] == before["types"]


def test_a_type_in_use_stays_and_says_what_uses_it(demo_api: Api) -> None:
    types = {t["code"]: t for t in demo_api.get("/types")["types"]}
    problem = demo_api.delete(f"/types/{types['PRT']['id']}", expect=409)
    assert f"{types['PRT']['spans']} spans" in problem["detail"]
    for user in ("list “ports”", "rule “from and for, a port”", "record template “Port call”"):
        assert user in problem["detail"]
    assert {t["code"] for t in demo_api.get("/types")["types"]} == set(types)


def test_a_new_code_keeps_every_span(demo_api: Api) -> None:
    types = {t["code"]: t for t in demo_api.get("/types")["types"]}
    vessel = {k: v for k, v in types["VES"].items() if k not in {"id", "spans"}}
    demo_api.put(f"/types/{types['VES']['id']}", vessel | {"code": "SHIP"})
    after = {t["code"]: t["spans"] for t in demo_api.get("/types")["types"]}
    assert after["SHIP"] == types["VES"]["spans"] > 0
    assert "VES" not in after
    names = next(t for t in demo_api.get("/records/templates") if t["name"] == "Port call")
    assert names["fields"][0]["types"] == ["SHIP"]
