"""Long work on a pipeline: learning to weigh, and comparing its stages."""

from __future__ import annotations

from urdaten.core.pipeline import read_plan
from urdaten.places.pipeline import acts
from urdaten.places.team import acts as team
from urdaten.platform.database import transaction
from urdaten.platform.jobs import JobContext, StopLook, handles


@handles(acts.WEIGHING_JOB)
def learn_weights(context: JobContext) -> str:
    """Learn to weigh what the stages of a plan say; what is learnt is kept beside what was learnt before."""
    wish = context.job.params
    plan = read_plan(wish["plan"])
    with transaction(context.database_url) as db:
        project = team.project_by_id(db, context.project_id)
        team.wait_for_writers(db, project.id)
        weighing = acts.read_weighing(db, project, plan, with_train=wish["train"])

    def report(done: int, total: int, message: str) -> None:
        context.progress(done, total, "steps", message)

    weigher, figures = weighing.learnt(report, StopLook(context))
    with transaction(context.database_url) as db:
        number = acts.keep_weights(
            db, context.project_id, context.job.id, plan, weigher, weighing.known, figures
        )
        said = f"Weights {number} are learnt from {figures['sentences']} signed dev sentences"
        if figures["train_texts"]:
            said += f" and {figures['train_texts']} train texts"
        context.conclude(db, f"{said}.")
    return said


@handles(acts.ABLATION_JOB)
def compare_stages(context: JobContext) -> str:
    """Hold the whole pipeline, each stage alone and the whole without each against signed dev texts."""
    with transaction(context.database_url) as db:
        project = team.project_by_id(db, context.project_id)
        team.wait_for_writers(db, project.id)
        comparison = acts.read_comparison(db, project, read_plan(context.job.params["plan"]))
    told = comparison.told(context.progress, StopLook(context))
    context.remember(told=told)
    return f"{len(told['rows'])} pipelines are compared on {told['sentences']} signed sentences."
