"""Weights that are learnt in a project, the stages compared, and versions that have a name, are compared or published."""

from __future__ import annotations

from collections.abc import Collection
from typing import Any

import pytest
from sqlalchemy import text

from acting import act
from conftest import Api
from piping import GOODS, SHIPS, answer, keep, plan_of, stage, with_lists
from urdaten.core.bundle import Runner, from_bytes
from urdaten.core.pipeline import Material, Signed
from urdaten.core.tagger import Tagger
from urdaten.places.pipeline.acts.examples import Examples
from urdaten.places.pipeline.acts.signed_texts import SignedTexts
from urdaten.places.pipeline.acts.weighing import Weighing
from urdaten.platform.database import transaction

Values = dict[str, Any]
WEEKS = 24


@pytest.fixture
def port(api: Api) -> Api:
    """Bulletins in which one list is right of ships, and the other one says cargo of every ship's first word."""
    with_lists(api)
    for number in range(WEEKS):
        split = "dev" if number % 3 else "train"
        api.post(
            "/texts",
            {
                "title": str(number),
                "body": f"The Amber Quay takes salt. Haldis waits at {number}.",
                "split": split,
            },
        )
    for item in api.get("/desk/queue", limit=200)["items"]:
        spans = [(4, 14, "VES"), (21, 25, "CGO")] if item["number"] == 0 else [(27, 33, "VES")]
        named = [{"start": a, "end": b, "type": code} for a, b, code in spans]
        api.put(f"/desk/sentences/{item['id']}", act("sign", 0, named))
    return api


def weighed(api: Api, *, train: bool = False, **change: Any) -> Values:
    """A plan that weighs both lists, by weights that were learnt for it."""
    plan = plan_of(api) | {"stages": [SHIPS, GOODS]} | change
    api.post("/pipeline/weights", {"plan": plan, "train": train}, 202)
    (job,) = [one for one in api.run_jobs() if one["kind"] == "weighing"][:1]
    assert job["state"] == "done", job["message"]
    newest = api.get("/pipeline/weights")["weights"][0]
    return plan | {"policy": plan["policy"] | {"kind": "weighed", "weights": str(newest["id"])}}


def test_weights_are_learnt_from_what_was_signed_and_answer_everywhere(port: Api) -> None:
    plan = weighed(port)
    held = port.get("/pipeline/weights")
    (weights,) = held["weights"]
    assert held["job"]["message"] == "Weights 1 are learnt from 32 signed dev sentences."
    assert (weights["texts"], weights["sentences"], weights["train_texts"]) == (16, 32, 0)
    # A word of a ship is no cargo: nobody says so but the list.
    assert weights["weighed"] == {"right": 48, "found": 48, "gold": 48}
    assert weights["gain"]["f1"] == 0
    look = port.post("/pipeline/look", plan, 200)
    assert look["after"] == {"right": 48, "found": 48, "gold": 48}
    assert look["weights"]["changes"] == []
    keep(port, plan, 0)
    assert answer(port) == [("Amber Quay", "VES"), ("salt", "CGO")]
    first = port.get("/desk/queue")["items"][0]["id"]
    opened = port.get(f"/desk/sentences/{first}")
    assert opened["weighs_from"] == weights["least"]
    assert all(span["probability"] > 0.5 for span in opened["resolved"])
    # Whoever sets another least probability is told of that one.
    keep(port, plan | {"policy": plan["policy"] | {"least": 0.9999}}, 1)
    assert port.get(f"/desk/sentences/{first}")["weighs_from"] == 0.9999
    assert answer(port) == []
    # One that does not weigh says nothing of that, whatever it was before.
    keep(port, plan | {"policy": plan["policy"] | {"kind": "order", "least": 0.9}}, 2)
    assert port.get(f"/desk/sentences/{first}")["weighs_from"] is None
    assert answer(port) == [("Amber", "CGO"), ("salt", "CGO")]


def test_weights_are_held_against_a_pipeline_that_has_not_seen_the_gold_either(port: Api) -> None:
    plan = weighed(port)
    # Weights of now that say yes to everything are no measure; nor are such that know dev by heart.
    with transaction(port.settings.database_url) as db:
        db.execute(
            text("""UPDATE weights SET weigher = weigher || '{"weights": {"any span": 9}, "least": 0}'""")
        )
    keep(port, plan, 0)
    weighed(port)
    newest = port.get("/pipeline/weights")["weights"][0]
    assert newest["now"] == newest["weighed"] == {"right": 48, "found": 48, "gold": 48}


