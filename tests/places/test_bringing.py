"""Bundles that are brought into a project: beside what is there, all of it or nothing, and the stages for somebody to look at."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

import pytest
from sqlalchemy import text

from conftest import Api
from core.bundles import TEXTS, small_bundle, tagger_bytes
from piping import answer, keep, plan_of, stage
from urdaten.core.bundle import Bundle, BundledRule, Runner, from_bytes, gathered_lists, to_bytes
from urdaten.core.lists import Entry, ListOptions, NameList
from urdaten.core.pipeline import (
    Learnt,
    Plan,
    PolicyPlan,
    RulesSettings,
    StagePlan,
    Weigher,
    WhereSettings,
    standard,
)
from urdaten.platform.database import transaction

Values = dict[str, Any]


def sent(api: Api, data: bytes, name: str = "small.bundle") -> Values:
    """A file that was looked through."""
    answered = api.request(
        "POST",
        "/api/projects/tessmar/pipeline/incoming/file",
        params={"name": name},
        content=data,
        headers={**api.headers, "Content-Type": "application/octet-stream"},
    )
    assert answered.status_code == 202, answered.text
    api.run_jobs()
    found: Values = api.get(f"/pipeline/incoming/{answered.json()['job']['id']}")
    return found


def brought(api: Api, data: bytes, name: str = "small.bundle") -> Values:
    """One that was brought in."""
    looked = sent(api, data, name)
    assert looked["job"]["state"] == "done", looked["job"]["message"]
    going = api.post(f"/pipeline/incoming/{looked['job']['id']}/keep", expect=202)
    api.run_jobs()
    found: Values = api.get(f"/pipeline/incoming/{going['job']['id']}")
    assert found["job"]["state"] == "done", found["job"]["message"]
    # What is brought in is what was told of before.
    assert (found["arrivals"], found["kept"]) == (looked["arrivals"], True)
    return found


def how(found: Values) -> dict[tuple[str, str], str]:
    return {
        (one["what"], one["name"]): one["becomes"] if one["how"] == "renamed" else one["how"]
        for one in found["arrivals"]
    }


def test_a_bundle_comes_whole_and_answers_as_it_did(api: Api) -> None:
    bundle = small_bundle()
    looked = sent(api, to_bytes(bundle))
    assert how(looked) == {
        ("type", "VES"): "new",
        ("type", "BTH"): "new",
        ("type", "CGO"): "new",
        ("type", "LOC"): "new",
        ("list", "goods"): "new",
        ("list", "ships"): "new",
        ("fragment", "no"): "new",
        ("rule", "berth"): "new",
        ("tagger", "small"): "new",
        ("template", "call"): "new",
    }
    assert (looked["kept"], looked["plan"]) == (False, None)
    # Nothing is here before somebody says so.
    assert api.get("/lists") == []
    found = brought(api, to_bytes(bundle))
    plan = found["plan"]
    assert [one["kind"] for one in plan["stages"]] == ["lists", "rules", "tagger", "repeats"]
    assert plan["stages"][0]["settings"] == {"lists": ["goods", "ships"]}
    (training,) = api.get("/trainings")
    assert plan["stages"][2]["settings"]["tagger"] == str(training["id"])
    # A tagger that says nothing of what it learnt from has learnt it under the names that it has.
    with transaction(api.settings.database_url) as db:
        learnt = db.scalar(text("SELECT made_from FROM training"))["makers"]
    assert (sorted(learnt["lists"]), sorted(learnt["rules"])) == (["goods", "ships"], ["berth"])
    assert (training["name"], training["in_use"], training["has_model"]) == ("small", False, True)
    # The pipeline is as it was until somebody saves another.
    assert api.get("/pipeline")["version"]["number"] == 0
    for body in filter(None, TEXTS):
        (own,) = Runner(bundle).run([body])
        trace = api.post("/pipeline/trace", {"plan": plan, "words": body}, 200)
        told = sorted((s["start"], s["end"], s["type"]) for s in trace["steps"][-1]["after"])
        assert told == [(s.start, s.end, s.type) for s in own.spans]
    (template,) = api.get("/records/templates")
    assert template["name"] == "call"
    # Brought in again, everything is here.
    again = brought(api, to_bytes(bundle))
    assert set(how(again).values()) == {"same"}
    assert again["plan"] == plan
    assert len(api.get("/trainings")) == 1


def test_exported_here_and_brought_elsewhere_it_says_the_same(api: Api) -> None:
    found = brought(api, to_bytes(small_bundle()))
    keep(api, found["plan"], 0)
    file = api.request("GET", "/api/projects/tessmar/pipeline/bundle").content
    there = from_bytes(file)
    for body in filter(None, TEXTS):
        (one,), (other,) = Runner(small_bundle()).run([body]), Runner(there).run([body])
        assert one.spans == other.spans
    assert {rule.pattern for rule in there.rules} == {"'berth' use(no)"}


def test_what_has_a_name_already_stays_and_the_other_gets_a_number(api: Api) -> None:
    api.post("/types", {"code": "VES", "name": "ship", "key": "s", "hue": 3})
    mine = api.post("/lists", {"name": "ships", "type": "VES"})
    api.post(f"/lists/{mine['id']}/entries", {"preferred": "Pellin"})
    api.post("/rules", {"name": "berth", "type": "VES", "pattern": "'ship'"})
    api.post("/rules/fragments", {"name": "no", "pattern": "'number'"})
    ships = NameList(name="ships", type="VES", entries=(Entry("Haldis"),))
    lists, heads = gathered_lists([ships])
    where = StagePlan(name="where", kind="where", settings=WhereSettings(pattern="list(ships)\nuse(no)"))
    plan = Plan(stages=(*standard(with_tagger=False).stages, where))
    berth = BundledRule(name="berth", type="BTH", pattern="list(ships) use(no)")
    data = to_bytes(small_bundle(plan, lists=lists, heads=heads, rules=(berth,), taggers={}))
    found = brought(api, data)
    told = how(found)
    assert told["type", "VES"] == "same"
    assert (told["list", "ships"], told["rule", "berth"], told["fragment", "no"]) == (
        "ships 2",
        "berth 2",
        "no 2",
    )
    assert next(one for one in api.get("/types")["types"] if one["code"] == "VES")["name"] == "ship"
    rules = {one["name"]: one for one in api.get("/rules")}
    assert rules["berth 2"]["pattern"] == "list(ships 2) use(no 2)"
    assert rules["berth"]["pattern"] == "'ship'"
    settings = [one["settings"] for one in found["plan"]["stages"]]
    assert (settings[0], settings[1]) == ({"lists": ["ships 2"]}, {"rules": ["berth 2"]})
    assert settings[2]["pattern"] == "list(ships 2)\nuse(no 2)"
    entries = {
        one["name"]: [e["preferred"] for e in api.get(f"/lists/{one['id']}/entries")["entries"]]
        for one in api.get("/lists")
    }
    assert entries == {"ships": ["Pellin"], "ships 2": ["Haldis"]}
    # What came under another name is known again.
    again = brought(api, data)
    assert {one["how"] for one in again["arrivals"]} == {"same"}
    assert again["plan"] == found["plan"]
    assert len(api.get("/lists")) == 2


def test_two_that_come_do_not_get_one_name(api: Api) -> None:
    api.post("/types", {"code": "VES", "name": "ship", "key": "s", "hue": 3})
    api.post("/lists", {"name": "ships", "type": "VES"})
    came = [
        NameList(name=name, type="VES", entries=(Entry(entry),))
        for name, entry in (("ships", "Haldis"), ("ships 2", "Tern"))
    ]
    found = brought(api, to_bytes(of_lists(*came)))
    assert (how(found)["list", "ships"], how(found)["list", "ships 2"]) == ("ships 2", "ships 2 2")
    assert found["plan"]["stages"][0]["settings"]["lists"] == ["ships 2", "ships 2 2"]


def test_a_tagger_knows_the_lists_that_came_with_it(api: Api) -> None:
    """Where a list is another here, the tagger goes by the one that came: it is there a second time, and sees that one."""
    makers = {"lists": {"ships": "fleet", "goods": "goods"}, "rules": {"berth": "old berth"}}
    bundle = small_bundle(taggers={"": replace(small_bundle().taggers[""], makers=makers)})
    first = brought(api, to_bytes(bundle))["plan"]["stages"][2]["settings"]["tagger"]
    ships = next(one for one in api.get("/lists") if one["name"] == "ships")
    api.post(f"/lists/{ships['id']}/entries", {"preferred": "Grey Mallard"})
    found = brought(api, to_bytes(bundle))
    assert (how(found)["list", "ships"], how(found)["list", "goods"], how(found)["tagger", "small"]) == (
        "ships 2",
        "same",
        "new",
    )
    second = found["plan"]["stages"][2]["settings"]["tagger"]
    assert second != first
    plan = found["plan"]
    with transaction(api.settings.database_url) as db:
        learnt = {
            str(row.id): row.made_from["makers"]
            for row in db.execute(text("SELECT id, made_from FROM training"))
        }
    numbers = {one["name"]: one["id"] for one in api.get("/lists")}
    assert learnt[first]["lists"] == {"fleet": numbers["ships"], "goods": numbers["goods"]}
    assert learnt[second]["lists"] == {"fleet": numbers["ships 2"], "goods": numbers["goods"]}
    again = brought(api, to_bytes(bundle))
    assert (set(how(again).values()), again["plan"]) == ({"same"}, plan)


@pytest.mark.parametrize(
    "change",
    [
        {"type": "CGO"},
        {"entries": (Entry("Haldis"),)},
        {"entries": (Entry("Tern of Varnby"), Entry("Haldis"))},
        {"options": ListOptions(case="any")},
    ],
)
def test_a_list_is_the_same_only_if_all_of_it_is(api: Api, change: Mapping[str, Any]) -> None:
    ships = NameList(name="ships", type="VES", entries=(Entry("Tern of Varnby", ("Tern",)), Entry("Haldis")))
    brought(api, to_bytes(of_lists(ships)))
    assert how(sent(api, to_bytes(of_lists(ships))))["list", "ships"] == "same"
    assert how(sent(api, to_bytes(of_lists(replace(ships, **change)))))["list", "ships"] == "ships 2"
    # One that is off finds nothing, so that the other has to come.
    (held,) = api.get("/lists")
    api.put(f"/lists/{held['id']}", {"name": "ships", "type": "VES", "on": False, "version": held["version"]})
    assert how(sent(api, to_bytes(of_lists(ships))))["list", "ships"] == "ships 2"


def of_lists(*names: NameList) -> Bundle:
    lists, heads = gathered_lists(names)
    more: Values = {
        "lists": lists,
        "heads": heads,
        "rules": (),
        "fragments": {},
        "taggers": {},
        "templates": (),
    }
    return small_bundle(standard(with_tagger=False), **more)


def test_stages_that_have_nothing_there_are_off_here(api: Api) -> None:
    api.post("/types", {"code": "VES", "name": "ship", "key": "s", "hue": 3})
    api.post("/rules", {"name": "mine", "type": "VES", "pattern": "'ship'"})
    ships = NameList(name="ships", type="VES", entries=(Entry("Haldis"),))
    found = brought(api, to_bytes(of_lists(ships)))
    # All rules of a bundle without any are none; those of the project are not meant.
    assert [(one["kind"], one["on"]) for one in found["plan"]["stages"]] == [
        ("lists", True),
        ("rules", False),
    ]


def test_weights_come_along_under_the_names_that_they_learnt(api: Api) -> None:
    weigher = Weigher(
        (("any span", -3.0), ("said by lists, “fleet”", 6.0), ("SHP", 0.5)),
        0.4,
        Learnt((("VES", "SHP"),), (("lists", "ships", "fleet"),)),
    )
    plan = replace(standard(with_tagger=False), policy=PolicyPlan(kind="weighed"))
    ships = NameList(name="ships", type="VES", entries=(Entry("Haldis"),))
    bundle = replace(of_lists(ships), plan=plan, weigher=weigher)
    api.post("/types", {"code": "VES", "name": "ship", "key": "s", "hue": 3})
    api.post("/lists", {"name": "ships", "type": "VES"})
    found = brought(api, to_bytes(bundle))
    assert found["plan"]["policy"] == found["plan"]["policy"] | {"kind": "weighed", "weights": "1"}
    words = {"words": "The Haldis waits.", "start": 4, "end": 10, "type": "VES"}
    told = api.post("/pipeline/weigh", {"plan": found["plan"], **words}, 200)
    assert {one["name"]: one["adds"] for one in told["parts"]} == {
        "any span": -3,
        "said by lists, “fleet”": 6,
        "SHP": 0.5,
    }
    keep(api, found["plan"], 0)
    (held,) = api.get("/pipeline/weights")["weights"]
    assert (held["least"], held["sentences"]) == (0.4, 0)
    # Out again, they are what they were.
    again = from_bytes(api.request("GET", "/api/projects/tessmar/pipeline/bundle").content)
    assert again.weigher is not None
    assert dict(again.weigher.weights) == dict(weigher.weights)
    (spans,) = Runner(again).run(["The Haldis waits."])
    assert [s.type for s in spans.spans] == ["VES"]


def test_a_tagger_comes_alone(api: Api) -> None:
    found = brought(api, tagger_bytes(), "from afar.bin")
    assert how(found) == {("type", "VES"): "new", ("type", "PRT"): "new", ("tagger", "from afar"): "new"}
    assert found["plan"] is None
    (training,) = api.get("/trainings")
    plan = plan_of(api) | {"stages": [stage("t", "tagger", tagger=str(training["id"]))]}
    trace = api.post("/pipeline/trace", {"plan": plan, "words": TEXTS[0]}, 200)
    assert {s["type"] for s in trace["steps"][-1]["after"]} == {"VES", "PRT"}
    # It may be put to use like one that was trained here.
    api.post(f"/trainings/{training['id']}/use", expect=200)
    api.post("/texts", {"title": "1", "body": TEXTS[0], "split": "train"})
    assert ("Pellin", "VES") in answer(api)


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"no bundle at all", "its table of parts"),
        (to_bytes(small_bundle())[:-40], "its table of parts"),
        (b"URDATAGG and no more", "tagger"),
        (
            to_bytes(replace(of_lists(NameList(name="a", type="VES", entries=())), language="neutral")),
            "is for texts in “neutral”",
        ),
    ],
)
def test_what_cannot_be_brought_in_says_why_and_leaves_nothing(api: Api, data: bytes, said: str) -> None:
    found = sent(api, data)
    assert found["job"]["state"] == "failed"
    assert said in found["job"]["message"]
    api.post(f"/pipeline/incoming/{found['job']['id']}/keep", expect=409)
    assert (api.get("/lists"), api.get("/types")["types"]) == ([], [])


def test_a_type_that_cannot_be_brings_nothing(api: Api) -> None:
    """All of it or nothing: the code of a type is no code here, and what came before it goes again."""
    rule = BundledRule(name="berth", type="much too long", pattern="'berth'")
    plan = Plan(stages=(StagePlan(name="rules", kind="rules", settings=RulesSettings()),))
    data = to_bytes(small_bundle(plan, rules=(rule,), fragments={}, taggers={}, templates=()))
    looked = sent(api, data)
    going = api.post(f"/pipeline/incoming/{looked['job']['id']}/keep", expect=202)
    api.run_jobs()
    assert api.get(f"/pipeline/incoming/{going['job']['id']}")["job"]["state"] == "failed"
    assert (api.get("/lists"), api.get("/types")["types"]) == ([], [])


def test_who_may_bring_what_and_when(api: Api) -> None:
    data = to_bytes(small_bundle())
    path = "/api/projects/tessmar/pipeline/incoming/file"
    jo = api.other("jo")
    assert jo.request("POST", path, content=data).status_code == 403
    assert api.request("POST", path, content=b"").status_code == 422
    first = api.request("POST", path, content=data)
    assert api.request("POST", path, content=data).status_code == 409
    api.run_jobs()
    number = first.json()["job"]["id"]
    jo.get(f"/pipeline/incoming/{number}", 403)
    api.get("/pipeline/incoming/99999", 404)
    api.post("/pipeline/incoming/99999/keep", expect=404)
    going = api.post(f"/pipeline/incoming/{number}/keep", expect=202)["job"]["id"]
    api.run_jobs()
    api.post(f"/pipeline/incoming/{going}/keep", expect=409)
    # It is let go of once it is in; whoever wants it again sends it again.
    again = api.post(f"/pipeline/incoming/{number}/keep", expect=202)["job"]["id"]
    api.run_jobs()
    assert "send it again" in api.get(f"/pipeline/incoming/{again}")["job"]["message"]
    with transaction(api.settings.database_url) as db:
        assert db.scalar(text("SELECT count(*) FROM artefact")) == 0
