"""Starter lists: names of the general lexicon, looked through and taken."""

from __future__ import annotations

from typing import Any

import pytest

from conftest import Api
from core.test_lexicon import WORLD
from urdaten.core.lexicon import Senses, read_senses
from urdaten.places.lists.acts import starters

SENSES = Senses.of(read_senses(WORLD.splitlines()))


@pytest.fixture
def port(api: Api, monkeypatch: pytest.MonkeyPatch) -> Api:
    monkeypatch.setattr(starters, "senses", lambda: SENSES)
    api.post("/types", {"code": "PRT", "name": "port", "key": "p", "hue": 1})
    api.post("/lists", {"name": "ports", "type": "PRT"})
    return api


def taken(api: Api, **wish: Any) -> dict[str, Any]:
    (made,) = api.get("/lists")
    held = api.post("/starters/take", {"list_id": made["id"], **wish}, expect=202)
    api.run_jobs()
    now: dict[str, Any] = api.get(f"/lists/{made['id']}/imports/{held['id']}")
    return now


def entries(api: Api) -> list[dict[str, Any]]:
    (made,) = api.get("/lists")
    found: list[dict[str, Any]] = api.get(f"/lists/{made['id']}/entries")["entries"]
    return found


def test_kinds_and_meanings_are_offered(port: Api) -> None:
    told = port.get("/starters")
    assert told["installed"]
    assert told["kinds"] == [
        {"kind": "place", "names": 2, "words": 3},
        {"kind": "artefact", "names": 0, "words": 1},
        {"kind": "object", "names": 0, "words": 1},
    ]
    found = port.get("/starters/meanings", search="port")
    assert [(one["number"], one["names"], one["kinds"]) for one in found] == [(20, 2, 1), (30, 1, 0)]


def test_names_are_looked_through_a_page_at_a_time(port: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(starters, "PAGE", 2)
    first = port.get("/starters/names", beneath=10)
    assert first["total"] == 5
    assert [one["words"][0] for one in first["names"]] == ["free port", "Osk"]
    assert [(one["words"][0], one["names"]) for one in first["narrower"]] == [("port", 2)]
    second = port.get("/starters/names", beneath=10, after=first["next"])
    assert [one["words"][0] for one in second["names"]] == ["port", "port wine"]
    assert second["narrower"] == []
    last = port.get("/starters/names", beneath=10, after=second["next"])
    assert ([one["words"][0] for one in last["names"]], last["next"]) == (["Varnby"], None)
    named = port.get("/starters/names", kind="place", sort="names", search="on-sea")
    assert (named["total"], named["names"][0]["meaning"]) == (1, 'a port; "he sails for Varnby"')


@pytest.mark.parametrize(
    ("query", "status", "field"),
    [
        ({"kind": "ships"}, 422, "kind"),
        ({}, 422, "kind"),
        ({"beneath": 41}, 404, None),
        ({"beneath": 10, "sort": "x"}, 422, "sort"),
    ],
)
def test_what_there_is_not_is_refused(
    port: Api, query: dict[str, Any], status: int, field: str | None
) -> None:
    problem = port.get("/starters/names", expect=status, **query)
    assert problem.get("field") == field


def test_names_are_taken_with_their_spellings_and_where_they_come_from(port: Api) -> None:
    now = taken(port, beneath=20, sort="names")
    assert now["work"]["message"] == "2 names are new."
    osk, varnby = entries(port)
    assert (osk["preferred"], varnby["preferred"], varnby["variants"]) == ("Osk", "Varnby", ["Varnby-on-Sea"])
    assert (varnby["source"], varnby["identifier"]) == ("general lexicon", "general lexicon 40")
    assert varnby["note"] == 'a port; "he sails for Varnby"'
    # Again: nothing is doubled.
    assert taken(port, kind="place", sort="names")["work"]["message"] == "The list has all of it already."
    assert len(entries(port)) == 2
    port.post(f"/lists/acts/{now['act']}/undo", expect=200)
    assert entries(port) == []


def test_some_names_are_taken(port: Api) -> None:
    taken(port, kind="place", sort="names", numbers=[50, 60, 4])
    assert [one["preferred"] for one in entries(port)] == ["Osk"]
    (made,) = port.get("/lists")
    nothing = {"list_id": made["id"], "kind": "place", "numbers": [60]}
    assert port.post("/starters/take", nothing, expect=422)["field"] == "numbers"
    gone = {"list_id": made["id"] + 1, "kind": "place"}
    port.post("/starters/take", gone, expect=404)


def test_without_a_lexicon_it_says_so(port: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(starters, "senses", lambda: None)
    assert port.get("/starters") == {"installed": False, "kinds": []}
    assert "wordnet-base" in port.get("/starters/names", expect=404, kind="place")["detail"]
