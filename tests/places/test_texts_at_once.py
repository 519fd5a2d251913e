"""Many texts at once: what is found, how it is spread, what is done to it and undone, and the bin."""

from __future__ import annotations

import random
from typing import Any

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from acting import act
from conftest import Api
from urdaten.platform.database import engine_for, transaction
from urdaten.server.tables import METADATA

WORDS = [
    "Pellin",
    "Pell",
    "amber",
    "Amber",
    "quay",
    "Amber-Quay",
    "berth",
    "7",
    "7a",
    "it's",
    "Ström",
    "x'y",
    "a\\b",
]


@pytest.fixture
def shelf(api: Api) -> Api:
    """Twelve texts in two groups, three splits and two months."""
    api.post("/types", {"code": "VES", "name": "vessel", "key": "v", "hue": 1, "definition": ""}, expect=201)
    drawn = random.Random(5)
    for k in range(12):
        body = " ".join(drawn.choices(WORDS, k=6)) + f" lies at {k}. Pellin sails."
        api.post(
            "/texts",
            {
                "title": f"{k} {drawn.choice(WORDS)}",
                "body": body,
                "group": ("", "pier", "harbour")[k % 3],
                "split": ("train", "dev", "none")[k % 3],
                "dated": None if k % 4 == 0 else f"2026-0{7 + k % 2}-1{k % 9}",
            },
            expect=201,
        )
    return api


def do(api: Api, path: str, body: Any = None) -> Any:
    return api.post(path, body, expect=200)


def titles(api: Api, **asked: Any) -> list[str]:
    page = api.get("/texts", **asked)
    assert api.get("/texts/count", **asked)["found"] == len(page["texts"])
    return [one["title"] for one in page["texts"]]


def everything(api: Api) -> list[dict[str, Any]]:
    return [api.get(f"/texts/{one['id']}") for one in api.get("/texts")["texts"]]


def sign(api: Api, text_id: int, *spans: dict[str, Any]) -> int:
    sentence = api.get(f"/texts/{text_id}/sentences")["sentences"][0]["id"]
    kind = "sign" if spans else "sign as empty"
    version = api.get(f"/desk/sentences/{sentence}")["annotation"]["version"]
    api.put(f"/desk/sentences/{sentence}", act(kind, version, spans))
    return int(sentence)


def counts(api: Api, of: str, **asked: Any) -> dict[str, int]:
    return {one["value"]: one["texts"] for one in api.get("/texts/facets", of=of, **asked)["values"]}


def found_slowly(api: Api, search: str) -> list[str]:
    """Every word begins one of the text's, or, in quotes, stands in it letter by letter."""
    found = []
    for one in everything(api):
        whole = f"{one['title']} {one['body']}".lower()
        held = whole.replace(".", " ").split()
        parts = [p.lower() for p in search.split()]
        if all(
            p[1:-1] in one["title"].lower() or p[1:-1] in one["body"].lower()
            if p.startswith('"')
            else any(
                w.startswith(p) or p in w.split("-") or any(v.startswith(p) for v in w.split("-"))
                for w in held
            )
            for p in parts
        ):
            found.append(one["title"])
    return found


@pytest.mark.parametrize(
    "search",
    [
        "Pell",
        "pellin amber",
        "AMBER 7",
        '"mber-Q"',
        '"elli" berth',
        "7a",
        "ström",
        '"x\'y"',
        '"a\\b"',
        "nothing",
        "quay ber",
    ],
)
def test_words_are_searched_by_their_beginnings_and_quoted_runs_letter_by_letter(
    shelf: Api, search: str
) -> None:
    assert titles(shelf, search=search) == found_slowly(shelf, search)


@pytest.mark.parametrize(
    "search", ["'", "a & b", "!x", "<->", ":*", "x'y", "a\\b", '"', '""', "%", '"%"', '"_"', "(", "日本"]
)
def test_signs_of_other_languages_for_searching_mean_themselves(shelf: Api, search: str) -> None:
    shelf.post(
        "/texts",
        {"title": "signs", "body": "Here: a & b, 100 % of _ it's (x'y) a\\b 日本語です ' !x <-> :*"},
        expect=201,
    )
    assert "signs" in titles(shelf, search=search)


