"""Routes of the entries of lists."""

from __future__ import annotations

from dataclasses import asdict
from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import Field

from urdaten.errors import BadInput, Clash
from urdaten.places.desk import acts as desk
from urdaten.places.lists import acts
from urdaten.places.lists.wire import (
    ChangedEntryWish,
    ElsewhereShown,
    EntriesWish,
    EntryCounts,
    EntryExplained,
    EntryPage,
    EntryShown,
    EntryWish,
    HarmShown,
    ListActShown,
    ManyWish,
    MissingPage,
    MissingShown,
    SwitchWish,
)
from urdaten.places.pipeline import acts as pipeline
from urdaten.places.pipeline import wire as staves
from urdaten.places.team.acts import Project
from urdaten.places.team.wire import Id, Lead, OfProject
from urdaten.places.types import acts as types
from urdaten.platform.web import Db

router = APIRouter(prefix="/api/projects/{project}/lists/{list_id}", tags=["lists"])
# Of entries that did harm, no more are looked through at once.
MOST_HARMFUL = 2000


class PageWish(EntriesWish):
    after: int | None = Field(default=None, ge=0, le=2**31 - 1)
    limit: int = Field(default=200, ge=1, le=1000)


def _shown(entry: acts.ListEntry, worth: acts.EntryWorth | None = None) -> EntryShown:
    return EntryShown.model_validate(asdict(entry) | {"worth": asdict(worth or acts.EntryWorth())})


def _lines(lines: list[acts.EntryLine]) -> list[EntryShown]:
    return [_shown(line.entry, line.worth) for line in lines]


@router.get("/entries", operation_id="listEntries")
def read_entries(list_id: Id, project: OfProject, db: Db, wish: Annotated[PageWish, Query()]) -> EntryPage:
    pipeline.counted(db, project)
    worth = pipeline.entry_worths(db, project)
    lines = acts.page_of_entries(
        db, project.id, list_id, worth, wish.filter(), after=wish.after, limit=wish.limit + 1
    )
    more, lines = len(lines) > wish.limit, lines[: wish.limit]
    return EntryPage(entries=_lines(lines), next=lines[-1].entry.id if more else None)


@router.get("/entries/counts", operation_id="countEntries")
def count(list_id: Id, project: OfProject, db: Db) -> EntryCounts:
    pipeline.counted(db, project)
    worth = pipeline.entry_worths(db, project)

    counts = acts.count_entries(db, project.id, list_id, worth)
    return EntryCounts(all=counts.pop(""), **counts)


@router.post("/entries", status_code=201, operation_id="addEntry")
def add_entry(list_id: Id, wish: EntryWish, project: OfProject, me: Lead, db: Db) -> EntryShown:
    (made,) = acts.add_entries(db, project, list_id, [wish.draft()], me.id)
    acts.compile_later(db, project)
    return _shown(made)


def _numbers(db: Db, project: Project, list_id: int, wish: ManyWish) -> list[int]:
    """Raises BadInput for a wish that names neither or both, Clash where there are not as many as were seen."""
    if (wish.entries is None) == (wish.filter is None):
        raise BadInput("Name either entries or a filter.", field="entries")
    if wish.filter is None:
        return wish.entries or []
    worth = pipeline.entry_worths(db, project)
    numbers = list(acts.numbers_of(db, project.id, list_id, worth, wish.filter.filter()))
    if wish.expected is not None and len(numbers) != wish.expected:
        raise Clash(
            f"You saw {wish.expected} names, and now there are {len(numbers)}; nothing was changed. Look again."
        )
    return numbers


@router.post("/entries/switch", operation_id="switchEntries")
def switch(list_id: Id, wish: SwitchWish, project: OfProject, me: Lead, db: Db) -> ListActShown:
    act = acts.switch_entries(db, project, list_id, _numbers(db, project, list_id, wish), wish.on, me.id)
    acts.compile_later(db, project)
    return ListActShown.model_validate(act)


