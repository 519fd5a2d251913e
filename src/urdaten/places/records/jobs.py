"""The assembly job."""

from __future__ import annotations

from urdaten.core.records import assemble
from urdaten.core.spans import Span
from urdaten.errors import Stopped
from urdaten.places.lists import acts as lists
from urdaten.places.pipeline import acts as pipeline
from urdaten.places.records import acts
from urdaten.places.team import acts as team
from urdaten.places.texts import acts as texts
from urdaten.platform.database import transaction
from urdaten.platform.jobs import JobContext, handles

TEXTS_PER_LOOK = 100


@handles(acts.JOB)
def run_assembly(context: JobContext) -> str:
    """Assemble records from gold where a sentence is signed, and from the resolved evidence elsewhere."""
    with transaction(context.database_url) as db:
        project = team.project_by_id(db, context.project_id)
        team.wait_for_writers(db, project.id)
        made_from = acts.made_from_now(db, project.id)
        templates = acts.read_templates(db, project.id)
        everything = texts.all_texts(db, project.id)
        signed = pipeline.gold_by_sentence(db, everything)
        pipeline.check_runs(db, project)
        evidence = pipeline.evidence(db, project, everything)
        names = lists.gazetteer(db, project)
        analyses = texts.batch_of(db, everything, project.language).analyses
    made = []
    for i, (text, analysis, found) in enumerate(zip(everything, analyses, evidence, strict=True)):
        if i % TEXTS_PER_LOOK == 0:
            context.progress(i, len(everything), "texts")
            if context.should_stop():
                raise Stopped("Assembling was stopped; the records stand as they were before.")
        spans: list[Span] = [span for _, annotation in signed[text.id] for span in annotation.spans]
        ranges = [(sentence.start, sentence.end) for sentence, _ in signed[text.id]]
        spans += [s for s in found.resolved if not any(a <= s.start and s.end <= b for a, b in ranges)]
        made += [(t.id, text.id, assemble(analysis, spans, t.template, names.preferred)) for t in templates]
    with transaction(context.database_url) as db:
        count = acts.replace_records(db, context.project_id, made, made_from)
        said = f"{count} {'record' if count == 1 else 'records'} from {len(everything)} texts."
        context.conclude(db, said)
    return said
