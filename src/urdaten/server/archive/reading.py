"""Bringing a project back: all of it, or nothing and the reason."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from typing import IO, Any

from sqlalchemy import LargeBinary, insert, update
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from urdaten.core.tagger import from_bytes
from urdaten.errors import BadFile, BadInput
from urdaten.places.desk import acts as desk
from urdaten.places.lists import acts as lists
from urdaten.places.team import acts as team
from urdaten.places.texts import acts as texts
from urdaten.platform.accounts import check_new, create_account, folded_login, people
from urdaten.platform.database import count_anew
from urdaten.server.archive.checks import Checks
from urdaten.server.archive.container import Container
from urdaten.server.archive.converting import number
from urdaten.server.archive.parts import PARTS, Part
from urdaten.server.archive.rows import row_of, typed

AT_A_TIME = 1000
MOST_PEOPLE = 2000
Report = Callable[[int, int], None]
# No password fits it: whoever is made here cannot sign in.
_NO_PASSWORD = "-"


def import_project(
    db: Session,
    file: IO[bytes],
    account_id: int,
    *,
    with_members: bool = False,
    report: Report = lambda *_: None,
) -> team.Project:
    """The project that an archive holds, as a new one that the account leads.

    People of the archive who have an account here under the same login and name are those; others get accounts that
    cannot sign in, so that what they signed stays theirs. With `with_members` those who are here become members again.
    report: told now and then how many bytes of how many have been brought in; what it raises ends the import. Raises
    BadFile that names the file and line, and keeps nothing then.
    """
    container = Container(file)
    head = container.head
    try:
        project = team.create_project(db, name=head.name, language=head.language)
    except BadInput as fault:
        raise BadFile(f"The project's name cannot be kept: {fault.message}") from fault
    team.add_member(db, project.id, account_id, team.Role.LEAD)
    team.set_overlap(db, project.id, head.overlap)
    team.set_abbreviations(db, project.id, head.abbreviations)
    team.set_retraining(db, project.id, head.retrain_after)
    reader = _Reader(db, container, project.id)
    reader.read_people(with_members=with_members)
    for part in PARTS.values():
        reader.read(part, report)
    reader.read_type_links()
    reader.checks.at_the_end()
    texts.count_sentences_anew(db, project.id)
    lists.count_entries_anew(db, project.id)
    texts.index_anew(db, project.id)
    desk.tally_anew(db, project.id)
    count_anew(db, "tally", *(part.table.name for part in PARTS.values()))
    db.expire_all()
    return team.project_by_id(db, project.id)


class _Reader:
    def __init__(self, db: Session, container: Container, project_id: int) -> None:
        self._db, self._container, self._project_id = db, container, project_id
        self._numbers: dict[str, dict[int, int]] = {}
        self.checks = Checks()

    def _lines(
        self, name: str, members: frozenset[str], added: Mapping[str, Any] | None = None
    ) -> Iterator[tuple[int, dict[str, Any]]]:
        at = 0
        try:
            for at, line in enumerate(self._container.lines(name), start=1):
                yield at, row_of(line, members, added or {})
        except BadFile as fault:
            if "file" in fault.detail:
                raise
            raise BadFile(f"{name}, line {at}: {fault.message}.", file=name, line=at) from fault

    def read_people(self, *, with_members: bool) -> None:
        here = {(person.login, person.name): person for person in people(self._db)}
        logins = {login for login, _ in here}
        numbers = self._numbers["people"] = {}
        name = "people.jsonl"
        for at, row in self._lines(name, frozenset({"login", "name", "role"})):
            login, full = row["login"], row["name"]
            if at > MOST_PEOPLE:
                raise BadFile(f"{name}: an archive names at most {MOST_PEOPLE} people.", file=name, line=at)
            if not isinstance(login, str) or not isinstance(full, str):
                raise BadFile(f"{name}, line {at}: somebody has no login or name.", file=name, line=at)
            person = here.get((folded_login(login), full))
            if person is None:
                try:
                    check_new(login, full)
                except BadInput as fault:
                    raise BadFile(f"{name}, line {at}: {fault.message}", file=name, line=at) from fault
                person = create_account(
                    self._db, login=_free(login, logins), name=full, password_hash=_NO_PASSWORD, active=False
                )
                logins.add(person.login)
            elif with_members and row["role"] in {role.value for role in team.Role}:
                team.add_member(self._db, self._project_id, person.id, team.Role(row["role"]))
            numbers[at] = person.id

    def read(self, part: Part, report: Report) -> None:
        """Bring one part in; what it is referred to by is known from then on."""
        numbers = self._numbers.setdefault(part.name, {})
        if part.later and not self._container.has(f"{part.name}.jsonl"):
            return
        batch: list[dict[str, Any]] = []
        at = 0
        for at, row in self._lines(f"{part.name}.jsonl", frozenset(part.columns), part.added):
            try:
                values = self._values(part, row)
                self.checks.row(part.name, at, row)
            except BadFile as fault:
                name = f"{part.name}.jsonl"
                raise BadFile(
                    f"{name}, line {at}: {fault.message.rstrip('.')}.", file=name, line=at
                ) from fault
            batch.append(values)
            if len(batch) == AT_A_TIME:
                self._insert(part, batch, numbers, at)
                batch = []
                report(self._container.bytes_read, self._container.bytes_of_lines)
        if batch:
            self._insert(part, batch, numbers, at)
        report(self._container.bytes_read, self._container.bytes_of_lines)

    def _values(self, part: Part, row: Mapping[str, Any]) -> dict[str, Any]:
        made: dict[str, Any] = {}
        for name in part.columns:
            value, column = row[name], part.table.c[name]
            if name in part.refers:
                if value is None and name in part.lost:
                    value = part.lost[name]
                else:
                    value = number(part.refers[name], value, self._numbers)
            elif name in part.converts:
                value = part.converts[name](value, self._numbers)
            elif isinstance(column.type, LargeBinary) and value is not None:
                value = self._container.content(str(value))
                # Read once here, so that nothing made up is met by whoever tags first.
                from_bytes(value)
            made[name] = typed(column, value)
        for name, compute in part.computes.items():
            made[name] = compute(row)
        if part.through[1] is None:
            made["project_id"] = self._project_id
        return made

    def _insert(self, part: Part, batch: list[dict[str, Any]], numbers: dict[int, int], last: int) -> None:
        statement, first = insert(part.table), last - len(batch) + 1
        try:
            if "id" not in part.table.c:
                self._db.execute(statement, batch)
                return
            made = self._db.scalars(statement.returning(part.table.c.id, sort_by_parameter_order=True), batch)
            numbers.update(zip(range(first, last + 1), made, strict=True))
        except IntegrityError as fault:
            name = f"{part.name}.jsonl"
            raise BadFile(
                f"{name}, lines {first} to {last}: two lines say the same thing twice, or contradict each other.",
                file=name,
                line=first,
            ) from fault

    def read_type_links(self) -> None:
        table = PARTS["types"].table
        parents: dict[int, int] = {}
        heirs: dict[int, int] = {}
        name = "type_links.jsonl"
        for at, row in self._lines(name, frozenset({"type", "parent", "into"})):
            try:
                own, parent, into = (
                    number("types", row[member], self._numbers) for member in ("type", "parent", "into")
                )
            except BadFile as fault:
                raise BadFile(f"{name}, line {at}: {fault.message}.", file=name, line=at) from fault
            if own is None:
                raise BadFile(f"{name}, line {at}: no type is named.", file=name, line=at)
            for held, other in ((parents, parent), (heirs, into)):
                if other is not None:
                    held[own] = other
        for held in (parents, heirs):
            _refuse_circles(held, name)
        for own in {*parents, *heirs}:
            links = {"parent_id": parents.get(own), "merged_into": heirs.get(own)}
            self._db.execute(update(table).where(table.c.id == own).values(links))


def _refuse_circles(links: Mapping[int, int], name: str) -> None:
    for start in links:
        at, steps = links.get(start), 0
        while at is not None:
            if at == start or steps > len(links):
                raise BadFile(f"{name}: types refer to each other in a circle.", file=name)
            at, steps = links.get(at), steps + 1


def _free(login: str, taken: set[str]) -> str:
    """A login that nobody has: this one, or this one with a number."""
    login = folded_login(login)
    free, i = login, 2
    while free in taken:
        free, i = f"{login[:50]}-{i}", i + 1
    return free
