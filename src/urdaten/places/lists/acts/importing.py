"""Files of names that come into a list: how they are read, what would come of it, and the list with them."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import asdict, dataclass, field, fields
from datetime import UTC, datetime, timedelta
from json import dumps, loads
from typing import Any
from zlib import compress, decompress

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from urdaten.core.lists import FATES, Arrival, Arrivals, spelling_key
from urdaten.errors import BadInput, Clash, NotFound
from urdaten.places.lists.acts.entry import EntryDraft, State
from urdaten.places.lists.acts.lists import own_list
from urdaten.places.lists.acts.steps import ListAct, own_states, write_steps
from urdaten.places.lists.tables import EntryRow, ListImportRow, ListRow
from urdaten.places.team.acts import Project
from urdaten.platform.events import announce
from urdaten.platform.jobs import JobView, add_job, jobs_by_id, stop_job
from urdaten.readers import NAME_ROLES, Found, HowNames, NameRow, Names, Refusal

OPEN, KEPT = "open", "kept"
LOOK, KEEP = "look into names", "import names"
# What becomes of names that the list has and the file has not.
RESTS = ("keep", "off", "delete")
EVENT = "lists"
FORGOTTEN_AFTER = timedelta(days=7)
SAMPLE = 20
MOST_REFUSALS = 1_000
MOST_LABELS = 500


@dataclass(frozen=True, kw_only=True)
class NamesPlan:
    """How a file of names is read, and what becomes of the rest; what is empty is found out."""

    kind: str = ""
    encoding: str = ""
    delimiter: str = ""
    header: bool | None = None
    roles: Mapping[str, str] = field(default_factory=dict)
    parts: str = ""
    rest: str = "keep"
    # Only names with this label; "" for all.
    label: str = ""

    def check(self) -> None:
        """Raises BadInput, naming the field."""
        if self.rest not in RESTS:
            raise BadInput(
                f"Names that are not in the file: {', '.join(RESTS)}, not {self.rest!r}.", field="rest"
            )
        for role in self.roles.values():
            if role not in NAME_ROLES:
                raise BadInput(
                    f"A column is for one of {', '.join(NAME_ROLES)}, not {role!r}.", field="roles"
                )

    @property
    def how(self) -> HowNames:
        """As readers take it."""
        values = {one.name: getattr(self, one.name) for one in fields(HowNames)}
        return HowNames(**values)


@dataclass(frozen=True, kw_only=True)
class ListImport:
    """An import as other modules see it."""

    id: int
    list_id: int
    account: int | None
    state: str
    name: str
    # Of entries that come by it, where they come from.
    source: str
    plan: NamesPlan
    looked: dict[str, Any] | None
    act: int | None
    job: JobView | None


def begin_import(
    db: Session, project: Project, list_id: int, account_id: int, name: str, data: bytes
) -> ListImport:
    """A file for a list, which is looked into at once. What was sent long ago and never kept goes."""
    own_list(db, project.id, list_id)
    old = datetime.now(UTC) - FORGOTTEN_AFTER
    db.execute(
        delete(ListImportRow).where(
            ListImportRow.project_id == project.id,
            ListImportRow.state == OPEN,
            ListImportRow.created_at < old,
        )
    )
    row = _add(db, project.id, list_id, account_id, name, data, f"file {name}")
    _start(db, row, account_id, LOOK)
    return _shown(db, row)


def begin_keeping(
    db: Session, project: Project, list_id: int, account_id: int, name: str, data: bytes, *, source: str
) -> ListImport:
    """Names of our own making for a list, which are taken into it without a look."""
    own_list(db, project.id, list_id)
    row = _add(db, project.id, list_id, account_id, name, data, source)
    _start(db, row, account_id, KEEP)
    return _shown(db, row)


def _add(
    db: Session, project_id: int, list_id: int, account_id: int, name: str, data: bytes, source: str
) -> ListImportRow:
    row = ListImportRow(
        project_id=project_id,
        list_id=list_id,
        account_id=account_id,
        state=OPEN,
        name=name,
        data=data,
        source=source,
        plan=asdict(NamesPlan()),
    )
    db.add(row)
    db.flush()
    return row


def read_import(db: Session, project_id: int, list_id: int, number: int) -> ListImport:
    """Raises NotFound."""
    return _shown(db, _own(db, project_id, list_id, number))


def change_import(
    db: Session, project_id: int, list_id: int, number: int, account_id: int, plan: NamesPlan
) -> ListImport:
    """Another plan, by which the file is looked into anew. Raises BadInput, and Clash while a job works on it."""
    plan.check()
    row = _open(db, project_id, list_id, number)
    row.plan, row.looked, row.rows = asdict(plan), None, None
    db.flush()
    _start(db, row, account_id, LOOK)
    return _shown(db, row)


def keep_import(db: Session, project_id: int, list_id: int, number: int, account_id: int) -> ListImport:
    """Take the names into the list. Raises Clash for what nobody has looked into, or a job works on."""
    row = _open(db, project_id, list_id, number)
    if row.looked is None or row.looked.get("amiss"):
        raise Clash("Look first at what would come of it.")
    _start(db, row, account_id, KEEP)
    return _shown(db, row)


def remove_import(db: Session, project_id: int, list_id: int, number: int) -> None:
    """Drop the file; a job that reads it is stopped."""
    row = _own(db, project_id, list_id, number)
    if row.job_id is not None:
        job = jobs_by_id(db, [row.job_id]).get(row.job_id)
        if job is not None and not job.ended:
            stop_job(db, project_id, job.id)
    db.delete(row)
    db.flush()
    announce(db, project_id, EVENT)


def _start(db: Session, row: ListImportRow, account_id: int, kind: str) -> None:
    verb = "look into" if kind == LOOK else "import"
    job = add_job(
        db,
        project_id=row.project_id,
        account_id=account_id,
        kind=kind,
        title=f"{verb} “{row.name}”",
        params={"import": row.id, "list": row.list_id, "account": account_id},
    )
    row.job_id = job.id
    db.flush()
    announce(db, row.project_id, EVENT)


def _own(db: Session, project_id: int, list_id: int, number: int) -> ListImportRow:
    own_list(db, project_id, list_id)
    row = db.get(ListImportRow, number, populate_existing=True)
    if row is None or row.project_id != project_id or row.list_id != list_id:
        raise NotFound(f"There is no import {number} of this list; it may have been removed.")
    return row


def _open(db: Session, project_id: int, list_id: int, number: int) -> ListImportRow:
    row = _own(db, project_id, list_id, number)
    if row.state != OPEN:
        raise Clash("These names are in the list already; send the file again to bring it up to date.")
    shown = _shown(db, row)
    if shown.job is not None and not shown.job.ended:
        raise Clash("This file is being read; wait for that, or stop it.")
    return row


def _shown(db: Session, row: ListImportRow) -> ListImport:
    jobs = jobs_by_id(db, [row.job_id]) if row.job_id is not None else {}
    return ListImport(
        id=row.id,
        list_id=row.list_id,
        account=row.account_id,
        state=row.state,
        name=row.name,
        source=row.source,
        plan=NamesPlan(**row.plan),
        looked=row.looked,
        act=row.act_id,
        job=jobs.get(row.job_id or 0),
    )


def data_of(db: Session, number: int) -> bytes:
    """The file. Raises NotFound."""
    data = db.scalar(select(ListImportRow.data).where(ListImportRow.id == number))
    if data is None:
        raise NotFound("This import was removed.")
    return data


class Coming:
    """What comes of a file, name by name."""

    def __init__(
        self, held: Iterable[tuple[int, Arrival]], elsewhere: Mapping[int, str], label: str = ""
    ) -> None:
        """held: the list's entries; elsewhere: a list that has a name, by the name's key; label: of which names alone come, if
        any."""
        self.arrivals = Arrivals(held)
        self._elsewhere, self._label = elsewhere, label
        self._labels: Counter[str] = Counter()
        self._found: Found | None = None
        self._counts = dict.fromkeys((*FATES, "elsewhere", "refused"), 0)
        self._samples: dict[str, list[dict[str, Any]]] = {name: [] for name in self._counts}
        self._amiss = ""

    def take(self, item: object) -> None:
        """An item of the reader."""
        if isinstance(item, Found):
            self._found = self._found or item
        elif isinstance(item, Refusal):
            # What has no place is of the file as a whole.
            if not item.place:
                self._amiss = self._amiss or item.why
            self._counts["refused"] += 1
            if len(self._samples["refused"]) < MOST_REFUSALS:
                told = {"place": item.place, "why": item.why, "content": item.content}
                self._samples["refused"].append(told)
        elif isinstance(item, Names):
            for row in item.rows:
                if row.label and (row.label in self._labels or len(self._labels) < MOST_LABELS):
                    self._labels[row.label] += 1
                if not self._label or row.label == self._label:
                    self._take(row)

    def _take(self, row: NameRow) -> None:
        fate, before = self.arrivals.take(Arrival(row.name, row.variants, row.identifier, row.note, row.on))
        self._tell(fate, row, before.name if before else "")
        if self._elsewhere and (other := self._elsewhere.get(spelling_key(row.name))) is not None:
            self._tell("elsewhere", row, other)

    def _tell(self, what: str, row: NameRow, before: str) -> None:
        self._counts[what] += 1
        if len(self._samples[what]) < SAMPLE:
            self._samples[what].append(
                {"name": row.name, "variants": list(row.variants), "place": row.place, "before": before}
            )

    @property
    def looked(self) -> dict[str, Any]:
        """What would come of it, as it is kept and shown."""
        any_ = sum(self._counts[fate] for fate in FATES)
        return {
            "found": None if self._found is None else asdict(self._found),
            "counts": self._counts | {"unmet": len(self.arrivals.unmet)},
            "samples": self._samples,
            "labels": [{"label": label, "names": count} for label, count in self._labels.most_common()],
            "amiss": "" if any_ else (self._amiss or "The file holds no names that could be kept."),
        }


def coming(db: Session, project_id: int, list_id: int, label: str = "") -> Coming:
    """For names that come into this list as it is now."""
    columns = (
        EntryRow.id,
        EntryRow.preferred,
        EntryRow.variants,
        EntryRow.identifier,
        EntryRow.note,
        EntryRow.on,
    )
    query = select(*columns).where(EntryRow.list_id == list_id).order_by(EntryRow.id)
    held = [
        (number, Arrival(name=name, variants=tuple(variants), identifier=identifier, note=note, on=on))
        for number, name, variants, identifier, note, on in db.execute(query)
    ]
    others = (
        select(func.unnest(EntryRow.keys), ListRow.name)
        .join(ListRow, ListRow.id == EntryRow.list_id)
        .where(ListRow.project_id == project_id, ListRow.removed_at.is_(None), ListRow.id != list_id)
    )
    return Coming(held, {key: name for key, name in db.execute(others)}, label)


def rows_of(db: Session, number: int) -> list[NameRow] | None:
    """The names as they were read when it was looked into; None where nobody has."""
    packed = db.scalar(select(ListImportRow.rows).where(ListImportRow.id == number))
    if packed is None:
        return None
    return [NameRow(name, tuple(variants), *rest) for name, variants, *rest in loads(decompress(packed))]


def pack(rows: Iterable[NameRow]) -> bytes:
    """As `rows_of` reads them. The quickest way: they stand for minutes."""
    return compress(dumps(list(rows)).encode(), 1)


def keep_looked(db: Session, project_id: int, number: int, looked: Mapping[str, Any], rows: bytes) -> None:
    """What was found. Raises NotFound where the import was removed meanwhile."""
    row = db.get(ListImportRow, number)
    if row is None:
        raise NotFound("This import was removed.")
    row.looked, row.rows = dict(looked), rows
    db.flush()
    announce(db, project_id, EVENT)


def keep_names(
    db: Session, project: Project, held: ListImport, account_id: int | None, came: Coming
) -> ListAct:
    """The list with the names, in one act that can be undone. Whoever asks has seen the list as it is: see hold_list."""
    arrivals = came.arrivals
    before = own_states(db, held.list_id, [*arrivals.changed, *arrivals.unmet])
    steps: list[tuple[int, State, State]] = []
    for number, one in arrivals.changed.items():
        after = {"variants": list(one.variants), "identifier": one.identifier, "note": one.note}
        steps.append((number, before[number], before[number] | after))
    for number in arrivals.unmet:
        if held.plan.rest == "off" and before[number]["on"]:
            steps.append((number, before[number], before[number] | {"on": False}))
        elif held.plan.rest == "delete":
            steps.append((number, before[number], None))
    added = [
        EntryDraft(
            preferred=one.name,
            variants=one.variants,
            note=one.note,
            identifier=one.identifier,
            on=one.on,
            source=held.source,
        )
        for one in arrivals.added
    ]
    act = write_steps(db, project, held.list_id, account_id, f"the import of “{held.name}”", steps, added)
    row = db.get_one(ListImportRow, held.id)
    row.state, row.act_id, row.data, row.rows = KEPT, act.id, b"", None
    db.flush()
    return act


def hold_list(db: Session, project_id: int, list_id: int) -> None:
    """Nobody else changes the list until this transaction ends."""
    own_list(db, project_id, list_id, to_change=True)
