"""Wire models of sign-in and projects, and the dependency that reads a path's project."""

from __future__ import annotations

from typing import Annotated

from fastapi import Depends
from pydantic import BaseModel, ConfigDict

from urdaten.places.team.acts import Project, project_by_slug
from urdaten.platform.accounts import Role
from urdaten.platform.web import Db, Me


class Wire(BaseModel):
    """Base of what comes in: unknown members are refused rather than dropped."""

    model_config = ConfigDict(extra="forbid")


class Shown(BaseModel):
    """Base of what goes out; reads attributes of our records."""

    model_config = ConfigDict(from_attributes=True)


class SignInWish(BaseModel):
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
