"""Texts split into train, dev and test, and what leaks."""

from __future__ import annotations

import json
from collections import Counter
from typing import Any

import pytest

from conftest import Api
from urdaten.demo.files import Demo

SHARES = {"train": 70, "dev": 15, "test": 15, "seed": 3}


def drafted(api: Api, expect: int = 200, **more: Any) -> dict[str, Any]:
    draft: dict[str, Any] = api.post("/texts/splits/draft", SHARES | more, expect=expect)
    return draft


def splits(api: Api) -> dict[int, str]:
    return {one["id"]: one["split"] for one in api.get("/texts")["texts"]}


def marked(api: Api) -> list[tuple[str, str, str]]:
    """Split, type and words of every span, as the corpus has them."""
    answer = api.request("GET", "/api/projects/tessmar/corpus", params={"unsigned": True})
    texts = [json.loads(line) for line in answer.text.splitlines()]
    return [(t["split"], s["type"], t["text"][s["start"] : s["end"]]) for t in texts for s in t["spans"]]


def searched(api: Api) -> dict[str, Any]:
    assert api.post("/texts/splits/likeness", expect=202)["state"] == "waiting"
    api.run_jobs()
    found: dict[str, Any] = api.get("/texts/splits")["searched"]
    return found


def test_texts_are_split_as_drafted_and_back(demo_api: Api, part: Demo) -> None:
    before = splits(demo_api)
    stands = demo_api.get("/texts/splits")
    counts = Counter(b.split for b in part.bulletins)
    assert {one["split"]: one["texts"] for one in stands["parts"]} == {"none": 0} | counts
    draft = drafted(demo_api)
    assert splits(demo_api) == before, "a draft changes nothing"
    assert sum(one["texts"] for one in draft["parts"]) == len(before)
    spans = [one["spans"] for one in draft["parts"]]
    gold = Counter(code for _, code, _ in marked(demo_api))
    assert Counter({code: sum(one[code] for one in spans) for code in spans[0]}) == gold
    made = demo_api.post("/texts/splits", SHARES | {"digest": draft["digest"]}, expect=200)
    assert made["texts"] == draft["moved"] > 0
    now = demo_api.get("/texts/splits")
    assert (now["parts"], now["moved"]) == (draft["parts"], 0)
    groups = {one["id"]: one["group"] for one in demo_api.get("/texts")["texts"]}
    assert now["group_count"] == 0
    held: dict[str, set[str]] = {}
    for number, split in splits(demo_api).items():
        held.setdefault(groups[number], set()).add(split)
    assert all(len(found) == 1 for group, found in held.items() if group)
    demo_api.post(f"/texts/acts/{made['id']}/undo", expect=200)
    assert splits(demo_api) == before


def test_what_was_not_seen_is_not_made(demo_api: Api) -> None:
    draft = drafted(demo_api)
    demo_api.post("/texts", {"title": "new", "body": "One more came in between."})
    demo_api.post("/texts/splits", SHARES | {"digest": draft["digest"]}, expect=409)
    assert drafted(demo_api)["digest"] != drafted(demo_api, seed=4)["digest"]
    assert drafted(demo_api)["digest"] == drafted(demo_api)["digest"]


@pytest.mark.parametrize(
    ("wish", "field"), [({"train": 90, "dev": 20}, "train"), ({"train": -1}, "train"), ({"seed": -1}, "seed")]
)
def test_shares_that_cannot_be(api: Api, wish: dict[str, Any], field: str) -> None:
    assert drafted(api, expect=422, **wish)["field"] == field
    assert drafted(api)["moved"] == 0, "nothing to split is no fault"


def test_texts_that_have_a_split_keep_it_if_so_wished(api: Api) -> None:
    for k in range(30):
        split = "test" if k < 5 else "none"
        api.post(
            "/texts",
            {
                "title": f"{k}",
                "body": f"Pellin {k} lies at berth {k}.",
                "split": split,
                "group": "g" if k in {0, 9} else "",
            },
        )
    draft = drafted(api, keep=True)
    api.post("/texts/splits", SHARES | {"keep": True, "digest": draft["digest"]}, expect=200)
    made = {one["title"]: one["split"] for one in api.get("/texts")["texts"]}
    assert {made[f"{k}"] for k in range(5)} == {"test"}
    assert made["9"] == "test", "who belongs to one that has a split goes with it"
    assert "none" not in made.values()
    api.post("/texts/splits", SHARES | {"digest": drafted(api)["digest"]}, expect=200)
    assert {one["split"]: one["texts"] for one in api.get("/texts/splits")["parts"]}[
        "train"
    ] == pytest.approx(21, abs=1)


def test_what_leaks_is_told(api: Api) -> None:
    body = "The tug Pellin brought four barges of amber from Varnby to Sill Wharf on Monday night."
    api.post("/types", {"code": "VES", "name": "vessel", "key": "v", "hue": 1, "definition": ""})
    for k, (split, group) in enumerate(
        [("train", "a"), ("test", "a"), ("dev", "b"), ("none", "b"), ("train", "c")]
    ):
        api.post(
            "/texts",
            {
                "title": f"{k}",
                "body": body + f" {'Item' if k < 3 else f'{k} quite other words {k} here {k}. ' * 9} {k}",
                "split": split,
                "group": group,
            },
        )
    told = api.get("/texts/splits")
    assert told["searched"] == {"holds": False, "pairs": 0, "job": None, "state": None}
    assert (told["alike_count"], told["groups"], told["group_count"]) == (0, ["a"], 1)
    found = searched(api)
    assert (found["holds"], found["state"]) == (True, "done")
    told = api.get("/texts/splits")
    assert {(one["title"], one["split"], one["other_split"]) for one in told["alike"]} >= {
        ("1", "test", "train")
    }
    assert told["alike_count"] == len(told["alike"])
    assert all(one["share"] >= 0.8 for one in told["alike"])
    # The sentence that all begin with stands in three splits, by a text of each.
    (repeated,) = told["repeated"]
    assert (repeated["words"], set(repeated["texts"])) == (body, {"train", "test", "dev"})
    assert told["repeated_count"] == 1
    assert api.get(f"/texts/{repeated['texts']['dev']}")["split"] == "dev"
    draft = drafted(api)
    assert (draft["alike_count"], draft["group_count"]) == (0, 0), "what is alike stays together"
    api.post("/texts", {"title": "late", "body": body + " Item 9"})
    assert api.get("/texts/splits")["searched"]["holds"] is False
    gone = api.post("/texts/removals", {"filter": {"search": "late"}}, expect=200)
    assert api.get("/texts/splits")["searched"]["holds"] is True
    api.post(f"/texts/acts/{gone['id']}/undo", expect=200)
    assert searched(api)["holds"] is True


def test_names_that_train_has_too_are_counted(demo_api: Api) -> None:
    names: dict[tuple[str, bool], set[str]] = {}
    spelled = set()
    for split, code, words in marked(demo_api):
        spelled.add((code, words))
        names.setdefault((code, split == "train"), set()).add(words.casefold())
    told = {one["type"]: one for one in demo_api.get("/texts/splits")["names"]}
    for code, one in told.items():
        elsewhere, train = names.get((code, False), set()), names.get((code, True), set())
        assert (one["elsewhere"], one["in_train"]) == (len(elsewhere), len(elsewhere & train))
        assert {name.casefold() for name in one["shared"]} <= elsewhere & train
        # As that type has them written, not as another has.
        assert all((code, name) in spelled for name in one["shared"])
        assert len(one["shared"]) == min(50, one["in_train"])
    assert 0 < told["VES"]["in_train"] < told["VES"]["elsewhere"]