@router.post("/entries/delete", operation_id="deleteEntries")
def delete(list_id: Id, wish: ManyWish, project: OfProject, me: Lead, db: Db) -> ListActShown:
    act = acts.remove_entries(db, project, list_id, _numbers(db, project, list_id, wish), me.id)
    acts.compile_later(db, project)
    return ListActShown.model_validate(act)


@router.get("/entries/{entry_id}", operation_id="readEntry")
def read_entry(list_id: Id, entry_id: Id, project: OfProject, db: Db) -> EntryShown:
    pipeline.counted(db, project)
    line = acts.read_entry(db, project.id, list_id, entry_id, pipeline.entry_worths(db, project))
    return _shown(line.entry, line.worth)


@router.put("/entries/{entry_id}", operation_id="changeEntry")
def change_entry(
    list_id: Id, entry_id: Id, wish: ChangedEntryWish, project: OfProject, me: Lead, db: Db
) -> EntryShown:
    changed = acts.change_entry(db, project, list_id, entry_id, wish.draft(), wish.version, me.id)
    return _shown(changed)


@router.delete("/entries/{entry_id}", status_code=204, operation_id="removeEntry")
def remove_entry(list_id: Id, entry_id: Id, project: OfProject, me: Lead, db: Db) -> None:
    acts.remove_entry(db, project, list_id, entry_id, me.id)


@router.get("/entries/{entry_id}/why", operation_id="explainEntry")
def explain(
    list_id: Id, entry_id: Id, project: OfProject, db: Db, wish: Annotated[staves.FindsWish, Query()]
) -> EntryExplained:
    acts.read_list(db, project.id, list_id)
    elsewhere = acts.alike_elsewhere(db, project.id, list_id, entry_id)
    page, beaten = staves.entry_page(db, project, entry_id, wish)
    return EntryExplained(
        elsewhere=[ElsewhereShown.model_validate(one) for one in elsewhere], finds=page, beaten=beaten
    )


@router.get("/harm", operation_id="readHarm")
def harm(list_id: Id, project: OfProject, db: Db) -> HarmShown:
    """Entries that did more harm than good, and what the list comes to without them."""
    named = acts.read_list(db, project.id, list_id)
    pipeline.counted(db, project)
    worth = pipeline.entry_worths(db, project)
    lines = acts.page_of_entries(
        db,
        project.id,
        list_id,
        worth,
        acts.EntryFilter(show="harmful", order="harm"),
        after=None,
        limit=MOST_HARMFUL,
    )
    now = pipeline.figures(db, project, "lists").get(list_id, pipeline.Figures()).finds
    gold = pipeline.gold_of_type(db, project, named.type)
    judged = now.judged - sum(line.worth.judged for line in lines)
    right = now.right - sum(line.worth.right for line in lines)
    before, after = pipeline.scores(now.right, now.judged, gold), pipeline.scores(right, judged, gold)
    return HarmShown(
        entries=_lines(lines),
        precision=before[0],
        recall=before[1],
        f1=before[2],
        precision_after=after[0],
        recall_after=after[1],
        f1_after=after[2],
    )


@router.get("/missing", operation_id="readMissingNames")
def missing(
    list_id: Id, project: OfProject, db: Db, limit: Annotated[int, Query(ge=1, le=500)] = 200
) -> MissingPage:
    """Names of gold, but in test texts, that no list of this type has."""
    named = acts.read_list(db, project.id, list_id)
    type_id = types.type_numbers(db, project.id, [named.type])[named.type]
    gold = [
        acts.GoldName(words=words, spans=spans, texts=texts, sentence_id=sentence)
        for words, spans, texts, sentence in desk.loud_gold(db, project, type_id)
    ]
    names = acts.missing_names(db, project.id, list_id, gold)
    shown = acts.with_kin(db, project.id, list_id, names[:limit])
    return MissingPage(
        total=len(names),
        names=[
            MissingShown.model_validate(asdict(one.name) | {"kin": list(map(asdict, one.kin))})
            for one in shown
        ],
    )