def test_train_texts_teach_as_well(port: Api) -> None:
    weighed(port, train=True)
    (weights,) = port.get("/pipeline/weights")["weights"]
    assert (weights["sentences"], weights["train_texts"]) == (32, 8)


def test_no_train_text_is_read_by_a_tagger_that_has_learnt_from_it(
    port: Api, monkeypatch: pytest.MonkeyPatch
) -> None:
    with transaction(port.settings.database_url) as db:
        db.execute(text("UPDATE text SET \"group\" = 'week' WHERE title IN ('0', '3')"))
        db.execute(text("UPDATE revision SET number = number + 1 WHERE place = 'texts'"))
        rows = db.execute(text("SELECT title, id FROM text WHERE split = 'train'"))
        train = {row.title: row.id for row in rows}
    port.post("/trainings", {"name": "one", "settings": {"epochs": 2}})
    port.run_jobs()
    learnt, read = [], []
    learn, signed = Examples.learnt, Weighing._signed

    def learning(self: Examples, *args: Any, without: Collection[int] = (), **more: Any) -> Tagger:
        learnt.append(set(self.train) - set(without))
        return learn(self, *args, **(more | {"without": without}))

    def reading(self: Weighing, held: SignedTexts, material: Material) -> Signed:
        read.append({one.id for one in held.wanted})
        return signed(self, held, material)

    monkeypatch.setattr(Examples, "learnt", learning)
    monkeypatch.setattr(Weighing, "_signed", reading)
    weighed(port, train=True, stages=[SHIPS, GOODS, stage("tagger", "tagger")])
    assert len(learnt) == 5
    # The last that is read is dev.
    assert set().union(*read[:-1]) == set(train.values())
    assert sum(map(len, read[:-1])) == len(train)
    assert all(not one & other for one, other in zip(learnt, read, strict=False))
    assert any({train["0"], train["3"]} <= own for own in read[:-1]), "what belongs together stays together"


def test_why_a_span_has_its_probability(port: Api) -> None:
    plan = weighed(port)
    words = "The Amber Quay takes salt."
    wish = {"plan": plan, "words": words, "start": 4, "end": 14, "type": "VES"}
    told = port.post("/pipeline/weigh", wish, 200)
    assert told["probability"] > 0.9
    assert {"said by ships", "said by ships, “ships”"} <= {part["name"] for part in told["parts"]}
    port.post("/pipeline/weigh", wish | {"type": "CGO"}, 404)
    port.post("/pipeline/weigh", wish | {"plan": plan_of(port)}, 422)
    keep(port, plan, 0)
    first = port.get("/desk/queue")["items"][0]["id"]
    same = port.get("/pipeline/weighed", sentence=first, start=4, end=14, type="VES")
    assert [part["name"] for part in same["parts"]] == [part["name"] for part in told["parts"]]
    by_sentence = {key: value for key, value in wish.items() if key != "words"} | {"sentence": first}
    assert port.post("/pipeline/weigh", by_sentence, 200) == same
    with transaction(port.settings.database_url) as db:
        db.execute(text("UPDATE text SET split = 'test' WHERE title = '0'"))
    quiet = port.get("/desk/queue", split="test")["items"][0]["id"]
    port.get("/pipeline/weighed", 403, sentence=quiet, start=4, end=14, type="VES")


def test_what_is_called_otherwise_weighs_as_before(port: Api) -> None:
    plan = weighed(port)
    keep(port, plan, 0)
    before = answer(port)
    ships = next(one for one in port.get("/lists") if one["name"] == "ships")
    port.put(f"/lists/{ships['id']}", {"name": "all ships", "type": "VES", "on": True, "version": 1})
    words = {"words": "The Amber Quay takes salt.", "start": 4, "end": 14, "type": "VES"}
    told = port.post("/pipeline/weigh", {"plan": plan_of(port), **words}, 200)
    assert "said by ships, “ships”" in {part["name"] for part in told["parts"]}
    # Another list that has the name now is not the one that was learnt.
    other = port.post("/lists", {"name": "ships", "type": "VES"})
    port.post(f"/lists/{other['id']}/entries", {"preferred": "Quay takes"})
    now = plan_of(port)
    both = now | {"stages": [stage("ships", "lists", lists=("all ships", "ships")), *now["stages"][1:]]}
    wish = {"plan": both, **words, "start": 10, "end": 20}
    told = port.post("/pipeline/weigh", wish, 200)
    assert "said by ships, “ships”" not in {part["name"] for part in told["parts"]}
    assert answer(port) == before


