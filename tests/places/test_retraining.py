"""Training anew after so many signings."""

from __future__ import annotations

import threading
from typing import Any

from acting import act
from conftest import Api
from urdaten.places.desk import acts as desk
from urdaten.places.tagger import acts as tagger
from urdaten.places.team import acts as team
from urdaten.platform.database import transaction

BODIES = [
    f"{name} is in. {name} sails." for name in ("Pellin", "Ketta", "Haldis", "Varrow", "Orlin", "Gannet")
]


def fill(api: Api) -> list[dict[str, Any]]:
    """Six texts of two sentences; the last of them is for testing."""
    api.post("/types", {"code": "VES", "name": "vessel", "key": "v", "hue": 1})
    for number, body in enumerate(BODIES):
        split = ("train", "dev", "train", "dev", "train", "test")[number]
        api.post("/texts", {"title": str(number), "body": body, "split": split})
    items: list[dict[str, Any]] = api.get("/desk/queue")["items"]
    return items


def sign(api: Api, item: dict[str, Any]) -> None:
    shown = api.get(f"/desk/sentences/{item['id']}")
    end = shown["start"] + shown["words"].index(" ")
    api.put(
        f"/desk/sentences/{item['id']}",
        act("sign", 0, [{"start": shown["start"], "end": end, "type": "VES"}]),
    )


def test_the_tagger_is_trained_anew_after_so_many_signings(api: Api) -> None:
    items = fill(api)
    assert api.get("/trainings/anew") == {"after": 0, "signings": 0}
    sign(api, items[0])
    assert api.get("/trainings") == []
    api.put("/trainings/anew", {"after": 4}, expect=204)
    for item in items[1:3]:
        sign(api, item)
    # Signing a test text teaches nothing.
    sign(api, items[10])
    assert api.get("/trainings/anew") == {"after": 4, "signings": 3}
    assert api.get("/trainings") == []
    sign(api, items[3])
    (training,) = api.get("/trainings")
    assert training["name"] == "after 4 signings"
    # While it waits or runs no other begins, and afterwards it is in use.
    for item in items[4:9]:
        sign(api, item)
    assert len(api.get("/trainings")) == 1
    api.run_jobs()
    (training,) = api.get("/trainings")
    assert training["in_use"]
    sign(api, items[9])
    assert [t["in_use"] for t in api.get("/trainings")] == [False, True]


def test_a_new_one_is_trained_as_the_tagger_in_use_was(api: Api) -> None:
    items = fill(api)
    for item in items[:4]:
        sign(api, item)
    api.post("/trainings", {"name": "mine", "settings": {"epochs": 3, "seed": 77}})
    api.run_jobs()
    api.put("/trainings/anew", {"after": 2}, expect=204)
    for item in items[4:6]:
        sign(api, item)
    newest, mine = api.get("/trainings")
    assert newest["settings"] == mine["settings"]
    assert newest["settings"]["seed"] == 77


def test_older_ones_that_signings_began_are_let_go_but_nobody_elses(api: Api) -> None:
    items = fill(api)
    api.put("/trainings/anew", {"after": 1}, expect=204)
    sign(api, items[0])
    sign(api, items[2])
    api.run_jobs()
    api.post("/trainings", {"name": "mine", "settings": {"epochs": 1}})
    api.run_jobs()
    for item in items[3:8]:
        sign(api, item)
        api.run_jobs()
    names = [t["name"] for t in api.get("/trainings")]
    assert names == ["after 1 signing"] * 3 + ["mine"]


def test_lead_alone_says_after_how_many(api: Api) -> None:
    fill(api)
    assert api.put("/trainings/anew", {"after": -1}, expect=422)["field"] == "after"
    api.other("jo").put("/trainings/anew", {"after": 5}, expect=403)
    assert api.get("/trainings/anew")["after"] == 0


def test_nobody_waits_for_another_while_it_is_far_from_due(api: Api) -> None:
    items = fill(api)
    api.put("/trainings/anew", {"after": 100}, expect=204)
    done = threading.Event()

    def sign_and_ask(number: int, meanwhile: threading.Thread | None = None) -> None:
        with transaction(api.settings.database_url) as db:
            wish = desk.Signing(kind="sign as empty", version=0, wanted=())
            desk.annotate(db, 1, 1, number, wish)
            assert tagger.retrain_if_due(db, team.project_by_id(db, 1), 1) is None
            if meanwhile is not None:
                meanwhile.start()
                assert done.wait(20), "the other waited for the one who asked first"

    def other() -> None:
        sign_and_ask(items[1]["id"])
        done.set()

    sign_and_ask(items[0]["id"], threading.Thread(target=other))
