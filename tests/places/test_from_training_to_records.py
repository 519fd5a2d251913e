"""Tagger, scores and records on the demo project, with the worker's jobs done in this process."""

from __future__ import annotations

import csv
import io
import json
from typing import Any

import jsonschema_rs
import pytest
from sqlalchemy import select, update

from acting import act, stave_pages
from conftest import Api
from urdaten.demo.files import Demo
from urdaten.places.pipeline.wire import STAVES
from urdaten.places.tagger.tables import TrainingRow
from urdaten.platform.database import transaction

SMALL = {"epochs": 4, "patience": 4}


def train(api: Api, name: str = "First", **settings: Any) -> dict[str, Any]:
    made = api.post("/trainings", {"name": name, "settings": SMALL | settings})
    assert made["live"]
    api.run_jobs()
    return next(t for t in api.get("/trainings") if t["id"] == made["id"])


def sign_again(api: Api, split: str) -> None:
    """Take the spans out of one signed sentence of a split, so that its gold changes."""
    item = next(i for i in api.get("/desk/queue", split=split)["items"] if i["spans"] > 0)
    now = api.get(f"/desk/sentences/{item['id']}")["annotation"]
    change = act("remove", now["version"])
    api.put(f"/desk/sentences/{item['id']}", change)


def test_training_learns_is_put_to_use_and_gives_a_lane(demo_api: Api, part: Demo) -> None:
    training = train(demo_api)
    assert (training["job"]["state"], training["in_use"], training["has_model"]) == ("done", True, True)
    assert [e["epoch"] for e in training["epochs"]] == [1, 2, 3, 4]
    assert training["epochs"][-1]["dev_f1"] > 0.6
    made = training["made_from"]
    dev = demo_api.get("/desk/queue", split="dev")["items"]
    assert made["train_texts"] == sum(b.split == "train" for b in part.bulletins)
    assert made["dev_sentences"] == len(dev)
    assert "epochs; epoch" in training["job"]["message"]
    item = next(i for i in demo_api.get("/desk/queue", split="none")["items"] if i["state"] == "untouched")
    opened = demo_api.get(f"/desk/sentences/{item['id']}")
    assert opened["lanes"]["tagger"]
    assert all(0 < s["probability"] <= 1 for s in opened["lanes"]["tagger"])
    figure = demo_api.get("/figures")["tagger"]
    assert figure["name"] == "First"
    assert figure["dev_f1"] == max(e["dev_f1"] for e in training["epochs"])


def test_the_tagger_says_why_and_only_where_suggestions_are_shown(demo_api: Api) -> None:
    train(demo_api)
    item = next(
        i for i in demo_api.get("/desk/queue", split="none")["items"] if i["words"].startswith("0255")
    )
    path = f"/desk/sentences/{item['id']}/why"
    opened = demo_api.get(f"/desk/sentences/{item['id']}")
    time = next(s for s in opened["lanes"]["tagger"] if s["type"] == "TIM")
    where = {"start": time["start"], "end": time["end"]}
    why = demo_api.get(path, **where, type="TIM")
    listed = sum(c["value"] for c in why["contributions"])
    assert listed + why["rest_value"] == pytest.approx(why["difference"])
    assert why["difference"] > 0
    assert len(why["contributions"]) == 10
    assert demo_api.get(path, **where, type="VES")["difference"] < 0
    assert demo_api.get(path, start=1, end=3, type="TIM", expect=422)["detail"].startswith(
        "The span does not"
    )
    assert (
        "does not lie in this sentence"
        in demo_api.get(path, start=0, end=500, type="TIM", expect=422)["detail"]
    )
    test = demo_api.get("/desk/queue", split="test")["items"][0]
    demo_api.get(f"/desk/sentences/{test['id']}/why", **where, type="TIM", expect=403)


def test_without_a_tagger_there_is_nothing_to_explain(demo_api: Api) -> None:
    item = demo_api.get("/desk/queue", split="train")["items"][0]
    answer = demo_api.get(f"/desk/sentences/{item['id']}/why", start=0, end=4, type="TIM", expect=404)
    assert "No tagger is in use" in answer["detail"]


