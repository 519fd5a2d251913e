"""The project's lists compiled: all of them at once, or, where they are many, what changed beside what was compiled before."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from urdaten.core.lists import CompiledLists, Entry, Gazetteer, ListHead, NameList, Part, listfile
from urdaten.errors import BadFile, Clash
from urdaten.places.lists.acts.changes import PLACE, entries_changed_since, last_change
from urdaten.places.lists.acts.lists import NamedList, kept_options, read_lists
from urdaten.places.lists.tables import CompiledRow, EntryRow
from urdaten.places.team.acts import Project
from urdaten.places.types import acts as types
from urdaten.platform.database import among, has_written
from urdaten.platform.jobs import add_job, latest_job
from urdaten.platform.revisions import revisions

JOB = "lists"
# Fewer entries than this are compiled wherever they are needed; of more there is a compiled state that is kept.
FEW = 20_000
# So many that have changed since are compiled beside it; when there are more, all are compiled anew.
MOST_BESIDE = 5_000


@dataclass(frozen=True, eq=False)
class _Kept:
    """The state that is kept: as of which change, with which options of lists."""

    change: int
    options: dict[str, Any]
    compiled: CompiledLists


_gazetteers: dict[int, tuple[tuple[int, int], Gazetteer]] = {}
_kept: dict[int, _Kept] = {}


def gazetteer(db: Session, project: Project) -> Gazetteer:
    """The project's lists that are on, compiled; kept until lists or types change."""
    numbers = revisions(db, project.id)
    stamp = (numbers.get(PLACE, 0), numbers.get(types.PLACE, 0))
    held = _gazetteers.get(project.id)
    if held and held[0] == stamp:
        return held[1]
    on = [one for one in read_lists(db, project.id) if one.on]
    made = Gazetteer.joined(
        _parts(db, project, on), {x.id: ListHead(name=x.name, type=x.type, options=x.options) for x in on}
    )
    # What a transaction has changed itself may be rolled back, and its revision be given again.
    if not has_written(db):
        _gazetteers[project.id] = (stamp, made)
    return made


def compiled_lists(db: Session, project: Project) -> tuple[list[Part], dict[int, ListHead]]:
    """The project's lists that are on, compiled, and of each by its number what it is called and how it is looked for."""
    held = gazetteer(db, project)
    return held.parts, held.heads


def name_lists(db: Session, project: Project) -> list[NameList]:
    """The project's lists that are on, with every name of theirs that is on."""
    on = [one for one in read_lists(db, project.id) if one.on]
    return [names for _, names in _read_names(db, on)]


def _parts(db: Session, project: Project, on: Sequence[NamedList]) -> list[Part]:
    kept = _read_kept(db, project.id) if sum(one.entries for one in on) > FEW else None
    if kept is None:
        return [Part(_compile(db, project, on))]
    changed = entries_changed_since(db, project.id, kept.change)
    same = [one for one in on if kept.options.get(str(one.id)) == kept_options(one.options)]
    others = [one for one in on if one not in same]
    beside = [_compile(db, project, same, changed), *([_compile(db, project, others)] if others else [])]
    gone = kept.compiled.entries_of(sorted(changed)) | kept.compiled.of_lists([one.id for one in others])
    return [Part(kept.compiled, gone), *map(Part, beside)]


def _compile(
    db: Session, project: Project, lists: Sequence[NamedList], among_these: Collection[int] | None = None
) -> CompiledLists:
    return CompiledLists.of(_read_names(db, lists, among_these), project.language)


def _read_names(
    db: Session, lists: Sequence[NamedList], among_these: Collection[int] | None = None
) -> list[tuple[int, NameList]]:
    entries: dict[int, list[Entry]] = {one.id: [] for one in lists}
    wanted = [among(EntryRow.list_id, [one.id for one in lists]), EntryRow.on]
    if among_these is not None:
        wanted.append(among(EntryRow.id, among_these))
    # Most have no variants, and reading arrays takes most of the time.
    having = select(EntryRow.id, EntryRow.variants).where(*wanted, func.cardinality(EntryRow.variants) > 0)
    variants = {number: tuple(ways) for number, ways in db.execute(having)}
    query = select(EntryRow.id, EntryRow.list_id, EntryRow.preferred).where(*wanted).order_by(EntryRow.id)
    for number, list_id, preferred in db.execute(query):
        entries[list_id].append(Entry(preferred, variants.get(number, ()), number))
    return [
        (x.id, NameList(name=x.name, type=x.type, entries=tuple(entries[x.id]), options=x.options))
        for x in lists
    ]


def _read_kept(db: Session, project_id: int) -> _Kept | None:
    """The state that is kept, if there is one that can be read."""
    change = db.scalar(select(CompiledRow.change).where(CompiledRow.project_id == project_id))
    if change is None:
        return None
    held = _kept.get(project_id)
    if held is None or held.change != change:
        row = db.execute(
            select(CompiledRow.change, CompiledRow.data).where(CompiledRow.project_id == project_id)
        ).one()
        try:
            compiled, made_of = listfile.from_bytes(row.data)
        except BadFile:
            # Of another version of the program: everything is compiled until the job has made it anew.
            return None
        held = _kept[project_id] = _Kept(row.change, made_of["options"], compiled)
    return held


def compile_all(db: Session, project: Project) -> tuple[int, bytes, int]:
    """All lists compiled, those that are off too: the last change that is in them, the file, and the number of entries."""
    change = last_change(db, project.id)
    every = read_lists(db, project.id)
    compiled = _compile(db, project, every)
    options = {str(one.id): kept_options(one.options) for one in every}
    return change, listfile.to_bytes(compiled, {"options": options}), len(compiled.entry_number)


def keep_compiled(db: Session, project_id: int, change: int, data: bytes) -> None:
    """Keep what compile_all has given."""
    values = {"change": change, "data": data}
    made = insert(CompiledRow).values(project_id=project_id, **values)
    db.execute(made.on_conflict_do_update(index_elements=["project_id"], set_=values))


def is_far_behind(db: Session, project: Project) -> bool:
    """Has so much changed since the lists were compiled that they ought to be compiled anew?"""
    every = read_lists(db, project.id)
    if sum(one.entries for one in every) <= FEW:
        return False
    change = db.scalar(select(CompiledRow.change).where(CompiledRow.project_id == project.id))
    if change is None:
        return True
    if len(entries_changed_since(db, project.id, change)) > MOST_BESIDE:
        return True
    kept = _read_kept(db, project.id)
    if kept is None:
        return True
    return (
        sum(x.entries for x in every if kept.options.get(str(x.id)) != kept_options(x.options)) > MOST_BESIDE
    )


def compile_later(db: Session, project: Project) -> None:
    """Have the lists compiled by a job if they are far behind; whatever is asked meanwhile compiles what it needs."""
    if not is_far_behind(db, project):
        return
    job = latest_job(db, project.id, JOB)
    if job is not None and not job.ended:
        return
    try:
        add_job(
            db,
            project_id=project.id,
            account_id=None,
            kind=JOB,
            title="Lists are compiled",
            params={},
            alone="Lists are being compiled already.",
        )
    except Clash:
        return
