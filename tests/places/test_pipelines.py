"""A project's pipeline: changed, tried on dev, traced, kept in versions, and exported; its answer is that of the whole project."""

from __future__ import annotations

from typing import Any

import pytest
from sqlalchemy import text

from acting import act
from conftest import Api
from piping import GOODS, SHIPS, answer, keep, plan_of, stage, with_lists
from urdaten.core.bundle import Runner, from_bytes
from urdaten.core.pipeline import Plan, plan_values
from urdaten.platform.database import transaction

Values = dict[str, Any]
BODY = "The Amber Quay takes salt. Haldis sails."


POLICY = plan_values(Plan(stages=()))["policy"]


@pytest.fixture
def pipe(api: Api) -> Api:
    """Ships and goods in lists, one rule, and two signed dev texts."""
    with_lists(api)
    api.post("/rules", {"name": "sails", "type": "VES", "pattern": "[capital] 'sails'"})
    api.post("/texts", {"title": "1", "body": BODY, "split": "dev"})
    api.post("/texts", {"title": "2", "body": "Pellin sails. Haldis waits.", "split": "train"})
    first = api.get("/desk/queue")["items"][0]["id"]
    api.put(f"/desk/sentences/{first}", act("sign", 0, [{"start": 4, "end": 14, "type": "VES"}]))
    return api


def test_every_project_begins_with_lists_and_rules(pipe: Api) -> None:
    shown = pipe.get("/pipeline")
    assert shown["version"]["number"] == 0
    assert [(s["name"], s["kind"], s["on"]) for s in shown["version"]["plan"]["stages"]] == [
        ("lists", "lists", True),
        ("rules", "rules", True),
    ]
    assert shown["choices"] == {
        "lists": ["goods", "ships"],
        "rules": ["sails"],
        "types": ["VES", "CGO"],
        "taggers": {},
    }
    assert shown["fault"] == ""
    assert pipe.get("/figures")["pipeline"] == {"stages": 2, "version": 0}


def test_a_kept_pipeline_answers_everywhere(pipe: Api) -> None:
    plan = plan_of(pipe)
    assert ("salt", "CGO") in answer(pipe)
    kept = keep(pipe, plan | {"stages": [SHIPS, GOODS | {"towards": {"ships": "binds"}}]}, 0)
    assert kept["version"]["number"] == 1
    assert kept["version"]["said"].startswith("“lists” is gone; “rules” is gone; “ships” is new")
    assert kept["version"]["by"] == "Ines"
    assert answer(pipe) == [("Amber Quay", "VES"), ("salt", "CGO")]
    assert len(pipe.get("/desk/queue/ordered", source="together", type="CGO")["items"]) == 1
    keep(pipe, plan | {"stages": [GOODS]}, 1)
    assert answer(pipe) == [("Amber", "CGO"), ("salt", "CGO")]
    assert pipe.get("/desk/queue/ordered", source="together", type="VES")["items"] == []
    # A list that changes is followed at once.
    goods = next(one for one in pipe.get("/lists") if one["name"] == "goods")
    amber = pipe.get(f"/lists/{goods['id']}/entries", search="amber")["entries"][0]
    pipe.delete(f"/lists/{goods['id']}/entries/{amber['id']}")
    assert answer(pipe) == [("salt", "CGO")]
    assert pipe.get("/figures")["pipeline"] == {"stages": 1, "version": 2}


def test_what_it_names_may_get_another_name(pipe: Api) -> None:
    plan = plan_of(pipe)
    where = stage("where", "where", pattern="list(ships)", types=("VES",), scope="text")
    stages = [SHIPS, where, stage("types", "types", rename={"VES": "CGO"})]
    keep(pipe, plan | {"stages": stages}, 0)
    before = answer(pipe)
    ships = next(one for one in pipe.get("/lists") if one["name"] == "ships")
    pipe.put(f"/lists/{ships['id']}", {"name": "all ships", "type": "VES", "on": True, "version": 1})
    now = pipe.get("/pipeline")
    assert now["fault"] == ""
    assert now["version"]["plan"]["stages"][0]["settings"] == {"lists": ["all ships"]}
    assert now["version"]["plan"]["stages"][1]["settings"]["pattern"] == "list(all ships)"
    assert answer(pipe) == before == [("Amber Quay", "CGO")]
    pipe.put(f"/lists/{ships['id']}", {"name": "all ships", "type": "VES", "on": False, "version": 2})
    assert "names the list “all ships”" in pipe.get("/pipeline")["fault"]
    # Nobody is kept from their work by that, and nothing is measured that is no answer.
    assert answer(pipe) == []
    look = pipe.post("/pipeline/look", plan | {"stages": [GOODS]}, 200)
    assert (look["before"]["found"], look["after"]["found"]) == (0, 2)
    with transaction(pipe.settings.database_url) as db:
        db.execute(text("UPDATE text SET split = 'test' WHERE title = '1'"))
    pipe.post("/scorecards", expect=202)
    (job,) = pipe.run_jobs()
    assert job["state"] == "failed"
    assert "names the list “all ships”" in job["message"]
    assert pipe.get("/scorecards") == []


