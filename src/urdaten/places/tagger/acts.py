"""Acts on trainings and the tagger in use."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from functools import lru_cache
from typing import Any

from sqlalchemy import cast, func, select, update
from sqlalchemy.dialects.postgresql import JSONPATH
from sqlalchemy.orm import Session

from urdaten.core.pipeline import Beside, TaggerStage
from urdaten.core.spans import Span, SpanTable
from urdaten.core.tagger import Explanation, Tagger, TaggerInput, TrainingSettings, explain, from_bytes
from urdaten.core.text import Batch, Vocabulary
from urdaten.errors import BadInput, Clash, NotFound
from urdaten.installed import general_lexicon
from urdaten.places.desk import acts as desk
from urdaten.places.lists import acts as lists
from urdaten.places.rules import acts as rules
from urdaten.places.tagger.tables import TrainingRow
from urdaten.places.team.acts import Project
from urdaten.places.types import acts as types
from urdaten.platform.jobs import ENDED, JobView, add_job, jobs_by_id, stop_job
from urdaten.platform.revisions import bump, revisions

PLACE = "tagger"
KEPT_AUTOMATIC = 3
_RETRAIN_LOCK = 0x7A99E
# So many signings may be on their way, unseen as yet, when somebody asks whether there were enough.
_ABOUT_TO_SIGN = 24
JOB = "training"


@dataclass(frozen=True, kw_only=True)
class Training:
    """A training as other places see it."""

    id: int
    name: str
    settings: TrainingSettings
    job: JobView | None
    epochs: list[dict[str, Any]]
    made_from: dict[str, Any]
    in_use: bool
    has_model: bool
    created_at: datetime


def _training(row: TrainingRow, job: JobView | None, has_model: bool) -> Training:
    return Training(
        id=row.id,
        name=row.name,
        settings=TrainingSettings.from_dict(row.settings),
        job=job,
        epochs=row.epochs,
        made_from=row.made_from,
        in_use=row.in_use,
        has_model=has_model,
        created_at=row.created_at,
    )


def read_trainings(db: Session, project_id: int) -> list[Training]:
    """Every training, newest first."""
    query = (
        select(TrainingRow, TrainingRow.model.is_not(None))
        .where(TrainingRow.project_id == project_id)
        .order_by(TrainingRow.id.desc())
    )
    rows = db.execute(query).all()
    jobs = jobs_by_id(db, [row.job_id for row, _ in rows if row.job_id])
    return [_training(row, jobs.get(row.job_id or 0), has_model) for row, has_model in rows]


def read_training(db: Session, project_id: int, training_id: int) -> Training:
    found = next((t for t in read_trainings(db, project_id) if t.id == training_id), None)
    if found is None:
        raise NotFound(f"There is no training {training_id} in this project; it may have been removed.")
    return found


def _queue(db: Session, project_id: int, account_id: int, row: TrainingRow) -> None:
    job = add_job(
        db,
        project_id=project_id,
        account_id=account_id,
        kind=JOB,
        title=f"Training “{row.name}”",
        params={"training": row.id},
    )
    row.job_id, row.epochs = job.id, []
    db.flush()
    bump(db, project_id, PLACE)


def start_training(
    db: Session,
    project_id: int,
    account_id: int,
    name: str,
    settings: TrainingSettings,
    *,
    automatic: bool = False,
) -> Training:
    """Put a new training into the queue."""
    if not name.strip():
        raise BadInput("A training needs a name.", field="name")
    if not types.list_types(db, project_id):
        raise BadInput("There is no entity type to learn; add one under Types.")
    row = TrainingRow(
        project_id=project_id,
        name=name.strip(),
        settings=settings.as_dict(),
        epochs=[],
        made_from={},
        automatic=automatic,
    )
    db.add(row)
    db.flush()
    _queue(db, project_id, account_id, row)
    return read_training(db, project_id, row.id)


def signings_since_training(db: Session, project_id: int) -> int:
    """How many sentences were signed, in texts that are learnt from or watched, since the newest training was begun."""
    newest = select(func.max(TrainingRow.created_at)).where(TrainingRow.project_id == project_id)
    return desk.signings_since(db, project_id, db.scalar(newest), ("train", "dev"))


def retrain_if_due(db: Session, project: Project, account_id: int) -> Training | None:
    """Train anew, as the tagger in use was trained, when there were as many signings as the project wants for that.

    None when it is not due, or while a training is going on.
    """
    if project.retrain_after == 0:
        return None
    if signings_since_training(db, project.id) < project.retrain_after - _ABOUT_TO_SIGN:
        return None
    # Two who sign in one moment begin one training. Nobody waits here while it is far from due.
    db.execute(select(func.pg_advisory_xact_lock(_RETRAIN_LOCK, project.id)))
    if signings_since_training(db, project.id) < project.retrain_after or not types.list_types(
        db, project.id
    ):
        return None
    trainings = read_trainings(db, project.id)
    if any(is_live(training) for training in trainings):
        return None
    model = next((t for t in trainings if t.in_use), trainings[0] if trainings else None)
    settings = model.settings if model else TrainingSettings()
    count = project.retrain_after
    name = f"after {count} {'signing' if count == 1 else 'signings'}"
    return start_training(db, project.id, account_id, name, settings, automatic=True)


def repeat_training(db: Session, project_id: int, account_id: int, training_id: int) -> Training:
    """Run a training again that failed, was interrupted or stopped without a model."""
    training = read_training(db, project_id, training_id)
    if training.job and not training.job.ended:
        raise Clash("This training is still going on.")
    if training.has_model:
        raise Clash("This training has its model; start a new one to compare.")
    _queue(db, project_id, account_id, db.get_one(TrainingRow, training_id))
    return read_training(db, project_id, training_id)


def stop_training(db: Session, project_id: int, training_id: int) -> Training:
    """Ask a training to stop and keep its best epoch so far."""
    training = read_training(db, project_id, training_id)
    if training.job is None or training.job.ended:
        raise Clash("This training has already ended.")
    stop_job(db, project_id, training.job.id)
    return read_training(db, project_id, training_id)


def remove_training(db: Session, project_id: int, training_id: int) -> None:
    """Remove a training and its model. Raises Clash while it runs or is in use."""
    training = read_training(db, project_id, training_id)
    if training.job and not training.job.ended:
        raise Clash("This training is still going on; stop it first.")
    if training.in_use:
        raise Clash("This tagger is in use; put another one to use first.")
    db.delete(db.get_one(TrainingRow, training_id))
    db.flush()
    bump(db, project_id, PLACE)


def use(db: Session, project_id: int, training_id: int) -> Training:
    """Let this training's tagger give the evidence from now on."""
    training = read_training(db, project_id, training_id)
    if not training.has_model:
        raise Clash("This training has no tagger to use; run it to its end first.")
    mine = TrainingRow.project_id == project_id
    db.execute(update(TrainingRow).where(mine, TrainingRow.in_use).values(in_use=False))
    db.execute(update(TrainingRow).where(TrainingRow.id == training_id).values(in_use=True))
    bump(db, project_id, PLACE)
    return read_training(db, project_id, training_id)


