"""Versions of a scheme: each change makes one; two can be compared."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from datetime import datetime
from typing import Any, cast

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from urdaten.core.spans import Overlap
from urdaten.errors import NotFound, StaleWrite
from urdaten.places.team import acts as team
from urdaten.places.types.acts.reading import PLACE, list_types, scheme_version
from urdaten.places.types.tables import SchemeRow
from urdaten.platform.accounts import Account
from urdaten.platform.revisions import bump

_SCHEME_LOCK = 0x5C4E3E
# In a comparison, in this order; a type's number is its identity and its version rises by itself.
FIELDS = (
    "code",
    "name",
    "key",
    "hue",
    "definition",
    "counts",
    "counts_not",
    "rulings",
    "parent",
    "value_kind",
    "position",
)


@dataclass(frozen=True, kw_only=True)
class Step:
    """What became of one type from one version to the next: added, changed, merged, retired or restored; or of the overlap."""

    what: str
    type: int | None = None
    into: int | None = None


@dataclass(frozen=True, kw_only=True)
class Version:
    """One version of a scheme, with who made it and how."""

    number: int
    digest: str
    overlap: Overlap
    types: list[dict[str, Any]]
    step: list[Step]
    who: str
    at: datetime


@dataclass(frozen=True, kw_only=True)
class Difference:
    """How one type of two versions differs: added, gone or changed, then field by field what it was and is."""

    type: int
    code: str
    what: str
    fields: dict[str, tuple[Any, Any]]


def hold_scheme(db: Session, project_id: int, seen: int | None = None) -> int:
    """One change of a scheme at a time; its present version. Raises StaleWrite when it is not the one that was seen."""
    db.execute(select(func.pg_advisory_xact_lock(_SCHEME_LOCK, project_id)))
    now = scheme_version(db, project_id)
    if seen is not None and seen != now:
        raise StaleWrite(
            f"The scheme was changed in the meantime: this was meant for version {seen}, and it is at {now}. "
            "Look at the change again.",
            theirs={"version": now},
            yours={"version": seen},
        )
    return now


def digest_of(overlap: str, types: Sequence[Mapping[str, Any]]) -> str:
    """Of a version's content, numbers aside: the same scheme has the same digest in every project."""
    codes = {one["id"]: one["code"] for one in types}
    plain = [
        {name: codes.get(one[name]) if name == "parent" else one[name] for name in FIELDS} for one in types
    ]
    return hashlib.sha256(json.dumps([overlap, plain], sort_keys=True).encode()).hexdigest()


def new_version(db: Session, project_id: int, account_id: int | None, steps: Sequence[Step]) -> int:
    """Keep the scheme as it stands as its next version. Hold it before the change."""
    project = team.project_by_id(db, project_id)
    types: list[dict[str, Any]] = [
        asdict(t) | {"position": position} for position, t in enumerate(list_types(db, project_id))
    ]
    number = scheme_version(db, project_id) + 1
    db.add(
        SchemeRow(
            project_id=project_id,
            number=number,
            digest=digest_of(project.overlap, types),
            overlap=project.overlap,
            types=types,
            account_id=account_id,
            step=[asdict(step) for step in steps],
        )
    )
    db.flush()
    bump(db, project_id, PLACE)
    return number


def read_versions(db: Session, project_id: int) -> list[Version]:
    """Every version, newest first."""
    query = (
        select(SchemeRow, Account.name)
        .outerjoin(Account, Account.id == SchemeRow.account_id)
        .where(SchemeRow.project_id == project_id)
        .order_by(SchemeRow.number.desc())
    )
    return [_version(row, name) for row, name in db.execute(query)]


def _version(row: SchemeRow, name: str | None) -> Version:
    return Version(
        number=row.number,
        digest=row.digest,
        overlap=cast("Overlap", row.overlap),
        types=row.types,
        step=[Step(**step) for step in row.step],
        who=name or "",
        at=row.created_at,
    )


def read_version(db: Session, project_id: int, number: int) -> Version:
    """Raises NotFound."""
    query = (
        select(SchemeRow, Account.name)
        .outerjoin(Account, Account.id == SchemeRow.account_id)
        .where(SchemeRow.project_id == project_id, SchemeRow.number == number)
    )
    found = db.execute(query).first()
    if found is None:
        raise NotFound(f"The scheme has no version {number}.")
    return _version(*found)


def compare(before: Version, after: Version) -> list[Difference]:
    """Types that differ, in the order of the later version, those that are gone last."""
    was = {one["id"]: one for one in before.types}
    found: list[Difference] = []
    for one in after.types:
        old = was.pop(one["id"], None)
        if old is None:
            found.append(Difference(type=one["id"], code=one["code"], what="added", fields={}))
            continue
        fields = {name: (old.get(name), one.get(name)) for name in FIELDS if old.get(name) != one.get(name)}
        if fields:
            found.append(Difference(type=one["id"], code=one["code"], what="changed", fields=fields))
    return found + [
        Difference(type=old["id"], code=old["code"], what="gone", fields={}) for old in was.values()
    ]
