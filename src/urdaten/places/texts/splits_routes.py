"""Routes by which texts are split into train, dev and test."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import Field

from urdaten.places.team.wire import Lead, OfProject, Shown, Wire
from urdaten.places.texts import acts, splits
from urdaten.places.texts.wire import TextActShown
from urdaten.platform.jobs import JobState
from urdaten.platform.web import Db

router = APIRouter(prefix="/api/projects/{project}/texts/splits", tags=["texts"])


class SplitsWish(Wire):
    """Shares in percent; what they leave of a hundred goes into no split."""

    train: float = Field(ge=0, le=100, allow_inf_nan=False)
    dev: float = Field(ge=0, le=100, allow_inf_nan=False)
    test: float = Field(ge=0, le=100, allow_inf_nan=False)
    seed: int = Field(default=1, ge=0, le=2**31 - 1)
    keep: bool = Field(default=False, description="texts that have a split keep it")

    def draft(self) -> splits.SplitsDraft:
        return splits.SplitsDraft(
            train=self.train, dev=self.dev, test=self.test, seed=self.seed, keep=self.keep
        )


class AssignWish(SplitsWish):
    digest: str = Field(
        max_length=40, description="of the draft that you saw; another one is answered with 409"
    )


class SplitPart(Shown):
    split: str
    texts: int
    sentences: int
    spans: dict[str, int] = Field(description="gold spans by type")


class NamesShown(Shown):
    type: str
    elsewhere: int = Field(description="distinct names in gold of dev and test")
    in_train: int = Field(description="those of them that gold of train has too")
    shared: list[str] = Field(description="the most frequent of these")


class AlikePair(Shown):
    text: int
    title: str
    split: str
    other: int
    other_title: str
    other_split: str
    share: float


class RepeatedShown(Shown):
    words: str
    texts: dict[str, int] = Field(description="a text of each split that has the sentence")


class SearchedShown(Shown):
    """How far it is known which texts are nearly the same."""

    holds: bool = Field(description="every text that is here was looked at")
    pairs: int
    job: int | None
    state: JobState | None


class SplitsShown(Shown):
    parts: list[SplitPart]
    moved: int = Field(description="texts whose split would be another")
    digest: str
    alike: list[AlikePair] = Field(
        description="texts that are nearly the same, in two splits; the first ones"
    )
    alike_count: int
    repeated: list[RepeatedShown] = Field(
        description="sentences that stand word for word in several splits; the first ones"
    )
    repeated_count: int
    groups: list[str] = Field(description="groups with texts in two splits; the first ones")
    group_count: int
    names: list[NamesShown]
    searched: SearchedShown


def _shown(db: Db, project_id: int, found: splits.Splits) -> SplitsShown:
    known = acts.read_likeness(db, project_id)
    searched = SearchedShown(
        holds=known.holds,
        pairs=len(known.pairs),
        job=None if known.job is None else known.job.id,
        state=None if known.job is None else known.job.state,
    )
    values = {name: getattr(found, name) for name in SplitsShown.model_fields if name != "searched"}
    return SplitsShown.model_validate(values | {"searched": searched})


@router.get("", operation_id="readSplits")
def read(project: OfProject, db: Db) -> SplitsShown:
    """How texts are split, and what leaks from one split into another."""
    return _shown(db, project.id, splits.read_splits(db, project.id))


@router.post("/draft", operation_id="draftSplits")
def draft(wish: SplitsWish, project: OfProject, _me: Lead, db: Db) -> SplitsShown:
    """How texts would be split: groups and texts that are nearly the same stay together, types are shared out evenly."""
    return _shown(db, project.id, splits.draft_splits(db, project.id, wish.draft()))


@router.post("", operation_id="assignSplits")
def assign(wish: AssignWish, project: OfProject, me: Lead, db: Db) -> TextActShown:
    """Split texts as drafted, in one act that can be undone."""
    act = splits.assign_splits(db, project.id, me.id, wish.draft(), wish.digest)
    return TextActShown.model_validate(act)


@router.post("/likeness", status_code=202, operation_id="searchAlike")
def look(project: OfProject, me: Lead, db: Db) -> SearchedShown:
    """Begin to look for texts that are nearly the same."""
    job = acts.start_likeness(db, project.id, me.id)
    known = acts.read_likeness(db, project.id)
    return SearchedShown(holds=known.holds, pairs=len(known.pairs), job=job.id, state=job.state)
