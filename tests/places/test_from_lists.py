"""What lists find in unsigned sentences: a layer to look through, and a tagger that learns from it."""

from __future__ import annotations

from typing import Any

import pytest
from sqlalchemy import select

from acting import act
from conftest import Api
from places.test_desk_at_once import annotate, opened
from urdaten.places.desk.tables import ActRow
from urdaten.platform.database import transaction

BODIES = (
    ("33/1", "train", "Pellin is in. Ketta lies off Osk. Pellin Osk sails."),
    ("33/2", "none", "Ketta again. Nothing here."),
    ("exam", "test", "Pellin for the exam."),
)


@pytest.fixture
def port(api: Api) -> Api:
    for code, name, key in (("VES", "vessel", "v"), ("PRT", "port", "p"), ("TIM", "time", "t")):
        api.post("/types", {"code": code, "name": name, "key": key, "hue": 1})
    for title, split, body in BODIES:
        api.post("/texts", {"title": title, "split": split, "body": body})
    for name, code, entries in (
        ("ships", "VES", ("Pellin", "Ketta", "Pellin Osk")),
        ("ports", "PRT", ("Osk", "Pellin Osk")),
    ):
        made = api.post("/lists", {"name": name, "type": code})["id"]
        for entry in entries:
            api.post(f"/lists/{made}/entries", {"preferred": entry})
    return api


def proposed(api: Api, name: str = "from lists", lists: list[int] | None = None) -> dict[str, Any]:
    started = api.post("/desk/layers/from-lists", {"name": name, "lists": lists}, expect=202)
    job: dict[str, Any] = next(j for j in api.run_jobs() if j["id"] == started["id"])
    return job


def layers(api: Api) -> dict[str, dict[str, Any]]:
    return {layer["name"]: layer for layer in api.get("/desk/layers")}


def shown(api: Api, name: str = "from lists") -> dict[str, list[str]]:
    page = api.get(f"/desk/layers/{layers(api)[name]['id']}/proposals")
    return {
        p["stave"]["words"]: [
            f"{p['stave']['words'][s['start'] - p['stave']['start'] : s['end'] - p['stave']['start']]} {s['type']}"
            for s in p["then"]
        ]
        for p in page["proposals"]
    }


def test_a_layer_of_every_clear_find_in_unsigned_sentences(port: Api) -> None:
    annotate(port, "Pellin is", "signed", ("Pellin", "VES"))
    job = proposed(port)
    assert (job["state"], job["message"]) == (
        "done", "3 spans in 2 unsigned sentences are proposed; 2 finds were unclear and are left out.",
    )  # fmt: skip
    assert layers(port)["from lists"]["kind"] == "proposed"
    assert shown(port) == {"Ketta lies off Osk.": ["Ketta VES", "Osk PRT"], "Ketta again.": ["Ketta VES"]}
    with transaction(port.settings.database_url) as db:
        assert {row.kind for row in db.scalars(select(ActRow))} == {"sign"}, "nobody has annotated"


def test_it_is_taken_over_as_one_act_and_fits_beside_what_stands(port: Api) -> None:
    proposed(port)
    annotate(port, "Ketta lies", "begun", ("off Osk", "TIM"))
    down = opened(port, "Ketta again")
    span = {"start": down["start"], "end": down["start"] + 5, "type": "VES"}
    port.put(
        f"/desk/sentences/{down['id']}",
        act("turn down", down["annotation"]["version"], (), turned_down=[span]),
    )
    assert shown(port) == {
        "Pellin is in.": ["Pellin VES"],
        "Ketta lies off Osk.": ["Ketta VES", "off Osk TIM"],
    }
    page = port.get(f"/desk/layers/{layers(port)['from lists']['id']}/proposals")
    wish = {
        "kind": "take over",
        "places": [
            {
                "sentence_id": p["stave"]["sentence_id"],
                "version": p["version"],
                "spans": [{k: s[k] for k in ("start", "end", "type")} for s in p["then"]],
            }
            for p in page["proposals"]
        ],
    }
    assert port.post("/desk/at-once", wish, expect=200) == {"sentences": 2}
    assert len(opened(port, "Ketta lies")["annotation"]["spans"]) == 2
    assert shown(port) == {}
    port.post("/desk/undo", expect=200)
    assert len(opened(port, "Ketta lies")["annotation"]["spans"]) == 1


