"""The types place: types and their versions, merging and retiring, and what each of these touches."""

from __future__ import annotations

from typing import Any

import pytest
from sqlalchemy.orm import Session

from acting import act
from conftest import Api
from urdaten.core.spans import Span
from urdaten.errors import StaleWrite
from urdaten.places.desk import acts as desk
from urdaten.places.team import acts as team
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types
from urdaten.platform.database import transaction

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
TUG = VES | {"code": "TUG", "name": "tug", "key": "t"}
PRT = VES | {"code": "PRT", "name": "port", "key": "p"}


def retire(api: Api, type_id: int, expect: int = 204) -> Any:
    return api.post(f"/types/{type_id}/retire", {"scheme": api.get("/types")["version"]}, expect)


def codes(api: Api) -> list[str]:
    return [t["code"] for t in api.get("/types")["types"]]


def test_a_type_is_added_seen_changed_and_retired(api: Api) -> None:
    made = api.post("/types", VES)
    assert made == VES | {"id": made["id"], "spans": 0, "parent": None, "value_kind": "none", "version": 1}
    ship = VES | {"code": "SHP", "name": "ship", "key": "s", "value_kind": "name"}
    changed = api.put(f"/types/{made['id']}", ship | {"version": 1})
    assert {name: changed[name] for name in ship} == ship
    scheme = api.get("/types")
    assert scheme["version"] == 2
    assert codes(api) == ["SHP"]
    api.put(f"/types/{made['id']}", ship | {"version": 2})
    assert api.get("/types")["version"] == 2, "a change that changes nothing makes no version"
    retire(api, made["id"])
    assert api.get("/types") == {"version": 3, "overlap": "apart", "types": []}
    retire(api, made["id"], expect=404)
    # Its code and key are free again.
    assert api.post("/types", ship)["id"] != made["id"]


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
        ({"code": "NEW", "key": "x", "value_kind": "colour"}, "value_kind", 422),
        ({"code": "NEW", "key": "x", "parent": 4711}, "parent", 422),
    ],
)
def test_a_wrong_type_is_refused_at_its_field_and_changes_nothing(
    api: Api, part: dict[str, Any], field: str, status: int
) -> None:
    api.post("/types", VES)
    before = api.get("/types")
    assert api.post("/types", VES | part, expect=status)["field"] == field
    other = api.post("/types", PRT)
    changed = api.put(f"/types/{other['id']}", PRT | part | {"version": 1}, expect=status)
    assert changed["field"] == field
    retire(api, other["id"])
    assert api.get("/types")["types"] == before["types"]


def test_a_parent_is_another_type_and_never_itself_by_any_way_round(api: Api) -> None:
    vessel = api.post("/types", VES)
    tug = api.post("/types", TUG | {"parent": vessel["id"]})
    assert tug["parent"] == vessel["id"]
    round_about = api.put(f"/types/{vessel['id']}", VES | {"parent": tug["id"], "version": 1}, expect=422)
    assert round_about["field"] == "parent"
    own = api.put(f"/types/{vessel['id']}", VES | {"parent": vessel["id"], "version": 1}, expect=422)
    assert own["field"] == "parent"
    retire(api, vessel["id"])
    assert api.get("/types")["types"][0]["parent"] is None


def test_two_people_on_one_type_get_both_versions(api: Api) -> None:
    made = api.post("/types", VES)
    api.put(f"/types/{made['id']}", VES | {"name": "ship", "version": 1})
    problem = api.put(f"/types/{made['id']}", VES | {"name": "boat", "version": 1}, expect=409)
    assert problem["type"] == "urn:urdaten:stale-write"
    assert (problem["theirs"]["name"], problem["theirs"]["version"]) == ("ship", 2)
    assert (problem["yours"]["name"], problem["yours"]["version"]) == ("boat", 1)
    assert api.get("/types")["types"][0]["name"] == "ship"


def test_a_change_says_first_what_it_touches(demo_api: Api) -> None:
    held = {t["code"]: t for t in demo_api.get("/types")["types"]}
    seen = demo_api.get(f"/types/{held['PRT']['id']}/touched")
    counts = {one["where"]: one["count"] for one in seen["touched"]}
    assert counts["gold"] == held["PRT"]["spans"] > 0
    assert {one["where"]: one["names"] for one in seen["touched"] if one["bars"]} == {
        "lists": ["ports"],
        "rules": ["from and for, a port"],
        "templates": ["Port call", "Incident"],
    }
    assert seen["bars"] == [
        "list “ports” still uses PRT",
        "rule “from and for, a port” still uses PRT",
        "2 templates still use PRT: “Port call”, “Incident”",
    ]
    problem = retire(demo_api, held["PRT"]["id"], expect=409)
    assert all(words in problem["detail"] for words in seen["bars"])
    assert set(codes(demo_api)) == set(held)
    assert demo_api.get(f"/types/{held['PRT']['id']}/touched", into=held["BTH"]["id"])["bars"] == []