def add_epoch(db: Session, training_id: int, epoch: dict[str, Any]) -> None:
    row = db.get_one(TrainingRow, training_id, with_for_update=True)
    row.epochs = [*row.epochs, epoch]


def keep_model(db: Session, training_id: int, model: bytes, made_from: dict[str, Any]) -> None:
    """Store what a training made and put it to use."""
    row = db.get_one(TrainingRow, training_id, with_for_update=True)
    row.model, row.made_from = model, made_from
    db.flush()
    use(db, row.project_id, training_id)
    if row.automatic:
        _let_go(db, row.project_id)


def training_with_model(
    db: Session, project_id: int, model: bytes, makers: Mapping[str, Mapping[str, int]]
) -> int | None:
    """The newest training whose tagger is this very file, and has learnt these lists and rules by their numbers."""
    digest = hashlib.sha256(model).digest()
    query = select(TrainingRow.id, TrainingRow.made_from).where(
        TrainingRow.project_id == project_id, func.sha256(TrainingRow.model) == digest
    )
    for number, made_from in db.execute(query.order_by(TrainingRow.id.desc())):
        known = made_from.get("makers", {})
        if all(own.items() <= known.get(source, {}).items() for source, own in makers.items()):
            return int(number)
    return None


def bring_tagger(
    db: Session,
    project_id: int,
    name: str,
    model: bytes,
    type_numbers: Mapping[str, int],
    makers: Mapping[str, Mapping[str, int]],
) -> int:
    """Keep a tagger that was trained elsewhere, without putting it to use; the number of its training.

    type_numbers, makers: the number of each type that it learnt, and of each list and rule that it learnt, by source, under
    the names that it learnt. Raises BadFile for what is no tagger.
    """
    manifest = from_bytes(model, general_lexicon()).manifest
    made_from = made_from_now(db, project_id) | {"type_numbers": type_numbers, "makers": makers}
    told = {
        key: value for key, value in manifest.items() if key in ("best_epoch", "attributes", "token_features")
    }
    row = TrainingRow(
        project_id=project_id,
        name=name,
        settings=TrainingSettings.from_dict(manifest["settings"]).as_dict(),
        epochs=[],
        made_from=made_from | told,
        model=model,
    )
    db.add(row)
    db.flush()
    bump(db, project_id, PLACE)
    return row.id


