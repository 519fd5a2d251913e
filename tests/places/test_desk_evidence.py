"""Evidence at the Desk: taken, turned down, learnt from signing; and schemes whose spans may overlap."""

from __future__ import annotations

from typing import Any

import pytest
from sqlalchemy import text

from acting import act
from conftest import Api
from urdaten.places.desk import acts
from urdaten.places.desk.acts import rankings
from urdaten.platform.database import transaction
from urdaten.server.application import build

BODIES = (
    "Pellin is in. Sill Wharf 4 is free.",
    "The Pellin sails from Sill Wharf 4.",
    "Pellin waits at Sill Wharf.",
)


@pytest.fixture
def desk(api: Api) -> Api:
    for code, name, key in (("VES", "vessel", "v"), ("BTH", "berth", "b"), ("ORG", "organisation", "o")):
        api.post("/types", {"code": code, "name": name, "key": key, "hue": 1})
    for number, body in enumerate(BODIES):
        api.post("/texts", {"title": f"33/{number}", "body": body, "split": "train"})
    return api


def opened(api: Api, words: str) -> dict[str, Any]:
    """The first sentence that begins with these words."""
    items = api.get("/desk/queue")["items"]
    found: dict[str, Any] = api.get(
        f"/desk/sentences/{next(i['id'] for i in items if i['words'].startswith(words))}"
    )
    return found


def span(sentence: dict[str, Any], words: str, code: str) -> dict[str, Any]:
    start = sentence["start"] + sentence["words"].index(words)
    return {"start": start, "end": start + len(words), "type": code}


def change(api: Api, sentence: dict[str, Any], kind: str, expect: int = 200, **more: Any) -> Any:
    now = api.get(f"/desk/sentences/{sentence['id']}")["annotation"]
    return api.put(f"/desk/sentences/{sentence['id']}", act(kind, now["version"], **more), expect)


def sign(api: Api, words: str, *spans: tuple[str, str]) -> dict[str, Any]:
    sentence = opened(api, words)
    wanted = [span(sentence, name, code) for name, code in spans]
    change(api, sentence, "sign" if spans else "sign as empty", spans=wanted)
    return sentence


def learned(api: Api, words: str) -> list[tuple[str, str, str]]:
    sentence = opened(api, words)
    body = sentence["before"] + sentence["words"]
    return [(body[s["start"] : s["end"]], s["type"], s["why"]) for s in sentence["lanes"]["learned"]]


def test_names_signed_alike_are_suggested_at_once(desk: Api) -> None:
    assert learned(desk, "Pellin waits") == []
    sign(desk, "Pellin is", ("Pellin", "VES"))
    assert learned(desk, "Pellin waits") == []
    second = sign(desk, "The Pellin", ("Pellin", "VES"), ("Sill Wharf 4", "BTH"))
    assert learned(desk, "Pellin waits") == [("Pellin", "VES", "signed twice, never otherwise")]
    assert [s["type"] for s in opened(desk, "Pellin waits")["resolved"]] == ["VES"]
    # A sentence suggests nothing to itself, and what is taken back is unlearnt.
    assert learned(desk, "The Pellin") == []
    change(desk, second, "unsign")
    assert learned(desk, "Pellin waits") == []


def test_nothing_is_learnt_from_test_texts(desk: Api) -> None:
    text = opened(desk, "The Pellin")["text"]
    sign(desk, "Pellin is", ("Pellin", "VES"))
    sign(desk, "The Pellin", ("Pellin", "VES"))
    assert learned(desk, "Pellin waits") != []
    desk.put(f"/texts/{text['id']}", {"title": text["title"], "split": "test", "version": 1})
    assert learned(desk, "Pellin waits") == []


def test_a_renamed_type_is_suggested_by_its_new_name(desk: Api) -> None:
    for words in ("Pellin is", "The Pellin"):
        sign(desk, words, ("Pellin", "VES"))
    ship = {"code": "SHP", "name": "ship", "key": "s", "hue": 1}
    vessel = next(t for t in desk.get("/types")["types"] if t["code"] == "VES")
    desk.put(f"/types/{vessel['id']}", ship | {"version": 1})
    assert [code for _, code, _ in learned(desk, "Pellin waits")] == ["SHP"]