def test_a_word_far_on_in_a_long_text_is_found(api: Api) -> None:
    api.post("/texts", {"title": "long", "body": "Nothing here. " * 11_000 + "Then Quellbord."}, expect=201)
    assert titles(api, search="quellb") == ["long"]
    assert titles(api, search="quellbork") == []


def test_filters_hold_together_and_each_facet_counts_without_its_own(shelf: Api) -> None:
    texts = everything(shelf)
    for one in texts[:4]:
        start = one["body"].index("lies")
        sign(shelf, one["id"], {"start": start, "end": start + 4, "type": "VES"})
    do(shelf, "/texts/changes", {"texts": [texts[1]["id"], texts[2]["id"]], "meta": {"desk": "north"}})
    texts = everything(shelf)
    assert titles(shelf, split="train") == [t["title"] for t in texts if t["split"] == "train"]
    assert titles(shelf, group="pier", since="2026-08-01") == [
        t["title"] for t in texts if t["group"] == "pier" and (t["dated"] or "") >= "2026-08-01"
    ]
    assert titles(shelf, lacks=["group", "dated"]) == [
        t["title"] for t in texts if not t["group"] and not t["dated"]
    ]
    assert titles(shelf, type="VES", value="lies", split="dev") == [texts[1]["title"]]
    assert titles(shelf, type="VES", value="lie") == []
    assert titles(shelf, meta=["desk=north"], group="pier") == [texts[1]["title"]]
    # A name may hold the sign that ends it.
    odd = {"texts": [texts[0]["id"]], "meta": {"a=b%": "c=d"}}
    shelf.post("/texts/changes", odd, expect=200)
    assert titles(shelf, meta=["a%3Db%25=c=d"]) == [texts[0]["title"]]
    assert titles(shelf, state="partly signed") == [t["title"] for t in texts[:4]]
    assert counts(shelf, "split", split="train", group="pier") == {"dev": 4}
    assert counts(shelf, "group", split="train", group="pier") == {"": 4}
    assert counts(shelf, "month", until="2020-01-01") == counts(shelf, "month")
    assert sum(counts(shelf, "month").values()) == 12
    assert counts(shelf, "state", split="train") == {
        "signed": 0,
        "partly signed": 2,
        "not signed": 2,
        "asked": 0,
    }
    assert counts(shelf, "type", type="VES") == {"VES": 4}
    assert counts(shelf, "value", type="VES", value="x") == {"lies": 4}
    assert counts(shelf, "meta:desk") == {"north": 2}
    assert counts(shelf, "meta:desk", split="dev") == {"north": 1}
    assert shelf.get("/texts/metadata") == {"names": ["desk", "a=b%"]}
    assert shelf.get("/texts/facets", of="group", limit=1)["more"]


@pytest.mark.parametrize(
    ("asked", "field"),
    [
        ({"state": "done"}, "state"),
        ({"type": "XXX"}, "type"),
        ({"meta": ["desk"]}, "meta"),
        ({"since": "2026-02-01", "until": "2026-01-01"}, "since"),
    ],
)
def test_a_filter_that_cannot_be_is_named(shelf: Api, asked: dict[str, Any], field: str) -> None:
    assert shelf.get("/texts", expect=422, **asked)["field"] == field
    assert shelf.get("/texts/facets", of="colour", expect=422)["field"] == "of"


def test_many_are_changed_at_once_and_undone(shelf: Api) -> None:
    before = everything(shelf)
    made = do(
        shelf,
        "/texts/changes",
        {
            "filter": {"group": "pier"},
            "expected": 4,
            "split": "test",
            "undated": True,
            "meta": {"by": "Ines"},
        },
    )
    assert (made["kind"], made["texts"], made["undone"]) == ("change", 4, False)
    for then, now in zip(before, everything(shelf), strict=True):
        if then["group"] == "pier":
            assert (now["split"], now["dated"], now["meta"]) == ("test", None, {"by": "Ines"})
            assert now["version"] == then["version"] + 1
        else:
            assert now == then
    assert shelf.get("/texts/acts/latest")["act"]["id"] == made["id"]
    assert do(shelf, f"/texts/acts/{made['id']}/undo") == {"texts": 4, "left": 0}
    after = everything(shelf)
    assert [t | {"version": 0} for t in after] == [t | {"version": 0} for t in before]
    assert shelf.get("/texts/acts/latest")["act"] is None
    shelf.post(f"/texts/acts/{made['id']}/undo", expect=409)
    shelf.post("/texts/acts/999/undo", expect=404)


