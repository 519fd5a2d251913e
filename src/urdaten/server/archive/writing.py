"""Taking a project out: one file with everything in it."""

from __future__ import annotations

import hashlib
import json
import zipfile
from collections.abc import Callable, Iterable, Iterator, Mapping
from datetime import UTC, datetime
from typing import IO, Any

from sqlalchemy import LargeBinary, select
from sqlalchemy.orm import Session

from urdaten.places.team import acts as team
from urdaten.platform.accounts import people
from urdaten.platform.migrate import schema_of
from urdaten.server.archive.parts import PARTS, Part
from urdaten.server.archive.rows import line_of, plain

FORMAT, VERSION = "urdaten project", 1
# Rows that are read from the database at a time.
AT_A_TIME = 2000
Report = Callable[[int, int], None]


def export_project(
    db: Session, project: team.Project, file: IO[bytes], report: Report = lambda *_: None
) -> None:
    """Write a project to a file. Give it a transaction with a snapshot, so that all its parts agree.

    report: is told after each part how many are written, and of how many.
    """
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as archive:
        _Writer(db, project, archive).write(report)


class _Writer:
    def __init__(self, db: Session, project: team.Project, archive: zipfile.ZipFile) -> None:
        self._db, self._project, self._archive = db, project, archive
        self._numbers: dict[str, dict[int, int]] = {}
        self._files: dict[str, dict[str, Any]] = {}
        self._blobs: list[tuple[str, bytes]] = []

    def write(self, report: Report) -> None:
        self._put_lines("people.jsonl", self._people())
        for i, part in enumerate(PARTS.values()):
            self._put_lines(f"{part.name}.jsonl", self._rows(part))
            # One file after the other: a zip holds one open at a time.
            for name, content in self._blobs:
                self._put(name, [content])
            self._blobs.clear()
            report(i + 1, len(PARTS))
        self._put_lines("type_links.jsonl", self._type_links())
        manifest = {
            "format": FORMAT,
            "version": VERSION,
            "made_at": datetime.now(UTC).isoformat(timespec="seconds"),
            "schema": schema_of(self._db),
            "project": {
                "name": self._project.name,
                "slug": self._project.slug,
                "language": self._project.language,
                "overlap": self._project.overlap,
                "abbreviations": sorted(self._project.abbreviations),
                "retrain_after": self._project.retrain_after,
            },
            "files": self._files,
        }
        self._archive.writestr("manifest.json", json.dumps(manifest, ensure_ascii=False, indent=1))

    def _put_lines(self, name: str, rows: Iterable[Mapping[str, object]]) -> None:
        self._put(name, (line_of(row) for row in rows))

    def _put(self, name: str, parts: Iterable[bytes]) -> None:
        digest, size = hashlib.sha256(), 0
        # The same content gives the same file: no clock in it.
        entry = zipfile.ZipInfo(name)
        entry.compress_type = zipfile.ZIP_DEFLATED
        with self._archive.open(entry, "w", force_zip64=True) as file:
            for part in parts:
                file.write(part)
                digest.update(part)
                size += len(part)
        self._files[name] = {"sha256": digest.hexdigest(), "bytes": size}

    def _people(self) -> Iterator[dict[str, object]]:
        """Whoever belongs to the project or is named in it; others have no place in its archive."""
        members = {member.id: member.role.value for member in team.read_members(self._db, self._project.id)}
        named = set(members)
        for part in PARTS.values():
            for column, kind in part.refers.items():
                if kind == "people":
                    query = select(part.table.c[column]).where(part.rows_of(self._project.id)).distinct()
                    named |= {n for n in self._db.scalars(query) if n is not None}
        found = sorted((person for person in people(self._db) if person.id in named), key=lambda p: p.login)
        self._numbers["people"] = {person.id: i for i, person in enumerate(found, start=1)}
        for person in found:
            yield {"login": person.login, "name": person.name, "role": members.get(person.id)}

    def _rows(self, part: Part) -> Iterator[dict[str, object]]:
        numbers = self._numbers.setdefault(part.name, {})
        table = part.table
        has_number = "id" in table.c
        wanted = [table.c[name] for name in part.columns]
        query = select(*([table.c["id"]] if has_number else []), *wanted).where(
            part.rows_of(self._project.id)
        )
        query = query.order_by(*(table.c[name] for name in part.order)).execution_options(yield_per=AT_A_TIME)
        for i, row in enumerate(self._db.execute(query), start=1):
            values = list(row)
            if has_number:
                numbers[values.pop(0)] = i
            made: dict[str, object] = {}
            for name, value in zip(part.columns, values, strict=True):
                if name in part.refers:
                    made[name] = None if value is None else self._numbers[part.refers[name]].get(value)
                elif name in part.converts:
                    made[name] = part.converts[name](value, self._numbers)
                elif isinstance(table.c[name].type, LargeBinary):
                    made[name] = None if value is None else f"taggers/{i}.tagger"
                    if value is not None:
                        self._blobs.append((f"taggers/{i}.tagger", value))
                else:
                    made[name] = plain(value)
            yield made

    def _type_links(self) -> Iterator[dict[str, object]]:
        table = PARTS["types"].table
        numbers = self._numbers["types"]
        query = select(table.c.id, table.c.parent_id, table.c.merged_into).order_by(table.c.id)
        for type_id, parent, into in self._db.execute(query.where(PARTS["types"].rows_of(self._project.id))):
            if parent is not None or into is not None:
                yield {"type": numbers[type_id], "parent": numbers.get(parent), "into": numbers.get(into)}
