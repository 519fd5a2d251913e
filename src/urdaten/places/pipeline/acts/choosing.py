"""What the settings of a pipeline's stages can name, and whether it can run as it is."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy.orm import Session

from urdaten.core.pipeline import Plan, build
from urdaten.errors import BadInput
from urdaten.places.lists import acts as lists
from urdaten.places.pipeline.acts.material import read_material
from urdaten.places.rules import acts as rules
from urdaten.places.tagger import acts as tagger
from urdaten.places.team.acts import Project
from urdaten.places.types import acts as types


@dataclass(frozen=True, kw_only=True)
class Choices:
    """Names of lists and rules that are on, codes of types, and taggers by the number of their training."""

    lists: list[str]
    rules: list[str]
    types: list[str]
    taggers: dict[str, str]


def choices(db: Session, project_id: int) -> Choices:
    return Choices(
        lists=[one.name for one in lists.lists_on(db, project_id)],
        rules=[one.name for one in rules.read_rules(db, project_id) if one.on],
        types=[one.code for one in types.list_types(db, project_id)],
        taggers={str(one.id): one.name for one in tagger.read_trainings(db, project_id) if one.has_model},
    )


def fault(db: Session, project: Project, plan: Plan) -> str:
    """Why a plan cannot run as it is; "" where it can."""
    try:
        build(plan, read_material(db, project, plan))
    except BadInput as why:
        return why.message
    return ""
