"""Wire models of sign-in and projects, and the dependency that reads a path's project."""

from __future__ import annotations

from typing import Annotated

from fastapi import Depends
from pydantic import BaseModel, ConfigDict, field_validator

from urdaten.places.team.acts import Project, project_by_slug
from urdaten.platform.accounts import Role
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

    @field_validator("*", mode="before")
    @classmethod
    def _storable(cls, value: object) -> object:
        _refuse_what_cannot_be_kept(value)
        return value


class Shown(BaseModel):
    """Base of what goes out; reads attributes of our records."""

    model_config = ConfigDict(from_attributes=True)


class SignInWish(Wire):
    """Login and password, exactly as typed."""

    login: str
    password: str


class LinkWish(Wire):
    token: str


class PersonShown(Shown):
    id: int
    login: str
    name: str
    role: Role


class ProjectShown(Shown):
    slug: str
    name: str
    language: str


def _project(project: str, db: Db, _me: Me) -> Project:
    return project_by_slug(db, project)


# Asking for the project asks for a session too: no route of a project is open to strangers.
OfProject = Annotated[Project, Depends(_project)]