def test_what_was_looked_at_is_what_is_done(api: Api) -> None:
    vessel, tug = api.post("/types", VES), api.post("/types", TUG)
    seen = api.get(f"/types/{tug['id']}/touched", into=vessel["id"])["scheme"]
    api.post("/types", PRT)
    wish = {"into": vessel["id"], "scheme": seen}
    assert api.post(f"/types/{tug['id']}/merge", wish, expect=409)["type"].endswith("stale-write")
    assert api.post(f"/types/{tug['id']}/retire", {"scheme": seen}, expect=409)["type"].endswith(
        "stale-write"
    )
    assert set(codes(api)) == {"VES", "TUG", "PRT"}


def test_a_new_code_keeps_every_span(demo_api: Api) -> None:
    held = {t["code"]: t for t in demo_api.get("/types")["types"]}
    vessel = {k: v for k, v in held["VES"].items() if k not in {"id", "spans"}}
    demo_api.put(f"/types/{held['VES']['id']}", vessel | {"code": "SHIP"})
    after = {t["code"]: t["spans"] for t in demo_api.get("/types")["types"]}
    assert after["SHIP"] == held["VES"]["spans"] > 0
    assert "VES" not in after
    names = next(t for t in demo_api.get("/records/templates") if t["name"] == "Port call")
    assert names["fields"][0]["types"] == ["SHIP"]


BODY = "Pellin tows Stout Ada to Varnby."
PELLIN, ADA, VARNBY = (0, 6), (12, 21), (25, 31)


def marked(*spans: tuple[tuple[int, int], str]) -> list[dict[str, Any]]:
    return [{"start": a, "end": b, "type": code} for (a, b), code in spans]


@pytest.fixture
def tugs(api: Api) -> Api:
    """A sentence with two vessels, one of them a tug, and a port."""
    for wish in (VES, TUG, PRT):
        api.post("/types", wish)
    api.post("/texts", {"title": "33/1", "body": BODY})
    return api


def sentence(api: Api) -> dict[str, Any]:
    (item,) = api.get("/desk/queue")["items"]
    opened: dict[str, Any] = api.get(f"/desk/sentences/{item['id']}")
    return opened


def put(api: Api, kind: str, spans: list[dict[str, Any]], expect: int = 200, **more: Any) -> Any:
    now = sentence(api)
    return api.put(
        f"/desk/sentences/{now['id']}", act(kind, now["annotation"]["version"], spans, **more), expect
    )


def keys(api: Api) -> list[tuple[int, int, str]]:
    return [(s["start"], s["end"], s["type"]) for s in sentence(api)["annotation"]["spans"]]


def number(api: Api, code: str) -> int:
    (found,) = [t["id"] for t in api.get("/types")["types"] if t["code"] == code]
    assert isinstance(found, int)
    return found


def merge(api: Api, code: str, into: str) -> None:
    wish = {"into": number(api, into), "scheme": api.get("/types")["version"]}
    api.post(f"/types/{number(api, code)}/merge", wish, expect=200)


def test_merging_carries_spans_lists_rules_and_signatures(tugs: Api) -> None:
    jo = tugs.other("jo")
    put(jo, "sign", marked((PELLIN, "TUG"), (ADA, "VES"), (VARNBY, "PRT")))
    tugs.post("/lists", {"name": "tugs", "type": "TUG"})
    tugs.post("/rules", {"name": "a tug", "type": "TUG", "pattern": "'tug'"})
    field = {"name": "tug", "types": ["TUG", "VES"]}
    tugs.post("/records/templates", {"name": "Tow", "anchor": "tug", "fields": [field]})
    merge(tugs, "TUG", "VES")
    assert codes(tugs) == ["VES", "PRT"]
    assert keys(tugs) == [(*PELLIN, "VES"), (*ADA, "VES"), (*VARNBY, "PRT")]
    assert sentence(tugs)["annotation"]["state"] == "signed"
    log = tugs.get(f"/desk/sentences/{sentence(tugs)['id']}/history")
    assert [(a["who"], a["kind"]) for a in log] == [("Jo", "sign"), ("Ines", "merge types")]
    assert log[1]["after"]["signed_by"] == log[0]["after"]["signed_by"], "it is still Jo who signed"
    assert log[0]["after"]["spans"][0] == [*PELLIN, "TUG"], "the log keeps what was said"
    assert tugs.get("/lists")[0]["type"] == "VES"
    assert tugs.get("/rules")[0]["type"] == "VES"
    assert tugs.get("/records/templates")[0]["fields"][0]["types"] == ["VES"]


