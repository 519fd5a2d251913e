"""Routes of the tagger place."""

from __future__ import annotations

from fastapi import APIRouter

from urdaten.core.tagger import (
    CHOICES,
    GROUP_HELP,
    PRESETS,
    SETTINGS,
    TrainingSettings,
    read_config,
    write_config,
)
from urdaten.places.tagger import acts
from urdaten.places.tagger.wire import (
    ChoiceShown,
    ConfigText,
    EpochShown,
    FeatureShown,
    JobShown,
    MadeFrom,
    PresetShown,
    RetrainingShown,
    RetrainingWish,
    SettingsHelp,
    SettingShown,
    SettingsWish,
    TrainingShown,
    TrainingWish,
    WordClassShown,
)
from urdaten.places.team import acts as team
from urdaten.places.team.wire import Id, Lead, OfProject
from urdaten.platform.revisions import bump
from urdaten.platform.web import Db, Me

router = APIRouter(prefix="/api/projects/{project}/trainings", tags=["tagger"])
# The same for every project.
help_router = APIRouter(prefix="/api", tags=["tagger"])


def _shown(db: Db, project_id: int, training: acts.Training) -> TrainingShown:
    return TrainingShown(
        id=training.id,
        name=training.name,
        settings=SettingsWish.model_validate(training.settings.as_dict()),
        config=write_config(training.settings),
        job=JobShown.model_validate(training.job) if training.job else None,
        epochs=[EpochShown.model_validate(epoch) for epoch in training.epochs],
        made_from=MadeFrom.model_validate(training.made_from),
        in_use=training.in_use,
        has_model=training.has_model,
        live=acts.is_live(training),
        can_repeat=acts.ended_badly(training),
        changes=acts.out_of_date(db, project_id, training),
        created_at=training.created_at,
    )


@router.get("", operation_id="listTrainings")
def read(project: OfProject, db: Db) -> list[TrainingShown]:
    return [_shown(db, project.id, training) for training in acts.read_trainings(db, project.id)]


@help_router.get("/training-settings", operation_id="readTrainingSettings")
def settings(_me: Me) -> SettingsHelp:
    return SettingsHelp(
        choices=[ChoiceShown.model_validate(choice) for choice in CHOICES],
        settings=[SettingShown.model_validate(setting) for setting in SETTINGS],
        features=[FeatureShown(name=name, help=what) for name, what in GROUP_HELP.items()],
        presets=[
            PresetShown(name=name, settings=SettingsWish.model_validate(preset.as_dict()))
            for name, preset in PRESETS.items()
        ],
    )


@router.get("/anew", operation_id="readRetraining")
def read_anew(project: OfProject, db: Db) -> RetrainingShown:
    """After how many signings the tagger is trained anew, and how many there were since the newest training."""
    signings = acts.signings_since_training(db, project.id)
    return RetrainingShown(after=project.retrain_after, signings=signings)


@router.put("/anew", status_code=204, operation_id="setRetraining")
def set_anew(wish: RetrainingWish, project: OfProject, me: Lead, db: Db) -> None:
    """Train anew after every so many signings; one that is due by now begins at once."""
    acts.retrain_if_due(db, team.set_retraining(db, project.id, wish.after), me.id)
    bump(db, project.id, acts.PLACE)


@router.post("/read-config", operation_id="readTrainingConfig")
def read_text(config: ConfigText, _project: OfProject, _me: Lead) -> SettingsWish:
    """The settings that a config file says; nothing is kept."""
    return SettingsWish.model_validate(read_config(config.text).as_dict())


@router.get("/{training_id}/word-classes", operation_id="listWordClasses")
def word_classes(training_id: Id, project: OfProject, db: Db) -> list[WordClassShown]:
    """Classes of words that a training learnt from texts of train and of no split."""
    training = acts.read_training(db, project.id, training_id)
    return [WordClassShown.model_validate(c) for c in training.made_from.get("word_classes", ())]


@router.post("", status_code=201, operation_id="startTraining")
def start(wish: TrainingWish, project: OfProject, me: Lead, db: Db) -> TrainingShown:
    chosen = TrainingSettings.from_dict(wish.settings.model_dump())
    return _shown(db, project.id, acts.start_training(db, project.id, me.id, wish.name, chosen))


@router.post("/{training_id}/stop", operation_id="stopTraining")
def stop(training_id: Id, project: OfProject, _me: Lead, db: Db) -> TrainingShown:
    return _shown(db, project.id, acts.stop_training(db, project.id, training_id))


@router.post("/{training_id}/again", operation_id="repeatTraining")
def again(training_id: Id, project: OfProject, me: Lead, db: Db) -> TrainingShown:
    return _shown(db, project.id, acts.repeat_training(db, project.id, me.id, training_id))


@router.post("/{training_id}/use", operation_id="useTraining")
def use(training_id: Id, project: OfProject, _me: Lead, db: Db) -> TrainingShown:
    return _shown(db, project.id, acts.use(db, project.id, training_id))


@router.delete("/{training_id}", status_code=204, operation_id="removeTraining")
def remove(training_id: Id, project: OfProject, _me: Lead, db: Db) -> None:
    acts.remove_training(db, project.id, training_id)