def test_nothing_is_learnt_from_too_little_or_for_a_plan_that_cannot_be(port: Api) -> None:
    plan = plan_of(port)
    port.post("/pipeline/weights", {"plan": plan | {"stages": [stage("none", "rules")]}, "train": False}, 202)
    (job,) = port.run_jobs()[:1]
    assert job["state"] == "failed"
    assert "it takes 30" in job["message"]
    port.post("/pipeline/weights", {"plan": plan | {"stages": [stage("t", "tagger")]}, "train": False}, 202)
    (job,) = port.run_jobs()[:1]
    assert job["state"] == "failed"
    assert "tagger in use" in job["message"]
    assert port.get("/pipeline/weights")["weights"] == []
    port.other("jo").post("/pipeline/weights", {"plan": plan, "train": False}, 403)
    refused = keep(port, plan | {"policy": plan["policy"] | {"kind": "weighed", "weights": "7"}}, 0, 422)
    assert "Nothing has been learnt" in refused["detail"]


def test_two_do_not_learn_at_once_and_older_weights_go_unless_a_version_names_them(port: Api) -> None:
    plan = plan_of(port) | {"stages": [SHIPS, GOODS]}
    port.post("/pipeline/weights", {"plan": plan, "train": False}, 202)
    port.post("/pipeline/weights", {"plan": plan, "train": False}, 409)
    port.run_jobs()
    first = port.get("/pipeline/weights")["weights"][0]["id"]
    keep(port, plan | {"policy": plan["policy"] | {"kind": "weighed", "weights": str(first)}}, 0)
    keep(port, plan, 1)
    for _ in range(6):
        weighed(port)
    left = [one["id"] for one in port.get("/pipeline/weights")["weights"]]
    assert left == [first + k for k in (6, 5, 4, 3, 2)] + [first]


def test_weights_of_another_project_are_none_of_ours(port: Api) -> None:
    plan = weighed(port)
    made = port.request("POST", "/api/projects", json={"name": "Other", "language": "en"})
    assert made.status_code == 201, made.text
    there = f"/api/projects/{made.json()['slug']}"
    port.request("POST", f"{there}/types", json={"code": "VES", "name": "vessel", "key": "v", "hue": 1})
    for name in ("ships", "goods"):
        port.request("POST", f"{there}/lists", json={"name": name, "type": "VES"})
    refused = port.request("PUT", f"{there}/pipeline", json={"plan": plan, "seen": 0})
    assert (refused.status_code, "Nothing has been learnt" in refused.json()["detail"]) == (422, True)


# Stages compared


def test_stages_are_compared_on_dev(port: Api) -> None:
    assert port.get("/pipeline/ablation") is None
    plan = plan_of(port) | {
        "stages": [SHIPS, GOODS | {"towards": {"ships": "binds"}}, stage("types", "types", drop=("CGO",))]
    }
    port.post("/pipeline/ablation", plan, 202)
    port.post("/pipeline/ablation", plan, 409)
    port.run_jobs()
    found = port.get("/pipeline/ablation")
    assert (found["job"]["state"], found["texts"], found["sentences"]) == ("done", 16, 32)
    rows = {(row["how"], row["stage"]): row for row in found["rows"]}
    # What stages do to the spans of others they cannot do alone.
    assert list(rows) == [
        ("whole", ""),
        ("alone", "ships"),
        ("alone", "goods"),
        ("without", "ships"),
        ("without", "goods"),
        ("without", "types"),
    ]
    assert {key: (row["right"], row["found"]) for key, row in rows.items()} == {
        ("whole", ""): (32, 32),
        ("alone", "ships"): (32, 32),
        ("alone", "goods"): (16, 32),
        ("without", "ships"): (0, 0),
        ("without", "goods"): (32, 32),
        ("without", "types"): (48, 48),
    }
    best = rows["without", "types"]
    assert best["against"]["f1"] == pytest.approx(0.2)
    assert best["against"]["low"] == pytest.approx(0.2)
    assert best["f1"] == best["f1_high"] == 1
    assert any("“ships” is new" in said or "“lists” is" in said for said in found["changes"])
    keep(port, plan, 0)
    assert port.get("/pipeline/ablation")["changes"] == []


