"""A project in which there is something of everything."""

from __future__ import annotations

import pytest

from acting import act
from conftest import Api
from urdaten.core.tagger import PRESETS
from urdaten.places.desk import acts as desk
from urdaten.platform.database import transaction


@pytest.fixture
def full(demo_api: Api) -> Api:
    """The demo project with something of everything in it."""
    first = demo_api.get("/desk/queue")["items"][0]["id"]
    shown = demo_api.get(f"/desk/sentences/{first}")["annotation"]
    demo_api.put(f"/desk/sentences/{first}", act("ask", shown["version"], question="a ship?"))
    demo_api.put(f"/desk/sentences/{first}", act("answer", shown["version"] + 1, answer="yes"))
    opened = demo_api.get(f"/desk/sentences/{first}")
    down = {"start": opened["tokens"][0]["start"], "end": opened["tokens"][0]["end"], "type": "CGO"}
    gold = [{name: s[name] for name in ("start", "end", "type")} for s in opened["annotation"]["spans"]]
    verdict = down | {"source": "lists", "maker": "cargoes", "taken": False}
    judged = act("turn down", shown["version"] + 2, gold, turned_down=[down], verdicts=[verdict])
    demo_api.put(f"/desk/sentences/{first}", judged)
    jo = next(m["id"] for m in demo_api.get("/team")["members"] if m["login"] == "jo")
    text_of_first = demo_api.get("/texts")["texts"][0]["id"]
    demo_api.post("/desk/rounds", {"name": "asked", "people": [jo], "texts": [text_of_first]})
    with transaction(demo_api.settings.database_url) as db:
        layer = desk.add_layer(db, 1, "Wim", account=jo)
        desk.sign_many(db, 1, jo, {first: []}, layer.id)
    tug = {
        "code": "TUG",
        "name": "tug",
        "key": "u",
        "hue": 3,
        "parent": demo_api.get("/types")["types"][0]["id"],
    }
    made = demo_api.post("/types", tug)
    old = demo_api.post("/types", tug | {"code": "OLD", "key": "z", "parent": None})
    scheme = demo_api.get("/types")["version"]
    demo_api.post(f"/types/{old['id']}/merge", {"into": made["id"], "scheme": scheme}, expect=200)
    settings = {name: value for name, value in PRESETS["quick"].as_dict().items()} | {"epochs": 2}
    demo_api.post("/trainings", {"name": "first", "settings": settings})
    demo_api.run_jobs()
    plan = demo_api.get("/pipeline")["version"]["plan"]
    demo_api.post("/pipeline/weights", {"plan": plan, "train": False}, 202)
    demo_api.run_jobs()
    for seen, weights in enumerate(("", str(demo_api.get("/pipeline/weights")["weights"][0]["id"]))):
        plan["stages"][2]["settings"] |= {"tagger": str(demo_api.get("/trainings")[0]["id"]), "least": 0.1}
        plan["policy"] |= {"kind": "weighed" if weights else "longest", "weights": weights}
        demo_api.put("/pipeline", {"plan": plan, "seen": seen})
    demo_api.put("/pipeline/versions/1/name", {"name": "the longest"})
    demo_api.post("/scorecards", expect=202)
    demo_api.run_jobs()
    demo_api.post("/records/assembly", expect=202)
    demo_api.run_jobs()
    # All records of one text are signed.
    path = f"/records/templates/{demo_api.get('/records/templates')[1]['id']}/records"
    records = demo_api.get(path)["records"]
    for one in records:
        if one["text_id"] == records[0]["text_id"]:
            demo_api.post(f"/records/{one['id']}/sign", expect=200)
    demo_api.post("/texts", {"title": "gone", "body": "This text is removed again."})
    text_id = demo_api.get("/texts", search="removed again")["texts"][0]["id"]
    sentence = demo_api.get(f"/texts/{text_id}/sentences")["sentences"][0]["id"]
    demo_api.put(f"/desk/sentences/{sentence}", act("sign as empty", 0))
    demo_api.put(f"/desk/sentences/{sentence}", act("unsign", 1))
    demo_api.delete(f"/texts/{text_id}", expect=200)
    return demo_api
