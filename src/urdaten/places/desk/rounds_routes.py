"""Routes of rounds."""

from __future__ import annotations

from fastapi import APIRouter

from urdaten.places.desk import acts
from urdaten.places.desk.rounds_wire import AskedShown, ChangedRoundWish, RoundShown, RoundsShown, RoundWish
from urdaten.places.team import acts as team
from urdaten.places.team.wire import Id, Lead, OfProject
from urdaten.platform.web import Db

router = APIRouter(prefix="/api/projects/{project}/desk/rounds", tags=["desk"])


@router.get("", operation_id="readRounds")
def read(project: OfProject, db: Db) -> RoundsShown:
    """Every round with how far it has come."""
    everybody = [AskedShown.model_validate(person) for person in team.read_members(db, project.id)]
    progress = acts.progress_by_round(db, project.id)
    return RoundsShown(
        rounds=[
            RoundShown(
                id=one.id,
                version=one.version,
                name=one.name,
                note=one.note,
                priority=one.priority,
                suggestions=one.suggestions,
                open=one.open,
                people=[person for person in everybody if person.id in one.people],
                texts=one.texts,
                sentences=progress[one.id].total,
                signed=progress[one.id].signed,
                empty=progress[one.id].empty,
                asked=progress[one.id].asked,
            )
            for one in acts.read_rounds(db, project.id)
        ],
        people=everybody,
    )


@router.post("", status_code=201, operation_id="addRound")
def add(wish: RoundWish, project: OfProject, _me: Lead, db: Db) -> int:
    """A new round; answers with its number."""
    return acts.add_round(db, project.id, _draft(wish), wish.texts)


@router.put("/{round_id}", status_code=204, operation_id="changeRound")
def change(round_id: Id, wish: ChangedRoundWish, project: OfProject, _me: Lead, db: Db) -> None:
    acts.change_round(
        db,
        project.id,
        round_id,
        _draft(wish),
        wish.texts,
        version=wish.version,
        keep_texts=wish.keep_texts,
    )


@router.delete("/{round_id}", status_code=204, operation_id="removeRound")
def remove(round_id: Id, project: OfProject, _me: Lead, db: Db) -> None:
    """Remove a round; what was annotated in it stays."""
    acts.remove_round(db, project.id, round_id)


def _draft(wish: RoundWish) -> acts.RoundDraft:
    return acts.RoundDraft(
        name=wish.name,
        note=wish.note,
        priority=wish.priority,
        suggestions=wish.suggestions,
        open=wish.open,
        people=frozenset(wish.people),
    )