def test_it_is_made_anew_of_some_lists_and_deleted(port: Api) -> None:
    proposed(port)
    first = layers(port)["from lists"]["id"]
    (ports,) = (one["id"] for one in port.get("/lists") if one["name"] == "ports")
    proposed(port, lists=[ports])
    assert layers(port)["from lists"]["id"] == first
    assert shown(port) == {"Ketta lies off Osk.": ["Osk PRT"], "Pellin Osk sails.": ["Pellin Osk PRT"]}
    port.delete(f"/desk/layers/{first}")
    assert set(layers(port)) == {"gold"}
    port.get(f"/desk/layers/{first}/proposals", expect=404)


def test_gold_is_neither_proposed_nor_deleted(port: Api) -> None:
    annotate(port, "Pellin is", "signed", ("Pellin", "VES"))
    gold = layers(port)["gold"]["id"]
    assert port.get(f"/desk/layers/{gold}/proposals", expect=422)["field"] == "layer"
    assert "somebody's annotation" in port.delete(f"/desk/layers/{gold}", expect=409)["detail"]


@pytest.mark.parametrize(
    ("name", "lists", "status", "field"),
    [("gold", None, 422, "name"), (" ", None, 422, "name"), ("x", [], 422, "lists"), ("x", [999], 404, None)],
)
def test_what_cannot_be_proposed_is_refused(
    port: Api, name: str, lists: list[int] | None, status: int, field: str | None
) -> None:
    problem = port.post("/desk/layers/from-lists", {"name": name, "lists": lists}, expect=status)
    assert problem.get("field") == field


def test_no_list_that_is_on(port: Api) -> None:
    for one in port.get("/lists"):
        port.put(f"/lists/{one['id']}", {k: one[k] for k in ("name", "type", "version")} | {"on": False})
    problem = port.post("/desk/layers/from-lists", {"name": "x"}, expect=422)
    assert problem["field"] == "lists"


def trained(api: Api, **settings: Any) -> dict[str, Any]:
    made = api.post("/trainings", {"name": "First", "settings": {"epochs": 5, **settings}})
    api.run_jobs()
    training: dict[str, Any] = next(t for t in api.get("/trainings") if t["id"] == made["id"])
    return training


def test_a_tagger_from_lists_alone_and_what_its_scorecard_says(port: Api) -> None:
    assert "what lists find" in trained(port)["job"]["message"], "nothing is signed"
    annotate(port, "Pellin for", "signed", ("Pellin", "VES"))
    training = trained(port, from_lists=60)
    assert training["job"]["state"] == "done", training["job"]
    made = training["made_from"]
    assert (made["train_sentences"], made["lists_sentences"], made["lists_spans"]) == (0, 5, 4)
    assert made["lists_worth"] == 5
    port.post("/scorecards", expect=202)
    port.run_jobs()
    said = {card["source"]: card["learnt"] for card in port.get("/scorecards")}
    alone = "The tagger learnt from what lists find in 5 sentences alone; none of them was signed."
    assert said == {"resolved": alone, "tagger": alone, "lists": "", "rules": ""}


def test_a_tagger_from_both(port: Api) -> None:
    annotate(port, "Pellin is", "signed", ("Pellin", "VES"))
    made = trained(port, from_lists=2)["made_from"]
    assert (made["train_sentences"], made["lists_sentences"], made["lists_spans"]) == (1, 4, 3)
    assert made["lists_worth"] == 2
    annotate(port, "Pellin for", "signed", ("Pellin", "VES"))
    port.post("/scorecards", expect=202)
    port.run_jobs()
    assert port.get("/scorecards")[0]["learnt"] == (
        "The tagger learnt from 1 signed sentence, and from what lists find in 4 that nobody had signed, which counted as much as "
        "2 signed ones."
    )
    assert trained(port)["made_from"]["lists_sentences"] is None
