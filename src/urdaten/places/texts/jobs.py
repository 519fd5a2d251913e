"""The job that looks for texts that are nearly the same, and for sentences that several have."""

from __future__ import annotations

from urdaten.core.text import like_earlier, recurring_sentences
from urdaten.errors import Stopped
from urdaten.places.team import acts as team
from urdaten.places.texts import acts
from urdaten.platform.database import transaction
from urdaten.platform.jobs import JobContext, handles


@handles(acts.LIKENESS)
def run(context: JobContext) -> str:
    """Compare every text with those before it, by their numbers."""
    with transaction(context.database_url, snapshot=True) as db:
        project = team.project_by_id(db, context.project_id)
        bodies = [
            (text.id, text.body)
            for portion in acts.in_portions(db, context.project_id, acts.Which())
            for text in portion
        ]
    bodies.sort()
    numbers = [number for number, _ in bodies]
    context.progress(0, len(bodies), "texts")
    found = like_earlier([body for _, body in bodies])
    if context.should_stop():
        raise Stopped("Stopped; what was known before stays.")
    recurring = recurring_sentences(
        [body for _, body in bodies], project.language, abbreviations=project.abbreviations
    )
    with transaction(context.database_url) as db:
        acts.keep_likeness(db, context.project_id, numbers, found, recurring)
        count = len(found)
        said = f"{count} of {len(bodies)} texts {'is' if count == 1 else 'are'} nearly the same as an earlier one."
        context.conclude(db, said)
    return said