def test_the_same_training_twice_gives_the_same_tagger(demo_api: Api) -> None:
    train(demo_api, "one")
    train(demo_api, "two")
    with transaction(demo_api.settings.database_url) as db:
        rows = db.scalars(select(TrainingRow).order_by(TrainingRow.id)).all()
        one, other = ([e | {"seconds": 0} for e in row.epochs] for row in rows)
        assert one == other
        assert rows[0].made_from["data"] == rows[1].made_from["data"]
        assert rows[0].model == rows[1].model


def test_gold_lists_and_rules_make_a_tagger_old(demo_api: Api) -> None:
    training = train(demo_api)
    assert training["changes"] == []
    sign_again(demo_api, "test")
    assert demo_api.get("/trainings")[0]["changes"] == [], "test gold is nothing to a tagger"
    sign_again(demo_api, "train")
    lists = demo_api.get("/lists")
    demo_api.post(f"/lists/{lists[0]['id']}/entries", {"preferred": "Somebody New"})
    changes = demo_api.get("/trainings")[0]["changes"]
    assert changes == ["gold has changed in 1 sentence", "the lists have changed"]
    assert demo_api.get("/figures")["stale"]["tagger"] == changes


def test_a_training_is_stopped_repeated_used_and_removed(demo_api: Api) -> None:
    first = train(demo_api, "first")
    second = demo_api.post("/trainings", {"name": "second", "settings": SMALL})
    demo_api.delete(f"/trainings/{second['id']}", expect=409)
    stopped = demo_api.post(f"/trainings/{second['id']}/stop", expect=200)
    assert (stopped["job"]["state"], stopped["can_repeat"]) == ("stopped", True)
    demo_api.post(f"/trainings/{second['id']}/use", expect=409)
    again = demo_api.post(f"/trainings/{second['id']}/again", expect=200)
    assert again["live"]
    demo_api.run_jobs()
    assert [(t["name"], t["in_use"]) for t in demo_api.get("/trainings")] == [
        ("second", True),
        ("first", False),
    ]
    demo_api.post(f"/trainings/{second['id']}/again", expect=409)
    demo_api.delete(f"/trainings/{second['id']}", expect=409)
    demo_api.post(f"/trainings/{first['id']}/use", expect=200)
    demo_api.delete(f"/trainings/{second['id']}")
    assert [t["name"] for t in demo_api.get("/trainings")] == ["first"]


def test_wrong_settings_are_refused_at_their_field(demo_api: Api) -> None:
    for settings, field in (({"epochs": 0}, "epochs"), ({"features": ["lists"]}, "features")):
        assert demo_api.post("/trainings", {"name": "x", "settings": settings}, expect=422)["field"] == field
    assert demo_api.post("/trainings", {"name": " "}, expect=422)["field"] == "name"
    assert demo_api.post("/trainings", {"name": "x", "settings": {"epoch": 3}}, expect=422)
    assert demo_api.get("/trainings") == []
    help_text = demo_api.request("GET", "/api/training-settings").json()
    named = {s["name"] for s in help_text["settings"]} | {c["name"] for c in help_text["choices"]}
    assert [p["name"] for p in help_text["presets"]] == ["thorough", "early", "quick"]
    for preset in help_text["presets"]:
        assert named | {"features", "types"} == set(preset["settings"])


def test_a_config_as_text_is_read_back(demo_api: Api) -> None:
    training = train(demo_api, features=["words", "lists"], coding="BILOU")
    assert 'coding = "BILOU"' in training["config"]
    assert (
        demo_api.post("/trainings/read-config", {"text": training["config"]}, expect=200)
        == training["settings"]
    )
    refused = demo_api.post("/trainings/read-config", {"text": "patince = 3"}, expect=422)
    assert "did you mean 'patience'" in refused["detail"]


def test_a_training_says_what_it_learnt_of_each_type_and_word(demo_api: Api, part: Demo) -> None:
    training = train(demo_api)
    made = training["made_from"]
    spans = dict.fromkeys((t.code for t in part.types), 0)
    for bulletin in part.bulletins:
        if bulletin.split == "train" and bulletin.signed:
            for span in bulletin.gold:
                spans[span.type] += 1
    assert {row["type"]: row["train_spans"] for row in made["by_type"]} == spans
    assert any((row["dev_f1"] or 0) > 0.7 for row in made["by_type"])
    assert made["unsigned_texts"] == sum(not b.signed for b in part.bulletins)
    classes = demo_api.get(f"/trainings/{training['id']}/word-classes")
    assert all(one["words"] and one["size"] >= len(one["words"]) for one in classes)
    assert any(one["type"] for one in classes)
    plain = train(demo_api, "plain", features=["words"])
    assert demo_api.get(f"/trainings/{plain['id']}/word-classes") == []


