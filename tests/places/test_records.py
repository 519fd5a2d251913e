"""Signed records, what is learnt from them, and the many ways to look at a table of records."""

from __future__ import annotations

from typing import Any

import pytest

from conftest import Api
from urdaten.demo.files import Demo
from urdaten.demo.load import sign_records
from urdaten.places.records.tables import RecordRow
from urdaten.places.team import acts as team
from urdaten.platform.database import transaction


def assemble(api: Api, kind: str = "assembly") -> str:
    api.post(f"/records/{kind}", expect=202)
    (job, *_) = api.run_jobs()
    assert job["state"] == "done", job["message"]
    return str(job["message"])


def template(api: Api, name: str = "Port call") -> dict[str, Any]:
    return next(t for t in api.get("/records/templates") if t["name"] == name)


def page(api: Api, template_id: int, **wanted: Any) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = api.get(f"/records/templates/{template_id}/records", limit=1000, **wanted)[
        "records"
    ]
    return found


@pytest.fixture
def signed_demo(demo_api: Api, part: Demo) -> Api:
    with transaction(demo_api.settings.database_url) as db:
        sign_records(db, team.project_by_slug(db, "tessmar"), part)
    return demo_api


def test_the_demos_gold_comes_signed_and_tied_to_its_words(signed_demo: Api) -> None:
    call = template(signed_demo)
    assert call["signed"] == call["records"] > 40
    one = next(r for r in page(signed_demo, call["id"]) if r["text_title"] == "28/5")
    assert (one["state"], one["values"]["weight"], one["values"]["cargo"]) == ("signed", "1900 m3", "timber")
    detail = signed_demo.get(f"/records/{one['id']}")
    assert {name: parts[0]["written"] for name, parts in detail["parts"].items()} == {
        "vessel": "LINDMOOR",
        "from": "OSTVAR",
        "berth": "SILL WHARF 2",
        "arrives": "0400",
        "cargo": "SAWN TIMBER",
        "weight": "1900 CBM",
        "agent": "VANE AND DAUGHTERS",
    }


def test_what_is_learnt_makes_better_records(signed_demo: Api) -> None:
    def unsigned_faults() -> int:
        return sum("new" in r["looks"] for r in page(signed_demo, template(signed_demo)["id"], unsigned=True))

    assemble(signed_demo)
    before = unsigned_faults()
    assert before > 10
    message = assemble(signed_demo, "learning")
    call = template(signed_demo)
    # The test split teaches nothing.
    of_test = [
        r for r in page(signed_demo, call["id"]) if r["state"] == "signed" and r["text_title"][:2] == "38"
    ]
    assert call["learnt_records"] == call["signed"] - len(of_test) < call["signed"]
    assert f"“Port call” from {call['learnt_records']};" in message
    assert unsigned_faults() < before / 2


def test_assembling_leaves_what_is_signed_and_says_where_it_differs(signed_demo: Api) -> None:
    call = template(signed_demo)
    before = {r["id"]: r["values"] for r in page(signed_demo, call["id"])}
    assemble(signed_demo)
    after = {r["id"]: r for r in page(signed_demo, call["id"]) if r["state"] == "signed"}
    assert {number: r["values"] for number, r in after.items()} == before
    differing = [r for r in after.values() if "differs" in r["looks"]]
    assert 0 < len(differing) < len(after)
    assert differing == page(signed_demo, call["id"], look="differs")
    detail = signed_demo.get(f"/records/{differing[0]['id']}")
    for name, (mine, theirs) in detail["differs"].items():
        assert detail["values"].get(name, "") == mine != theirs


def test_a_record_is_signed_withdrawn_and_turned_down(demo_api: Api) -> None:
    assemble(demo_api)
    call = template(demo_api)
    first, second = page(demo_api, call["id"])[:2]
    made = demo_api.post(f"/records/{first['id']}/sign", expect=200)
    assert (made["state"], made["signed_at"] is not None) == ("signed", True)
    assert "already" in demo_api.post(f"/records/{first['id']}/sign", expect=409)["detail"]
    assert template(demo_api)["signed"] == 1
    demo_api.post(f"/records/{second['id']}/refuse", expect=200)
    assert template(demo_api)["records"] == call["records"] - 1
    assert second["id"] not in {r["id"] for r in page(demo_api, call["id"])}
    # Neither comes again.
    assemble(demo_api)
    now = page(demo_api, call["id"])
    assert template(demo_api)["records"] == call["records"] - 1
    key = (second["text_title"], second["values"])
    assert key not in [(r["text_title"], r["values"]) for r in now]
    assert [r["id"] for r in now if r["state"] == "signed"] == [first["id"]]
    demo_api.post(f"/records/{first['id']}/reopen", expect=200)
    demo_api.post(f"/records/{second['id']}/reopen", expect=200)
    assemble(demo_api)
    assert template(demo_api)["records"] == call["records"]
    demo_api.post(f"/records/{first['id']}/sign", expect=404)


def test_a_removed_text_takes_its_signed_records_along_and_brings_them_back(signed_demo: Api) -> None:
    call = template(signed_demo)
    before = [r for r in page(signed_demo, call["id"]) if r["text_title"] == "28/5"]
    made = signed_demo.delete(f"/texts/{before[0]['text_id']}", expect=200)
    assert template(signed_demo)["signed"] == call["signed"] - len(before)
    signed_demo.post(f"/texts/acts/{made['id']}/undo", expect=200)
    assert [r for r in page(signed_demo, call["id"]) if r["text_title"] == "28/5"] == before


