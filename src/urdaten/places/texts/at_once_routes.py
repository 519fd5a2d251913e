"""Routes of many texts at once: what they have in common, what is done to them, and the bin."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import Field

from urdaten.errors import BadInput
from urdaten.places.desk import acts as desk
from urdaten.places.team.acts import Project
from urdaten.places.team.wire import Id, Lead, OfProject
from urdaten.places.texts import acts
from urdaten.places.texts.wire import (
    BinnedShown,
    BinShown,
    BinWish,
    ChangeTextsWish,
    DeletedShown,
    FacetShown,
    FacetValue,
    FilterWish,
    LatestTextAct,
    MetaNames,
    SomeTexts,
    TextActShown,
    UndoneShown,
)
from urdaten.places.types import acts as types
from urdaten.platform.web import Db

router = APIRouter(prefix="/api/projects/{project}/texts", tags=["texts"])
MOST_NAMES, MOST_BINNED = 100, 500


def chosen(wish: FilterWish) -> desk.Filter:
    """What the wish says of texts, whatever else it says."""
    return desk.Filter(**{name: getattr(wish, name) for name in FilterWish.model_fields})


class PageWish(FilterWish):
    after: int | None = Field(default=None, ge=0, le=2**31 - 1)
    limit: int = Field(default=200, ge=1, le=500)


class FacetWish(FilterWish):
    of: str = Field(
        max_length=220,
        description="split, group, source, month, state, type, value, or meta:NAME of metadata",
    )
    limit: int = Field(default=50, ge=1, le=500)


def _numbers(db: Db, project: Project, wish: SomeTexts) -> list[int]:
    if (wish.texts is None) == (wish.filter is None):
        raise BadInput("Name either texts or a filter.", field="texts")
    which = (
        acts.Which(only=wish.texts)
        if wish.filter is None
        else desk.which_of(db, project.id, chosen(wish.filter))
    )
    return acts.numbers_meant(db, project.id, which, wish.expected)


def removed(db: Db, project: Project, account: int, numbers: Sequence[int]) -> acts.TextAct:
    return acts.remove_texts(
        db, project.id, account, numbers, lambda some: desk.signed_in_any_layer(db, project.id, some)
    )


@router.get("/facets", operation_id="readFacet")
def read_facet(project: OfProject, db: Db, asked: Annotated[FacetWish, Query()]) -> FacetShown:
    """How many texts have each value of a facet, whatever the filter says of this one."""
    which = desk.which_of(db, project.id, chosen(asked), but=asked.of)
    among, limit = acts.numbers_of(project.id, which), asked.limit
    if asked.of == desk.STATE:
        found = desk.count_states(db, project.id, among)
    elif asked.of == desk.TYPE:
        codes = types.type_codes(db, project.id)
        counts = desk.count_types(db, project.id, among)
        found = [(codes[number], count) for number, count in counts if number in codes]
    elif asked.of == desk.VALUE:
        number = desk.number_of_type(db, project.id, asked.type)
        found = desk.count_values(db, project.id, number, among, limit + 1)
    else:
        found = acts.count_by(db, project.id, which, asked.of, limit + 1)
    values = [FacetValue(value=value, texts=texts) for value, texts in found[:limit]]
    return FacetShown(values=values, more=len(found) > limit)


@router.get("/metadata", operation_id="listMetadata")
def read_meta_names(project: OfProject, db: Db) -> MetaNames:
    """Names of what sources say of texts."""
    return MetaNames(names=acts.meta_names(db, project.id, MOST_NAMES))


@router.post("/changes", operation_id="changeTexts")
def change(wish: ChangeTextsWish, project: OfProject, me: Lead, db: Db) -> TextActShown:
    """Another group, split, date or metadata for many texts, in one act that can be undone."""
    draft = acts.ChangeDraft(
        group=wish.group, split=wish.split, dated=wish.dated, undated=wish.undated, meta=wish.meta
    )
    draft.check()
    made = acts.change_texts(db, project.id, me.id, _numbers(db, project, wish), draft)
    return TextActShown.model_validate(made)


@router.post("/removals", operation_id="removeTexts")
def remove(wish: SomeTexts, project: OfProject, me: Lead, db: Db) -> TextActShown:
    """Move many texts to the bin, with whatever is marked and signed in them."""
    return TextActShown.model_validate(removed(db, project, me.id, _numbers(db, project, wish)))


@router.get("/acts/latest", operation_id="readLatestTextAct")
def read_latest(project: OfProject, _me: Lead, db: Db) -> LatestTextAct:
    """What was done last to many texts, and can be undone."""
    act = acts.latest_act(db, project.id)
    return LatestTextAct(act=None if act is None else TextActShown.model_validate(act))


@router.post("/acts/{act_id}/undo", operation_id="undoTextAct")
def undo(act_id: Id, project: OfProject, _me: Lead, db: Db) -> UndoneShown:
    """Texts as they were before an act; what somebody has changed since stays."""
    row = acts.act_to_undo(db, project.id, act_id)
    if row.kind == acts.CHANGE:
        undone = acts.undo_change(db, row)
    else:
        undone = acts.undo_removal(db, row, desk.mending(db, project.id))
        desk.after_restoring(db, project.id)
    return UndoneShown.model_validate(undone)


@router.get("/bin", operation_id="readBin")
def read_bin(project: OfProject, _me: Lead, db: Db) -> BinShown:
    texts = acts.read_bin(db, project.id, limit=MOST_BINNED)
    shown = [BinnedShown.model_validate(one) for one in texts]
    return BinShown(texts=shown, total=acts.count_binned(db, project.id))


@router.post("/bin/restore", operation_id="restoreTexts")
def restore(wish: BinWish, project: OfProject, _me: Lead, db: Db) -> UndoneShown:
    """Put texts back from the bin, as they were."""
    numbers = acts.binned_numbers(db, project.id) if wish.texts is None else wish.texts
    undone = acts.restore_texts(db, project.id, numbers, desk.mending(db, project.id))
    desk.after_restoring(db, project.id)
    return UndoneShown.model_validate(undone)


@router.post("/bin/empty", operation_id="emptyBin")
def empty(wish: BinWish, project: OfProject, _me: Lead, db: Db) -> DeletedShown:
    """Delete texts in the bin for good."""
    return DeletedShown(deleted=acts.empty_bin(db, project.id, wish.texts))