def test_words_are_told_as_they_were_signed_elsewhere(desk: Api) -> None:
    sign(desk, "Sill Wharf 4", ("Sill Wharf 4", "BTH"))
    sign(desk, "Pellin waits", ("Sill Wharf", "ORG"))
    sentence = opened(desk, "The Pellin")
    at = span(sentence, "Sill Wharf", "BTH")
    path = f"/desk/sentences/{sentence['id']}/elsewhere"
    told = desk.get(path, start=at["start"], end=at["end"])
    assert told == {"as_span": {"ORG": 1}, "inside": {"BTH": 1}, "bare": 0, "sentences": 2}
    staves = desk.get(f"{path}/staves", start=at["start"], end=at["end"])
    assert [s["words"] for s in staves["staves"]] == ["Sill Wharf 4 is free.", "Pellin waits at Sill Wharf."]
    assert [s["type"] for s in staves["staves"][1]["lanes"]["gold"]] == ["ORG"]
    assert "do not lie in this sentence" in desk.get(path, 422, start=0, end=900)["detail"]


def test_what_is_taken_and_turned_down_is_logged_with_its_source(desk: Api) -> None:
    sentence = opened(desk, "Pellin waits")
    pellin, wharf = span(sentence, "Pellin", "VES"), span(sentence, "Sill Wharf", "BTH")
    verdict = {"source": "lists", "maker": "vessels", "taken": True}
    change(desk, sentence, "take", spans=[pellin], verdicts=[pellin | verdict])
    no = wharf | {"source": "tagger", "taken": False}
    done = change(
        desk,
        sentence,
        "turn down",
        spans=[pellin],
        turned_down=[wharf],
        verdicts=[no, no | {"source": "lists"}],
    )
    assert [s["type"] for s in done["turned_down"]] == ["BTH"]
    assert opened(desk, "Pellin waits")["annotation"] == done
    assert desk.get("/desk/acceptance") == [
        {"source": "lists", "taken": 1, "turned_down": 1},
        {"source": "tagger", "taken": 0, "turned_down": 1},
    ]
    # An act that is undone takes its verdicts with it.
    assert desk.post("/desk/undo", expect=200)["annotation"]["turned_down"] == []
    assert desk.get("/desk/acceptance") == [{"source": "lists", "taken": 1, "turned_down": 0}]
    assert [s["type"] for s in desk.post("/desk/redo", expect=200)["annotation"]["turned_down"]] == ["BTH"]
    assert len(desk.get("/desk/acceptance")) == 2
    # Also when it can no longer be done again.
    desk.post("/desk/undo", expect=200)
    change(desk, opened(desk, "Pellin waits"), "remove", spans=[])
    assert desk.get("/desk/acceptance") == [{"source": "lists", "taken": 1, "turned_down": 0}]


def test_a_question_is_asked_listed_and_answered_by_the_lead_alone(desk: Api) -> None:
    jo = desk.other("jo")
    sentence = opened(jo, "Pellin waits")
    change(jo, sentence, "ask", question=" Is a wharf a berth? ")
    asked = desk.get("/desk/queue", show="asked")["items"]
    assert [i["words"] for i in asked] == ["Pellin waits at Sill Wharf."]
    assert desk.get("/desk/queue/counts")["asked"] == 1
    answer: dict[str, Any] = {"answer": "Only with its number."}
    assert "Only a lead" in change(jo, sentence, "answer", 403, **answer)["detail"]
    change(desk, sentence, "answer", **answer)
    told = opened(jo, "Pellin waits")["annotation"]
    assert (told["question"], told["answer"]) == ("Is a wharf a berth?", "Only with its number.")
    assert desk.get("/desk/queue/counts")["asked"] == 0
    assert desk.get("/desk/queue", show="asked")["items"] == []
    assert "2000" in change(jo, sentence, "ask", 422, question="?" * 2001)["detail"]
    assert jo.post("/desk/undo", expect=200)["annotation"]["answer"] == "Only with its number."
    assert desk.post("/desk/undo", expect=200)["annotation"]["answer"] == ""


