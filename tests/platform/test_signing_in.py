"""Signing in and out: passwords, links, sessions and their ends, and how guessing is slowed down."""

from __future__ import annotations

import threading
from datetime import UTC, datetime, timedelta

import pytest
from sqlalchemy import select, update
from sqlalchemy.orm import Session

from conftest import ORIGIN, PASSWORD, Api
from urdaten.errors import BadInput, Busy, Clash, NotAllowed, NotFound, NotSignedIn, TooMany
from urdaten.platform import accounts, passwords, sessions
from urdaten.platform.database import engine_for, transaction
from urdaten.platform.sessions import SignInLink, WebSession
from urdaten.platform.settings import Settings
from urdaten.platform.throttle import Throttle


def test_sign_in_and_out(api: Api) -> None:
    assert api.request("GET", "/api/me").json()["name"] == "Ines"
    assert api.request("GET", "/api/projects").json()[0]["slug"] == "tessmar"
    token = dict(api.cookies)
    assert api.request("POST", "/api/sign-out").status_code == 204
    api.cookies.update(token)
    assert api.request("GET", "/api/me").status_code == 401, "the session itself is gone, not just the cookie"


@pytest.mark.parametrize(
    ("login", "password"),
    [("ines", "wrong"), ("nobody", PASSWORD), ("", ""), ("ines", PASSWORD + " "), ("ines", "x" * 400)],
)
def test_wrong_login_and_wrong_password_get_the_same_answer(api: Api, login: str, password: str) -> None:
    answer = api.request("POST", "/api/sign-in", json={"login": login, "password": password})
    assert answer.status_code == 401
    assert answer.json()["detail"].startswith("Login and password do not go together")


def test_an_unknown_login_costs_one_hash_like_a_known_one(
    settings: Settings, monkeypatch: pytest.MonkeyPatch
) -> None:
    checked: list[str] = []
    plain = passwords._hasher

    class Counting:
        def verify(self, kept: str, password: str) -> bool:
            checked.append(kept)
            return plain(1, 64).verify(kept, password)

    # The stand-in for nobody's hash is made once, whatever is asked then.
    passwords._nobodys(settings.password_passes, settings.password_memory_kib)
    monkeypatch.setattr(passwords, "_hasher", lambda *_: Counting())
    for login in ("ines", "nobody"):
        with pytest.raises(NotSignedIn):
            sessions.sign_in(settings, login, "a wrong password", "")
    assert len(checked) == 2
    assert [kept.split("$")[3] for kept in checked] == ["m=64,t=1,p=4"] * 2, "and both cost the same"


def test_nobody_holds_a_connection_while_a_password_is_checked(
    settings: Settings, monkeypatch: pytest.MonkeyPatch
) -> None:
    held: list[int] = []

    def look(*_: object) -> bool:
        held.append(engine_for(settings.database_url).pool.checkedout())  # type: ignore[attr-defined]
        return True

    monkeypatch.setattr(sessions, "fits", look)
    sessions.sign_in(settings, "ines", PASSWORD, "")
    assert held == [0]