def test_what_weighs_is_compared_by_weights_that_have_not_seen_it(port: Api) -> None:
    noise = port.post("/lists", {"name": "noise", "type": "CGO"})
    port.post(f"/lists/{noise['id']}/entries", {"preferred": "waits"})
    plan = weighed(port, stages=[SHIPS, GOODS, stage("noise", "lists", lists=("noise",))])
    # Weights that were learnt say yes to everything; whoever compares learns anew.
    with transaction(port.settings.database_url) as db:
        db.execute(
            text("""UPDATE weights SET weigher = weigher || '{"weights": {"any span": 9}, "least": 0}'""")
        )
    assert port.post("/pipeline/look", plan, 200)["after"] == {"right": 32, "found": 64, "gold": 48}
    port.post("/pipeline/ablation", plan, 202)
    port.run_jobs()
    rows = {(row["how"], row["stage"]): row for row in port.get("/pipeline/ablation")["rows"]}
    assert rows["whole", ""]["right"] == 48
    # Alone nobody is weighed, so that what is always wrong is heard.
    assert (rows["alone", "noise"]["right"], rows["alone", "noise"]["found"]) == (0, 16)
    # Nothing tells the two cargoes apart where nobody says ship.
    assert (rows["alone", "goods"]["right"], rows["alone", "goods"]["found"]) == (16, 32)
    assert (rows["without", "ships"]["right"], rows["without", "ships"]["found"]) == (16, 32)


def test_stages_that_cannot_run_alone_say_why_and_others_are_compared(port: Api) -> None:
    plan = plan_of(port) | {"stages": [SHIPS, stage("t", "tagger") | {"on": False}]}
    port.post("/pipeline/ablation", plan, 202)
    port.run_jobs()
    assert [row["how"] for row in port.get("/pipeline/ablation")["rows"]] == ["whole"]
    port.post("/pipeline/ablation", plan | {"stages": []}, 409)
    with transaction(port.settings.database_url) as db:
        db.execute(text("UPDATE text SET split = 'train'"))
        db.execute(text("UPDATE revision SET number = number + 1 WHERE place = 'texts'"))
    port.post("/pipeline/ablation", plan, 202)
    (job,) = port.run_jobs()[:1]
    assert "No sentence of a dev text is signed" in job["message"]
    port.other("jo").post("/pipeline/ablation", plan, 403)


# Versions


def test_two_versions_are_compared(port: Api) -> None:
    plan = plan_of(port)
    keep(port, plan | {"stages": [SHIPS]}, 0)
    keep(port, plan | {"stages": [SHIPS, GOODS]}, 1)
    found = port.get("/pipeline/compare", before=1, after=2)
    assert found["said"] == ["“goods” is new"]
    assert found["look"]["before"] == {"right": 32, "found": 32, "gold": 48}
    # Where both say something of the same words, the later stage goes first.
    assert found["look"]["after"] == {"right": 32, "found": 48, "gold": 48}
    assert found["look"]["differing"] == 16
    back = port.get("/pipeline/compare", before=2, after=1)
    assert (back["said"], back["look"]["after"]) == (["“goods” is gone"], found["look"]["before"])
    assert port.get("/pipeline/compare", before=1, after=1)["look"]["differing"] == 0
    port.get("/pipeline/compare", 404, before=1, after=7)


def test_versions_have_names(port: Api) -> None:
    keep(port, plan_of(port) | {"stages": [SHIPS]}, 0)
    keep(port, plan_of(port) | {"stages": [GOODS]}, 1)
    assert port.put("/pipeline/versions/1/name", {"name": " for the port "})["name"] == "for the port"
    assert "for the port" in port.put("/pipeline/versions/2/name", {"name": "for the port"}, 422)["detail"]
    port.put("/pipeline/versions/2/name", {"name": "x" * 81}, 422)
    port.put("/pipeline/versions/0/name", {"name": "first"}, 404)
    port.put("/pipeline/versions/9/name", {"name": "first"}, 404)
    assert [one["name"] for one in port.get("/pipeline/versions")] == ["", "for the port", ""]
    assert port.put("/pipeline/versions/1/name", {"name": ""})["name"] == ""
    # Two may be without one.
    port.other("jo").put("/pipeline/versions/1/name", {"name": "mine"}, 403)


def fetched(api: Api, path: str) -> bytes:
    found = api.request("GET", f"/api/projects/tessmar/pipeline{path}")
    assert found.status_code == 200, found.text
    return found.content


def test_what_is_published_answers_the_same_for_good(port: Api) -> None:
    port.get("/pipeline/published", 404)
    keep(port, plan_of(port) | {"stages": [SHIPS, GOODS | {"towards": {"ships": "binds"}}]}, 0)
    port.post("/pipeline/versions/1/publish", expect=202)
    (job,) = port.run_jobs()[:1]
    assert job["message"] == "Version 1 is published."
    file = fetched(port, "/published")
    assert file == fetched(port, "/versions/1/bundle") == fetched(port, "/bundle")
    # Lists change, and so does the pipeline; the file does not.
    ships = next(one for one in port.get("/lists") if one["name"] == "ships")
    port.post(f"/lists/{ships['id']}/entries", {"preferred": "salt"})
    keep(port, plan_of(port) | {"stages": [SHIPS]}, 1)
    assert fetched(port, "/published") == file != fetched(port, "/bundle")
    (found,) = Runner(from_bytes(file)).run(["The Amber Quay takes salt."])
    assert [s.type for s in found.spans] == ["VES", "CGO"]
    # Every member may have it; publishing is for leads.
    jo = port.other("jo")
    assert fetched(jo, "/published") == file
    jo.post("/pipeline/versions/2/publish", expect=403)
    jo.delete("/pipeline/versions/1/publish", 403)
    assert jo.request("GET", "/api/projects/tessmar/pipeline/versions/1/bundle").status_code == 403


