"""Who belongs to a project, and as what."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

from sqlalchemy import bindparam, func, select
from sqlalchemy.orm import Session

from urdaten.errors import BadInput, Clash, NotAllowed, NotFound
from urdaten.places.team.acts.projects import PLACE, Project, no_project, project_from
from urdaten.places.team.tables import MembershipRow, ProjectRow
from urdaten.platform.accounts import Account
from urdaten.platform.events import announce, end_streams

_MEMBERS_LOCK = 0x3E3B5


class Role(StrEnum):
    """What a member may do: a reader sees everything, an annotator works at the Desk too, a lead may do all."""

    LEAD = "lead"
    ANNOTATOR = "annotator"
    READER = "reader"

    @property
    def may_annotate(self) -> bool:
        return self is not Role.READER


@dataclass(frozen=True, kw_only=True)
class Member:
    """Somebody in a project."""

    id: int
    login: str
    name: str
    role: Role
    active: bool
    since: datetime


@dataclass(frozen=True, kw_only=True)
class Belonging:
    """A project that somebody belongs to, and as what."""

    project: Project
    role: Role

    def must_annotate(self) -> None:
        """Raise NotAllowed for a reader."""
        if not self.role.may_annotate:
            raise NotAllowed(
                "A reader changes nothing here; ask a lead of the project to make you an annotator."
            )

    def must_lead(self) -> None:
        """Raise NotAllowed unless this is a lead."""
        if self.role is not Role.LEAD:
            raise NotAllowed("Only a lead may change this; ask a lead of the project.")


def belonging(db: Session, slug: str, account_id: int, *, in_bin: bool = False) -> Belonging:
    """The project under this address, for somebody who belongs to it. Raises NotFound, the same for all others."""
    found = db.execute(_BELONGING, {"address": slug, "account": account_id}).first()
    if found is None or (found.removed_at is not None) != in_bin:
        raise no_project(slug)
    return Belonging(project=project_from(found), role=Role(found.role))


# Made once, and columns alone: every request in a project asks it.
_BELONGING = (
    select(*ProjectRow.__table__.c, MembershipRow.role)
    .join(MembershipRow, MembershipRow.project_id == ProjectRow.id)
    .where(ProjectRow.slug == bindparam("address"), MembershipRow.account_id == bindparam("account"))
)


def belongings(db: Session, account_id: int) -> list[Belonging]:
    """Every project that somebody belongs to, by name; those in the bin too."""
    query = (
        select(ProjectRow, MembershipRow.role)
        .join(MembershipRow, MembershipRow.project_id == ProjectRow.id)
        .where(MembershipRow.account_id == account_id)
        .order_by(ProjectRow.name, ProjectRow.id)
    )
    return [Belonging(project=project_from(row), role=Role(role)) for row, role in db.execute(query)]


def read_members(db: Session, project_id: int) -> list[Member]:
    """Everybody in a project, by name."""
    query = (
        select(Account, MembershipRow)
        .join(MembershipRow, MembershipRow.account_id == Account.id)
        .where(MembershipRow.project_id == project_id)
        .order_by(Account.name, Account.id)
    )
    return [_member(account, row) for account, row in db.execute(query)]


def _member(account: Account, row: MembershipRow) -> Member:
    return Member(
        id=account.id,
        login=account.login,
        name=account.name,
        role=Role(row.role),
        active=account.active,
        since=row.created_at,
    )


def add_member(db: Session, project_id: int, account_id: int, role: Role) -> None:
    """Make somebody a member. Whoever is one already gets no less than they have."""
    _hold(db, project_id)
    row = db.get(MembershipRow, (project_id, account_id))
    if row is None:
        db.add(MembershipRow(project_id=project_id, account_id=account_id, role=role.value))
    elif list(Role).index(role) < list(Role).index(Role(row.role)):
        row.role = role.value
    db.flush()
    announce(db, project_id, PLACE)


def change_role(db: Session, project_id: int, account_id: int, role: Role) -> Member:
    """Raises NotFound, and Clash for the last lead."""
    row = _own(db, project_id, account_id)
    if role is not Role.LEAD:
        _keep_a_lead(db, row)
    row.role = role.value
    db.flush()
    announce(db, project_id, PLACE)
    return _member(db.get_one(Account, account_id), row)


def remove_member(db: Session, project_id: int, account_id: int) -> None:
    """Somebody belongs to the project no more; what they did stays theirs. Raises NotFound, Clash for the last lead."""
    row = _own(db, project_id, account_id)
    _keep_a_lead(db, row)
    db.delete(row)
    db.flush()
    end_streams(db, account=account_id, project=project_id)
    announce(db, project_id, PLACE)


def check_members(db: Session, project_id: int, account_ids: frozenset[int]) -> None:
    """Raises BadInput for somebody who does not belong to the project."""
    query = select(MembershipRow.account_id).where(MembershipRow.project_id == project_id)
    if unknown := account_ids - set(db.scalars(query)):
        raise BadInput(f"Account {min(unknown)} is no member of this project.", field="people")


def _hold(db: Session, project_id: int) -> None:
    # Two leads who remove each other do so one after the other.
    db.execute(select(func.pg_advisory_xact_lock(_MEMBERS_LOCK, project_id)))


def _own(db: Session, project_id: int, account_id: int) -> MembershipRow:
    _hold(db, project_id)
    row = db.get(MembershipRow, (project_id, account_id), populate_existing=True)
    if row is None:
        raise NotFound(f"There is no member {account_id} in this project; they may have been removed.")
    return row


def _keep_a_lead(db: Session, row: MembershipRow) -> None:
    others = (
        select(func.count())
        .select_from(MembershipRow)
        .join(Account, Account.id == MembershipRow.account_id)
        .where(MembershipRow.project_id == row.project_id, MembershipRow.account_id != row.account_id)
        .where(MembershipRow.role == Role.LEAD.value, Account.active)
    )
    if row.role == Role.LEAD and not db.scalar(others):
        raise Clash("A project needs a lead, and this is the last one; make somebody else a lead first.")