def _let_go(db: Session, project_id: int) -> None:
    """Of trainings that signings began only the newest are kept, and one that is in use."""
    query = select(TrainingRow).where(TrainingRow.project_id == project_id, TrainingRow.automatic)
    older = db.scalars(query.order_by(TrainingRow.id.desc()).offset(KEPT_AUTOMATIC)).all()
    jobs = jobs_by_id(db, [row.job_id for row in older if row.job_id])
    for row in older:
        job = jobs.get(row.job_id or 0)
        if not row.in_use and (job is None or job.ended):
            db.delete(row)
    db.flush()


def in_use(db: Session, project_id: int) -> int | None:
    """Number of the training whose tagger is in use."""
    return db.scalar(select(TrainingRow.id).where(TrainingRow.project_id == project_id, TrainingRow.in_use))


def training_in_use(db: Session, project_id: int) -> Training | None:
    number = in_use(db, project_id)
    return read_training(db, project_id, number) if number else None


@dataclass(frozen=True)
class TaggerInUse:
    """A loaded tagger, with the present codes of the types that it learnt under older ones."""

    training_id: int
    tagger: Tagger
    codes: dict[str, str]
    # Of each type that it learnt the number.
    numbers: dict[str, int]
    # ("lists" or "rules", name of now) → the name under which it learnt that list or rule.
    makers: dict[tuple[str, str], str]
    # The file of the tagger.
    data: bytes

    def key(self, present: Mapping[str, int]) -> str:
        """Of what it is, and of the types that it is told of, given the number of each present code."""
        told = sorted((learnt, present[code]) for learnt, code in self.codes.items() if code in present)
        return f"{self.training_id} {told}"

    def tag(self, batch: Batch, seen: Sequence[Sequence[Span]], groups: Sequence[str]) -> SpanTable:
        """What the tagger finds with the evidence of each text, under the codes that it learnt; texts of one group are read
        together."""
        evidence = SpanTable.of_spans([self._learnt(spans) for spans in seen])
        return TaggerStage(self.tagger).apply(batch, evidence, Beside(groups)).added

    def explain(
        self, item: TaggerInput, vocabulary: Vocabulary, span: Span, others: Sequence[TaggerInput]
    ) -> Explanation:
        """As core.tagger.explain; contributions name types, lists and rules as they were called when they were learnt."""
        (learnt,) = self._learnt([span])
        before = [self._before(other) for other in others]
        made = explain(self.tagger, self._before(item), vocabulary, learnt, before)
        return replace(made, span=span, runner_up=tuple(self._now(made.runner_up)))

    def _learnt(self, spans: Iterable[Span]) -> list[Span]:
        before = {now: learnt for learnt, now in self.codes.items()}
        return [
            replace(s, type=before.get(s.type, s.type), maker=self.makers.get((s.source, s.maker), ""))
            for s in spans
        ]

    def _before(self, item: TaggerInput) -> TaggerInput:
        return replace(item, evidence=self._learnt(item.evidence))

    def _now(self, spans: Iterable[Span]) -> list[Span]:
        return [replace(span, type=self.codes[span.type]) for span in spans if span.type in self.codes]


@lru_cache(maxsize=8)
def _load(_training_id: int, model: bytes) -> Tagger:
    return from_bytes(model, general_lexicon())


