"""Routes of imports."""

from __future__ import annotations

import asyncio
import tempfile
from collections.abc import Iterable, Iterator
from dataclasses import asdict
from typing import IO, Annotated

import anyio.to_thread
from fastapi import APIRouter, Query, Request
from fastapi.responses import StreamingResponse

from urdaten.core.formats import write_csv
from urdaten.errors import TooLarge
from urdaten.places.intake import acts
from urdaten.places.intake.plan import plan_from, plan_values
from urdaten.places.intake.wire import (
    IntakeHead,
    IntakeShown,
    LabelsWish,
    NamedPlanShown,
    NamedPlanWish,
    PlanShown,
    PlanWish,
    SiteWish,
    WorkShown,
)
from urdaten.places.team.wire import Id, Lead, OfProject
from urdaten.platform.database import transaction
from urdaten.platform.web import Config, Db
from urdaten.readers import MOST_BYTES, Crawl

router = APIRouter(prefix="/api/projects/{project}/imports", tags=["imports"])


def _head(intake: acts.Intake) -> IntakeHead:
    return IntakeHead.model_validate(
        {name: getattr(intake, name) for name in ("id", "state", "files", "size", "created_at", "report")}
    )


def _shown(intake: acts.Intake) -> IntakeShown:
    looked = intake.looked
    return IntakeShown.model_validate(
        _head(intake).model_dump()
        | {
            "plan": plan_values(intake.plan),
            "looked": None if looked is None else looked | {"holds": looked["version"] == intake.version},
            "work": None if intake.job is None else WorkShown.model_validate(intake.job),
        }
    )


@router.get("", operation_id="listImports")
def read_all(project: OfProject, _me: Lead, db: Db) -> list[IntakeHead]:
    """The latest imports, newest first."""
    return [_head(intake) for intake in acts.read_intakes(db, project.id)]


@router.post("", status_code=201, operation_id="beginImport")
def begin(project: OfProject, me: Lead, db: Db) -> IntakeShown:
    """A new import; send its files next, then have them looked into."""
    return _shown(acts.begin(db, project.id, me.id))


@router.get("/plans", operation_id="listImportPlans")
def read_plans(project: OfProject, _me: Lead, db: Db) -> list[NamedPlanShown]:
    return [_plan(saved) for saved in acts.read_plans(db, project.id)]


@router.put("/plans", operation_id="saveImportPlan")
def save_plan(wish: NamedPlanWish, project: OfProject, _me: Lead, db: Db) -> NamedPlanShown:
    """Keep a plan under a name, in the place of one that has it."""
    return _plan(acts.save_plan(db, project.id, wish.name, plan_from(wish.plan.model_dump())))


@router.delete("/plans/{plan_id}", status_code=204, operation_id="removeImportPlan")
def remove_plan(plan_id: Id, project: OfProject, _me: Lead, db: Db) -> None:
    acts.remove_plan(db, project.id, plan_id)


def _plan(saved: acts.SavedPlan) -> NamedPlanShown:
    return NamedPlanShown(
        id=saved.id, name=saved.name, plan=PlanShown.model_validate(plan_values(saved.plan))
    )


@router.get("/{intake_id}", operation_id="readImport")
def read(intake_id: Id, project: OfProject, _me: Lead, db: Db) -> IntakeShown:
    return _shown(acts.read_intake(db, project.id, intake_id))


@router.delete("/{intake_id}", status_code=204, operation_id="removeImport")
def remove(intake_id: Id, project: OfProject, _me: Lead, db: Db) -> None:
    """Drop an import with its files; texts that came of it stay."""
    acts.remove_intake(db, project.id, intake_id)


@router.put("/{intake_id}/plan", operation_id="changeImportPlan")
def change_plan(intake_id: Id, wish: PlanWish, project: OfProject, _me: Lead, db: Db) -> IntakeShown:
    return _shown(acts.change_plan(db, project.id, intake_id, plan_from(wish.model_dump())))


@router.post("/{intake_id}/file", status_code=201, operation_id="sendImportFile")
async def send_file(
    intake_id: Id,
    project: OfProject,
    _me: Lead,
    settings: Config,
    request: Request,
    name: Annotated[str, Query(max_length=500, description="with its folders, where it has some")],
) -> IntakeShown:
    """Send a file as the body, as it is."""
    with tempfile.TemporaryFile(prefix="urdaten-") as file:
        size = 0
        async for block in request.stream():
            size += len(block)
            if size > MOST_BYTES:
                raise TooLarge(
                    f"A file has at most {MOST_BYTES >> 20} MB; split it up, or import it on the command line."
                )
            await anyio.to_thread.run_sync(file.write, block)

        def keep() -> IntakeShown:
            file.seek(0)
            with transaction(settings.database_url) as db:
                return _shown(acts.add_file(db, project.id, intake_id, name, _blocks(file)))

        return await asyncio.to_thread(keep)


def _blocks(file: IO[bytes]) -> Iterator[bytes]:
    while block := file.read(1 << 20):
        yield block


@router.post("/{intake_id}/site", status_code=202, operation_id="fetchSite")
def fetch_site(intake_id: Id, wish: SiteWish, project: OfProject, me: Lead, db: Db) -> IntakeShown:
    """Fetch pages of a web site as files of the import, and look into them."""
    return _shown(acts.start_fetch(db, project.id, me.id, intake_id, Crawl(**wish.model_dump())))


@router.post("/{intake_id}/look", status_code=202, operation_id="lookIntoImport")
def look(intake_id: Id, project: OfProject, me: Lead, db: Db) -> IntakeShown:
    """Read the files by the plan; nothing is kept of them yet."""
    return _shown(acts.start(db, project.id, me.id, intake_id, acts.LOOK))


@router.post("/{intake_id}/keep", status_code=202, operation_id="keepImport")
def keep(intake_id: Id, project: OfProject, me: Lead, db: Db) -> IntakeShown:
    """Keep the texts of the files: all of them, or none when it is stopped."""
    return _shown(acts.start(db, project.id, me.id, intake_id, acts.KEEP))


@router.post("/{intake_id}/types", status_code=201, operation_id="addTypesForLabels")
def add_types(intake_id: Id, wish: LabelsWish, project: OfProject, me: Lead, db: Db) -> IntakeShown:
    """A new type for each of these labels of an annotated corpus, which stand for them from now on."""
    return _shown(acts.add_types(db, project.id, me.id, intake_id, wish.labels))


@router.get("/{intake_id}/refusals", operation_id="downloadRefusals", response_class=StreamingResponse)
def refusals(intake_id: Id, project: OfProject, _me: Lead, settings: Config, db: Db) -> StreamingResponse:
    """What was not kept and why, as CSV."""
    acts.read_intake(db, project.id, intake_id)

    def lines() -> Iterable[str]:
        with transaction(settings.database_url, snapshot=True) as own:
            rows = (tuple(asdict(one).values()) for one in acts.refusals_of(own, project.id, intake_id))
            yield from write_csv(
                ("source", "why", "place", "content"), ([str(v) for v in row] for row in rows)
            )

    headers = {"content-disposition": f'attachment; filename="import-{intake_id}-refused.csv"'}
    return StreamingResponse(lines(), media_type="text/csv; charset=utf-8", headers=headers)
