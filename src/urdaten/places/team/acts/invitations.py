"""Invitations: links that make somebody a member of a project, once. No mail is sent."""

from __future__ import annotations

import secrets
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session

from urdaten.errors import BadInput, NotFound
from urdaten.places.team.acts.members import Role, add_member
from urdaten.places.team.acts.projects import PLACE
from urdaten.places.team.tables import InvitationRow, ProjectRow
from urdaten.platform.accounts import Account
from urdaten.platform.events import announce
from urdaten.platform.sessions import digest
from urdaten.platform.settings import Settings

MOST_OPEN = 200
LONGEST_NOTE = 200


@dataclass(frozen=True, kw_only=True)
class Invitation:
    """An invitation that has not been used and is not too old."""

    id: int
    role: Role
    note: str
    made_by: str
    created_at: datetime
    expires_at: datetime


@dataclass(frozen=True, kw_only=True)
class Welcome:
    """What somebody who holds an invitation is told of it."""

    slug: str
    project: str
    role: Role
    invited_by: str


def _stands() -> list[object]:
    return [InvitationRow.used_at.is_(None), InvitationRow.expires_at > datetime.now(UTC)]


def invite(
    db: Session, settings: Settings, project_id: int, account_id: int, role: Role, note: str
) -> tuple[Invitation, str]:
    """A new invitation and its token, which is shown this once. Raises BadInput for too long a note or too many."""
    note = note.strip()
    if len(note) > LONGEST_NOTE:
        raise BadInput(f"A note has at most {LONGEST_NOTE} characters.", field="note")
    if len(read_invitations(db, project_id)) >= MOST_OPEN:
        raise BadInput(f"There are {MOST_OPEN} open invitations; withdraw some first.")
    token = secrets.token_urlsafe(32)
    row = InvitationRow(
        token_hash=digest(token),
        project_id=project_id,
        role=role.value,
        note=note,
        made_by=account_id,
        expires_at=datetime.now(UTC) + timedelta(days=settings.invitation_days),
    )
    db.add(row)
    db.flush()
    announce(db, project_id, PLACE)
    made = next(i for i in read_invitations(db, project_id) if i.id == row.id)
    return made, token


def read_invitations(db: Session, project_id: int) -> list[Invitation]:
    """Those that stand, newest first."""
    query = (
        select(InvitationRow, Account.name)
        .outerjoin(Account, Account.id == InvitationRow.made_by)
        .where(InvitationRow.project_id == project_id, *_stands())  # type: ignore[arg-type]
        .order_by(InvitationRow.id.desc())
    )
    return [
        Invitation(
            id=row.id,
            role=Role(row.role),
            note=row.note,
            made_by=name or "",
            created_at=row.created_at,
            expires_at=row.expires_at,
        )
        for row, name in db.execute(query)
    ]


def withdraw_invitation(db: Session, project_id: int, invitation_id: int) -> None:
    """Raises NotFound for one that is used, too old or another project's."""
    own = (InvitationRow.id == invitation_id) & (InvitationRow.project_id == project_id)
    gone = delete(InvitationRow).where(own, InvitationRow.used_at.is_(None)).returning(InvitationRow.id)
    if db.scalar(gone) is None:
        raise NotFound("This invitation has been used or withdrawn.")
    announce(db, project_id, PLACE)


def look_at_invitation(db: Session, token: str) -> Welcome:
    """What an invitation is for; it is not spent. Raises NotFound when it is unknown, used or too old."""
    query = (
        select(InvitationRow, ProjectRow, Account.name)
        .join(ProjectRow, ProjectRow.id == InvitationRow.project_id)
        .outerjoin(Account, Account.id == InvitationRow.made_by)
        .where(InvitationRow.token_hash == digest(token), ProjectRow.removed_at.is_(None))
        .where(*_stands())  # type: ignore[arg-type]
    )
    found = db.execute(query).first()
    if found is None:
        raise _no_invitation()
    invitation, project, name = found
    return Welcome(slug=project.slug, project=project.name, role=Role(invitation.role), invited_by=name or "")


def _no_invitation() -> NotFound:
    return NotFound("This invitation has been used, withdrawn or is too old; ask for a new one.")


def accept_invitation(db: Session, token: str, account_id: int) -> Welcome:
    """Become a member; the invitation is spent. Raises NotFound when it is unknown, used or too old."""
    welcome = look_at_invitation(db, token)
    spent = (
        update(InvitationRow)
        .where(InvitationRow.token_hash == digest(token), *_stands())  # type: ignore[arg-type]
        .values(used_at=datetime.now(UTC), used_by=account_id)
        .returning(InvitationRow.project_id)
    )
    project_id = db.scalar(spent)
    if project_id is None:
        raise _no_invitation()
    add_member(db, project_id, account_id, welcome.role)
    return welcome
