"""The job that compiles lists, where they are many."""

from __future__ import annotations

from urdaten.places.lists import acts
from urdaten.places.team import acts as team
from urdaten.platform.database import transaction
from urdaten.platform.jobs import JobContext, handles


@handles(acts.JOB)
def run(context: JobContext) -> str:
    """Compile all lists, and keep that; what is changed meanwhile is compiled beside it."""
    with transaction(context.database_url, snapshot=True) as db:
        project = team.project_by_id(db, context.project_id)
        change, data, entries = acts.compile_all(db, project)
    with transaction(context.database_url) as db:
        acts.keep_compiled(db, context.project_id, change, data)
        said = f"{entries} names are compiled."
        context.conclude(db, said)
    return said