@pytest.mark.parametrize(
    ("rule", "nested", "crossing"), [("apart", 422, 422), ("nested", 200, 422), ("free", 200, 200)]
)
def test_a_scheme_says_how_spans_may_overlap(desk: Api, rule: str, nested: int, crossing: int) -> None:
    desk.put("/types/overlap", {"overlap": rule}, 204)
    assert desk.get("/types")["overlap"] == rule
    sentence = opened(desk, "The Pellin")
    outer, inner = span(sentence, "Sill Wharf 4", "BTH"), span(sentence, "Sill Wharf", "ORG")
    cross = span(sentence, "from Sill Wharf", "ORG")
    change(desk, sentence, "mark", nested, spans=[outer, inner])
    change(desk, sentence, "mark", crossing, spans=[outer, cross])
    change(desk, sentence, "mark", 422, spans=[outer, outer])


def test_a_scheme_is_not_narrowed_over_spans_that_it_would_forbid(desk: Api) -> None:
    desk.put("/types/overlap", {"overlap": "free"}, 204)
    sentence = opened(desk, "The Pellin")
    outer = span(sentence, "Sill Wharf 4", "BTH")
    change(desk, sentence, "mark", spans=[outer, span(sentence, "from Sill Wharf", "ORG")])
    assert "1 sentence has spans" in desk.put("/types/overlap", {"overlap": "nested"}, 409)["detail"]
    change(desk, sentence, "mark", spans=[outer, span(sentence, "Sill Wharf", "ORG")])
    assert "1 sentence has spans" in desk.put("/types/overlap", {"overlap": "apart"}, 409)["detail"]
    before = desk.get("/types")["version"]
    desk.put("/types/overlap", {"overlap": "nested"}, 204)
    desk.put("/types/overlap", {"overlap": "nested"}, 204)
    assert desk.get("/types")["version"] == before + 1
    desk.other("jo").put("/types/overlap", {"overlap": "free"}, 403)


def test_progress_counts_what_is_signed_as_empty(desk: Api) -> None:
    sign(desk, "Pellin is")
    sign(desk, "Pellin waits", ("Pellin", "VES"))
    counts = desk.get("/desk/queue/counts")
    assert (counts["total"], counts["signed"], counts["empty"]) == (4, 2, 1)
    assert desk.get("/desk/pace") == {"seconds": None}


def test_the_pace_is_that_of_ones_own_last_signings(desk: Api) -> None:
    sentence = opened(desk, "Pellin is")
    for _ in range(7):
        change(desk, sentence, "sign as empty")
        change(desk, sentence, "unsign")
    assert 0 < desk.get("/desk/pace")["seconds"] < 60
    assert desk.other("jo").get("/desk/pace") == {"seconds": None}


def order(api: Api, **more: Any) -> list[tuple[int, float | None]]:
    seen: list[tuple[int, float | None]] = []
    after: int | None = 0
    page: dict[str, Any] = {}
    while after is not None:
        page = api.get("/desk/queue/ordered", after=after, limit=400, **more)
        seen += [(item["id"], item["worth"]) for item in page["items"]]
        after = page["next"]
    wanted = {name: value for name, value in more.items() if name in ("split", "round")}
    if "words" not in more:
        assert len(seen) == api.get("/desk/queue/counts", **wanted)["total"]
    return seen


@pytest.mark.parametrize("by", ["disputes", "novelty"])
def test_the_queue_is_ordered_by_what_teaches_most(demo_api: Api, by: str) -> None:
    seen = order(demo_api, by=by)
    assert len({number for number, _ in seen}) == len(seen) == demo_api.get("/figures")["sentences"]
    worth = [value for _, value in seen if value is not None]
    assert worth == sorted(worth, reverse=True)
    assert worth[0] > worth[-1]
    # Test texts have no worth, and come last.
    test = {item["id"] for item in demo_api.get("/desk/queue", split="test")["items"]}
    assert {number for number, value in seen if value is None} == test
    assert {number for number, _ in seen[-len(test) :]} == test


def test_the_order_stays_while_one_works(desk: Api) -> None:
    first = order(desk, by="novelty", turn=1)
    assert {value for _, value in first} != {None}
    sign(desk, "Pellin is", ("Pellin", "VES"))
    assert order(desk, by="novelty", turn=1) == first
    assert order(desk, by="novelty", turn=2) != first


def test_the_order_outlives_the_server_and_takes_in_nothing_new(desk: Api) -> None:
    first = order(desk, by="novelty", turn=1)
    sign(desk, "Pellin is", ("Pellin", "VES"))
    # Another server of the same database.
    there = Api(build(desk.settings), desk.settings)
    there.cookies = desk.cookies
    assert order(there, by="novelty", turn=1) == first
    assert order(there, by="novelty", turn=3) != first
    # Another project's order of the same name is another.
    desk.request("POST", "/api/projects", json={"name": "Other", "language": "en"})
    assert (
        desk.request("GET", "/api/projects/other/desk/queue/ordered?by=novelty&turn=1").json()["items"] == []
    )


