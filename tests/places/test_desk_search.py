"""Searching the queue: each thing that can be said of a sentence, and the order of what is found."""

from __future__ import annotations

from datetime import date
from typing import Any

import pytest

from acting import act
from conftest import Api

ARRIVALS = "Pellin is in from Varnby. The tug Pellin sails. Nothing further."
LETTER = "Haldis came by. PELLIN was late."


@pytest.fixture
def desk(api: Api) -> Api:
    for code, name, key in (("VES", "vessel", "v"), ("PRT", "port", "p")):
        api.post("/types", {"code": code, "name": name, "key": key, "hue": 1})
    arrivals = {"title": "33/1", "group": "week-33", "dated": "2026-08-10", "split": "train"}
    letter = {"title": "34/2", "group": "week-34", "dated": "2026-08-20", "split": "none"}
    api.post("/texts", {"body": ARRIVALS} | arrivals)
    api.post("/texts", {"body": LETTER} | letter)
    api.post("/texts", {"title": "exam", "body": "Pellin again.", "split": "test"})
    made = api.post("/lists", {"name": "vessels", "type": "VES"})
    api.post(f"/lists/{made['id']}/entries", {"preferred": "Haldis"})
    first = found(api)[0]
    gold = [{"start": 0, "end": 6, "type": "VES"}, {"start": 18, "end": 24, "type": "PRT"}]
    wish = act("sign", 0, gold)
    api.put(f"/desk/sentences/{first['id']}", wish)
    third = act("sign as empty", 0)
    api.put(f"/desk/sentences/{found(api)[2]['id']}", third)
    return api


def found(api: Api, expect: int = 200, **search: Any) -> Any:
    answer = api.get("/desk/queue/ordered", expect, **search)
    return answer["items"] if expect == 200 else answer


def words(api: Api, **search: Any) -> list[str]:
    return [item["words"] for item in found(api, **search)]


IN, TUG, NOTHING = "Pellin is in from Varnby.", "The tug Pellin sails.", "Nothing further."
CAME, LATE, AGAIN = "Haldis came by.", "PELLIN was late.", "Pellin again."


@pytest.mark.parametrize(
    ("search", "expected"),
    [
        ({}, [IN, TUG, NOTHING, CAME, LATE, AGAIN]),
        ({"words": "pellin"}, [IN, TUG, LATE, AGAIN]),
        ({"words": "pellin s"}, [TUG]),
        ({"state": "signed"}, [IN, NOTHING]),
        ({"state": "empty"}, [NOTHING]),
        ({"state": "untouched", "words": "e"}, [TUG, CAME, LATE, AGAIN]),
        ({"type": "PRT"}, [IN]),
        ({"type": "VES", "named": "PELLIN"}, [IN]),
        ({"named": "pell"}, []),
        ({"source": "lists"}, [CAME]),
        ({"source": "lists", "type": "PRT"}, []),
        ({"source": "together", "named": "haldis"}, [CAME]),
        ({"title": "33"}, [IN, TUG, NOTHING]),
        ({"group": "week-34"}, [CAME, LATE]),
        ({"since": "2026-08-15"}, [CAME, LATE]),
        ({"until": "2026-08-10"}, [IN, TUG, NOTHING]),
        ({"split": "none", "words": "by"}, [CAME]),
        ({"least": 0.5}, []),
    ],
)
def test_a_search_finds_sentences_that_are_all_it_says(
    desk: Api, search: dict[str, Any], expected: list[str]
) -> None:
    assert words(desk, **search) == expected


def test_questions_are_searched_for(desk: Api) -> None:
    tug = found(desk, words="tug")[0]
    wish = act("ask", 0, question="a ship?")
    desk.put(f"/desk/sentences/{tug['id']}", wish)
    assert words(desk, state="asked") == [TUG]


def test_what_is_found_keeps_its_order_while_one_works(desk: Api) -> None:
    before = words(desk, state="untouched", turn=1)
    tug = found(desk, words="tug")[0]
    desk.put(
        f"/desk/sentences/{tug['id']}",
        act("sign as empty", 0),
    )
    assert words(desk, state="untouched", turn=1) == before
    assert words(desk, state="untouched", turn=2) == [CAME, LATE, AGAIN]


def test_what_is_found_can_be_in_any_order(desk: Api) -> None:
    by_novelty = words(desk, by="novelty", words="pellin")
    assert sorted(by_novelty) == sorted([IN, TUG, LATE, AGAIN])
    assert by_novelty[0] != IN
    assert by_novelty[-1] == AGAIN


@pytest.mark.parametrize(
    ("search", "field", "said"),
    [
        ({"source": "oracle"}, "source", "A source is one of gold"),
        ({"state": "lost"}, "state", "A state is one of untouched"),
        ({"least": 1.5}, "least", "between 0 and 1"),
        ({"least": 0.8, "most": 0.2}, "least", "above the most"),
        ({"since": date(2026, 2, 1), "until": date(2026, 1, 1)}, "since", "after the last"),
    ],
)
def test_what_cannot_be_searched_is_said(desk: Api, search: dict[str, Any], field: str, said: str) -> None:
    problem = found(desk, expect=422, **search)
    assert problem["field"] == field
    assert said in problem["detail"]


def test_the_tagger_is_searched_by_probability(demo_api: Api) -> None:
    demo_api.post("/trainings", {"name": "quick", "settings": {"epochs": 2}})
    demo_api.run_jobs()
    every = found(demo_api, source="tagger", type="VES", limit=5000)
    for least in (0.9, 0.95, 0.98, 0.99, 0.995, 0.999):
        sure = found(demo_api, source="tagger", type="VES", least=least, limit=5000)
        if len(sure) < len(every):
            break
    doubtful = found(demo_api, source="tagger", type="VES", most=least, limit=5000)
    assert 0 < len(sure) < len(every)
    assert 0 < len(doubtful) < len(every)
    assert {item["split"] for item in every} == {"train", "dev", "none"}
    item = doubtful[0]
    lanes = demo_api.get(f"/desk/sentences/{item['id']}")["lanes"]
    assert any(s["type"] == "VES" and s["probability"] <= least for s in lanes["tagger"])


@pytest.mark.parametrize("source", ["lists", "rules", "learned", "together"])
def test_a_search_by_source_finds_what_the_desk_shows_in_its_lane(desk: Api, source: str) -> None:
    desk.post("/rules", {"name": "late", "type": "PRT", "pattern": "'late'"})
    desk.post(
        "/texts", {"title": "35/1", "split": "none", "body": "Pellin and Haldis. Pellin, late. Nothing."}
    )
    first = next(item for item in found(desk, turn=1) if item["words"].startswith("Pellin and"))
    opened = desk.get(f"/desk/sentences/{first['id']}")
    gold = [{"start": opened["start"], "end": opened["start"] + 6, "type": "VES"}]
    desk.put(f"/desk/sentences/{first['id']}", act("sign", 0, gold))
    shown = []
    for item in found(desk, turn=2):
        sentence = desk.get(f"/desk/sentences/{item['id']}")
        if sentence["resolved"] if source == "together" else sentence["lanes"].get(source):
            shown.append(item["words"])
    assert shown
    assert words(desk, source=source, turn=2) == shown