def test_one_version_is_published_and_may_be_withdrawn(port: Api) -> None:
    for number, stages in enumerate(([SHIPS], [GOODS])):
        keep(port, plan_of(port) | {"stages": stages}, number)
        port.post(f"/pipeline/versions/{number + 1}/publish", expect=202)
        port.run_jobs()

    def flags() -> list[tuple[bool, bool]]:
        return [(one["published"], one["has_bundle"]) for one in port.get("/pipeline/versions")]

    assert flags() == [(True, True), (False, True), (False, False)]
    again = fetched(port, "/versions/1/bundle")
    port.post("/pipeline/versions/1/publish", expect=202)
    port.run_jobs()
    assert flags() == [(False, True), (True, True), (False, False)]
    assert fetched(port, "/published") == again
    assert port.delete("/pipeline/versions/1/publish", 200)["published"] is False
    assert flags() == [(False, True), (False, False), (False, False)]
    port.get("/pipeline/published", 404)
    port.delete("/pipeline/versions/1/publish", 409)
    port.delete("/pipeline/versions/9/publish", 404)
    port.post("/pipeline/versions/9/publish", expect=404)
    with transaction(port.settings.database_url) as db:
        assert db.scalar(text("SELECT count(*) FROM artefact")) == 1


def test_the_first_pipeline_becomes_a_version_when_it_is_published(port: Api) -> None:
    before = plan_of(port)
    port.post("/pipeline/versions/0/publish", expect=404)
    port.post("/pipeline/publish", expect=202)
    port.run_jobs()
    port.post("/pipeline/publish", expect=409)
    newest = port.get("/pipeline/versions")[0]
    assert (newest["number"], newest["said"], newest["published"], newest["plan"]) == (
        1,
        "as the project began",
        True,
        before,
    )


def test_a_version_that_cannot_run_is_not_published(port: Api) -> None:
    keep(port, plan_of(port) | {"stages": [SHIPS]}, 0)
    ships = next(one for one in port.get("/lists") if one["name"] == "ships")
    port.put(f"/lists/{ships['id']}", {"name": "ships", "type": "VES", "on": False, "version": 1})
    assert "names the list “ships”" in port.post("/pipeline/versions/1/publish", expect=422)["detail"]
    assert port.get("/jobs") == []


def test_publishing_is_stopped_and_keeps_nothing(port: Api) -> None:
    keep(port, plan_of(port) | {"stages": [SHIPS]}, 0)
    job = port.post("/pipeline/versions/1/publish", expect=202)
    with transaction(port.settings.database_url) as db:
        db.execute(text("UPDATE job SET stop_requested = true"))
    port.run_jobs()
    (stopped,) = [one for one in port.get("/jobs") if one["id"] == job["id"]]
    assert (stopped["state"], stopped["message"][:23]) == ("stopped", "Publishing was stopped;")
    assert [(one["published"], one["has_bundle"]) for one in port.get("/pipeline/versions")] == [
        (False, False)
    ] * 2


def test_weights_go_into_the_bundle(port: Api) -> None:
    plan = weighed(port)
    keep(port, plan, 0)
    bundle = from_bytes(fetched(port, "/bundle"))
    assert bundle.plan.policy.weights == ""
    assert bundle.weigher is not None
    (found,) = Runner(bundle).run(["The Amber Quay takes salt. Haldis waits."])
    told = [(s.start, s.end, s.type) for s in found.spans]
    assert told == [(4, 14, "VES"), (21, 25, "CGO"), (27, 33, "VES")]
    assert [s.probability for s in found.spans] == pytest.approx(
        [
            port.post(
                "/pipeline/weigh",
                {
                    "plan": plan,
                    "words": "The Amber Quay takes salt. Haldis waits.",
                    "start": a,
                    "end": b,
                    "type": c,
                },
                200,
            )["probability"]
            for a, b, c in told
        ],
        rel=1e-4,
    )