def test_rankings_are_not_kept_for_ever(desk: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(rankings, "KEPT", 3)
    first = order(desk, by="novelty", turn=1)
    with transaction(desk.settings.database_url) as db:
        db.execute(text("UPDATE ranking SET created_at = now() - interval '8 days'"))
    sign(desk, "Pellin is", ("Pellin", "VES"))
    assert order(desk, by="novelty", turn=1) != first
    for turn in range(2, 7):
        order(desk, by="random", turn=turn)
    with transaction(desk.settings.database_url) as db:
        assert db.scalar(text("SELECT count(*) FROM ranking")) == 3


def test_two_who_ask_for_one_order_at_once_get_the_same(desk: Api) -> None:
    digest, one, other = "same", [(1, 0.5), (2, None)], [(2, 1.0)]
    url = desk.settings.database_url
    with transaction(url, snapshot=True) as db:
        assert acts.read_ranking(db, 1, digest) is None
        with transaction(url, snapshot=True) as first:
            acts.keep_ranking(first, 1, digest, one)
        acts.keep_ranking(db, 1, digest, other)
    with transaction(url) as db:
        kept = acts.read_ranking(db, 1, digest)
        assert kept is not None
        assert kept.part(db, 0, 9) == one


def test_a_random_order_follows_its_seed_alone(desk: Api) -> None:
    items = [item["id"] for item in desk.get("/desk/queue")["items"]]
    orders = [
        [number for number, _ in order(desk, by="random", seed=seed, turn=turn)]
        for seed, turn in ((1, 0), (1, 5))
    ]
    assert orders[0] == orders[1]
    assert sorted(orders[0]) == sorted(items)
    others = {tuple(number for number, _ in order(desk, by="random", seed=seed)) for seed in range(8)}
    assert len(others) > 3


def test_a_list_that_is_mostly_wrong_disputes_nothing(desk: Api) -> None:
    made = desk.post("/lists", {"name": "cargoes", "type": "BTH"})
    desk.post(f"/lists/{made['id']}/entries", {"preferred": "Wharf", "variants": []})
    for number in range(5):
        desk.post(
            "/texts", {"title": f"34/{number}", "body": f"Ask Sill Wharf about {number}.", "split": "train"}
        )

    def noise() -> dict[str, Any]:
        desk.get("/lists")
        (found,) = opened(desk, "Pellin waits")["lanes"]["lists"]
        return dict(found)

    for number in range(3):
        sign(desk, f"Ask Sill Wharf about {number}", ("Sill Wharf", "ORG"))
    # Three wrong ones may be chance.
    assert noise()["doubt"] == ""
    for number in (3, 4):
        sign(desk, f"Ask Sill Wharf about {number}", ("Sill Wharf", "ORG"))
    assert noise()["doubt"] == "right 0 of 5 times where sentences are signed"
    # What was signed elsewhere says otherwise, but how often that is right nobody has counted.
    assert noise()["overruled"] == ""
    sentence = opened(desk, "Pellin waits")
    (answer,) = [s for s in sentence["resolved"] if s["type"] != "VES"]
    assert (answer["type"], answer["source"]) == ("ORG", "learned")
    rule = {"name": "sill", "type": "ORG", "pattern": "'Sill Wharf'", "on": True}
    desk.post("/rules", rule)
    for number in range(5, 40):
        body = f"Ask Sill Wharf about {number}."
        desk.post("/texts", {"title": f"34/{number}", "body": body, "split": "train"})
        sign(desk, f"Ask Sill Wharf about {number}", ("Sill Wharf", "ORG"))
    desk.get("/rules")
    assert noise()["overruled"] == "right 0 of 40 times where sentences are signed; ORG is surer here"
    by_disputes: dict[str, Any] = {"by": "disputes", "turn": 1, "seed": 1}
    worths = {
        item["words"]: item["worth"] for item in desk.get("/desk/queue/ordered", **by_disputes)["items"]
    }
    assert worths["Pellin waits at Sill Wharf."] == 0
