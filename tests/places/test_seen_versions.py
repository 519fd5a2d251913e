"""Two people with the same thing open: the second is told, with both versions, and nothing is overwritten unseen."""

from __future__ import annotations

import threading
from collections.abc import Callable
from typing import Any

import pytest

from conftest import Api

Wish = dict[str, Any]
# What is made, where, and one of its members with two other values.
THINGS: dict[str, tuple[str, Wish, str, object, object]] = {
    "type": ("/types", {"code": "NEW", "name": "new", "key": "x", "hue": 1}, "name", "theirs", "mine"),
    "text": ("/texts", {"title": "t", "body": "Amber Quay."}, "title", "theirs", "mine"),
    "list": ("/lists", {"name": "l", "type": "VES"}, "name", "theirs", "mine"),
    "entry": ("/lists/{list}/entries", {"preferred": "Amber"}, "note", "theirs", "mine"),
    "rule": ("/rules", {"name": "r", "type": "VES", "pattern": "'a'"}, "about", "theirs", "mine"),
    "template": (
        "/records/templates",
        {"name": "t", "anchor": "a", "fields": [{"name": "a", "types": ["VES"]}]},
        "name",
        "theirs",
        "mine",
    ),
    "round": ("/desk/rounds", {"name": "r"}, "note", "theirs", "mine"),
}


@pytest.fixture
def port(api: Api) -> Api:
    api.post("/types", {"code": "VES", "name": "vessel", "key": "v", "hue": 1})
    api.post("/lists", {"name": "vessels", "type": "VES"})
    api.post("/texts", {"title": "33/1", "body": "Pellin is in."})
    return api


def begin(api: Api, thing: str) -> tuple[str, Wish, Callable[[], Wish]]:
    """Where a new one lies, what it takes, and how it is read."""
    path, wish, *_ = THINGS[thing]
    path = path.replace("{list}", str(api.get("/lists")[0]["id"]))
    if thing == "round":
        text = api.get("/texts")["texts"][0]["id"]
        number = api.post(path, wish | {"texts": [text]})
        return f"{path}/{number}", wish, lambda: api.get("/desk/rounds")["rounds"][0]
    made = api.post(path, wish)
    number = made["id"]
    if thing == "text":
        wish = {"title": wish["title"]}
        return f"{path}/{number}", wish, lambda: api.get(f"{path}/{number}")

    def listed() -> Wish:
        held = {"type": "/types", "template": "/records/templates"}.get(thing, path)
        found = api.get(held)
        rows = found if isinstance(found, list) else found.get("types", found.get("entries"))
        row: Wish = next(row for row in rows if row["id"] == number)
        return row

    return f"{path}/{number}", wish, listed


@pytest.mark.parametrize("thing", THINGS)
def test_the_second_is_told_and_loses_nothing(port: Api, thing: str) -> None:
    *_, member, theirs, mine = THINGS[thing]
    path, wish, read = begin(port, thing)
    expect = 204 if thing == "round" else 200
    assert read()["version"] == 1
    port.put(path, wish | {member: theirs, "version": 1}, expect)
    problem = port.put(path, wish | {member: mine, "version": 1}, 409)
    assert problem["type"] == "urn:urdaten:stale-write"
    assert (problem["theirs"][member], problem["theirs"]["version"]) == (theirs, 2)
    assert (problem["yours"][member], problem["yours"]["version"]) == (mine, 1)
    assert read()[member] == theirs
    port.put(path, wish | {member: mine, "version": 2}, expect)
    assert (read()[member], read()["version"]) == (mine, 3)


@pytest.mark.parametrize("thing", THINGS)
def test_of_many_at_once_one_is_kept_and_the_others_are_told(port: Api, thing: str) -> None:
    *_, member, _, _ = THINGS[thing]
    path, wish, read = begin(port, thing)
    answers: list[tuple[int, str]] = []

    def write(number: int) -> None:
        mine = Api(port.app, port.settings, cookies=dict(port.cookies))
        value = f"writer {number}"
        sent = mine.request("PUT", f"/api/projects/tessmar{path}", json=wish | {member: value, "version": 1})
        answers.append((sent.status_code, value))

    threads = [threading.Thread(target=write, args=(number,)) for number in range(6)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    kept = [value for status, value in answers if status < 300]
    assert sorted(status for status, _ in answers)[1:] == [409] * 5
    assert [read()[member]] == kept
    assert read()["version"] == 2
