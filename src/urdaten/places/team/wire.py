"""Wire models of people and projects, and the classes of routes that a project has."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from fastapi import Depends, Path
from pydantic import BaseModel, ConfigDict, Field, StringConstraints, field_validator

from urdaten.places.team.acts import Belonging, Project, Role, belonging
from urdaten.platform.sessions import SignedIn
from urdaten.platform.web import Db, Me


def _refuse_what_cannot_be_kept(value: object) -> None:
    """Raise ValueError for text that neither the database nor UTF-8 can hold."""
    if isinstance(value, str):
        if "\0" in value:
            raise ValueError("holds a NUL character, so it is not a text")
        if not value.isascii() and any("\ud800" <= sign <= "\udfff" for sign in value):
            raise ValueError("holds half of a surrogate pair, so it is not a text")
    elif isinstance(value, list):
        for part in value:
            _refuse_what_cannot_be_kept(part)


class Wire(BaseModel):
    """Base of what comes in: unknown members are refused rather than dropped."""

    model_config = ConfigDict(extra="forbid")

    @field_validator("*", mode="after")
    @classmethod
    def _storable(cls, value: object) -> object:
        _refuse_what_cannot_be_kept(value)
        return value


class Shown(BaseModel):
    """Base of what goes out; reads attributes of our records."""

    model_config = ConfigDict(from_attributes=True)


# What nobody writes by hand, and what somebody may write at length.
Name = Annotated[str, StringConstraints(max_length=200)]
Secret = Annotated[str, StringConstraints(max_length=400)]


Seen = Annotated[
    int,
    Field(
        ge=0, le=2**31 - 1, description="the version that you saw; another one is answered with 409 and both"
    ),
]


class SignInWish(Wire):
    """Login and password, exactly as typed."""

    login: Name
    password: Secret


class LinkWish(Wire):
    token: Secret


class PersonShown(Shown):
    id: int
    login: str
    name: str
    keeper: bool = Field(description="looks after the server")


class KeysWish(Wire):
    """How somebody's keys differ from the standard ones."""

    singles: Literal["plain", "alt", "off"] = Field(
        default="plain", description="keys that are one character: as they are, only with alt, or off"
    )
    own: dict[Annotated[str, Field(max_length=120)], Annotated[str, Field(max_length=40)]] = Field(
        default={}, max_length=500, description="keys by what they do; an empty one switches it off"
    )


class KeysShown(Shown):
    singles: Literal["plain", "alt", "off"] = "plain"
    own: dict[str, str] = {}


class AccountShown(PersonShown):
    active: bool = Field(description="can sign in")


class AccountWish(Wire):
    """What a server keeper changes of an account; what is left out stays."""

    active: bool | None = None
    keeper: bool | None = None


class NewAccountWish(Wire):
    login: Name
    name: Name
    password: Secret


class NameWish(Wire):
    name: Name


class PasswordWish(Wire):
    old: Secret
    new: Secret


class SessionShown(Shown):
    id: int
    agent: str = Field(description="what the browser calls itself")
    created_at: datetime
    seen_at: datetime
    ends_at: datetime
    own: bool = Field(description="the session that asks")


class ProjectShown(Shown):
    slug: str
    name: str
    language: str
    role: Role = Field(description="what you are in it")
    created_at: datetime
    removed_at: datetime | None = Field(description="since when it lies in the bin")


class LanguageShown(Shown):
    code: str
    name: str


class MemberShown(Shown):
    id: int
    login: str
    name: str
    role: Role
    active: bool = Field(description="can sign in")
    since: datetime


class RoleWish(Wire):
    role: Role


class InvitationWish(Wire):
    role: Role
    note: str = Field(default="", max_length=400, description="for whom")


class InvitationShown(Shown):
    id: int
    role: Role
    note: str
    made_by: str
    created_at: datetime
    expires_at: datetime


class NewInvitationShown(InvitationShown):
    token: str = Field(description="stands behind the # of the link; shown this once")


class TeamShown(Shown):
    members: list[MemberShown]
    invitations: list[InvitationShown] = Field(description="those that stand; for leads alone")


class TokenWish(Wire):
    token: Secret


class WelcomeShown(Shown):
    slug: str
    project: str
    role: Role
    invited_by: str


class JoinWish(Wire):
    """Take up an invitation with a new account."""

    token: Secret
    login: Name
    name: Name
    password: Secret


# Numbers of rows, as the database keeps them.
Id = Annotated[int, Path(ge=0, le=2**31 - 1)]
Slug = Annotated[str, Path(max_length=60)]


def member(project: Slug, db: Db, me: Me) -> Belonging:
    """Class of routes: member. Anybody who belongs to the project, readers too."""
    return belonging(db, project, me.id)


Belongs = Annotated[Belonging, Depends(member)]


async def _project(belongs: Belongs) -> Project:
    return belongs.project


async def annotator(belongs: Belongs, me: Me) -> SignedIn:
    """Class of routes: annotator. Annotators and leads."""
    belongs.must_annotate()
    return me


async def lead(belongs: Belongs, me: Me) -> SignedIn:
    """Class of routes: lead. Leads alone."""
    belongs.must_lead()
    return me


def binned(project: Slug, db: Db, me: Me) -> Belonging:
    """Class of routes: lead of a project in the bin."""
    found = belonging(db, project, me.id, in_bin=True)
    found.must_lead()
    return found


# Whoever asks for the project belongs to it: no route of a project is open to strangers.
OfProject = Annotated[Project, Depends(_project)]
Annotator = Annotated[SignedIn, Depends(annotator)]
Lead = Annotated[SignedIn, Depends(lead)]
Binned = Annotated[Belonging, Depends(binned)]