def test_annotators_sign_as_well(demo_api: Api) -> None:
    assemble(demo_api)
    (first, *_) = page(demo_api, template(demo_api)["id"])
    assert demo_api.other("jo").post(f"/records/{first['id']}/sign", expect=200)["state"] == "signed"


def test_a_text_teaches_when_all_of_its_records_are_settled(demo_api: Api) -> None:
    assemble(demo_api)
    incident = template(demo_api, "Incident")
    own = [r for r in page(demo_api, incident["id"]) if r["text_title"] == "27/14"]
    assert len(own) == 2
    demo_api.post(f"/records/{own[0]['id']}/sign", expect=200)
    assert "“Incident” from none, which takes 8 signed ones" in assemble(demo_api, "learning")
    own = [r for r in page(demo_api, incident["id"]) if r["text_title"] == "27/14" and r["state"] == "found"]
    demo_api.post(f"/records/{own[0]['id']}/refuse", expect=200)
    # One signed record is too few to learn from, and is not counted as learnt.
    assert "“Incident” from none, which takes 8 signed ones" in assemble(demo_api, "learning")
    with transaction(demo_api.settings.database_url) as db:
        from urdaten.places.records import acts

        assert acts.signed_texts(db, incident["id"]) == [own[0]["text_id"]]


def test_records_are_sorted_by_any_field_page_by_page(signed_demo: Api) -> None:
    call = template(signed_demo)
    for name, down in (("vessel", False), ("weight", True), ("arrives", False)):
        rows: list[dict[str, Any]] = []
        after = None
        while True:
            more: dict[str, Any] = {} if after is None else {"after": after}
            answer = signed_demo.get(
                f"/records/templates/{call['id']}/records", limit=7, sort=name, down=down, **more
            )
            rows += answer["records"]
            after = answer["next"]
            if after is None:
                break
        assert len({r["id"] for r in rows}) == len(rows) == call["records"]
        values = [r["values"].get(name, "") for r in rows]
        if name == "weight":
            tonnes = [float(v.split()[0]) for v in values if v.endswith(" t")]
            assert tonnes == sorted(tonnes, reverse=True)
            assert len(tonnes) > 10
        else:
            assert [v.casefold() for v in values] == sorted(v.casefold() for v in values)
    assert (
        signed_demo.get(f"/records/templates/{call['id']}/records", sort="ship", expect=422)["field"]
        == "ship"
    )


def test_counts_open_their_records(signed_demo: Api) -> None:
    assemble(signed_demo)
    call = template(signed_demo)
    counts = signed_demo.get(f"/records/templates/{call['id']}/counts")
    assert [one["look"] for one in counts["looks"]]
    for one in counts["looks"]:
        own = page(signed_demo, call["id"], look=one["look"])
        assert len(own) == one["records"]
        assert all(one["look"] in r["looks"] for r in own)
    fields = {one["field"]: one["values"] for one in counts["fields"]}
    assert set(fields) == {"from", "to", "berth", "cargo", "agent"}
    for value in fields["from"][:3]:
        own = page(signed_demo, call["id"], field="from", value=value["value"])
        assert len(own) == value["records"]
        assert {r["values"]["from"] for r in own} == {value["value"]}
    numbers = [one["records"] for one in fields["berth"]]
    assert numbers == sorted(numbers, reverse=True)
    assert (
        signed_demo.get(f"/records/templates/{call['id']}/records", look="odd", expect=422)["field"] == "look"
    )


def test_a_template_goes_out_as_json_schema_and_comes_back(demo_api: Api) -> None:
    call = template(demo_api)
    schema = demo_api.get(f"/records/templates/{call['id']}/schema")
    assert schema["$schema"] == "https://json-schema.org/draft/2020-12/schema"
    assert schema["required"] == ["vessel"]
    assert (
        demo_api.post("/records/templates/schema", {"schema_document": schema}, expect=409)["field"] == "name"
    )
    made = demo_api.post("/records/templates/schema", {"schema_document": schema | {"title": "Call"}})
    assert made["fields"] == call["fields"]
    assert (made["opens"], made["anchor"]) == (call["opens"], call["anchor"])
    plain = {"title": "Ship", "properties": {"vessel": {"type": "string"}}, "urdaten": {"anchor": "vessel"}}
    assert demo_api.post("/records/templates/schema", {"schema_document": plain})["fields"][0]["types"] == [
        "VES"
    ]
    bad = demo_api.post("/records/templates/schema", {"schema_document": {"title": "x"}}, expect=422)
    assert bad["field"] == "properties"


def test_what_was_learnt_is_of_no_use_when_the_fields_change(signed_demo: Api) -> None:
    assemble(signed_demo, "learning")
    call = template(signed_demo)
    names = ("name", "anchor", "description", "scope", "each", "opens")
    wish = {name: call[name] for name in names} | {"version": call["version"]}
    signed_demo.put(f"/records/templates/{call['id']}", wish | {"fields": call["fields"][:-1]})
    # It goes by its rules again, and does not fall over.
    assemble(signed_demo)
    with transaction(signed_demo.settings.database_url) as db:
        chances = {
            row.probability for row in db.query(RecordRow).filter_by(template_id=call["id"], state="found")
        }
    assert len({round(one, 6) for one in chances if one is not None}) == 1
