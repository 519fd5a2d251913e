"""Whatever is sent, the answer is a 4xx that says why, and nothing changes."""

from __future__ import annotations

import json
from typing import Any

import pytest
from fastapi.routing import APIRoute
from sqlalchemy import text

from acting import act
from conftest import Api
from urdaten.platform.database import transaction
from urdaten.server.application import ROUTERS

HUGE = "99999999999999999999"
BODIES = [b"", b"{", b"[]", b"null", b'"x"', b"7", b"\xff\xfe", b'{"a": ' + b"[" * 2000 + b"]" * 2000 + b"}"]
# Text that the database or the encoding cannot hold.
STRINGS = ["a\x00b", "a\ud800b", "x" * 5000]


def routes(*methods: str) -> list[tuple[str, str]]:
    found = [r for router in ROUTERS for r in router.routes if isinstance(r, APIRoute)]
    return sorted((m, r.path) for r in found for m in r.methods or () if m in methods)


def concrete(path: str, number: str) -> str:
    path = path.replace("{project}", "tessmar")
    while "{" in path:
        path = path[: path.index("{")] + number + path[path.index("}") + 1 :]
    return path


def counts(api: Api) -> dict[str, Any]:
    tables = (
        "entity_type",
        "text",
        "annotation",
        "act",
        "list",
        "list_entry",
        "rule",
        "training",
        "record_template",
        "job",
    )
    with transaction(api.settings.database_url) as db:
        return {name: db.scalar(text(f"SELECT count(*) FROM {name}")) for name in tables}


def send(api: Api, method: str, path: str, content: bytes) -> int:
    answer = api.request(method, path, content=content, headers={"Content-Type": "application/json"})
    if answer.status_code >= 400:
        assert answer.headers["content-type"] == "application/problem+json"
        assert len(answer.json()["detail"]) > 5
    return answer.status_code


def test_a_number_that_is_none_or_too_large(api: Api) -> None:
    asked = [(m, p) for m, p in routes("GET", "PUT", "DELETE", "POST") if "{" in p.replace("{project}", "")]
    assert len(asked) > 25
    for method, path in asked:
        for number in (HUGE, "-1", "0", "1e3", "x", "%00", "١"):
            status = send(api, method, concrete(path, number), b"{}")
            assert 400 <= status < 500, (method, path, number, status)


def test_a_body_that_is_no_body(demo_api: Api) -> None:
    before = counts(demo_api)
    bodiless = {"undo", "redo", "sign-out", "assembly", "scorecards", "stop", "again", "use", "link", "leave"}
    # An import begins with nothing, and its files come as they are.
    bodiless |= {"restore", "count", "imports", "file", "look", "keep", "likeness", "publish"}
    bodiless |= {"learning", "sign", "refuse", "reopen"}
    asked = [(m, p) for m, p in routes("PUT", "POST") if p.rsplit("/", 1)[-1] not in bodiless]
    assert len(asked) > 14
    for method, path in asked:
        for body in BODIES:
            assert 400 <= send(demo_api, method, concrete(path, "1"), body) < 500, (method, path, body)
    assert counts(demo_api) == before


FORMS: list[tuple[str, str, dict[str, Any]]] = [
    (
        "POST",
        "/types",
        {
            "code": "NEW",
            "name": "x",
            "key": "x",
            "hue": 1,
            "definition": "",
            "counts": ["x"],
            "counts_not": [],
        },
    ),
    ("POST", "/texts", {"title": "x", "body": "x y", "group": "", "split": "none", "dated": "2026-01-01"}),
    ("POST", "/lists", {"name": "x", "type": "VES"}),
    ("POST", "/lists/1/entries", {"preferred": "x", "variants": ["x"], "note": ""}),
    (
        "POST",
        "/rules",
        {"name": "x", "type": "VES", "pattern": "'x'", "must_find": ["x"], "must_not_find": []},
    ),
    (
        "POST",
        "/rules/try",
        {"name": "x", "type": "VES", "pattern": "'x'", "must_find": ["x"], "must_not_find": []},
    ),
    ("POST", "/rules/words", {"text": "x"}),
    ("POST", "/rules/offers", {"type": "VES"}),
    ("POST", "/trainings", {"name": "x", "settings": {"features": ["words"]}}),
    (
        "POST",
        "/records/templates",
        {"name": "x", "anchor": "a", "fields": [{"name": "a", "types": ["VES"], "cues": ["x"]}]},
    ),
]


def variants(form: dict[str, Any]) -> list[tuple[str, Any]]:
    found: list[tuple[str, Any]] = []
    for name, value in form.items():
        for bad in STRINGS if isinstance(value, str | list) else []:
            found.append((name, [bad] if isinstance(value, list) else bad))
        found += [(name, {"deep": []}), (name, None), (name, 2**40)]
    return found


@pytest.mark.parametrize(("method", "path", "form"), FORMS, ids=[path for _, path, _ in FORMS])
def test_a_form_with_one_nasty_member(demo_api: Api, method: str, path: str, form: dict[str, Any]) -> None:
    for name, value in variants(form):
        body = json.dumps(form | {name: value}).encode()
        status = send(demo_api, method, f"/api/projects/tessmar{path}", body)
        assert status < 500, f"{name} = {value!a}"


@pytest.mark.parametrize(
    "query", ["after=99999999999999999999", "limit=0", "limit=x", "search=%00", "search=%ff", "split=nope"]
)
def test_nasty_queries(demo_api: Api, query: str) -> None:
    for path in ("/texts", "/lists/1/entries", "/desk/queue"):
        assert send(demo_api, "GET", f"/api/projects/tessmar{path}?{query}", b"") < 500, path


@pytest.mark.parametrize(
    "spans",
    [
        [{"start": -1, "end": 2, "type": "VES"}],
        [{"start": 0, "end": 2**70, "type": "VES"}],
        [{"start": 0.5, "end": 1, "type": "VES"}],
        [[0, 1, "VES"]],
        "VES",
    ],
)
def test_nasty_spans(demo_api: Api, spans: Any) -> None:
    item = demo_api.get("/desk/queue")["items"][0]
    before = demo_api.get(f"/desk/sentences/{item['id']}")["annotation"]
    demo_api.put(f"/desk/sentences/{item['id']}", act("mark", 1, spans), 422)
    demo_api.put(f"/desk/sentences/{item['id']}", act("mark", 2**70), 422)
    demo_api.put(f"/desk/sentences/{item['id']}", act("mark", 2**31 - 1), 409)
    assert demo_api.get(f"/desk/sentences/{item['id']}")["annotation"] == before


def test_nasty_sign_in(api: Api) -> None:
    for login in (*STRINGS, "", "ines'; DROP TABLE account;--"):
        body = json.dumps({"login": login, "password": login}).encode()
        assert 400 <= send(api, "POST", "/api/sign-in", body) < 500