@pytest.mark.parametrize(
    ("change", "field", "said"),
    [
        ({"stages": [SHIPS, SHIPS]}, "name", "two stages"),
        ({"stages": [SHIPS | {"settings": {"lists": ["no"]}}]}, "lists", "names the list “no”"),
        (
            {"stages": [stage("t", "tagger")]},
            "tagger",
            "tagger in use, and there is none",
        ),
        (
            {"stages": [stage("t", "tagger", tagger="77")]},
            "tagger",
            "the tagger “77”",
        ),
        ({"stages": [stage("w", "where", pattern="(")]}, "pattern", ""),
        ({"policy": POLICY | {"kind": "weighed"}}, "kind", "Nothing has been learnt"),
        ({"policy": POLICY | {"order": ["no"]}}, "order", "names the stage “no”"),
    ],
)
def test_a_plan_that_cannot_be_is_refused_and_nothing_kept(
    pipe: Api, change: Values, field: str, said: str
) -> None:
    plan = plan_of(pipe) | change
    for refused in (
        keep(pipe, plan, 0, 422),
        pipe.post("/pipeline/look", plan, 422),
        pipe.post("/pipeline/trace", {"plan": plan, "words": "Haldis"}, 422),
    ):
        assert refused["field"] == field
        assert said in refused["detail"]
    assert pipe.get("/pipeline")["version"]["number"] == 0


def test_two_who_keep_one_after_the_other(pipe: Api) -> None:
    plan = plan_of(pipe)
    keep(pipe, plan | {"stages": [SHIPS]}, 0)
    late = keep(pipe, plan | {"stages": [GOODS]}, 0, 409)
    assert late["number"] == 1
    # What changes nothing makes no version.
    assert keep(pipe, plan_of(pipe), 1)["version"]["number"] == 1
    jo = pipe.other("jo")
    keep(jo, plan, 1, 403)
    jo.post("/pipeline/versions/0/back", {"seen": 1}, 403)
    assert jo.get("/pipeline")["version"]["number"] == 1


def test_one_goes_back_to_a_version_as_a_new_one(pipe: Api) -> None:
    plan = plan_of(pipe)
    keep(pipe, plan | {"stages": [SHIPS]}, 0)
    keep(pipe, plan | {"stages": [GOODS]}, 1)
    back = pipe.post("/pipeline/versions/1/back", {"seen": 2})
    assert (back["version"]["number"], back["version"]["said"]) == (3, "back to version 1")
    assert answer(pipe) == [("Amber Quay", "VES")]
    pipe.post("/pipeline/versions/0/back", {"seen": 3})
    told = pipe.get("/pipeline/versions")
    assert [(one["number"], one["said"]) for one in told[:2]] == [
        (4, "back to version 0"),
        (3, "back to version 1"),
    ]
    assert told[-1] == told[-1] | {"number": 0, "said": "", "by": "", "created_at": None}
    assert told[0]["plan"] == told[-1]["plan"] == plan
    pipe.post("/pipeline/versions/9/back", {"seen": 4}, 404)
    pipe.post("/pipeline/versions/1/back", {"seen": 3}, 409)


def test_what_stages_do_on_dev_is_seen_before_it_is_kept(pipe: Api) -> None:
    plan = plan_of(pipe) | {"stages": [GOODS, SHIPS | {"towards": {"goods": "binds"}}]}
    look = pipe.post("/pipeline/look", plan, 200)
    assert (look["texts"], look["all"], look["sentences"]) == (1, True, 1)
    told = [
        [one[n] for n in ("name", "kind", "added", "changed", "dropped", "refused", "judged", "right")]
        for one in look["stages"]
    ]
    # One of two ships is bound by a cargo; the other stands in a sentence that nobody has signed.
    assert told == [["goods", "lists", 2, 0, 0, 0, 2, 0], ["ships", "lists", 1, 0, 0, 1, 0, 0]]
    assert look["after"] == {"right": 0, "found": 2, "gold": 1}
    assert look["before"]["gold"] == 1
    same = pipe.post("/pipeline/look", plan_of(pipe), 200)
    assert (same["differing"], same["shown"], same["before"]) == (0, [], same["after"])
    good = pipe.post("/pipeline/look", plan | {"stages": [SHIPS]}, 200)
    assert good["after"] == {"right": 1, "found": 1, "gold": 1}
    (stave,) = good["shown"]
    assert [span["type"] for span in stave["lanes"]["after"]] == ["VES"]
    assert {"gold", "before", "after"} == set(stave["lanes"])


