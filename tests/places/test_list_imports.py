"""Files of names come into a list and go out of it."""

from __future__ import annotations

from typing import Any

import pytest
from sqlalchemy import select

from conftest import Api
from places.test_list_entries import names
from places.test_lists_and_rules import new_list
from urdaten.core.lists import listfile
from urdaten.places.lists import acts, file_routes, jobs
from urdaten.places.lists.acts import compiling
from urdaten.places.lists.tables import CompiledRow
from urdaten.platform.database import transaction
from urdaten.platform.settings import Settings

VES = {"code": "VES", "name": "vessel", "key": "v", "hue": 1}
FILE = (
    b"name,variants,id,note\n"
    b"Amber Quay,A. Quay;AQ,V1,\n"
    b"Haldis,,V2,tug\n"
    b"haldis,Hald.,,\n"
    b",nobody,,\n"
    b"A. Quay,,,\n"
    b"Osk,,V3,\n"
)


@pytest.fixture
def port(api: Api) -> Api:
    api.post("/types", VES)
    api.post("/texts", {"title": "33/1", "body": "Amber Quay and Haldis wait. Osk sails."})
    return api


def sent(api: Api, made: int, data: bytes, name: str = "ships.csv") -> dict[str, Any]:
    answer = api.request(
        "POST", f"/api/projects/tessmar/lists/{made}/imports/file", params={"name": name}, content=data
    )
    assert answer.status_code == 201, answer.text
    api.run_jobs()
    looked: dict[str, Any] = api.get(f"/lists/{made}/imports/{answer.json()['id']}")
    return looked


def kept(api: Api, held: dict[str, Any]) -> dict[str, Any]:
    path = f"/lists/{held['list_id']}/imports/{held['id']}"
    api.post(f"{path}/keep", expect=202)
    api.run_jobs()
    now: dict[str, Any] = api.get(path)
    assert now["work"]["state"] == "done", now["work"]
    return now


def test_what_would_come_of_a_file_is_shown_before_anything_is_kept(port: Api) -> None:
    made = new_list(port)
    other = port.post("/lists", {"name": "tugs", "type": "VES"})["id"]
    port.post(f"/lists/{other}/entries", {"preferred": "OSK"})
    held = sent(port, made, FILE)
    looked = held["looked"]
    assert looked["counts"] == {
        "new": 2, "same": 0, "changed": 1, "variant": 1, "double": 1, "elsewhere": 1, "refused": 1, "unmet": 0,
    }  # fmt: skip
    assert [c["role"] for c in looked["found"]["columns"]] == ["name", "variants", "identifier", "note"]
    assert looked["samples"]["refused"] == [
        {"place": "line 5", "why": "There is no name in it.", "content": " · nobody"}
    ]
    assert looked["samples"]["changed"][0]["before"] == "Amber Quay"
    assert looked["samples"]["elsewhere"][0]["before"] == "tugs"
    assert names(port, made) == ["Amber Quay"]
    csv = port.request("GET", f"/api/projects/tessmar/lists/{made}/imports/{held['id']}/refused").text
    assert csv.splitlines()[1] == "line 5,There is no name in it., · nobody"


def test_names_come_in_and_go_again(port: Api) -> None:
    made = new_list(port)
    done = kept(port, sent(port, made, FILE))
    entries = {e["preferred"]: e for e in port.get(f"/lists/{made}/entries")["entries"]}
    assert list(entries) == ["Amber Quay", "Haldis", "Osk"]
    assert (entries["Amber Quay"]["variants"], entries["Amber Quay"]["identifier"]) == (
        ["A. Quay", "AQ"],
        "V1",
    )
    assert (entries["Haldis"]["variants"], entries["Haldis"]["note"]) == (["haldis", "Hald."], "tug")
    assert (entries["Osk"]["source"], entries["Amber Quay"]["source"]) == ("file ships.csv", "")
    assert port.get("/lists")[0]["finds"] == 3
    assert port.get("/lists")[0]["entries"] == 3
    path = f"/lists/{made}/imports/{done['id']}"
    port.post(f"{path}/keep", expect=409)
    port.put(f"{path}/plan", {}, expect=409)
    assert port.post(f"/lists/acts/{done['act']}/undo", expect=200) == {"entries": 3, "left": 0}
    (entry,) = port.get(f"/lists/{made}/entries")["entries"]
    assert (entry["variants"], entry["identifier"]) == (["A. Quay"], "")
    assert port.get("/lists")[0]["finds"] == 1


def test_a_file_that_comes_again_changes_nothing(port: Api) -> None:
    made = new_list(port)
    kept(port, sent(port, made, FILE))
    counts = sent(port, made, FILE)["looked"]["counts"]
    assert (counts["new"], counts["changed"], counts["same"]) == (0, 0, 3)


@pytest.mark.parametrize(
    ("rest", "left", "off"),
    [
        ("keep", ["Amber Quay", "Osk", "Tern"], []),
        ("off", ["Amber Quay", "Osk", "Tern"], ["Amber Quay"]),
        ("delete", ["Osk", "Tern"], []),
    ],
)
def test_what_the_file_has_not_is_kept_or_goes(port: Api, rest: str, left: list[str], off: list[str]) -> None:
    made = new_list(port)
    port.post(f"/lists/{made}/entries", {"preferred": "Osk"})
    held = sent(port, made, b"Osk\nTern\n", "ships.txt")
    assert held["looked"]["counts"]["unmet"] == 1
    port.put(f"/lists/{made}/imports/{held['id']}/plan", {"rest": rest})
    port.run_jobs()
    kept(port, held)
    assert names(port, made) == left
    assert names(port, made, show="off") == off