def test_two_spans_on_the_same_words_become_one(tugs: Api) -> None:
    tugs.put("/types/overlap", {"overlap": "free"}, 204)
    put(tugs, "sign", marked((PELLIN, "TUG"), (PELLIN, "VES")))
    merge(tugs, "TUG", "VES")
    assert keys(tugs) == [(*PELLIN, "VES")]


def test_acts_that_waited_pass_under_the_code_that_they_knew(tugs: Api) -> None:
    merge(tugs, "TUG", "VES")
    vessel = number(tugs, "VES")
    tugs.put(f"/types/{vessel}", VES | {"code": "SHP", "version": 1})
    put(tugs, "mark", marked((PELLIN, "TUG"), (ADA, "VES")))
    assert keys(tugs) == [(*PELLIN, "SHP"), (*ADA, "SHP")]
    assert "no type 'XYZ'" in put(tugs, "mark", marked((PELLIN, "XYZ")), expect=422)["detail"]


def test_retiring_takes_spans_out_in_the_log_and_leaves_nothing_signed_that_is_not_what_was_signed(
    tugs: Api,
) -> None:
    put(tugs, "sign", marked((PELLIN, "TUG"), (ADA, "VES")))
    retire(tugs, number(tugs, "TUG"))
    assert keys(tugs) == [(*ADA, "VES")]
    assert sentence(tugs)["annotation"]["state"] == "draft"
    log = tugs.get(f"/desk/sentences/{sentence(tugs)['id']}/history")
    assert log[1]["kind"] == "retire type"
    assert log[1]["before"]["spans"] == [[*PELLIN, "TUG"], [*ADA, "VES"]]


def test_undo_and_redo_survive_renaming_and_are_passed_over_when_the_type_is_gone(tugs: Api) -> None:
    put(tugs, "mark", marked((PELLIN, "TUG")))
    tugs.put(f"/types/{number(tugs, 'TUG')}", TUG | {"code": "TOW", "version": 1})
    assert tugs.post("/desk/undo", expect=200)["sentences"] == 1
    tugs.put(f"/types/{number(tugs, 'TOW')}", TUG | {"code": "PUL", "version": 2})
    redone = tugs.post("/desk/redo", expect=200)
    assert (redone["sentences"], keys(tugs)) == (1, [(*PELLIN, "PUL")])
    tugs.post("/desk/undo", expect=200)
    retire(tugs, number(tugs, "PUL"))
    left = tugs.post("/desk/redo", expect=200)
    assert (left["sentences"], left["left"]) == (0, 1)
    assert keys(tugs) == []


def test_every_layer_follows_a_merge(tugs: Api) -> None:
    with transaction(tugs.settings.database_url) as db:
        layer = desk.add_layer(db, 1, "Wim")
        wish = desk.Signing(kind="sign", version=0, wanted=(Span(*PELLIN, "TUG"),))
        desk.annotate(db, 1, None, sentence(tugs)["id"], wish, layer.id)
    seen = tugs.get(f"/types/{number(tugs, 'TUG')}/touched")["touched"]
    assert [(one["where"], one["count"]) for one in seen] == [("Wim", 1)]
    merge(tugs, "TUG", "VES")
    with transaction(tugs.settings.database_url) as db:
        assert [s.type for s in desk.annotation_of(db, sentence(tugs)["id"], layer.id).spans] == ["VES"]
        assert desk.annotation_of(db, sentence(tugs)["id"]).spans == ()


def test_versions_are_kept_compared_and_brought_back(tugs: Api) -> None:
    tugs.put("/types/overlap", {"overlap": "nested"}, 204)
    tugs.put(f"/types/{number(tugs, 'VES')}", VES | {"name": "ship", "version": 1})
    merge(tugs, "TUG", "VES")
    listed = tugs.get("/types/versions")
    assert [one["number"] for one in listed] == [6, 5, 4, 3, 2, 1]
    assert listed[0]["step"] == [{"what": "merged", "code": "TUG", "into": "VES"}]
    assert len({one["digest"] for one in listed}) == 6
    told = tugs.get("/types/versions/compare", before=3, after=6)
    assert (told["overlap_before"], told["overlap_after"]) == ("apart", "nested")
    assert [(d["code"], d["what"], d["fields"]) for d in told["differences"]] == [
        ("VES", "changed", [{"name": "name", "was": "vessel", "now": "ship"}]),
        ("PRT", "changed", [{"name": "position", "was": 2, "now": 1}]),
        ("TUG", "gone", []),
    ]
    back = tugs.post("/types/versions/3/restore", {"scheme": 6}, expect=200)
    assert (back["version"], back["overlap"]) == (7, "apart")
    assert [(t["code"], t["name"]) for t in back["types"]] == [
        ("VES", "vessel"),
        ("TUG", "tug"),
        ("PRT", "port"),
    ]
    assert tugs.get("/types/versions/compare", before=3, after=7)["differences"] == []
    by_number = {one["number"]: one["digest"] for one in tugs.get("/types/versions")}
    assert by_number[7] == by_number[3]
    tugs.post("/types/versions/1/restore", {"scheme": 6}, expect=409)
    tugs.get("/types/versions/compare", 404, before=1, after=99)


