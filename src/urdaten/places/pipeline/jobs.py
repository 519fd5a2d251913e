"""The job that brings the evidence of a whole project up to date."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from sqlalchemy.orm import Session

from urdaten.places.desk import acts as desk
from urdaten.places.pipeline import acts
from urdaten.places.tagger import acts as tagger
from urdaten.places.team import acts as team
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts
from urdaten.platform.database import transaction
from urdaten.platform.jobs import JobContext, handles, others_wait

# A transaction of its own for each portion: what is found is kept, whatever becomes of the job, and nobody is kept from the
# store for long.
PORTION = 200


@handles(acts.JOB)
def run(context: JobContext) -> str:
    """Hold lists and rules against every text that is behind, count what they find, and let the tagger speak.

    A job that waits goes first: whoever asks for figures then begins the rest of this one.
    """
    with transaction(context.database_url) as db:
        project = team.project_by_id(db, context.project_id)
        # What anybody signs from here on is counted the next time.
        moment = desk.moment(db)
        makers = acts.read_makers(db, project)
        judged = acts.to_count(db, project, makers).judged
    context.remember(**{acts.STAMP: makers.stamp})
    done = 0
    while True:
        with transaction(context.database_url) as db:
            project = team.project_by_id(db, context.project_id)
            acts.get_hold(db, project.id, wait=True)
            # Lists and rules may change meanwhile.
            makers = acts.read_makers(db, project)
            numbers = acts.ToCount(acts.to_count(db, project, makers).behind, judged).numbers
            wanted = texts.read_texts(db, project.id, numbers[:PORTION])
            acts.count(db, project, makers, wanted)
            judged.difference_update(numbers[:PORTION])
            if len(numbers) <= PORTION:
                acts.keep_counted(db, project.id, makers, moment)
        done += len(wanted)
        context.progress(done, done + len(numbers) - len(wanted), acts.COUNTED)
        if len(numbers) <= PORTION:
            break
        if left := _left(context, done):
            return left
    return _tag(context) or f"Finds are counted; {done} {'text was' if done == 1 else 'texts were'} behind."


@handles(acts.TRIAL_JOB)
def try_rule(context: JobContext) -> str:
    """Hold a rule that is not saved yet against all texts."""
    with transaction(context.database_url) as db:
        project = team.project_by_id(db, context.project_id)
        trial = acts.trial_of(db, project, context.job.params)
        numbers = acts.texts_to_try(db, project.id)
    stopped = False
    for at in range(0, len(numbers), PORTION):
        with transaction(context.database_url) as db:
            project = team.project_by_id(db, context.project_id)
            trial.take(db, project, texts.read_texts(db, project.id, numbers[at : at + PORTION]))
        context.progress(min(at + PORTION, len(numbers)), len(numbers), "texts")
        stopped = context.should_stop()
        if stopped:
            break
    context.remember(told=acts.told_of(trial))
    return f"{'Stopped' if stopped else 'Done'} after {trial.texts} texts."


def _left(context: JobContext, done: int) -> str:
    """Why the job ends here, if it does."""
    if context.should_stop():
        return f"Stopped after {done} texts; what was counted is kept."
    with transaction(context.database_url) as db:
        return "Another job goes first; the rest is counted later." if others_wait(db) else ""


def _tag(context: JobContext) -> str:
    """Let the tagger in use speak of all texts of which it may have something else to say than before."""
    with transaction(context.database_url) as db:
        project = team.project_by_id(db, context.project_id)
        if tagger.in_use(db, project.id) is None:
            return ""
        unheard = set(acts.unheard(db, project.id, acts.read_makers(db, project)))
        pairs = [pair for pair in texts.numbers_by_group(db, project.id) if pair[0] in unheard]
        units = acts.units_of(db, project.id, pairs, acts.reading_groups(db, project.id))
    done = 0
    for portion in _portions(units):
        with transaction(context.database_url) as db:
            acts.get_hold(db, context.project_id, wait=True)
            _tag_portion(db, team.project_by_id(db, context.project_id), portion)
        done += sum(map(len, portion))
        context.progress(done, sum(map(len, units)), "texts tagged")
        if left := _left(context, done):
            return left
    return ""


def _tag_portion(db: Session, project: Project, units: Sequence[Sequence[int]]) -> None:
    model = tagger.model_in_use(db, project.id)
    if model is not None:
        acts.CatchUp(db, project, acts.read_makers(db, project), {}, {}, keep=True).tag(model, units)


def _portions(units: Sequence[Sequence[int]]) -> Iterator[list[Sequence[int]]]:
    portion: list[Sequence[int]] = []
    for unit in units:
        portion.append(unit)
        if sum(map(len, portion)) >= PORTION:
            yield portion
            portion = []
    if portion:
        yield portion
