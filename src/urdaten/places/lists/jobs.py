"""The jobs of lists: compiling them where they are many, and reading files of names."""

from __future__ import annotations

import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

from urdaten.errors import BadInput
from urdaten.places.lists import acts
from urdaten.places.team import acts as team
from urdaten.platform.database import transaction
from urdaten.platform.jobs import JobContext, handles
from urdaten.readers import NameRow, Names, read_guarded

_TELL_S = 0.5


@handles(acts.JOB)
def run(context: JobContext) -> str:
    """Compile all lists, and keep that; what is changed meanwhile is compiled beside it."""
    entries = _compile(context)
    with transaction(context.database_url) as db:
        said = f"{entries} names are compiled."
        context.conclude(db, said)
    return said


def _compile(context: JobContext) -> int:
    with transaction(context.database_url, snapshot=True) as db:
        project = team.project_by_id(db, context.project_id)
        change, data, entries = acts.compile_all(db, project)
    with transaction(context.database_url) as db:
        acts.keep_compiled(db, context.project_id, change, data)
    return entries


@handles(acts.LOOK)
def look(context: JobContext) -> str:
    """Hold a file against its list, and keep what would come of it."""
    held = _import_of(context)
    with transaction(context.database_url, snapshot=True) as db:
        came = acts.coming(db, context.project_id, held.list_id, held.plan.label)
    rows: list[NameRow] = []
    for item in _read(context, held):
        came.take(item)
        if isinstance(item, Names):
            rows += item.rows
    packed = acts.pack(rows)
    with transaction(context.database_url) as db:
        acts.keep_looked(db, context.project_id, held.id, came.looked, packed)
        said = came.looked["amiss"] or "It is looked into; nothing is kept yet."
        context.conclude(db, said)
    return str(said)


@handles(acts.KEEP)
def keep(context: JobContext) -> str:
    """Take the names of a file into its list: all of them, or none."""
    held = _import_of(context)
    # Read before the list is held, so that nobody waits for that; what the list has is looked at after.
    with transaction(context.database_url) as db:
        rows = acts.rows_of(db, held.id)
    items: list[object] = (
        list(_read(context, held)) if rows is None else [Names(source=held.name, rows=tuple(rows))]
    )
    context.progress(0, 0, "", "The list is brought up to date.")
    with transaction(context.database_url) as db:
        project = team.project_by_id(db, context.project_id)
        acts.hold_list(db, project.id, held.list_id)
        came = acts.coming(db, project.id, held.list_id, held.plan.label)
        for item in items:
            came.take(item)
        if came.looked["amiss"]:
            raise BadInput(came.looked["amiss"])
        act = acts.keep_names(db, project, held, context.job.params["account"], came)
        counts = came.looked["counts"]
        # Whoever sees the names sees them compiled; who asked for a page meanwhile would have to do it.
        if acts.is_far_behind(db, project):
            context.progress(0, 0, "", "The names are compiled.")
            change, data, _ = acts.compile_all(db, project)
            acts.keep_compiled(db, project.id, change, data)
        said = _said(counts["new"], act.entries - counts["new"])
        context.conclude(db, said)
    return said


def _said(new: int, changed: int) -> str:
    parts = [
        f"{count} {'name is' if count == 1 else 'names are'} {what}"
        for count, what in ((new, "new"), (changed, "changed"))
        if count
    ]
    return f"{', '.join(parts)}." if parts else "The list has all of it already."


def _import_of(context: JobContext) -> acts.ListImport:
    params = context.job.params
    with transaction(context.database_url) as db:
        return acts.read_import(db, context.project_id, params["list"], params["import"])


def _read(context: JobContext, held: acts.ListImport) -> Iterator[object]:
    """What the file holds, with progress. Raises Stopped."""
    due = time.monotonic()
    names = 0

    def stop() -> bool:
        nonlocal due
        if time.monotonic() < due:
            return False
        due = time.monotonic() + _TELL_S
        context.progress(names, 0, "names read")
        return context.should_stop()

    with tempfile.TemporaryDirectory(prefix="urdaten-") as folder:
        path = Path(folder) / "names"
        with transaction(context.database_url) as db:
            path.write_bytes(acts.data_of(db, held.id))
        for _, item in read_guarded([(held.name, path)], held.plan.how, stop=stop):
            names += len(item.rows) if isinstance(item, Names) else 0
            yield item