def model_in_use(db: Session, project_id: int) -> TaggerInUse | None:
    """The tagger in use, loaded, or None."""
    number = in_use(db, project_id)
    return None if number is None else read_model(db, project_id, number)


def read_model(db: Session, project_id: int, training_id: int) -> TaggerInUse | None:
    """The tagger of a training, loaded; None where there is no such training, or it has none."""
    mine = (
        TrainingRow.project_id == project_id,
        TrainingRow.id == training_id,
        TrainingRow.model.is_not(None),
    )
    found = db.execute(select(TrainingRow.model, TrainingRow.made_from).where(*mine)).first()
    if found is None or found.model is None:
        return None
    model, made_from = found
    present = types.present_codes(db, project_id)
    codes = {
        learnt: present[number] for learnt, number in made_from["type_numbers"].items() if number in present
    }
    makers = {
        (source, now[maker]): learnt
        for source, now in _makers(db, project_id).items()
        for learnt, maker in made_from.get("makers", {}).get(source, {}).items()
        if maker in now
    }
    return TaggerInUse(
        training_id, _load(training_id, model), codes, made_from["type_numbers"], makers, model
    )


def _makers(db: Session, project_id: int) -> dict[str, dict[int, str]]:
    """The names of lists and of rules by their numbers."""
    return {
        "lists": {one.id: one.name for one in lists.lists_on(db, project_id)},
        "rules": {one.id: one.name for one in rules.read_rules(db, project_id)},
    }


def made_from_now(db: Session, project_id: int) -> dict[str, Any]:
    """The versions that a training begun now is made from."""
    return {
        "revisions": revisions(db, project_id),
        "act": desk.latest_act(db, project_id),
        "type_numbers": {t.code: t.id for t in types.list_types(db, project_id)},
        "makers": {
            source: {name: number for number, name in names.items()}
            for source, names in _makers(db, project_id).items()
        },
    }


def out_of_date(db: Session, project_id: int, training: Training) -> list[str]:
    """In words, what has changed since a training was made; empty when nothing has."""
    if not training.made_from:
        return []
    then, now = training.made_from["revisions"], revisions(db, project_id)
    changes = []
    changed = desk.sentences_changed_since(db, project_id, training.made_from["act"], ("train", "dev"))
    if changed:
        changes.append(f"gold has changed in {changed} {'sentence' if changed == 1 else 'sentences'}")
    for place in ("types", "lists", "rules"):
        if then.get(place, 0) != now.get(place, 0):
            changes.append(f"the {place} have changed")
    return changes


def learnt_in_words(training: Training) -> str:
    """From what a tagger has learnt that nobody had signed, in words; "" where there was nothing of the kind."""
    made = training.made_from
    if not made.get("lists_sentences"):
        return ""
    signed, unsigned = made["train_sentences"], made["lists_sentences"]
    if not signed:
        return (
            f"The tagger learnt from what lists find in {unsigned} sentences alone; none of them was signed."
        )
    return (
        f"The tagger learnt from {signed} signed {'sentence' if signed == 1 else 'sentences'}, and from what lists find in {unsigned} that nobody had signed, which"
        f" counted as much as {made['lists_worth']:g} signed ones."
    )


def is_live(training: Training) -> bool:
    """Is the training waiting or running?"""
    return training.job is not None and training.job.state not in ENDED


def ended_badly(training: Training) -> bool:
    """Did it end without a model, or lose it to a new format, so that it can be run again?"""
    return training.job is not None and training.job.state in ENDED and not training.has_model


def _touched(db: Session, project_id: int, type_id: int) -> list[types.Touched]:
    """Taggers that find spans of the type; they go on under the type that it becomes part of, or leave it out."""
    learnt = func.jsonb_path_exists(
        TrainingRow.made_from,
        cast("$.type_numbers.* ? (@ == $number)", JSONPATH),
        func.jsonb_build_object("number", type_id),
    )
    query = select(TrainingRow.name).where(TrainingRow.project_id == project_id, learnt)
    names = tuple(db.scalars(query.order_by(TrainingRow.id)))
    return [types.Touched(where="taggers", noun="tagger", count=len(names), names=names)]


types.register_user("tagger", types.TypeUser(touched=_touched, merge=lambda *_: None, retire=lambda *_: None))