def test_a_tagger_lost_to_a_new_format_is_trained_again(demo_api: Api) -> None:
    training = train(demo_api)
    with transaction(demo_api.settings.database_url) as db:
        db.execute(update(TrainingRow).values(model=None, in_use=False))
    assert demo_api.get("/trainings")[0]["can_repeat"]
    demo_api.post(f"/trainings/{training['id']}/again", expect=200)
    demo_api.run_jobs()
    assert demo_api.get("/trainings")[0]["in_use"]


def test_training_without_signed_sentences_fails_and_says_so(api: Api) -> None:
    assert "add one under Types" in api.post("/trainings", {"name": "x"}, expect=422)["detail"]
    api.post("/types", {"code": "VES", "name": "vessel", "key": "v", "hue": 1})
    training = train(api)
    assert training["job"]["state"] == "failed"
    assert "sign some at the Desk first" in training["job"]["message"]
    assert training["can_repeat"]


def test_a_renamed_type_is_tagged_under_its_new_code(demo_api: Api) -> None:
    train(demo_api)
    vessel = next(t for t in demo_api.get("/types")["types"] if t["code"] == "VES")
    wish = {k: v for k, v in vessel.items() if k not in {"id", "spans"}}
    demo_api.put(f"/types/{vessel['id']}", wish | {"code": "SHIP"})
    items = demo_api.get("/desk/queue", split="train")["items"]
    found = {
        span["type"]
        for item in items[:12]
        for span in demo_api.get(f"/desk/sentences/{item['id']}")["lanes"]["tagger"]
    }
    assert "SHIP" in found
    assert "VES" not in found


def test_a_damaged_model_is_answered_by_a_clear_problem(demo_api: Api) -> None:
    train(demo_api)
    with transaction(demo_api.settings.database_url) as db:
        db.execute(update(TrainingRow).values(model=b"broken"))
    item = demo_api.get("/desk/queue", split="train")["items"][0]
    assert "Train it again" in demo_api.get(f"/desk/sentences/{item['id']}", expect=422)["detail"]


def test_scorecards_are_frozen_and_every_figure_opens_its_sentences(demo_api: Api, part: Demo) -> None:
    train(demo_api)
    demo_api.post("/scorecards", expect=202)
    demo_api.post("/scorecards", expect=409)
    assert demo_api.run_jobs()[0]["state"] == "done"
    heads = demo_api.get("/scorecards")
    assert [h["source"] for h in heads] == ["resolved", "tagger", "lists", "rules"]
    assert {h["texts"] for h in heads} == {sum(b.split == "test" for b in part.bulletins)}
    card = demo_api.get(f"/scorecards/{heads[0]['id']}")
    assert card["changes"] == []
    assert 0.5 < card["f1"] < 1
    assert card["f1_low"] < card["f1"] < card["f1_high"]

    def staves(**wish: str) -> list[dict[str, Any]]:
        pages = stave_pages(demo_api, f"/scorecards/{card['id']}/sentences", **wish)
        return [stave for page in pages for stave in page]

    for outcome in ("right", "missed", "surplus"):
        assert card["overall"][outcome] == sum(figures[outcome] for figures in card["types"].values())
    for code, figures in card["types"].items():
        page = demo_api.get(f"/scorecards/{card['id']}/sentences", type=code, outcome="missed")
        listed = staves(type=code, outcome="missed")
        missed = 0
        for stave in listed:
            found = {(s["start"], s["end"], s["type"]) for s in stave["lanes"]["found"]}
            here = sum(
                s["type"] == code and (s["start"], s["end"], s["type"]) not in found
                for s in stave["lanes"]["gold"]
            )
            assert here, "a sentence without such an outcome is not listed"
            missed += here
        assert (missed, page["total"]) == (figures["missed"], len(listed))
    totals = {
        outcome: demo_api.get(f"/scorecards/{card['id']}/sentences", outcome=outcome)["total"]
        for outcome in ("", "right", "missed", "surplus", "gold", "found")
    }
    assert max(totals["right"], totals["missed"]) <= totals["gold"] <= totals["right"] + totals["missed"]
    assert max(totals["right"], totals["surplus"]) <= totals["found"] <= totals[""]
    before = staves()
    places = [[int(n) for n in stave["title"].split("/")] + [stave["number"]] for stave in before]
    assert places == sorted(places), "sentences come in reading order"
    assert len(before) == totals[""] > STAVES
    demo_api.get(f"/scorecards/{card['id']}/sentences", expect=404, after=99_999_999)
    sign_again(demo_api, "test")
    assert staves() == before, "a frozen card shows what it saw"
    assert demo_api.get(f"/scorecards/{card['id']}")["changes"] == ["test gold has changed in 1 sentence"]
    assert "scores" in demo_api.get("/figures")["stale"]
    demo_api.get(f"/scorecards/{card['id']}/sentences", expect=422, outcome="odd")
    demo_api.delete(f"/scorecards/{card['id']}")
    demo_api.get(f"/scorecards/{card['id']}", expect=404)


