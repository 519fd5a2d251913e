"""The jobs that assemble records and learn from signed ones."""

from __future__ import annotations

from urdaten.core.records import LEAST_RECORDS, Record, teach
from urdaten.errors import Stopped
from urdaten.places.pipeline import acts as pipeline
from urdaten.places.records import acts
from urdaten.places.team import acts as team
from urdaten.places.texts import acts as texts
from urdaten.platform.database import transaction
from urdaten.platform.jobs import JobContext, handles

_STOPPED = "Assembling was stopped; the records stand as they were before."


@handles(acts.JOB)
def run_assembly(context: JobContext) -> str:
    """Assemble records from gold where a sentence is signed, and from the resolved evidence elsewhere."""
    return _assemble(context)


@handles(acts.LEARNING_JOB)
def run_learning(context: JobContext) -> str:
    """Learn from the texts whose records are all signed, a template at a time; then assemble anew."""
    with transaction(context.database_url) as db:
        project = team.project_by_id(db, context.project_id)
        team.wait_for_writers(db, project.id)
        pipeline.check_runs(db, project)
        templates = acts.read_templates(db, project.id)
    learnt = []
    for number, stored in enumerate(templates):
        context.progress(number, len(templates), "templates")
        if context.should_stop():
            raise Stopped("Learning was stopped; what was learnt before stays.")
        with transaction(context.database_url) as db:
            signings = acts.signings_of(db, project, stored)
        assembler = teach(stored.template, signings)
        with transaction(context.database_url) as db:
            acts.keep_learnt(db, project.id, stored.id, assembler)
        count = assembler.linker.records
        told = str(count) if count else f"none, which takes {LEAST_RECORDS} signed ones"
        learnt.append(f"“{stored.template.name}” from {told}")
    return _assemble(context, f"Learnt {'; '.join(learnt)}. ")


def _assemble(context: JobContext, before: str = "") -> str:
    with transaction(context.database_url) as db:
        project = team.project_by_id(db, context.project_id)
        team.wait_for_writers(db, project.id)
        made_from = acts.made_from_now(db, project.id)
        templates = acts.read_templates(db, project.id)
        assemblers = [acts.read_assembler(db, project.id, stored.id) for stored in templates]
        pipeline.check_runs(db, project)
        everything = texts.all_texts(db, project.id)
        ground = acts.ground_of(db, project, everything)
    made: list[tuple[int, int, list[Record]]] = []
    for number, (stored, assembler) in enumerate(zip(templates, assemblers, strict=True)):
        context.progress(number, len(templates), "templates")
        if context.should_stop():
            raise Stopped(_STOPPED)
        found = assembler.assemble(
            ground.batch, ground.spans, ground.names, ground.about, ground.words, why=True
        )
        made += [
            (stored.id, text.id, one.records)
            for text, one in zip(everything, found, strict=True)
            if one.records
        ]
    if context.should_stop():
        raise Stopped(_STOPPED)
    with transaction(context.database_url) as db:
        count = acts.replace_records(db, context.project_id, made, made_from)
        said = f"{before}{count} {'record' if count == 1 else 'records'} from {len(everything)} texts."
        context.conclude(db, said)
    return said
