"""Routes of starter lists."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query

from urdaten.places.lists import acts
from urdaten.places.lists.file_routes import import_shown
from urdaten.places.lists.wire import (
    ListImportShown,
    StarterKindShown,
    StarterKindsShown,
    StarterMeaningShown,
    StarterPage,
    StarterPageWish,
    TakeStarterWish,
)
from urdaten.places.team.wire import Lead, OfProject
from urdaten.platform.web import Db

router = APIRouter(prefix="/api/projects/{project}/starters", tags=["lists"])


@router.get("", operation_id="listStarterKinds")
def kinds(_project: OfProject) -> StarterKindsShown:
    """The kinds of names that the general lexicon has."""
    found = acts.starter_kinds()
    told = [StarterKindShown.model_validate(one) for one in found or []]
    return StarterKindsShown(installed=found is not None, kinds=told)


@router.get("/meanings", operation_id="findStarterMeanings")
def meanings(_project: OfProject, search: Annotated[str, Query(max_length=100)]) -> list[StarterMeaningShown]:
    """Meanings that others fall under, by how they are written."""
    return [StarterMeaningShown.model_validate(one) for one in acts.find_meanings(search)]


@router.get("/names", operation_id="listStarterNames")
def names(_project: OfProject, wish: Annotated[StarterPageWish, Query()]) -> StarterPage:
    """Names of a kind, or beneath a meaning."""
    return StarterPage.model_validate(acts.starter_names(wish.starter(), wish.after))


@router.post("/take", status_code=202, operation_id="takeStarter")
def take(wish: TakeStarterWish, project: OfProject, me: Lead, db: Db) -> ListImportShown:
    """Bring names into a list, in the background."""
    held = acts.take_starter(db, project, wish.list_id, me.id, wish.starter(), wish.numbers)
    return import_shown(held)
