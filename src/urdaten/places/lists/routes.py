"""Routes of the lists place."""

from __future__ import annotations

from dataclasses import asdict
from typing import Annotated

from fastapi import APIRouter, Query

from urdaten.places.desk.wire import StavePage
from urdaten.places.lists import acts
from urdaten.places.lists.wire import (
    ChangedEntryWish,
    ChangedListWish,
    EntryPage,
    EntryShown,
    EntryWish,
    ListShown,
    ListWish,
)
from urdaten.places.pipeline import acts as pipeline
from urdaten.places.pipeline import wire as staves
from urdaten.places.team.acts import Project
from urdaten.places.team.wire import Id, Lead, OfProject
from urdaten.platform.web import Db

router = APIRouter(prefix="/api/projects/{project}/lists", tags=["lists"])


def _draft(wish: ListWish) -> acts.ListDraft:
    return acts.ListDraft(name=wish.name, type=wish.type, on=wish.on)


def _entry(wish: EntryWish) -> acts.EntryDraft:
    return acts.EntryDraft(preferred=wish.preferred, variants=tuple(wish.variants), note=wish.note)


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
def add(wish: ListWish, project: OfProject, _me: Lead, db: Db) -> ListShown:
    return _shown(db, project, [acts.add_list(db, project.id, _draft(wish))])[0]


@router.put("/{list_id}", operation_id="changeList")
def change(list_id: Id, wish: ChangedListWish, project: OfProject, _me: Lead, db: Db) -> ListShown:
    return _shown(db, project, [acts.change_list(db, project.id, list_id, _draft(wish), wish.version)])[0]


@router.delete("/{list_id}", status_code=204, operation_id="removeList")
def remove(list_id: Id, project: OfProject, _me: Lead, db: Db) -> None:
    acts.remove_list(db, project.id, list_id)


@router.get("/{list_id}/entries", operation_id="listEntries")
def read_entries(
    list_id: Id,
    project: OfProject,
    db: Db,
    after: Annotated[int | None, Query(ge=0, le=2**31 - 1)] = None,
    limit: Annotated[int, Query(ge=1, le=1000)] = 500,
    search: Annotated[str, Query(max_length=200)] = "",
) -> EntryPage:
    entries = acts.page_of_entries(db, project.id, list_id, after=after, limit=limit + 1, search=search)
    more, entries = len(entries) > limit, entries[:limit]
    shown = [EntryShown.model_validate(asdict(entry)) for entry in entries]
    return EntryPage(entries=shown, next=entries[-1].id if more else None)


@router.post("/{list_id}/entries", status_code=201, operation_id="addEntry")
def add_entry(list_id: Id, wish: EntryWish, project: OfProject, _me: Lead, db: Db) -> EntryShown:
    (made,) = acts.add_entries(db, project.id, list_id, [_entry(wish)])
    return EntryShown.model_validate(asdict(made))


@router.put("/{list_id}/entries/{entry_id}", operation_id="changeEntry")
def change_entry(
    list_id: Id, entry_id: Id, wish: ChangedEntryWish, project: OfProject, _me: Lead, db: Db
) -> EntryShown:
    changed = acts.change_entry(db, project.id, list_id, entry_id, _entry(wish), wish.version)
    return EntryShown.model_validate(asdict(changed))


@router.delete("/{list_id}/entries/{entry_id}", status_code=204, operation_id="removeEntry")
def remove_entry(list_id: Id, entry_id: Id, project: OfProject, _me: Lead, db: Db) -> None:
    acts.remove_entry(db, project.id, list_id, entry_id)


@router.get("/{list_id}/finds", operation_id="readListFinds")
def finds(list_id: Id, project: OfProject, db: Db, wish: Annotated[staves.FindsWish, Query()]) -> StavePage:
    named = acts.read_list(db, project.id, list_id)
    return staves.finds_page(db, project, "lists", named.id, named.name, wish)
