"""A project's pipeline: its versions, what they name, and keeping a new one."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from urdaten.core.pipeline import (
    Named,
    Plan,
    build,
    check_plan,
    differences,
    named_in,
    plan_values,
    read_plan,
    renamed_plan,
    standard,
)
from urdaten.errors import BadInput, NotFound, StaleWrite
from urdaten.places.pipeline.acts.material import read_material
from urdaten.places.pipeline.acts.names import Known, known_names
from urdaten.places.pipeline.tables import PipelineVersionRow
from urdaten.places.tagger import acts as tagger
from urdaten.places.team.acts import Project
from urdaten.platform.revisions import bump

PLACE = "pipeline"
_LOCK = 0x717E5
LONGEST_VERSION_NAME = 80


@dataclass(frozen=True, kw_only=True)
class Version:
    """A pipeline with the names of now. Number 0 is the one that every project begins with."""

    number: int
    plan: Plan
    said: str = ""
    account_id: int | None = None
    created_at: datetime | None = None
    # What somebody calls it.
    name: str = ""
    # Is it the one that others are given?
    published: bool = False
    # Is everything that it needs kept as it was?
    has_bundle: bool = False


def present(db: Session, project_id: int) -> Version:
    """The pipeline of now."""
    query = select(PipelineVersionRow).where(PipelineVersionRow.project_id == project_id)
    row = db.scalar(query.order_by(PipelineVersionRow.number.desc()).limit(1))
    return _first(db, project_id) if row is None else _version(row, known_names(db, project_id))


def number_of(db: Session, project_id: int) -> int:
    """The number of the version of now; 0 as long as nobody has changed anything."""
    query = select(func.max(PipelineVersionRow.number)).where(PipelineVersionRow.project_id == project_id)
    return db.scalar(query) or 0


def stages_on(db: Session, project_id: int) -> tuple[int, int]:
    """How many stages of the pipeline of now are on, and the number of its version; names are not looked up for that."""
    query = select(PipelineVersionRow).where(PipelineVersionRow.project_id == project_id)
    row = db.scalar(query.order_by(PipelineVersionRow.number.desc()).limit(1))
    if row is None:
        return len(_first(db, project_id).plan.on), 0
    return sum(stage["on"] for stage in row.plan["stages"]), row.number


def read_versions(db: Session, project_id: int) -> list[Version]:
    """Every version, the newest first; the last one is that with which every project begins."""
    known = known_names(db, project_id)
    query = select(PipelineVersionRow).where(PipelineVersionRow.project_id == project_id)
    rows = db.scalars(query.order_by(PipelineVersionRow.number.desc()))
    return [*(_version(row, known) for row in rows), _first(db, project_id)]


def read_version(db: Session, project_id: int, number: int) -> Version:
    """Raises NotFound for one that there is not."""
    if number == 0:
        return _first(db, project_id)
    row = db.get(PipelineVersionRow, (project_id, number))
    if row is None:
        raise NotFound(f"There is no version {number} of the pipeline.")
    return _version(row, known_names(db, project_id))


def keep(db: Session, project: Project, account_id: int | None, plan: Plan, seen: int) -> Version:
    """Make this the pipeline of now.

    Raises StaleWrite unless `seen` is the number of the version of now, BadInput and BadPattern where the plan names something
    that is not there or cannot be read.
    """
    check_plan(plan)
    build(plan, read_material(db, project, plan))
    db.execute(select(func.pg_advisory_xact_lock(_LOCK, project.id)))
    before = present(db, project.id)
    if before.number != seen:
        raise StaleWrite(
            "Somebody else changed the pipeline first. What you have is still here; look at their version and keep yours after "
            "it, or take theirs.",
            number=before.number,
        )
    said = differences(before.plan, plan)
    if not said:
        return before
    return _keep(db, project, account_id, plan, "; ".join(said))


def call(db: Session, project: Project, number: int, name: str) -> Version:
    """Give a version a name, or none with "". Raises BadInput for one that is too long or another version's, NotFound."""
    name = name.strip()
    row = db.get(PipelineVersionRow, (project.id, number), with_for_update=True)
    if row is None:
        raise NotFound(f"There is no version {number} of the pipeline that could have a name.")
    if len(name) > LONGEST_VERSION_NAME or not name.isprintable():
        raise BadInput(f"A version has a name of at most {LONGEST_VERSION_NAME} letters.", field="name")
    mine = (PipelineVersionRow.project_id == project.id, PipelineVersionRow.number != number)
    if name and db.scalar(select(PipelineVersionRow.number).where(*mine, PipelineVersionRow.name == name)):
        raise BadInput(f"Another version is called “{name}”; give this one a name of its own.", field="name")
    row.name = name
    db.flush()
    bump(db, project.id, PLACE)
    return _version(row, known_names(db, project.id))


def keep_first(db: Session, project: Project, account_id: int | None) -> Version:
    """The pipeline that the project began with, kept as a version of its own, so that it can be published. Raises StaleWrite where
    somebody has kept another meanwhile."""
    db.execute(select(func.pg_advisory_xact_lock(_LOCK, project.id)))
    now = present(db, project.id)
    if now.number != 0:
        raise StaleWrite(
            "Somebody else changed the pipeline first; look at their version.", number=now.number
        )
    return _keep(db, project, account_id, now.plan, "as the project began")


def go_back(db: Session, project: Project, account_id: int | None, number: int, seen: int) -> Version:
    """Make what an earlier version was the pipeline of now, as a version of its own; errors as those of `keep`."""
    version = read_version(db, project.id, number)
    made = keep(db, project, account_id, version.plan, seen)
    if made.number == seen:
        return made
    row = db.get_one(PipelineVersionRow, (project.id, made.number))
    row.said = f"back to version {number}"
    db.flush()
    return replace(made, said=row.said)


def _keep(db: Session, project: Project, account_id: int | None, plan: Plan, said: str) -> Version:
    row = PipelineVersionRow(
        project_id=project.id,
        number=number_of(db, project.id) + 1,
        plan=plan_values(plan),
        refers=_refers(plan, known_names(db, project.id)),
        said=said,
        account_id=account_id,
    )
    db.add(row)
    db.flush()
    bump(db, project.id, PLACE)
    return _version(row, known_names(db, project.id))


def _first(db: Session, project_id: int) -> Version:
    return Version(number=0, plan=standard(with_tagger=tagger.in_use(db, project_id) is not None))


def _refers(plan: Plan, known: Known) -> dict[str, dict[str, int]]:
    named = named_in(plan)
    refers = {}
    for of, names in known.items():
        number = {name: key for key, name in names.items()}
        refers[of] = {name: number[name] for name in getattr(named, of) if name in number}
    return refers


def _version(row: PipelineVersionRow, known: Known) -> Version:
    def now(of: str) -> dict[str, str]:
        kept: Mapping[str, Any] = row.refers.get(of, {})
        return {name: known[of][number] for name, number in kept.items() if number in known[of]}

    new = Named(lists=now("lists"), rules=now("rules"), types=now("types"))
    return Version(
        number=row.number,
        plan=renamed_plan(read_plan(row.plan), new),
        said=row.said,
        account_id=row.account_id,
        created_at=row.created_at,
        name=row.name,
        published=row.published,
        has_bundle=row.bundle is not None,
    )
