"""The job that makes a layer of what lists find."""

from __future__ import annotations

from urdaten.core.spans import Span, clear_spans
from urdaten.errors import Stopped
from urdaten.places.desk import acts
from urdaten.places.desk.acts.quiet import quiet_among
from urdaten.places.lists import acts as lists
from urdaten.places.pipeline import acts as pipeline
from urdaten.places.team import acts as team
from urdaten.places.texts import acts as texts
from urdaten.platform.database import transaction
from urdaten.platform.jobs import JobContext, handles

SPLITS = ("train", "dev", "none")


@handles(acts.PROPOSE)
def run(context: JobContext) -> str:
    """Every find in sentences that nobody has signed, without what is unclear; test texts and others that are annotated without
    suggestions are left out."""
    found: dict[int, list[Span]] = {}
    unclear = done = 0
    with transaction(context.database_url) as db:
        project = team.project_by_id(db, context.project_id)
        wanted = set(context.job.params["lists"])
        named = {one.name for one in lists.lists_on(db, project.id) if one.id in wanted}
        which = texts.Which(splits=SPLITS)
        total = texts.count_which(db, project.id, which)
        for portion in texts.in_portions(db, project.id, which):
            if context.should_stop():
                raise Stopped("It was stopped; no layer was made.")
            quiet = quiet_among(db, project, portion)
            loud = [text for text in portion if text.id not in quiet]
            held = texts.sentences_of(db, [text.id for text in loud])
            states = acts.states_of(db, [s.id for sentences in held.values() for s in sentences])
            for text, spans in zip(loud, pipeline.matches(db, project, loud), strict=True):
                mine = [span for span in spans if span.source == "lists" and span.maker in named]
                open_ones = [
                    s for s in held[text.id] if s.id not in states or states[s.id].state != acts.SIGNED
                ]
                clear, doubtful = (texts.by_sentence(some, held[text.id]) for some in clear_spans(mine))
                for sentence in open_ones:
                    down = states[sentence.id].turned_down if sentence.id in states else ()
                    kept = [span for span in clear[sentence.id] if span not in down]
                    unclear += len(doubtful[sentence.id])
                    if kept:
                        found[sentence.id] = kept
            done += len(portion)
            context.progress(done, total, "texts")
    said = _said(sum(map(len, found.values())), len(found), unclear)
    with transaction(context.database_url) as db:
        acts.keep_proposed(db, context.project_id, context.job.params["name"], found)
        context.conclude(db, said)
    return said


def _said(spans: int, sentences: int, unclear: int) -> str:
    if not sentences:
        return "The lists find nothing that is clear in unsigned sentences; the layer is empty."
    return f"{spans} spans in {sentences} unsigned sentences are proposed; {unclear} finds were unclear and are left out."