def test_going_back_names_what_stands_in_the_way(tugs: Api) -> None:
    tugs.post("/lists", {"name": "ports", "type": "PRT"})
    barred = tugs.post("/types/versions/1/restore", {"scheme": 3}, expect=409)
    assert "PRT was not there in version 1" in barred["detail"]
    assert codes(tugs) == ["VES", "TUG", "PRT"]
    tugs.put("/types/overlap", {"overlap": "free"}, 204)
    put(tugs, "mark", marked((PELLIN, "TUG"), (PELLIN, "VES")))
    narrower = tugs.post("/types/versions/3/restore", {"scheme": 4}, expect=409)
    assert "1 sentences have spans that it forbids" in narrower["detail"]


def test_swapping_two_codes_back_is_no_clash(tugs: Api) -> None:
    vessel, tug = number(tugs, "VES"), number(tugs, "TUG")
    tugs.put(f"/types/{vessel}", VES | {"code": "TMP", "key": "x", "version": 1})
    tugs.put(f"/types/{tug}", TUG | {"code": "VES", "key": "v", "version": 1})
    tugs.put(f"/types/{vessel}", VES | {"code": "TUG", "key": "t", "version": 2})
    tugs.post("/types/versions/3/restore", {"scheme": 6}, expect=200)
    assert (number(tugs, "VES"), number(tugs, "TUG")) == (vessel, tug)


def test_two_who_change_the_scheme_at_once_make_two_versions(tugs: Api) -> None:
    with transaction(tugs.settings.database_url) as db:
        seen = types.hold_scheme(db, 1)
        types.add_type(db, 1, 1, types.TypeDraft(code="BTH", name="berth", key="b", hue=1))
        with pytest.raises(StaleWrite):
            types.hold_scheme(db, 1, seen)
    assert tugs.get("/types")["version"] == seen + 1


def test_former_codes_mean_the_type_that_had_them_last(db: Session) -> None:
    project = team.project_by_id(db, 1)
    one = types.add_type(db, 1, 1, types.TypeDraft(code="ONE", name="one", key="o", hue=1))
    types.change_type(db, 1, 1, one.id, types.TypeDraft(code="NEW", name="one", key="o", hue=1), 1)
    assert types.type_numbers(db, 1, ["ONE"])["ONE"] == one.id
    other = types.add_type(db, 1, 1, types.TypeDraft(code="ONE", name="other", key="x", hue=2))
    assert types.type_numbers(db, 1, ["ONE"])["ONE"] == other.id, "a present code goes first"
    (text,) = texts.add_texts(db, project, [(texts.TextDraft(title="t"), "Pellin.")])
    assert texts.sizes(db, [1]) == {1: (1, 1)}
    assert text.version == 1


@pytest.mark.parametrize(
    ("form", "suffix"), [("toml", "toml"), ("json", "json"), ("turtle", "ttl"), ("json-ld", "jsonld")]
)
def test_a_scheme_goes_out_and_begins_another_project(api: Api, form: str, suffix: str) -> None:
    parent = api.post("/types", {"code": "VES", "name": "vessel", "key": "v", "hue": 1, "counts": ["b", "a"]})
    api.post("/types", {"code": "TUG", "name": "tug", "key": "", "hue": 2, "parent": parent["id"]})
    file = api.request("GET", "/api/projects/tessmar/scheme-file", params={"form": form})
    assert file.headers["content-disposition"].endswith(f'tessmar-types.{suffix}"')
    wish = {"name": "Other", "language": "en", "scheme_file": file.text, "scheme_format": form}
    made = api.request("POST", "/api/projects", json=wish).json()
    types = api.request("GET", f"/api/projects/{made['slug']}/types").json()["types"]
    assert [(one["code"], one["counts"]) for one in types] == [("VES", ["b", "a"]), ("TUG", [])]
    assert types[1]["parent"] == types[0]["id"]
