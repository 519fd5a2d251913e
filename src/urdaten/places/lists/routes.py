"""Routes of lists as a whole, and of what was done to them."""

from __future__ import annotations

from dataclasses import asdict
from typing import Annotated

from fastapi import APIRouter, Query

from urdaten.places.desk.wire import StavePage
from urdaten.places.lists import acts
from urdaten.places.lists.wire import (
    ChangedListWish,
    LatestListAct,
    ListActShown,
    ListShown,
    ListUndoneShown,
    ListWish,
)
from urdaten.places.pipeline import acts as pipeline
from urdaten.places.pipeline import wire as staves
from urdaten.places.team.acts import Project
from urdaten.places.team.wire import Id, Lead, OfProject
from urdaten.platform.web import Db

router = APIRouter(prefix="/api/projects/{project}/lists", tags=["lists"])


def _draft(wish: ListWish) -> acts.ListDraft:
    return acts.ListDraft(name=wish.name, type=wish.type, on=wish.on, options=wish.options.options())


def _shown(db: Db, project: Project, lists: list[acts.NamedList]) -> list[ListShown]:
    pipeline.counted(db, project)
    figures = pipeline.figures(db, project, "lists")
    blank = pipeline.Figures()
    return [
        ListShown.model_validate(asdict(x) | asdict((figures.get(x.id, blank) if x.on else blank).finds))
        for x in lists
    ]


@router.get("", operation_id="listLists")
def read_lists(project: OfProject, db: Db) -> list[ListShown]:
    return _shown(db, project, acts.read_lists(db, project.id))


@router.post("", status_code=201, operation_id="addList")
def add(wish: ListWish, project: OfProject, me: Lead, db: Db) -> ListShown:
    return _shown(db, project, [acts.add_list(db, project.id, _draft(wish), me.id)])[0]


@router.get("/acts/latest", operation_id="readLatestListAct")
def latest(project: OfProject, me: Lead, db: Db) -> LatestListAct:
    act = acts.latest_act(db, project.id, me.id)
    return LatestListAct(act=None if act is None else ListActShown.model_validate(act))


@router.post("/acts/{number}/undo", operation_id="undoListAct")
def undo(number: Id, project: OfProject, _me: Lead, db: Db) -> ListUndoneShown:
    undone = acts.undo_act(db, project, number)
    acts.compile_later(db, project)
    return ListUndoneShown.model_validate(undone)


@router.put("/{list_id}", operation_id="changeList")
def change(list_id: Id, wish: ChangedListWish, project: OfProject, me: Lead, db: Db) -> ListShown:
    changed = acts.change_list(db, project.id, list_id, _draft(wish), wish.version, me.id)
    acts.compile_later(db, project)
    return _shown(db, project, [changed])[0]


@router.delete("/{list_id}", status_code=204, operation_id="removeList")
def remove(list_id: Id, project: OfProject, me: Lead, db: Db) -> None:
    acts.remove_list(db, project.id, list_id, me.id)


@router.get("/{list_id}/finds", operation_id="readListFinds")
def finds(list_id: Id, project: OfProject, db: Db, wish: Annotated[staves.FindsWish, Query()]) -> StavePage:
    named = acts.read_list(db, project.id, list_id)
    return staves.finds_page(db, project, "lists", named.id, named.name, wish)