def test_another_plan_reads_the_file_otherwise(port: Api) -> None:
    made = new_list(port)
    held = sent(port, made, b"Schiff,Ruf\nHaldis,H.\n")
    path = f"/lists/{made}/imports/{held['id']}"
    wish = {"roles": {"Schiff": "note", "Ruf": "name"}}
    assert port.put(f"{path}/plan", wish)["looked"] is None
    port.run_jobs()
    looked = port.get(path)["looked"]
    assert looked["samples"]["new"] == [{"name": "H.", "variants": [], "place": "line 2", "before": ""}]
    port.put(f"{path}/plan", {"rest": "burn"}, expect=422)
    port.put(f"{path}/plan", {"roles": {"Schiff": "mast"}}, expect=422)
    port.delete(path)
    port.get(path, expect=404)


def test_a_file_of_which_nothing_can_be_kept_says_why(port: Api) -> None:
    made = new_list(port)
    held = sent(port, made, b"PK\x03\x04 broken", "ships.xlsx")
    assert "damaged" in held["looked"]["amiss"]
    assert "Look first" in port.post(f"/lists/{made}/imports/{held['id']}/keep", expect=409)["detail"]
    port.get(f"/lists/{made}/imports/999", expect=404)


def test_what_somebody_changes_after_the_look_counts(port: Api) -> None:
    made = new_list(port)
    held = sent(port, made, b"Osk\n", "ships.txt")
    port.post(f"/lists/{made}/entries", {"preferred": "Osk", "note": "mine"})
    kept(port, held)
    assert [e["note"] for e in port.get(f"/lists/{made}/entries")["entries"]] == ["", "mine"]


def test_a_list_goes_out_and_comes_into_another(port: Api) -> None:
    made = new_list(port)
    kept(port, sent(port, made, FILE))
    for form, ending in (
        ("csv", "csv"),
        ("tsv", "tsv"),
        ("xlsx", "xlsx"),
        ("jsonl", "jsonl"),
        ("turtle", "ttl"),
        ("json-ld", "jsonld"),
    ):
        answer = port.request("GET", f"/api/projects/tessmar/lists/{made}/export", params={"as": form})
        assert answer.headers["content-disposition"].endswith(f"vessels.{ending}")
        other = port.post("/lists", {"name": form, "type": "VES"})["id"]
        kept(port, sent(port, other, answer.content, f"x.{ending}"))
        one, two = (
            [
                (e["preferred"], sorted(e["variants"]), e["identifier"], e["note"])
                for e in port.get(f"/lists/{x}/entries")["entries"]
            ]
            for x in (made, other)
        )
        assert one == two, form
    assert (
        port.request("GET", f"/api/projects/tessmar/lists/{made}/export", params={"as": "pdf"}).status_code
        == 422
    )


def test_long_lists_are_compiled_with_the_import(
    port: Api, settings: Settings, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(compiling, "FEW", 1)
    monkeypatch.setattr(compiling, "MOST_BESIDE", 1)
    made = new_list(port)
    kept(port, sent(port, made, FILE))
    assert port.get("/lists")[0]["finds"] == 3
    with transaction(settings.database_url) as db:
        data = db.scalars(select(CompiledRow.data)).one()
    compiled, _ = listfile.from_bytes(data)
    assert len(compiled.entry_number) == 3
    # What changes now is compiled beside it.
    port.post(f"/lists/{made}/entries", {"preferred": "wait"})
    assert port.get("/lists")[0]["finds"] == 4


def test_a_file_of_some_megabytes_is_taken_and_one_of_more_is_not(
    port: Api, monkeypatch: pytest.MonkeyPatch
) -> None:
    made = new_list(port)
    path = f"/api/projects/tessmar/lists/{made}/imports/file"
    data = b"Haldis\n" * 300_000
    assert port.request("POST", path, params={"name": "x.txt"}, content=data).status_code == 201
    monkeypatch.setattr(file_routes, "MOST_MEGABYTES", 1)
    refused = port.request("POST", path, params={"name": "x.txt"}, content=data)
    assert (refused.status_code, "at most 1 MB" in refused.json()["detail"]) == (413, True)


LABELLED = b"name,label\nHaldis,ship\nOsk,port\nPellin,ship\nVarnby,port\nTern,ship\nKetta,ship\n"


def test_of_a_file_with_labels_those_of_one_come(port: Api) -> None:
    made = new_list(port)
    held = sent(port, made, LABELLED)
    assert [c["role"] for c in held["looked"]["found"]["columns"]] == ["name", "label"]
    assert held["looked"]["labels"] == [{"label": "ship", "names": 4}, {"label": "port", "names": 2}]
    assert held["looked"]["counts"]["new"] == 6
    path = f"/lists/{made}/imports/{held['id']}"
    port.put(f"{path}/plan", held["plan"] | {"label": "port"})
    port.run_jobs()
    now = port.get(path)
    assert (now["looked"]["counts"]["new"], now["looked"]["labels"]) == (2, held["looked"]["labels"])
    kept(port, now)
    assert names(port, made) == ["Amber Quay", "Osk", "Varnby"]


def test_the_names_are_read_once(port: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    """And again by another plan; what was read goes once they are in the list."""
    made = new_list(port)
    held = sent(port, made, LABELLED)
    with transaction(port.settings.database_url) as db:
        assert acts.rows_of(db, held["id"])
    monkeypatch.setattr(jobs, "read_guarded", lambda *_, **__: pytest.fail("read again"))
    kept(port, held)
    with transaction(port.settings.database_url) as db:
        assert acts.rows_of(db, held["id"]) is None