def test_what_was_changed_since_stays_when_an_act_is_undone(shelf: Api) -> None:
    first, second, *_ = everything(shelf)
    made = do(shelf, "/texts/changes", {"texts": [first["id"], second["id"]], "group": "moved"})
    do(shelf, "/texts/changes", {"texts": [second["id"]], "group": "again", "split": "test"})
    assert do(shelf, f"/texts/acts/{made['id']}/undo") == {"texts": 1, "left": 1}
    assert [t["group"] for t in everything(shelf)[:2]] == [first["group"], "again"]


def test_nothing_is_changed_that_nobody_saw(shelf: Api) -> None:
    before = everything(shelf)
    problem = shelf.post(
        "/texts/changes", {"filter": {"group": "pier"}, "expected": 3, "split": "dev"}, expect=409
    )
    assert "3 texts" in problem["detail"]
    shelf.post("/texts/changes", {"filter": {}, "expected": 12}, expect=422)
    shelf.post("/texts/changes", {"split": "dev"}, expect=422)
    shelf.post("/texts/changes", {"texts": [1], "filter": {}, "split": "dev"}, expect=422)
    shelf.post("/texts/changes", {"texts": [before[0]["id"]], "split": "exam"}, expect=422)
    shelf.post("/texts/changes", {"texts": [before[0]["id"]], "meta": {" ": "x"}}, expect=422)
    shelf.post("/texts/changes", {"texts": [999_999], "split": "dev"}, expect=404)
    assert everything(shelf) == before


def test_a_change_of_metadata_adds_and_takes_away(shelf: Api) -> None:
    one = everything(shelf)[0]
    do(shelf, "/texts/changes", {"texts": [one["id"]], "meta": {"a": "1", "b": "2"}})
    do(shelf, "/texts/changes", {"texts": [one["id"]], "meta": {"a": None, "c": "3"}})
    assert shelf.get(f"/texts/{one['id']}")["meta"] == {"b": "2", "c": "3"}


def dumped(api: Api) -> dict[str, list[str]]:
    """Every row of every table, but for what counts changes and notes them."""
    with Session(engine_for(api.settings.database_url)) as db:
        return {
            table.name: sorted(
                str(row)
                for row in db.scalars(text(f'SELECT CAST(to_jsonb(t) AS text) FROM "{table.name}" AS t'))
            )
            for table in METADATA.sorted_tables
            if table.name not in {"revision", "text_act", "job"} and not table.info.get("derived")
        }


def test_the_bin_holds_all_that_belongs_to_a_text(demo_api: Api) -> None:
    numbers = [one["id"] for one in demo_api.get("/texts")["texts"]]
    demo_api.post("/trainings", {"name": "first", "settings": {"epochs": 1}}, expect=201)
    demo_api.run_jobs()
    demo_api.post("/scorecards", expect=202)
    demo_api.post("/records/assembly", expect=202)
    demo_api.run_jobs()
    before = dumped(demo_api)
    signed = demo_api.get("/desk/queue/counts")
    made = do(demo_api, "/texts/removals", {"texts": numbers[::2]})
    assert made["texts"] == len(numbers[::2])
    left = demo_api.get("/texts")
    assert [one["id"] for one in left["texts"]] == numbers[1::2]
    assert demo_api.get("/desk/queue/counts")["signed"] < signed["signed"]
    held = demo_api.get("/texts/bin")
    assert held["total"] == len(numbers[::2])
    assert {one["id"] for one in held["texts"]} == set(numbers[::2])
    assert all(one["who"] for one in held["texts"])
    assert any(one["signed"] for one in held["texts"])
    demo_api.get(f"/texts/{numbers[0]}", expect=404)
    assert do(demo_api, f"/texts/acts/{made['id']}/undo") == {"texts": len(numbers[::2]), "left": 0}
    assert dumped(demo_api) == before
    assert demo_api.get("/desk/queue/counts") == signed


