"""Who may do what: sessions, links, roles, origins, headers."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import pytest
from fastapi.routing import APIRoute
from sqlalchemy import update
from sqlalchemy.orm import Session

from conftest import ORIGIN, PASSWORD, Api
from urdaten.errors import BadInput, Clash, NotFound, NotSignedIn
from urdaten.platform import accounts
from urdaten.platform.accounts import Role, SignInLink, WebSession
from urdaten.platform.database import transaction
from urdaten.platform.settings import Settings
from urdaten.server.application import ROUTERS

OPEN = {"/api/sign-in", "/api/sign-in/link", "/api/sign-out"}
# What an annotator may write besides reading everything.
ANNOTATORS = {
    ("POST", "/api/projects/{project}/texts"),
    ("PUT", "/api/projects/{project}/desk/sentences/{sentence_id}"),
    ("POST", "/api/projects/{project}/desk/undo"),
    ("POST", "/api/projects/{project}/desk/redo"),
    ("POST", "/api/projects/{project}/desk/at-once"),
    ("POST", "/api/projects/{project}/rules/try"),
}


def every_route() -> list[tuple[str, str]]:
    routes = [r for router in ROUTERS for r in router.routes if isinstance(r, APIRoute)]
    assert len(routes) > 40
    return sorted((method, route.path) for route in routes for method in route.methods or ())


def concrete(path: str) -> str:
    path = path.replace("{project}", "tessmar")
    while "{" in path:
        start, end = path.index("{"), path.index("}")
        path = path[:start] + "1" + path[end + 1 :]
    return path


@pytest.mark.parametrize(("method", "path"), every_route())
def test_every_route_asks_for_a_session(api: Api, method: str, path: str) -> None:
    if path in OPEN:
        return
    stranger = Api(api.app, api.settings)
    answer = stranger.request(method, concrete(path), json={} if method in {"POST", "PUT"} else None)
    assert answer.status_code in {401, 422}, answer.text
    if answer.status_code == 422:
        # A body that is no good may be noticed first; with no session it is never acted upon.
        assert answer.json()["type"] == "urn:urdaten:malformed-request"


@pytest.mark.parametrize("path", ["/api/openapi.json", "/api/projects/tessmar/events"])
def test_what_is_not_in_the_document_asks_for_a_session_too(api: Api, path: str) -> None:
    assert Api(api.app, api.settings).request("GET", path).status_code == 401


def test_the_document_is_there_for_whoever_is_signed_in(api: Api) -> None:
    document = api.request("GET", "/api/openapi.json").json()
    assert "/api/projects/{project}/types" in document["paths"]


def test_every_write_is_for_leads_or_named_as_for_annotators(api: Api) -> None:
    jo = api.other("jo")
    writes = [(m, p) for m, p in every_route() if m != "GET" and p not in OPEN]
    assert set(writes) > ANNOTATORS
    for method, path in writes:
        answer = jo.request(method, concrete(path), json=BODIES.get((method, path), {}))
        refused = answer.status_code == 403
        assert refused == ((method, path) not in ANNOTATORS), (method, path, answer.text)


# Bodies that are well-formed, so that what refuses is the role and nothing else.
_TYPE: dict[str, object] = {"code": "VES", "name": "vessel", "key": "v", "hue": 1}
_RULE: dict[str, object] = {"name": "x", "type": "VES", "pattern": "a"}
_TEMPLATE: dict[str, object] = {"name": "x", "anchor": "a", "fields": []}
BODIES: dict[tuple[str, str], dict[str, object]] = {
    ("POST", "/api/projects/{project}/types"): _TYPE,
    ("PUT", "/api/projects/{project}/types/{type_id}"): _TYPE,
    ("PUT", "/api/projects/{project}/texts/{text_id}"): {"title": "x"},
    ("POST", "/api/projects/{project}/lists"): {"name": "x", "type": "VES"},
    ("PUT", "/api/projects/{project}/lists/{list_id}"): {"name": "x", "type": "VES"},
    ("POST", "/api/projects/{project}/lists/{list_id}/entries"): {"preferred": "x"},
    ("PUT", "/api/projects/{project}/lists/{list_id}/entries/{entry_id}"): {"preferred": "x"},
    ("POST", "/api/projects/{project}/rules"): _RULE,
    ("PUT", "/api/projects/{project}/rules/{rule_id}"): _RULE,
    ("POST", "/api/projects/{project}/trainings"): {"name": "x"},
    ("PUT", "/api/projects/{project}/trainings/anew"): {"after": 0},
    ("POST", "/api/projects/{project}/desk/rounds"): {"name": "x"},
    ("PUT", "/api/projects/{project}/desk/rounds/{round_id}"): {"name": "x"},
    ("POST", "/api/projects/{project}/records/templates"): _TEMPLATE,
    ("PUT", "/api/projects/{project}/records/templates/{template_id}"): _TEMPLATE,
}


def test_sign_in_and_out(api: Api) -> None:
    assert api.request("GET", "/api/me").json()["name"] == "Ines"
    assert api.request("GET", "/api/projects").json()[0]["slug"] == "tessmar"
    token = dict(api.cookies)
    assert api.request("POST", "/api/sign-out").status_code == 204
    api.cookies.update(token)
    assert api.request("GET", "/api/me").status_code == 401, "the session itself is gone, not just the cookie"


@pytest.mark.parametrize(("login", "password"), [("ines", "wrong"), ("nobody", PASSWORD), ("", "")])
def test_wrong_login_and_wrong_password_get_the_same_answer(api: Api, login: str, password: str) -> None:
    answer = api.request("POST", "/api/sign-in", json={"login": login, "password": password})
    assert answer.status_code == 401
    assert answer.json()["detail"].startswith("Login and password do not go together")


def test_the_cookie_is_out_of_reach_of_scripts_and_other_sites(api: Api) -> None:
    answer = api.request("POST", "/api/sign-in", json={"login": "ines", "password": PASSWORD})
    cookie = answer.headers["set-cookie"].lower()
    assert "httponly" in cookie
    assert "samesite=strict" in cookie


def test_a_link_signs_in_once(api: Api) -> None:
    with transaction(api.settings.database_url) as db:
        token = accounts.make_link(db, api.settings, "jo")
    guest = Api(api.app, api.settings)
    assert guest.request("POST", "/api/sign-in/link", json={"token": token}).json()["login"] == "jo"
    assert guest.request("GET", "/api/me").json()["role"] == "annotator"
    again = Api(api.app, api.settings).request("POST", "/api/sign-in/link", json={"token": token})
    assert again.status_code == 401
    assert "has been used" in again.json()["detail"]


def test_old_links_and_sessions_are_refused(db: Session, settings: Settings) -> None:
    past = datetime.now(UTC) - timedelta(minutes=1)
    token = accounts.make_link(db, settings, "ines")
    db.flush()
    db.execute(update(SignInLink).values(expires_at=past))
    with pytest.raises(NotSignedIn, match="too old"):
        accounts.use_link(db, settings, token)
    _, session = accounts.sign_in(db, settings, "ines", PASSWORD)
    assert accounts.person_of(db, session).login == "ines"
    db.execute(update(WebSession).values(expires_at=past))
    with pytest.raises(NotSignedIn):
        accounts.person_of(db, session)


def test_tokens_and_passwords_are_kept_as_hashes(db: Session, settings: Settings) -> None:
    token = accounts.make_link(db, settings, "ines")
    db.flush()
    kept = db.scalars(SignInLink.__table__.select()).all()
    assert token not in repr(kept)
    row = db.query(accounts.Account).filter_by(login="ines").one()
    assert row.password_hash.startswith("$argon2id$")


def test_accounts_are_checked(db: Session, settings: Settings) -> None:
    def add(login: str, password: str = PASSWORD) -> None:
        accounts.create_account(db, settings, login=login, name="N", role=Role.LEAD, password=password)

    with pytest.raises(Clash, match="taken"):
        add(" INES ")
    with pytest.raises(BadInput, match="at least 10"):
        add("new", "short")
    with pytest.raises(BadInput, match="login"):
        add("  ")
    with pytest.raises(NotFound):
        accounts.make_link(db, settings, "nobody")


@pytest.mark.parametrize("origin", ["http://elsewhere.test", "null", "http://urdaten.test.evil.test", None])
def test_writes_from_other_pages_are_refused(api: Api, origin: str | None) -> None:
    api.headers = {} if origin is None else {"Origin": origin}
    answer = api.request("POST", "/api/projects/tessmar/types", json=_TYPE)
    assert answer.status_code == 403
    assert answer.json()["type"] == "urn:urdaten:foreign-origin"
    api.headers = {"Origin": ORIGIN}
    assert api.get("/types")["types"] == []


def test_security_headers_stand_on_every_answer(api: Api) -> None:
    for path in ("/api/me", "/api/nothing", "/"):
        headers = api.request("GET", path).headers
        policy = headers["content-security-policy"]
        assert "script-src 'self'" in policy
        assert "unsafe-inline" not in policy.split("script-src")[1].split(";")[0]
        assert "frame-ancestors 'none'" in policy
        assert headers["x-content-type-options"] == "nosniff"
