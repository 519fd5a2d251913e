"""Routes of signing in and out, of one's own account, and of everybody's for whoever looks after the server."""

from __future__ import annotations

from fastapi import APIRouter, Request, Response

from urdaten.errors import NotSignedIn, WrongPassword
from urdaten.places.team import acts
from urdaten.places.team.wire import (
    AccountShown,
    AccountWish,
    Id,
    JoinWish,
    KeysShown,
    KeysWish,
    LinkWish,
    NameWish,
    NewAccountWish,
    PasswordWish,
    PersonShown,
    SessionShown,
    SignInWish,
    TokenWish,
    WelcomeShown,
)
from urdaten.platform import accounts, sessions
from urdaten.platform.database import transaction
from urdaten.platform.events import end_streams
from urdaten.platform.passwords import check_password, hash_password
from urdaten.platform.settings import Settings
from urdaten.platform.throttle import Throttle
from urdaten.platform.web import Config, Db, Keeper, Me, Open

router = APIRouter(prefix="/api", tags=["team"])


def _remember(response: Response, settings: Settings, token: str, request: Request) -> None:
    response.set_cookie(
        settings.cookie,
        token,
        max_age=settings.session_days * 24 * 3600,
        httponly=True,
        samesite="strict",
        secure=request.url.scheme == "https",
    )


def _agent(request: Request) -> str:
    return request.headers.get("user-agent", "")


def _address(request: Request) -> str:
    return request.client.host if request.client else ""


def _throttle(request: Request) -> Throttle:
    throttle: Throttle = request.app.state.throttle
    return throttle


@router.post("/sign-in", operation_id="signIn", dependencies=[Open])
def sign_in(wish: SignInWish, request: Request, response: Response, settings: Config) -> PersonShown:
    """After too many wrong passwords for an account or from an address: 429, with Retry-After."""
    throttle, of = _throttle(request), (accounts.folded_login(wish.login), _address(request))
    throttle.check(*of)
    try:
        person, token = sessions.sign_in(settings, wish.login, wish.password, _agent(request))
    except NotSignedIn:
        throttle.failed(*of)
        raise
    _remember(response, settings, token, request)
    return PersonShown.model_validate(person)


@router.post("/sign-in/link", operation_id="signInByLink", dependencies=[Open])
def sign_in_by_link(
    wish: LinkWish, request: Request, response: Response, db: Db, settings: Config
) -> PersonShown:
    person, token = sessions.use_link(db, settings, wish.token, _agent(request))
    _remember(response, settings, token, request)
    return PersonShown.model_validate(person)


@router.post("/sign-out", status_code=204, operation_id="signOut", dependencies=[Open])
def sign_out(request: Request, response: Response, db: Db, settings: Config) -> None:
    sessions.sign_out(db, request.cookies.get(settings.cookie, ""))
    response.delete_cookie(settings.cookie, httponly=True, samesite="strict")


@router.post("/invitation", operation_id="lookAtInvitation", dependencies=[Open])
def look_at_invitation(wish: TokenWish, db: Db) -> WelcomeShown:
    """What an invitation is for; it is not spent."""
    return WelcomeShown.model_validate(acts.look_at_invitation(db, wish.token))


@router.post("/invitation/accept", operation_id="acceptInvitation")
def accept_invitation(wish: TokenWish, me: Me, db: Db) -> WelcomeShown:
    """Become a member with the account that is signed in; the invitation is spent."""
    return WelcomeShown.model_validate(acts.accept_invitation(db, wish.token, me.id))


@router.post("/invitation/join", operation_id="joinByInvitation", dependencies=[Open])
def join(wish: JoinWish, request: Request, response: Response, settings: Config) -> WelcomeShown:
    """Become a member with a new account, and sign in; the invitation is spent."""
    accounts.check_new(wish.login, wish.name)
    check_password(wish.password)
    # Before the slow part: whoever guesses tokens costs no hash.
    with transaction(settings.database_url) as db:
        acts.look_at_invitation(db, wish.token)
    hashed = hash_password(settings, wish.password)
    with transaction(settings.database_url) as db:
        person = accounts.create_account(db, login=wish.login, name=wish.name, password_hash=hashed)
        welcome = acts.accept_invitation(db, wish.token, person.id)
        token = sessions.open_session(db, settings, person.id, _agent(request))
    _remember(response, settings, token, request)
    return WelcomeShown.model_validate(welcome)