def test_one_is_put_back_and_the_rest_deleted_for_good(shelf: Api) -> None:
    texts = everything(shelf)
    number = sign(shelf, texts[0]["id"])
    assert shelf.delete(f"/texts/{texts[0]['id']}", expect=200)["texts"] == 1
    do(shelf, "/texts/removals", {"filter": {"group": "harbour"}, "expected": 4})
    assert do(shelf, "/texts/bin/restore", {"texts": [texts[0]["id"], 999]}) == {"texts": 1, "left": 1}
    assert shelf.get(f"/desk/sentences/{number}")["annotation"]["state"] == "signed"
    assert do(shelf, "/texts/bin/empty", {}) == {"deleted": 4}
    assert shelf.get("/texts/bin") == {"texts": [], "total": 0}
    assert do(shelf, "/texts/bin/restore", {}) == {"texts": 0, "left": 0}
    act_id = shelf.get("/texts/acts/latest")["act"]["id"]
    shelf.post(f"/texts/acts/{act_id}/undo", expect=409)
    assert len(everything(shelf)) == 8


def test_a_body_that_came_again_stays_in_the_bin(shelf: Api) -> None:
    one, two, *_ = everything(shelf)
    do(shelf, "/texts/removals", {"texts": [one["id"], two["id"]]})
    shelf.post("/texts", {"title": "again", "body": one["body"]}, expect=201)
    assert do(shelf, "/texts/bin/restore", {}) == {"texts": 1, "left": 1}
    assert [held["id"] for held in shelf.get("/texts/bin")["texts"]] == [one["id"]]


def test_a_body_that_lies_in_the_bin_twice_comes_back_once(shelf: Api) -> None:
    one = everything(shelf)[0]
    shelf.delete(f"/texts/{one['id']}", expect=200)
    again = shelf.post("/texts", {"title": "again", "body": one["body"]})
    shelf.delete(f"/texts/{again['id']}", expect=200)
    assert do(shelf, "/texts/bin/restore", {}) == {"texts": 1, "left": 1}
    assert [t["title"] for t in everything(shelf) if t["body"] == one["body"]] == ["again"]
    assert do(shelf, "/texts/bin/restore", {}) == {"texts": 0, "left": 1}


def test_marks_that_come_back_follow_the_scheme(shelf: Api) -> None:
    for code, key in (("SHP", "s"), ("BTH", "b")):
        shelf.post("/types", {"code": code, "name": code, "key": key, "hue": 2, "definition": ""}, expect=201)
    texts = everything(shelf)[:3]
    numbers = []
    for one, code in zip(texts, ("SHP", "BTH", "VES"), strict=True):
        start = one["body"].index("lies")
        numbers.append(sign(shelf, one["id"], {"start": start, "end": start + 4, "type": code}))
    made = do(shelf, "/texts/removals", {"texts": [one["id"] for one in texts]})
    scheme = {one["code"]: one for one in shelf.get("/types")["types"]}
    ves, shp, bth = scheme["VES"], scheme["SHP"], scheme["BTH"]
    do(shelf, f"/types/{shp['id']}/merge", {"into": ves["id"], "scheme": shelf.get("/types")["version"]})
    shelf.post(f"/types/{bth['id']}/retire", {"scheme": shelf.get("/types")["version"]}, expect=204)
    do(shelf, f"/texts/acts/{made['id']}/undo")
    stand = [shelf.get(f"/desk/sentences/{number}")["annotation"] for number in numbers]
    assert [one["state"] for one in stand] == ["signed", "draft", "signed"]
    assert [[s["type"] for s in one["spans"]] for one in stand] == [["VES"], [], ["VES"]]
    counted = shelf.get("/desk/queue/counts")
    assert counted["signed"] == 2


def test_the_log_outlives_a_removal(shelf: Api) -> None:
    one = everything(shelf)[0]
    number = sign(shelf, one["id"])
    shelf.delete(f"/texts/{one['id']}", expect=200)
    with transaction(shelf.settings.database_url) as db:
        kinds = list(db.scalars(text("SELECT kind FROM act WHERE sentence_id = :number"), {"number": number}))
    assert kinds == ["sign as empty"]


def test_only_rows_that_the_database_deletes_along_are_taken_out() -> None:
    """Links that would stop a deletion, or lose a row, are known."""
    held = {"text"}
    for table in METADATA.sorted_tables:
        for key in table.foreign_keys:
            if key.column.table.name in held and key.ondelete == "CASCADE" and not table.info.get("derived"):
                held.add(table.name)
    assert held == {
        *("text", "sentence", "annotation", "span", "turned_down", "question", "tally"),
        *("round_text", "scored_sentence", "record", "record_signed_text"),
    }
