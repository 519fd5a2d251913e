"""Who may do what: every route belongs to one class, and everybody is tried on every route."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest
from fastapi.routing import APIRoute
from sqlalchemy.orm import Session

from conftest import ORIGIN, Api
from urdaten.places.desk import acts as desk
from urdaten.places.team.wire import annotator, binned, lead, member
from urdaten.platform.database import transaction
from urdaten.platform.web import account, anybody, keeper
from urdaten.server.application import ROUTERS
from urdaten.server.document import dependencies_of

# From those that let in most to those that let in fewest; a route belongs to the last of those that it leans on.
CLASSES: tuple[Callable[..., Any], ...] = (anybody, account, keeper, member, annotator, lead, binned)
EVERYBODY = ("nobody", "stranger", "reader", "annotator", "lead")
# Who is let in, by class. The lead of the tests looks after the server too.
LET_IN: dict[Callable[..., Any], set[str]] = {
    anybody: set(EVERYBODY),
    account: {"stranger", "reader", "annotator", "lead"},
    keeper: {"lead"},
    member: {"reader", "annotator", "lead"},
    annotator: {"annotator", "lead"},
    lead: {"lead"},
    binned: {"lead"},
}
LOGINS = {"stranger": "stan", "reader": "rea", "annotator": "jo", "lead": "ines"}
# Whoever leaves is a member no more, and the last lead may not.
LEAVING = ("POST", "/api/projects/{project}/leave")


def every_route() -> list[APIRoute]:
    routes = [r for router in ROUTERS for r in router.routes if isinstance(r, APIRoute)]
    assert len(routes) > 80
    return routes


def method_of(route: APIRoute) -> str:
    methods = list(route.methods or ())
    assert len(methods) == 1
    return methods[0]


def named(route: APIRoute) -> str:
    return f"{method_of(route)} {route.path}"


def class_of(route: APIRoute) -> Callable[..., Any]:
    leans_on = set(dependencies_of(route.dependant)) & set(CLASSES)
    assert leans_on, f"{named(route)} belongs to no class: say who may use it"
    if anybody in leans_on:
        assert leans_on == {anybody}, f"{named(route)} is open and asks for somebody all the same"
    return CLASSES[max(map(CLASSES.index, leans_on))]


def test_every_route_belongs_to_a_class() -> None:
    for route in every_route():
        class_of(route)


def test_routes_of_a_project_are_for_its_members() -> None:
    for route in every_route():
        in_project = route.path.startswith(("/api/projects/{project}", "/api/bin/{project}"))
        assert in_project == (class_of(route) in {member, annotator, lead, binned}), named(route)


def test_what_changes_a_project_is_for_annotators_or_leads() -> None:
    for route in every_route():
        if class_of(route) is member:
            changes = route.methods != {"GET"} and (named(route) != " ".join(LEAVING))
            assert not changes, f"{named(route)} changes something, and a reader may use it"


def concrete(path: str) -> str:
    path = path.replace("{project}", "tessmar")
    while "{" in path:
        start, end = path.index("{"), path.index("}")
        path = path[:start] + "9" + path[end + 1 :]
    return path


@pytest.mark.parametrize("who", EVERYBODY)
def test_everybody_on_every_route(api: Api, who: str) -> None:
    client = Api(api.app, api.settings)
    if who != "nobody":
        client.sign_in(LOGINS[who])
    for route in every_route():
        method = method_of(route)
        # Acts that end somebody's own access are tried below.
        if route.path in {"/api/sign-out", "/api/me/sessions", LEAVING[1]}:
            continue
        if class_of(route) is binned or named(route) == "DELETE /api/projects/{project}":
            continue
        answer = client.request(method, concrete(route.path), json={} if method in {"POST", "PUT"} else None)
        kind = answer.json().get("type", "") if answer.status_code >= 400 else ""
        refused = answer.status_code == 401 or kind == "urn:urdaten:not-allowed"
        if who == "stranger" and class_of(route) in {member, annotator, lead}:
            refused = answer.status_code == 404 and "that you belong to" in answer.json()["detail"]
        assert refused == (who not in LET_IN[class_of(route)]), (
            named(route),
            answer.status_code,
            answer.text,
        )
        assert answer.status_code < 500, (named(route), answer.text)


@pytest.mark.parametrize("who", EVERYBODY)
def test_everybody_on_the_bin(api: Api, who: str) -> None:
    client = Api(api.app, api.settings)
    if who != "nobody":
        client.sign_in(LOGINS[who])
    gone = client.request("DELETE", "/api/projects/tessmar")
    assert (gone.status_code == 204) == (who == "lead")
    api.request("DELETE", "/api/projects/tessmar")
    if who != "nobody":
        client.get("/types", 404)
    routes = [route for route in every_route() if class_of(route) is binned]
    assert len(routes) == 2
    for route in reversed(routes):
        answer = client.request("POST", concrete(route.path), json={"name": "not its name"})
        expected = {"nobody": {401}, "stranger": {404}, "lead": {200, 422}}.get(who, {403})
        assert answer.status_code in expected, (named(route), answer.text)


def test_whoever_leaves_is_let_in_no_more(api: Api) -> None:
    jo = api.other("jo")
    assert jo.request("POST", "/api/projects/tessmar/leave").status_code == 204
    jo.get("/types", 404)
    assert jo.request("GET", "/api/projects").json() == []
    assert api.request("POST", "/api/projects/tessmar/leave").status_code == 409
    api.get("/types")


@pytest.mark.parametrize("path", ["/api/openapi.json", "/api/projects/tessmar/events"])
def test_what_is_not_in_the_document_asks_for_a_session_too(api: Api, path: str) -> None:
    assert Api(api.app, api.settings).request("GET", path).status_code == 401


def test_streams_are_for_members(api: Api) -> None:
    assert api.other("stan").request("GET", "/api/projects/tessmar/events").status_code == 404


def test_the_document_is_there_for_whoever_is_signed_in(api: Api) -> None:
    document = api.request("GET", "/api/openapi.json").json()
    assert "/api/projects/{project}/types" in document["paths"]
    scheme = document["components"]["securitySchemes"]["session"]
    assert scheme == {"type": "apiKey", "in": "cookie", "name": api.settings.cookie}
    for path, operations in document["paths"].items():
        for method, operation in operations.items():
            assert "422" not in operation["responses"], (method, path)
            assert list(operation["responses"]["default"]["content"]) == ["application/problem+json"]


def test_a_second_project_is_closed_to_those_of_the_first(api: Api) -> None:
    stan = api.other("stan")
    made = stan.request("POST", "/api/projects", json={"name": "Stan's own", "language": "en"})
    assert made.status_code == 201, made.text
    slug = made.json()["slug"]
    assert api.request("GET", f"/api/projects/{slug}").status_code == 404
    # Numbers of one project lead nowhere in another, also where one is lead of both.
    text = api.post("/texts", {"title": "one", "body": "Amber Quay berthed."})
    (sentence,) = api.get(f"/texts/{text['id']}/sentences")["sentences"]
    for path in (f"texts/{text['id']}", f"texts/{text['id']}/sentences", f"desk/sentences/{sentence['id']}"):
        assert stan.request("GET", f"/api/projects/{slug}/{path}").status_code == 404
    act = {"kind": "sign as empty", "version": 0, "spans": []}
    written = stan.request("PUT", f"/api/projects/{slug}/desk/sentences/{sentence['id']}", json=act)
    assert written.status_code == 404
    with transaction(api.settings.database_url) as db:
        _untouched(db, sentence["id"])


def _untouched(db: Session, sentence: int) -> None:
    assert desk.annotation_of(db, sentence).state == "untouched"


@pytest.mark.parametrize(
    "origin",
    ["http://elsewhere.test", "null", "http://urdaten.test.evil.test", "http://[urdaten.test", "", None],
)
def test_writes_from_other_pages_are_refused(api: Api, origin: str | None) -> None:
    api.headers = {} if origin is None else {"Origin": origin}
    wish = {"code": "VES", "name": "vessel", "key": "v", "hue": 1}
    answer = api.request("POST", "/api/projects/tessmar/types", json=wish)
    assert answer.status_code == 403
    assert answer.json()["type"] == "urn:urdaten:foreign-origin"
    api.headers = {"Origin": ORIGIN}
    assert api.get("/types")["types"] == []


@pytest.mark.parametrize("host", ["elsewhere.test", "", "urdaten.test.evil.test", "[::1"])
def test_other_names_of_the_server_are_refused(api: Api, host: str) -> None:
    api.headers = {"Origin": ORIGIN, "Host": host}
    answer = api.request("GET", "/api/me")
    assert answer.status_code == 400
    assert answer.json()["type"] == "urn:urdaten:unknown-host"


@pytest.mark.parametrize("path", ["/api/me", "/api/nothing", "/"])
def test_security_headers_stand_on_every_answer(api: Api, path: str) -> None:
    headers = api.request("GET", path).headers
    policy = headers["content-security-policy"]
    assert "script-src 'self'" in policy
    assert "unsafe-inline" not in policy.split("script-src")[1].split(";")[0]
    assert "frame-ancestors 'none'" in policy
    assert headers["x-content-type-options"] == "nosniff"


def test_they_stand_on_unforeseen_errors_too(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    def fail(*_: object) -> None:
        raise RuntimeError("on purpose")

    monkeypatch.setattr("urdaten.places.team.acts.belongings", fail)
    answer = api.request("GET", "/api/projects")
    assert answer.status_code == 500
    assert answer.json()["type"] == "urn:urdaten:unforeseen"
    assert "on purpose" not in answer.text
    assert answer.headers["x-content-type-options"] == "nosniff"