def test_few_passwords_are_checked_at_once(settings: Settings, monkeypatch: pytest.MonkeyPatch) -> None:
    inside, most, gate = 0, 0, threading.Lock()
    plain = passwords._hasher(1, 64)
    kept = plain.hash(PASSWORD)

    class Slow:
        def verify(self, hashed: str, password: str) -> bool:
            nonlocal inside, most
            with gate:
                inside += 1
                most = max(most, inside)
            threading.Event().wait(0.02)
            with gate:
                inside -= 1
            return plain.verify(hashed, password)

    monkeypatch.setattr(passwords, "_hasher", lambda *_: Slow())
    threads = [threading.Thread(target=passwords.fits, args=(settings, kept, PASSWORD)) for _ in range(10)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert most == passwords.AT_ONCE


def test_whoever_waits_too_long_for_that_is_told(settings: Settings, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(passwords, "WAIT_S", 0.01)
    for _ in range(passwords.AT_ONCE):
        passwords._room.acquire()
    try:
        with pytest.raises(Busy):
            passwords.fits(settings, None, PASSWORD)
    finally:
        for _ in range(passwords.AT_ONCE):
            passwords._room.release()
    assert not passwords.fits(settings, None, PASSWORD)


def test_guessing_is_slowed_down_and_says_how_long(api: Api) -> None:
    def guess(login: str) -> int:
        wish = {"login": login, "password": "a wrong password"}
        return api.request("POST", "/api/sign-in", json=wish).status_code

    assert [guess("ines") for _ in range(6)] == [401] * 6
    answer = api.request("POST", "/api/sign-in", json={"login": "INES ", "password": PASSWORD})
    assert answer.status_code == 429, "also with the right password"
    assert 1 <= int(answer.headers["retry-after"]) <= 300
    assert "Wait" in answer.json()["detail"]
    assert guess("jo") == 401, "another account is not barred"


def test_an_address_that_tries_everybody_is_slowed_down_too() -> None:
    throttle = Throttle()
    for i in range(60):
        throttle.check(f"login {i}", "192.0.2.1")
        throttle.failed(f"login {i}", "192.0.2.1")
    with pytest.raises(TooMany):
        throttle.check("somebody else", "192.0.2.1")
    throttle.check("somebody else", "192.0.2.2")


def test_an_account_that_is_tried_from_everywhere_is_slowed_down_too() -> None:
    throttle = Throttle()
    for i in range(30):
        throttle.failed("ines", f"192.0.2.{i}")
    with pytest.raises(TooMany):
        throttle.check("ines", "198.51.100.1")


def test_the_cookie_is_out_of_reach_of_scripts_and_other_sites(api: Api) -> None:
    answer = api.request("POST", "/api/sign-in", json={"login": "ines", "password": PASSWORD})
    cookie = answer.headers["set-cookie"].lower()
    assert "httponly" in cookie
    assert "samesite=strict" in cookie


def test_cookies_of_two_instances_on_one_host_differ() -> None:
    assert Settings(instance="a1").cookie != Settings(instance="b2").cookie


def test_a_link_signs_in_once(api: Api) -> None:
    with transaction(api.settings.database_url) as db:
        token = sessions.make_link(db, api.settings, "jo")
    guest = Api(api.app, api.settings)
    assert guest.request("POST", "/api/sign-in/link", json={"token": token}).json()["login"] == "jo"
    assert guest.request("GET", "/api/me").json()["keeper"] is False
    again = Api(api.app, api.settings).request("POST", "/api/sign-in/link", json={"token": token})
    assert again.status_code == 401
    assert "has been used" in again.json()["detail"]


def test_old_links_and_sessions_are_refused(db: Session, settings: Settings) -> None:
    past = datetime.now(UTC) - timedelta(minutes=1)
    token = sessions.make_link(db, settings, "ines")
    db.flush()
    db.execute(update(SignInLink).values(expires_at=past))
    with pytest.raises(NotSignedIn, match="too old"):
        sessions.use_link(db, settings, token, "")


@pytest.mark.parametrize("column", ["expires_at", "ends_at"])
def test_a_session_ends_unused_and_in_any_case(db: Session, settings: Settings, column: str) -> None:
    person = accounts.account_by_login(db, "ines")
    token = sessions.open_session(db, settings, person.id, "a browser")
    assert sessions.signed_in(db, settings, token).login == "ines"
    db.execute(update(WebSession).values({column: datetime.now(UTC) - timedelta(minutes=1)}))
    with pytest.raises(NotSignedIn):
        sessions.signed_in(db, settings, token)


def test_a_session_that_is_used_lives_on_until_its_end(db: Session, settings: Settings) -> None:
    person = accounts.account_by_login(db, "ines")
    token = sessions.open_session(db, settings, person.id, "a browser")
    db.flush()
    before = datetime.now(UTC) - timedelta(hours=1)
    db.execute(update(WebSession).values(seen_at=before, expires_at=before + timedelta(hours=2)))
    db.expire_all()
    ends = db.scalars(select(WebSession.ends_at)).one()
    sessions.signed_in(db, settings, token)
    assert db.scalars(select(WebSession.seen_at)).one() == before, "reading writes nothing"
    sessions.signed_in(db, settings, token, touch=True)
    db.flush()
    row = db.scalars(select(WebSession)).one()
    assert row.seen_at > before
    assert row.expires_at - row.seen_at == timedelta(hours=settings.idle_hours)
    assert row.ends_at == ends


def test_tokens_and_passwords_are_kept_as_hashes(db: Session, settings: Settings) -> None:
    token = sessions.make_link(db, settings, "ines")
    db.flush()
    assert token not in repr(db.execute(select(SignInLink.token_hash)).all())
    kept = db.scalars(select(accounts.Account.password_hash)).all()
    assert all(hashed.startswith("$argon2id$") for hashed in kept)


@pytest.mark.parametrize(
    ("login", "name", "match"),
    [
        ("  ", "N", "login"),
        ("a b", "N", "login"),
        ("x" * 61, "N", "login"),
        ("x", " ", "name"),
        ("x", "N" * 81, "name"),
    ],
)
def test_accounts_are_checked(db: Session, login: str, name: str, match: str) -> None:
    with pytest.raises(BadInput, match=match):
        accounts.create_account(db, login=login, name=name, password_hash="")


def test_logins_are_unique_whatever_their_case(db: Session, settings: Settings) -> None:
    with pytest.raises(Clash, match="taken"):
        accounts.create_account(db, login=" INES ", name="N", password_hash="")
    with pytest.raises(NotFound):
        sessions.make_link(db, settings, "nobody")


@pytest.mark.parametrize("password", ["short", "x" * 201])
def test_passwords_have_a_bearable_length(password: str) -> None:
    with pytest.raises(BadInput, match="10 to 200"):
        passwords.check_password(password)


def test_changing_ones_password_ends_other_sessions(api: Api) -> None:
    elsewhere = api.other("ines")
    wish = {"old": PASSWORD, "new": "another long one"}
    assert api.request("PUT", "/api/me/password", json=wish).status_code == 204
    assert api.request("GET", "/api/me").status_code == 200
    assert elsewhere.request("GET", "/api/me").status_code == 401
    old = api.request("POST", "/api/sign-in", json={"login": "ines", "password": PASSWORD})
    assert old.status_code == 401
    new = api.request("POST", "/api/sign-in", json={"login": "ines", "password": "another long one"})
    assert new.status_code == 200


def test_a_wrong_present_password_changes_nothing_and_counts_as_guessing(api: Api) -> None:
    wish = {"old": "wrong", "new": "another long one"}
    answers = [api.request("PUT", "/api/me/password", json=wish) for _ in range(7)]
    assert [answer.status_code for answer in answers] == [422] * 6 + [429]
    assert answers[0].json()["field"] == "old"
    short = api.other("jo").request("PUT", "/api/me/password", json={"old": PASSWORD, "new": "short"})
    assert (short.status_code, short.json()["field"]) == (422, "new")


def test_other_sessions_are_shown_and_ended(api: Api) -> None:
    api.other("ines")
    listed = api.request("GET", "/api/me/sessions").json()
    assert [session["own"] for session in listed].count(True) == 1
    (other,) = [session for session in listed if not session["own"]]
    assert "python-httpx" in other["agent"]
    assert api.other("jo").request("DELETE", f"/api/me/sessions/{other['id']}").status_code == 404
    assert api.request("DELETE", f"/api/me/sessions/{other['id']}").status_code == 204
    assert api.request("DELETE", f"/api/me/sessions/{other['id']}").status_code == 404
    third = api.other("ines")
    assert api.request("DELETE", "/api/me/sessions").status_code == 204
    assert third.request("GET", "/api/me").status_code == 401
    assert api.request("GET", "/api/me").status_code == 200


def test_an_account_that_is_switched_off_is_out_at_once(api: Api) -> None:
    jo = api.other("jo")
    number = jo.request("GET", "/api/me").json()["id"]
    changed = api.request("PUT", f"/api/accounts/{number}", json={"active": False})
    assert changed.json()["active"] is False
    assert jo.request("GET", "/api/me").status_code == 401
    refused = jo.request("POST", "/api/sign-in", json={"login": "jo", "password": PASSWORD})
    assert refused.status_code == 403
    assert "switched off" in refused.json()["detail"]
    with transaction(api.settings.database_url) as db, pytest.raises(NotAllowed):
        sessions.use_link(db, api.settings, sessions.make_link(db, api.settings, "jo"), "")
    api.request("PUT", f"/api/accounts/{number}", json={"active": True})
    assert jo.request("POST", "/api/sign-in", json={"login": "jo", "password": PASSWORD}).status_code == 200


def test_the_last_keeper_stays(api: Api) -> None:
    me = api.request("GET", "/api/me").json()["id"]
    for wish in ({"active": False}, {"keeper": False}):
        answer = api.request("PUT", f"/api/accounts/{me}", json=wish)
        assert answer.status_code == 409
        assert "last who looks after" in answer.json()["detail"]


def test_a_keeper_adds_accounts_and_gives_links(api: Api) -> None:
    wish = {"login": "New", "name": "New One", "password": PASSWORD}
    made = api.request("POST", "/api/accounts", json=wish)
    assert made.status_code == 201, made.text
    token = api.request("POST", f"/api/accounts/{made.json()['id']}/link").json()["token"]
    guest = Api(api.app, api.settings)
    assert guest.request("POST", "/api/sign-in/link", json={"token": token}).json()["login"] == "new"
    assert guest.request("GET", "/api/projects").json() == []


def test_a_name_is_changed(api: Api) -> None:
    assert api.request("PUT", "/api/me", json={"name": " Ines the lead "}).json()["name"] == "Ines the lead"
    assert api.request("PUT", "/api/me", json={"name": " "}).status_code == 422


def test_a_large_body_is_refused_before_it_is_read(api: Api) -> None:
    answer = api.request("POST", "/api/sign-in", content=b"[]" * 600_000, headers={"Origin": ORIGIN})
    assert answer.status_code == 413
    assert answer.json()["type"] == "urn:urdaten:too-large"


@pytest.mark.parametrize(
    "body",
    [
        b"[" * 100_000,
        b'{"login": ' * 3000,
        b'{"login": "\\ud800", "password": "x"}',
        b'{"login": "a\\u0000b", "password": "x"}',
        b"\xff\xfe",
        b"",
        b"NaN",
        b'{"login": 1e999, "password": []}',
    ],
)
def test_odd_json_is_the_senders_fault(api: Api, body: bytes) -> None:
    headers = {"Origin": ORIGIN, "Content-Type": "application/json"}
    answer = api.request("POST", "/api/sign-in", content=body, headers=headers)
    assert 400 <= answer.status_code < 500, answer.text
    assert answer.headers["content-type"] == "application/problem+json"


def test_a_wrong_method_says_which_are_right(api: Api) -> None:
    answer = api.request("DELETE", "/api/me")
    assert answer.status_code == 405
    assert "GET" in answer.headers["allow"]


def test_everybody_has_keys_of_their_own(api: Api) -> None:
    def keys() -> object:
        return api.request("GET", "/api/me/keys").json()

    standard = {"singles": "plain", "own": {}}
    assert keys() == standard
    wish = {"singles": "alt", "own": {"sign and go on": "ctrl+j", "turn down": ""}}
    assert api.request("PUT", "/api/me/keys", json=wish).status_code == 204
    assert keys() == wish
    for bad in (
        {"singles": "never"},
        {"own": {"sign": "x" * 41}},
        {"own": {str(n): "x" for n in range(501)}},
    ):
        assert api.request("PUT", "/api/me/keys", json=bad).status_code == 422
    assert keys() == wish
    with transaction(api.settings.database_url) as db:
        other = accounts.account_by_login(db, "jo").id
        assert accounts.read_keys(db, other) == {}
    assert api.request("PUT", "/api/me/keys", json={}).status_code == 204
    assert keys() == standard
