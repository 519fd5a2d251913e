"""Routes over all projects of somebody: the list with its figures, and beginning a new one."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from fastapi import APIRouter
from fastapi.responses import PlainTextResponse
from pydantic import Field
from sqlalchemy.orm import Session

from urdaten.core.formats import Scheme, SchemeType, read_scheme, read_skos, write_scheme, write_skos
from urdaten.errors import BadInput
from urdaten.places.desk import acts as desk
from urdaten.places.team import acts as team
from urdaten.places.team.routes import shown
from urdaten.places.team.wire import Name, OfProject, ProjectShown, Wire
from urdaten.places.types import acts as types
from urdaten.platform.web import Db, Me

router = APIRouter(prefix="/api/projects", tags=["team"])


class ProjectListed(ProjectShown):
    texts: int
    sentences: int
    signed: int = Field(description="signed sentences of gold")
    changed_at: datetime = Field(description="when somebody last annotated in it; else when it was begun")


SchemeForm = Literal["toml", "json", "turtle", "json-ld"]
_SUFFIX: dict[SchemeForm, str] = {"toml": "toml", "json": "json", "turtle": "ttl", "json-ld": "jsonld"}


class NewProjectWish(Wire):
    """A name, a language pack, and where the scheme comes from: nowhere, another project of yours, or a file."""

    name: Name
    language: Annotated[str, Field(max_length=40)]
    scheme_of: Annotated[str, Field(max_length=60)] | None = Field(
        default=None, description="slug of a project"
    )
    scheme_file: Annotated[str, Field(max_length=900_000)] | None = Field(
        default=None, description="the file's text: TOML or JSON, or SKOS as Turtle or JSON-LD"
    )
    scheme_format: SchemeForm = "toml"


@router.get("", operation_id="listProjects")
def projects(me: Me, db: Db) -> list[ProjectListed]:
    """The projects that you belong to, the one last worked in first, those in the bin too."""
    mine = team.belongings(db, me.id)
    shares = desk.shares(db, [one.project.id for one in mine])
    listed = []
    for one in mine:
        share = shares[one.project.id]
        listed.append(
            ProjectListed(
                **shown(one).model_dump(),
                texts=share.texts,
                sentences=share.sentences,
                signed=share.signed,
                changed_at=share.changed_at or one.project.created_at,
            )
        )
    return sorted(listed, key=lambda one: one.changed_at, reverse=True)


@router.post("", status_code=201, operation_id="addProject")
def add(wish: NewProjectWish, me: Me, db: Db) -> ProjectShown:
    """Begin a project; you are its lead."""
    project = team.create_project(db, name=wish.name, language=wish.language)
    team.add_member(db, project.id, me.id, team.Role.LEAD)
    desk.gold_layer(db, project.id)
    if wish.scheme_file is not None and wish.scheme_of is not None:
        raise BadInput(
            "A scheme comes from another project or from a file, not from both.", field="scheme_of"
        )
    if wish.scheme_file is not None:
        use_scheme(db, project, me.id, _read(wish.scheme_file, wish.scheme_format))
    elif wish.scheme_of is not None:
        other = team.belonging(db, wish.scheme_of, me.id).project
        use_scheme(db, project, me.id, scheme_of(db, other))
    return shown(team.belonging(db, project.slug, me.id))


@router.get("/{project}/scheme-file", operation_id="downloadScheme", response_class=PlainTextResponse)
def download_scheme(project: OfProject, db: Db, form: SchemeForm = "toml") -> PlainTextResponse:
    """The scheme as a file that a new project can be begun from."""
    headers = {"Content-Disposition": f'attachment; filename="{project.slug}-types.{_SUFFIX[form]}"'}
    scheme = scheme_of(db, project)
    if form == "turtle" or form == "json-ld":
        return PlainTextResponse(write_skos(scheme, form), headers=headers)
    return PlainTextResponse(write_scheme(scheme, form), headers=headers)


def _read(source: str, form: SchemeForm) -> Scheme:
    return read_skos(source, form) if form == "turtle" or form == "json-ld" else read_scheme(source, form)


def use_scheme(db: Session, project: team.Project, account_id: int | None, scheme: Scheme) -> None:
    """Give a new project a scheme."""
    drafts = [
        types.TypeDraft(
            code=t.code,
            name=t.name,
            key=t.key,
            hue=t.hue,
            definition=t.definition,
            counts=t.counts,
            counts_not=t.counts_not,
            rulings=t.rulings,
            value_kind=t.value_kind,
        )
        for t in scheme.types
    ]
    parents = {t.code: t.parent for t in scheme.types if t.parent}
    types.add_types(db, project, account_id, scheme.overlap, drafts, parents)


def scheme_of(db: Session, project: team.Project) -> Scheme:
    """A project's scheme, types by their codes."""
    codes = types.type_codes(db, project.id)
    return Scheme(
        overlap=project.overlap,
        types=tuple(
            SchemeType(
                code=t.code,
                name=t.name,
                key=t.key,
                hue=t.hue,
                definition=t.definition,
                counts=t.counts,
                counts_not=t.counts_not,
                rulings=t.rulings,
                parent=codes[t.parent] if t.parent is not None else "",
                value_kind=t.value_kind,
            )
            for t in types.list_types(db, project.id)
        ),
    )