@router.get("/me", operation_id="me")
def me(person: Me) -> PersonShown:
    return PersonShown.model_validate(person)


@router.put("/me", operation_id="renameMe")
def rename_me(wish: NameWish, person: Me, db: Db) -> PersonShown:
    return PersonShown.model_validate(accounts.rename(db, person.id, wish.name))


@router.get("/me/keys", operation_id="readKeys")
def read_keys(person: Me, db: Db) -> KeysShown:
    return KeysShown.model_validate(accounts.read_keys(db, person.id))


@router.put("/me/keys", status_code=204, operation_id="setKeys")
def set_keys(wish: KeysWish, person: Me, db: Db) -> None:
    accounts.set_keys(db, person.id, wish.model_dump())


@router.put("/me/password", status_code=204, operation_id="changePassword")
def change_password(wish: PasswordWish, request: Request, person: Me, settings: Config) -> None:
    """Your other sessions end."""
    throttle, of = _throttle(request), (person.login, _address(request))
    throttle.check(*of)
    try:
        sessions.change_password(settings, person, wish.old, wish.new)
    except WrongPassword:
        throttle.failed(*of)
        raise


@router.get("/me/sessions", operation_id="listSessions")
def list_sessions(person: Me, db: Db) -> list[SessionShown]:
    return [
        SessionShown.model_validate(vars(session) | {"own": session.id == person.session_id})
        for session in sessions.open_sessions(db, person.id)
    ]


@router.delete("/me/sessions", status_code=204, operation_id="endOtherSessions")
def end_other_sessions(person: Me, db: Db) -> None:
    """Sign out everywhere else."""
    sessions.end_sessions(db, person.id, besides=person.session_id)


@router.delete("/me/sessions/{session_id}", status_code=204, operation_id="endSession")
def end_session(session_id: Id, person: Me, db: Db) -> None:
    sessions.end_session(db, person.id, session_id)


@router.get("/accounts", operation_id="listAccounts")
def list_accounts(_me: Keeper, db: Db) -> list[AccountShown]:
    return [AccountShown.model_validate(person) for person in accounts.people(db)]


@router.post("/accounts", status_code=201, operation_id="addAccount")
def add_account(wish: NewAccountWish, _me: Keeper, settings: Config) -> AccountShown:
    accounts.check_new(wish.login, wish.name)
    check_password(wish.password)
    hashed = hash_password(settings, wish.password)
    with transaction(settings.database_url) as db:
        person = accounts.create_account(db, login=wish.login, name=wish.name, password_hash=hashed)
    return AccountShown.model_validate(person)


@router.put("/accounts/{account_id}", operation_id="changeAccount")
def change_account(account_id: Id, wish: AccountWish, _me: Keeper, db: Db) -> AccountShown:
    """Let somebody sign in or not, look after the server or not. Whoever may not sign in is signed out at once."""
    person = None
    if wish.keeper is not None:
        person = accounts.set_keeper(db, account_id, wish.keeper)
    if wish.active is not None:
        person = accounts.set_active(db, account_id, wish.active)
        if not wish.active:
            sessions.end_sessions(db, account_id)
            end_streams(db, account=account_id)
    return AccountShown.model_validate(person or accounts.account_by_id(db, account_id))


@router.post("/accounts/{account_id}/link", operation_id="makeSignInLink")
def make_link(account_id: Id, _me: Keeper, db: Db, settings: Config) -> TokenWish:
    """A token that signs this account in once, for somebody who has forgotten their password."""
    login = accounts.account_by_id(db, account_id).login
    return TokenWish(token=sessions.make_link(db, settings, login))