def test_scoring_needs_signed_test_sentences(api: Api) -> None:
    assert "nothing to score against" in api.post("/scorecards", expect=409)["detail"]


def test_without_a_tagger_lists_and_rules_are_scored(demo_api: Api) -> None:
    demo_api.post("/scorecards", expect=202)
    demo_api.run_jobs()
    assert [h["source"] for h in demo_api.get("/scorecards")] == ["resolved", "lists", "rules"]


@pytest.fixture
def assembled(demo_api: Api) -> Api:
    demo_api.post("/records/assembly", expect=202)
    demo_api.post("/records/assembly", expect=409)
    (job, *_) = demo_api.run_jobs()
    assert job["state"] == "done", job["message"]
    return demo_api


def template(api: Api, name: str) -> dict[str, Any]:
    return next(t for t in api.get("/records/templates") if t["name"] == name)


def rows(api: Api, template_id: int) -> list[dict[str, str]]:
    answer = api.request("GET", f"/api/projects/tessmar/records/templates/{template_id}/csv")
    assert answer.headers["content-disposition"] == 'attachment; filename="port-call.csv"'
    return list(csv.DictReader(io.StringIO(answer.text)))


def test_records_are_assembled_shown_and_downloaded(assembled: Api) -> None:
    call = template(assembled, "Port call")
    table = rows(assembled, call["id"])
    assert len(table) == call["records"] > 60
    assert {
        "text": "28/5",
        "vessel": "Lindmoor",
        "from": "Ostvar",
        "to": "",
        "berth": "Sill Wharf 2",
        "arrives": "2026-07-15T04:00",
        "sails": "",
        "cargo": "timber",
        "weight": "1900 m3",
        "agent": "",
    } in table
    shown = assembled.get(f"/records/templates/{call['id']}/records", limit=1000)["records"]
    names = [name for name in table[0] if name != "text"]
    told = [{name: r["values"].get(name, "") for name in names} | {"text": r["text_title"]} for r in shown]
    assert told == table
    lines = assembled.request(
        "GET", f"/api/projects/tessmar/records/templates/{call['id']}/jsonl"
    ).text.splitlines()
    parsed = [json.loads(line) for line in lines]
    assert [p["record"].get("vessel", "") for p in parsed] == [row["vessel"] for row in table]
    schema = assembled.get(f"/records/templates/{call['id']}/schema")
    check = jsonschema_rs.Draft202012Validator(schema)
    whole = [p for p in parsed if not p["missing"]]
    assert len(whole) > 50
    assert [error.message for p in whole for error in check.iter_errors(p["record"])] == []


def test_a_record_opens_its_sentences_and_reasons(assembled: Api) -> None:
    call = template(assembled, "Port call")
    records = assembled.get(f"/records/templates/{call['id']}/records", limit=1000)["records"]
    chosen = next(r for r in records if r["text_title"] == "28/5" and r["values"]["vessel"] == "Lindmoor")
    detail = assembled.get(f"/records/{chosen['id']}")
    (origin,) = detail["parts"]["from"]
    assert (origin["written"], origin["value"], origin["source"]) == ("OSTVAR", "Ostvar", "gold")
    assert origin["why"] == "behind “ex”; vessel right before it"
    assert origin["speaks"][0]["weight"] > 0
    (arrives,) = detail["read"]["arrives"]
    assert arrives["text"] == "2026-07-15T04:00"
    lanes = [stave["lanes"] for stave in detail["staves"]]
    own = f"record {detail['number']}"
    assert all("gold" in lane for lane in lanes)
    assert sum(len(lane.get(own, [])) for lane in lanes) == sum(len(p) for p in detail["parts"].values())


