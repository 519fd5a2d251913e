"""Routes of sign-in and projects."""

from __future__ import annotations

from fastapi import APIRouter, Request, Response

from urdaten.places.team import acts
from urdaten.places.team.wire import LinkWish, PersonShown, ProjectShown, SignInWish
from urdaten.platform import accounts
from urdaten.platform.settings import Settings
from urdaten.platform.web import COOKIE, Config, Db, Me

router = APIRouter(prefix="/api", tags=["team"])


def _remember(response: Response, settings: Settings, token: str, request: Request) -> None:
    response.set_cookie(
        COOKIE,
        token,
        max_age=settings.session_hours * 3600,
        httponly=True,
        samesite="strict",
        secure=request.url.scheme == "https",
    )


@router.post("/sign-in", operation_id="signIn")
def sign_in(wish: SignInWish, request: Request, response: Response, db: Db, settings: Config) -> PersonShown:
    person, token = accounts.sign_in(db, settings, wish.login, wish.password)
    _remember(response, settings, token, request)
    return PersonShown.model_validate(person)


@router.post("/sign-in/link", operation_id="signInByLink")
def sign_in_by_link(
    wish: LinkWish, request: Request, response: Response, db: Db, settings: Config
) -> PersonShown:
    person, token = accounts.use_link(db, settings, wish.token)
    _remember(response, settings, token, request)
    return PersonShown.model_validate(person)


@router.post("/sign-out", status_code=204, operation_id="signOut")
def sign_out(request: Request, response: Response, db: Db) -> None:
    accounts.sign_out(db, request.cookies.get(COOKIE, ""))
    response.delete_cookie(COOKIE, httponly=True, samesite="strict")


@router.get("/me", operation_id="me")
def me(person: Me) -> PersonShown:
    return PersonShown.model_validate(person)


@router.get("/projects", operation_id="listProjects")
def projects(_person: Me, db: Db) -> list[ProjectShown]:
    return [ProjectShown.model_validate(project) for project in acts.list_projects(db)]
