"""Imports, their files, plans and refusals, as they are kept."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import asdict, dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from urdaten.errors import BadInput, Clash, NotFound, TooLarge
from urdaten.places.intake.plan import Plan, plan_from, plan_values
from urdaten.places.intake.tables import (
    IntakeFileRow,
    IntakePartRow,
    IntakePlanRow,
    IntakeRefusalRow,
    IntakeRow,
)
from urdaten.platform.database import copy_rows
from urdaten.platform.events import announce
from urdaten.platform.jobs import JobView, add_job, jobs_by_id, stop_job
from urdaten.readers import MOST_BYTES, Crawl, Fetched, Refusal

OPEN, KEPT = "open", "kept"
LOOK, KEEP, FETCH = "look into files", "import", "fetch pages"
MOST_FILES = 100_000
MOST_OF_ALL = 4 * MOST_BYTES
PART = 1 << 20
# An import that nobody has gone on with goes, with its files.
FORGOTTEN_AFTER = timedelta(days=7)
_LONGEST_NAME = 500
EVENT = "imports"


@dataclass(frozen=True, kw_only=True)
class Intake:
    """An import as other modules see it."""

    id: int
    account: int | None
    state: str
    plan: Plan
    # Of files: how many, and their bytes.
    files: int
    size: int
    # What was found in them; None where nobody has looked since the plan was changed.
    looked: dict[str, Any] | None
    report: dict[str, Any] | None
    job: JobView | None
    version: int
    created_at: datetime


def begin(db: Session, project_id: int, account_id: int) -> Intake:
    """A new import without files. What was begun long ago and never kept goes."""
    old = datetime.now(UTC) - FORGOTTEN_AFTER
    db.execute(
        delete(IntakeRow).where(
            IntakeRow.project_id == project_id, IntakeRow.state == OPEN, IntakeRow.created_at < old
        )
    )
    row = IntakeRow(project_id=project_id, account_id=account_id, state=OPEN, plan=plan_values(Plan()))
    db.add(row)
    db.flush()
    announce(db, project_id, EVENT)
    return read_intake(db, project_id, row.id)


def read_intake(db: Session, project_id: int, intake_id: int) -> Intake:
    """Raises NotFound."""
    return _shown(db, [_own(db, project_id, intake_id)])[0]


def read_intakes(db: Session, project_id: int, *, limit: int = 50) -> list[Intake]:
    """The latest imports, newest first."""
    query = select(IntakeRow).where(IntakeRow.project_id == project_id).order_by(IntakeRow.id.desc())
    return _shown(db, db.scalars(query.limit(limit)).all())


def _shown(db: Session, rows: Iterable[IntakeRow]) -> list[Intake]:
    rows = list(rows)
    sums = select(IntakeFileRow.intake_id, func.count(), func.sum(IntakeFileRow.size))
    counted = {
        number: (count, int(size))
        for number, count, size in db.execute(
            sums.where(IntakeFileRow.intake_id.in_([row.id for row in rows])).group_by(
                IntakeFileRow.intake_id
            )
        )
    }
    jobs = jobs_by_id(db, [row.job_id for row in rows if row.job_id is not None])
    return [
        Intake(
            id=row.id,
            account=row.account_id,
            state=row.state,
            plan=plan_from(row.plan),
            files=counted.get(row.id, (0, 0))[0],
            size=counted.get(row.id, (0, 0))[1],
            looked=row.looked,
            report=row.report,
            job=jobs.get(row.job_id or 0),
            version=row.version,
            created_at=row.created_at,
        )
        for row in rows
    ]


def _own(db: Session, project_id: int, intake_id: int, *, to_change: bool = False) -> IntakeRow:
    row = db.get(IntakeRow, intake_id, with_for_update=to_change or None)
    if row is None or row.project_id != project_id:
        raise NotFound(f"There is no import {intake_id} in this project; it may have been removed.")
    return row


def _open(db: Session, project_id: int, intake_id: int) -> IntakeRow:
    """To change it: whoever still looks into it stops. Raises Clash when it has been kept, or is being kept."""
    row = _own(db, project_id, intake_id, to_change=True)
    if row.state != OPEN:
        raise Clash("This import has been kept; begin a new one.")
    job = jobs_by_id(db, [row.job_id]).get(row.job_id) if row.job_id is not None else None
    if job is not None and not job.ended:
        if job.kind != LOOK:
            raise Clash("This import is being worked on just now; wait for that, or stop it.")
        stop_job(db, project_id, job.id)
    return row


def add_file(db: Session, project_id: int, intake_id: int, name: str, content: Iterable[bytes]) -> Intake:
    """A file, as it is sent. Raises BadInput for a name that cannot be, TooLarge."""
    row = _open(db, project_id, intake_id)
    name = name.strip()
    if not name or len(name) > _LONGEST_NAME or "\0" in name:
        raise BadInput(f"A file needs a name of at most {_LONGEST_NAME} characters.", field="name")
    held = _shown(db, [row])[0]
    if held.files >= MOST_FILES:
        raise TooLarge(f"An import has at most {MOST_FILES} files.")
    file = IntakeFileRow(intake_id=row.id, name=name, size=0)
    db.add(file)
    db.flush()
    size = 0

    def parts() -> Iterator[tuple[int, int, bytes]]:
        nonlocal size
        for number, part in enumerate(_in_parts(content)):
            size += len(part)
            if size > MOST_BYTES or held.size + size > MOST_OF_ALL:
                raise TooLarge(
                    f"A file has at most {MOST_BYTES >> 20} MB, all of an import {MOST_OF_ALL >> 20} MB."
                )
            yield file.id, number, part

    copy_rows(db, "intake_part", ("file_id", "number", "content"), parts())
    file.size = size
    _changed(db, row)
    return read_intake(db, project_id, intake_id)


def _in_parts(content: Iterable[bytes]) -> Iterator[bytes]:
    held = bytearray()
    for block in content:
        held += block
        while len(held) >= PART:
            yield bytes(held[:PART])
            del held[:PART]
    if held:
        yield bytes(held)


def change_plan(db: Session, project_id: int, intake_id: int, plan: Plan) -> Intake:
    """Another plan; what was found by the one before does not hold any more. Raises Clash."""
    row = _open(db, project_id, intake_id)
    if row.plan != plan_values(plan):
        row.plan = plan_values(plan)
        _changed(db, row)
    return read_intake(db, project_id, intake_id)


def _changed(db: Session, row: IntakeRow) -> None:
    row.version += 1
    db.flush()
    announce(db, row.project_id, EVENT)


def remove_intake(db: Session, project_id: int, intake_id: int) -> None:
    """Drop an import with its files; texts that were kept stay. Raises Clash while a job works on it."""
    row = _own(db, project_id, intake_id, to_change=True)
    if row.state == OPEN:
        _open(db, project_id, intake_id)
    db.delete(row)
    db.flush()
    announce(db, project_id, EVENT)


def start(db: Session, project_id: int, account_id: int, intake_id: int, kind: str) -> Intake:
    """Look into the files, or keep what is in them. Raises BadInput without files, Clash while a job works on it."""
    row = _open(db, project_id, intake_id)
    held = _shown(db, [row])[0]
    if not held.files:
        raise BadInput("There are no files yet; choose some.", field="files")
    name = db.scalar(select(func.min(IntakeFileRow.name)).where(IntakeFileRow.intake_id == row.id))
    what = f"“{name}”" if held.files == 1 else f"{held.files} files"
    title = f"look into {what}" if kind == LOOK else f"import {what}"
    job = add_job(
        db,
        project_id=project_id,
        account_id=account_id,
        kind=kind,
        title=title,
        params={"intake": row.id, "version": row.version, "account": account_id},
    )
    row.job_id = job.id
    _told(db, row)
    return read_intake(db, project_id, intake_id)


def start_fetch(db: Session, project_id: int, account_id: int, intake_id: int, crawl: Crawl) -> Intake:
    """Fetch the pages of a site as files of the import, and look into them. Raises BadInput, Clash as `start`."""
    crawl.check()
    row = _open(db, project_id, intake_id)
    values = {name: value for name, value in asdict(crawl).items() if name != "local"}
    job = add_job(
        db,
        project_id=project_id,
        account_id=account_id,
        kind=FETCH,
        title=f"fetch pages of {crawl.start}",
        params={"intake": row.id, "version": row.version, "crawl": values},
    )
    row.job_id = job.id
    _told(db, row)
    return read_intake(db, project_id, intake_id)


def keep_pages(
    db: Session, project_id: int, intake_id: int, pages: Iterable[Fetched], refusals: Iterable[Refusal]
) -> Intake:
    """Pages as files of an import, from the job that fetched them; what was left out is told with what is refused later."""
    row = _own(db, project_id, intake_id, to_change=True)
    for page in pages:
        file = IntakeFileRow(intake_id=row.id, name=page.address[:_LONGEST_NAME], size=len(page.data))
        db.add(file)
        db.flush()
        parts = enumerate(_in_parts([page.data]))
        copy_rows(
            db, "intake_part", ("file_id", "number", "content"), ((file.id, n, part) for n, part in parts)
        )
    _add_refusals(db, intake_id, refusals)
    _changed(db, row)
    return read_intake(db, project_id, intake_id)


def _told(db: Session, row: IntakeRow) -> None:
    db.flush()
    announce(db, row.project_id, EVENT)


def files_into(db: Session, intake_id: int, folder: Path) -> list[tuple[str, Path]]:
    """The files, written into a folder under names of ours; each with its own name."""
    files = []
    for number, name in db.execute(
        select(IntakeFileRow.id, IntakeFileRow.name)
        .where(IntakeFileRow.intake_id == intake_id)
        .order_by(IntakeFileRow.id)
    ).all():
        path = folder / str(number)
        parts = (
            select(IntakePartRow.content)
            .where(IntakePartRow.file_id == number)
            .order_by(IntakePartRow.number)
        )
        with path.open("wb") as out, db.scalars(parts.execution_options(yield_per=4)) as found:
            for part in found:
                out.write(part)
        files.append((name, path))
    return files


def keep_looked(db: Session, project_id: int, intake_id: int, version: int, looked: dict[str, Any]) -> bool:
    """Keep what was found, unless the plan has changed meanwhile. Is it kept?"""
    row = _own(db, project_id, intake_id, to_change=True)
    if row.version != version or row.state != OPEN:
        return False
    row.looked = looked | {"version": version}
    _told(db, row)
    return True


def keep_report(
    db: Session, project_id: int, intake_id: int, report: dict[str, Any], refusals: Iterable[Refusal]
) -> None:
    """It has been kept: the report stays, the files go."""
    row = _own(db, project_id, intake_id, to_change=True)
    row.state, row.report, row.looked = KEPT, report, None
    files = select(IntakeFileRow.id).where(IntakeFileRow.intake_id == intake_id)
    db.execute(delete(IntakePartRow).where(IntakePartRow.file_id.in_(files)))
    _add_refusals(db, intake_id, refusals)
    _told(db, row)


def _add_refusals(db: Session, intake_id: int, refusals: Iterable[Refusal]) -> None:
    copy_rows(
        db,
        "intake_refusal",
        ("intake_id", "source", "place", "why", "content"),
        ((intake_id, one.source, one.place, one.why, one.content.replace("\0", "")) for one in refusals),
    )


def refusals_of(db: Session, project_id: int, intake_id: int) -> Iterator[Refusal]:
    """What was not kept, in the order in which it was met. Raises NotFound."""
    _own(db, project_id, intake_id)
    query = (
        select(IntakeRefusalRow).where(IntakeRefusalRow.intake_id == intake_id).order_by(IntakeRefusalRow.id)
    )
    for row in db.scalars(query.execution_options(yield_per=500)):
        yield Refusal(source=row.source, place=row.place, why=row.why, content=row.content)


@dataclass(frozen=True, kw_only=True)
class SavedPlan:
    """A plan under a name."""

    id: int
    name: str
    plan: Plan


def read_plans(db: Session, project_id: int) -> list[SavedPlan]:
    """Those of a project, by name."""
    query = select(IntakePlanRow).where(IntakePlanRow.project_id == project_id).order_by(IntakePlanRow.name)
    return [SavedPlan(id=row.id, name=row.name, plan=plan_from(row.plan)) for row in db.scalars(query)]


def save_plan(db: Session, project_id: int, name: str, plan: Plan) -> SavedPlan:
    """Keep a plan under a name; one that stood under it is replaced. Raises BadInput."""
    name = " ".join(name.split())
    if not 1 <= len(name) <= 80:
        raise BadInput("A plan needs a name of 1 to 80 characters.", field="name")
    query = select(IntakePlanRow).where(IntakePlanRow.project_id == project_id, IntakePlanRow.name == name)
    row = db.scalar(query.with_for_update())
    if row is None:
        row = IntakePlanRow(project_id=project_id, name=name, plan={})
        db.add(row)
    row.plan = plan_values(plan)
    db.flush()
    announce(db, project_id, EVENT)
    return SavedPlan(id=row.id, name=name, plan=plan)


def remove_plan(db: Session, project_id: int, plan_id: int) -> None:
    """Raises NotFound."""
    row = db.get(IntakePlanRow, plan_id)
    if row is None or row.project_id != project_id:
        raise NotFound(f"There is no plan {plan_id} in this project.")
    db.delete(row)
    db.flush()
    announce(db, project_id, EVENT)