def test_records_come_in_pages_and_age_with_what_they_are_made_from(assembled: Api) -> None:
    call = template(assembled, "Port call")
    assert not call["stale"]
    seen: list[int] = []
    after = None
    while True:
        path = f"/records/templates/{call['id']}/records"
        page = assembled.get(path, limit=17, **({} if after is None else {"after": after}))
        seen += [r["id"] for r in page["records"]]
        after = page["next"]
        if after is None:
            break
    assert len(seen) == len(set(seen)) == call["records"]
    sign_again(assembled, "train")
    assert template(assembled, "Port call")["stale"]
    assert "records" in assembled.get("/figures")["stale"]
    assembled.post("/records/assembly", expect=202)
    assembled.run_jobs()
    assembled.get(f"/records/{seen[0]}", expect=404)
    assert not template(assembled, "Port call")["stale"]


def call_wish(shown: dict[str, Any]) -> dict[str, Any]:
    """A template as it is sent."""
    names = ("name", "anchor", "fields", "description", "scope", "each", "opens")
    return {name: shown[name] for name in names}


def test_required_fields_leave_records_open(assembled: Api) -> None:
    call = template(assembled, "Port call")
    fields = [f | {"required": f["name"] in {"vessel", "agent"}} for f in call["fields"]]
    assembled.put(
        f"/records/templates/{call['id']}",
        call_wish(call) | {"fields": fields, "version": call["version"]},
    )
    assembled.post("/records/assembly", expect=202)
    assembled.run_jobs()
    call = template(assembled, "Port call")
    table = rows(assembled, call["id"])
    assert call["open"] == sum(not (row["agent"] and row["vessel"]) for row in table) > 0
    page = assembled.get(f"/records/templates/{call['id']}/records", look="missing", limit=1000)
    alone = sum(
        "no anchor" in r["looks"]
        for r in assembled.get(f"/records/templates/{call['id']}/records", limit=1000)["records"]
    )
    assert len(page["records"]) == call["open"] - alone
    assert {"agent"} <= {name for r in page["records"] for name in r["missing"]} <= {"agent", "vessel"}


def test_templates_are_checked_and_removed(demo_api: Api) -> None:
    field = {"name": "vessel", "types": ["VES"]}
    wrong = [
        ({"name": "Port call", "anchor": "vessel", "fields": [field]}, 409, "name"),
        ({"name": "x", "anchor": "ship", "fields": [field]}, 422, "anchor"),
        ({"name": "x", "anchor": "vessel", "fields": [field, field]}, 422, "fields"),
        ({"name": "x", "anchor": "vessel", "fields": [field | {"types": ["NOPE"]}]}, 422, "type"),
        ({"name": " ", "anchor": "vessel", "fields": [field]}, 422, "name"),
        ({"name": "x", "anchor": "", "fields": [{"name": "", "types": ["VES"]}]}, 422, "fields"),
        ({"name": "x", "anchor": "vessel", "fields": [field], "opens": [["to"]]}, 422, "opens"),
        (
            {"name": "x", "anchor": "vessel", "fields": [field | {"kind": "quantity", "unit": "q"}]},
            422,
            "fields",
        ),
    ]
    for body, status, where in wrong:
        assert demo_api.post("/records/templates", body, expect=status)["field"] == where, body
    made = demo_api.post("/records/templates", {"name": "Tug", "anchor": "vessel", "fields": [field]})
    assert made["fields"][0]["types"] == ["VES"]
    assert (made["fields"][0]["kind"], made["scope"], made["each"], made["opens"]) == (
        "none",
        "text",
        "entity",
        [],
    )
    demo_api.delete(f"/records/templates/{made['id']}")
    assert [t["name"] for t in demo_api.get("/records/templates")] == ["Port call", "Incident"]


def test_assembly_without_a_template_is_refused(api: Api) -> None:
    assert "no record template" in api.post("/records/assembly", expect=409)["detail"]