def test_a_trace_says_what_became_of_every_span(pipe: Api) -> None:
    types = stage("types", "types", rename={"CGO": "VES"})
    plan = plan_of(pipe) | {"stages": [GOODS, SHIPS | {"towards": {"goods": "binds"}}, types]}
    trace = pipe.post("/pipeline/trace", {"plan": plan, "words": "The Amber Quay. Haldis sails."}, 200)
    assert [one["words"] for one in trace["sentences"]] == ["The Amber Quay.", "Haldis sails."]
    assert [[(t["start"], t["end"]) for t in one["tokens"]] for one in trace["sentences"]][1] == [
        (16, 22),
        (23, 28),
        (28, 29),
    ]
    told = [
        (
            step["name"],
            [(c["what"], c["span"]["start"], c["span"]["type"], c["why"]) for c in step["changes"]],
        )
        for step in trace["steps"]
    ]
    assert told == [
        ("goods", [("added", 4, "CGO", "list goods, entry “Amber”")]),
        (
            "ships",
            [
                ("refused", 4, "VES", "bound by CGO of the goods, from 4 to 9"),
                ("added", 16, "VES", "list ships, entry “Haldis”"),
            ],
        ),
        ("types", [("changed", 4, "CGO", "is VES from here on")]),
        ("policy", []),
    ]
    assert [step["kind"] for step in trace["steps"]] == ["lists", "lists", "types", ""]
    assert [s["type"] for s in trace["steps"][-1]["after"]] == ["VES", "VES"]
    pipe.post("/pipeline/trace", {"plan": plan, "words": "  "}, 422)
    sentence = pipe.get("/desk/queue")["items"][1]["id"]
    own = pipe.post("/pipeline/trace", {"plan": plan, "sentence": sentence}, 200)
    assert [one["words"] for one in own["sentences"]] == ["Haldis sails."]
    assert [c["what"] for c in own["steps"][1]["changes"]] == ["added"]
    pipe.post("/pipeline/trace", {"plan": plan, "sentence": 99999}, 404)


def test_its_bundle_says_what_the_desk_says(pipe: Api) -> None:
    where = stage("where", "where", pattern="'takes'", types=("VES",))
    again = stage("again", "repeats")
    keep(pipe, plan_of(pipe) | {"stages": [SHIPS, GOODS | {"towards": {"ships": "binds"}}, where, again]}, 0)
    bundle = pipe.request("GET", "/api/projects/tessmar/pipeline/bundle").content
    (found,) = Runner(from_bytes(bundle)).run([BODY])
    own = [(BODY[s.start : s.end], s.type) for s in found.spans]
    assert [*answer(pipe), *answer(pipe, 1)] == own == [("Amber Quay", "VES"), ("salt", "CGO")]
    assert pipe.post("/pipeline/look", plan_of(pipe), 200)["example"] == "The Amber Quay takes salt."


def test_scores_and_records_know_that_it_has_changed(pipe: Api) -> None:
    with transaction(pipe.settings.database_url) as db:
        db.execute(text("UPDATE text SET split = 'test' WHERE title = '1'"))
        db.execute(text("UPDATE revision SET number = number + 1 WHERE place = 'texts'"))
    pipe.post("/scorecards", expect=202)
    pipe.run_jobs()
    whole = next(card for card in pipe.get("/scorecards") if card["source"] == "resolved")
    assert pipe.get(f"/scorecards/{whole['id']}")["changes"] == []
    keep(pipe, plan_of(pipe) | {"stages": [SHIPS]}, 0)
    assert pipe.get(f"/scorecards/{whole['id']}")["changes"] == ["the pipeline has changed"]
    pipe.post("/scorecards", expect=202)
    pipe.run_jobs()
    newest = next(card for card in pipe.get("/scorecards") if card["source"] == "resolved")
    assert newest["f1"] == 1.0


def test_its_bundle_says_what_a_trace_says(demo_api: Api) -> None:
    """What a trace over the API says, and what a file says in Python, is one and the same, also with a tagger."""
    settings = {"features": ["words", "shapes", "lists", "rules"], "epochs": 3}
    demo_api.post("/trainings", {"name": "quick", "settings": settings})
    demo_api.run_jobs()
    plan = plan_of(demo_api)
    assert [stage["kind"] for stage in plan["stages"]] == ["lists", "rules", "tagger"]
    again = stage("again", "repeats", least=0.8)
    kept = keep(demo_api, plan | {"stages": [*plan["stages"], again]}, 0)["version"]
    answer_of = demo_api.request("GET", "/api/projects/tessmar/pipeline/bundle")
    assert answer_of.status_code == 200
    assert answer_of.headers["content-disposition"] == 'attachment; filename="tessmar-1.bundle"'
    again_of = demo_api.request("GET", "/api/projects/tessmar/pipeline/bundle")
    assert again_of.content == answer_of.content
    runner = Runner(from_bytes(answer_of.content))
    told = 0
    for item in demo_api.get("/texts")["texts"][:6]:
        whole = demo_api.get(f"/texts/{item['id']}")
        if whole["split"] == "test":
            continue
        # Alone, as the bundle reads it: texts of a group are read together at the Desk.
        (found,) = runner.run([whole["body"]])
        trace = demo_api.post("/pipeline/trace", {"plan": kept["plan"], "words": whole["body"]}, 200)
        own = [(s["start"], s["end"], s["type"]) for s in trace["steps"][-1]["after"]]
        assert sorted(own) == [(s.start, s.end, s.type) for s in found.spans]
        told += len(own)
    assert told > 10
    demo_api.other("jo").get("/pipeline/bundle", 403)
