"""Accounts, passwords, one-time links and sessions. Tokens are kept as hashes only."""

from __future__ import annotations

import hashlib
import secrets
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from enum import StrEnum

from argon2 import PasswordHasher
from argon2.exceptions import VerificationError
from sqlalchemy import ForeignKey, delete, select, update
from sqlalchemy.orm import Mapped, Session, mapped_column

from urdaten.errors import BadInput, Clash, NotAllowed, NotFound, NotSignedIn
from urdaten.platform.database import Base, Stamped
from urdaten.platform.settings import Settings

LEAST_PASSWORD = 10


class Role(StrEnum):
    """What an account may do: an annotator reads everything and annotates; a lead may do all."""

    LEAD = "lead"
    ANNOTATOR = "annotator"


class Account(Base, Stamped):
    """Somebody who signs in."""

    __tablename__ = "account"

    id: Mapped[int] = mapped_column(primary_key=True)
    login: Mapped[str] = mapped_column(unique=True)
    name: Mapped[str]
    role: Mapped[str]
    password_hash: Mapped[str]


class WebSession(Base, Stamped):
    """A signed-in browser."""

    __tablename__ = "web_session"

    token_hash: Mapped[str] = mapped_column(primary_key=True)
    account_id: Mapped[int] = mapped_column(ForeignKey("account.id", ondelete="CASCADE"))
    expires_at: Mapped[datetime]


class SignInLink(Base, Stamped):
    """A link that signs in once."""

    __tablename__ = "sign_in_link"

    token_hash: Mapped[str] = mapped_column(primary_key=True)
    account_id: Mapped[int] = mapped_column(ForeignKey("account.id", ondelete="CASCADE"))
    expires_at: Mapped[datetime]
    used_at: Mapped[datetime | None]


@dataclass(frozen=True, kw_only=True)
class Person:
    """An account as the rest of the program sees it."""

    id: int
    login: str
    name: str
    role: Role

    def must_lead(self) -> None:
        """Raise NotAllowed unless this is a lead."""
        if self.role is not Role.LEAD:
            raise NotAllowed("Only a lead may change this; ask the lead of the project.")


def _person(row: Account) -> Person:
    return Person(id=row.id, login=row.login, name=row.name, role=Role(row.role))


def people(db: Session) -> list[Person]:
    """Everybody who can sign in, by name."""
    return [_person(row) for row in db.scalars(select(Account).order_by(Account.name, Account.id))]


def _digest(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def _hasher(settings: Settings) -> PasswordHasher:
    return PasswordHasher(time_cost=settings.password_passes, memory_cost=settings.password_memory_kib)


def create_account(
    db: Session, settings: Settings, *, login: str, name: str, role: Role, password: str
) -> Person:
    """A new account. Raises Clash for a login that is taken, BadInput for a short password."""
    login = login.strip().casefold()
    if not login or not name.strip():
        raise BadInput("An account needs a login and a name.", field="login")
    if len(password) < LEAST_PASSWORD:
        raise BadInput(f"A password needs at least {LEAST_PASSWORD} characters.", field="password")
    if db.scalar(select(Account.id).where(Account.login == login)):
        raise Clash(f"The login “{login}” is taken; choose another.", field="login")
    row = Account(
        login=login, name=name.strip(), role=role.value, password_hash=_hasher(settings).hash(password)
    )
    db.add(row)
    db.flush()
    return _person(row)


def sign_in(db: Session, settings: Settings, login: str, password: str) -> tuple[Person, str]:
    """The person and a new session token. Raises NotSignedIn, the same for login and password."""
    row = db.scalar(select(Account).where(Account.login == login.strip().casefold()))
    hasher = _hasher(settings)
    try:
        # An unknown login costs the same time as a wrong password.
        hasher.verify(row.password_hash if row else hasher.hash("nobody"), password)
    except VerificationError:
        row = None
    if row is None:
        raise NotSignedIn(
            "Login and password do not go together; check both and try again.", field="password"
        )
    return _person(row), _open_session(db, settings, row.id)


def make_link(db: Session, settings: Settings, login: str) -> str:
    """A token that signs this account in once. Raises NotFound for an unknown login."""
    row = db.scalar(select(Account).where(Account.login == login))
    if row is None:
        raise NotFound(f"There is no account “{login}”.")
    token = secrets.token_urlsafe(32)
    expires = datetime.now(UTC) + timedelta(minutes=settings.link_minutes)
    db.add(SignInLink(token_hash=_digest(token), account_id=row.id, expires_at=expires))
    return token


def use_link(db: Session, settings: Settings, token: str) -> tuple[Person, str]:
    """Sign in by link; the link is spent. Raises NotSignedIn when it is unknown, spent or too old."""
    now = datetime.now(UTC)
    spent = (
        update(SignInLink)
        .where(
            SignInLink.token_hash == _digest(token),
            SignInLink.used_at.is_(None),
            SignInLink.expires_at > now,
        )
        .values(used_at=now)
        .returning(SignInLink.account_id)
    )
    account_id = db.scalar(spent)
    if account_id is None:
        raise NotSignedIn(
            "This link has been used or is too old; sign in with a password or ask for a new one."
        )
    row = db.get_one(Account, account_id)
    return _person(row), _open_session(db, settings, row.id)


def _open_session(db: Session, settings: Settings, account_id: int) -> str:
    token = secrets.token_urlsafe(32)
    now = datetime.now(UTC)
    db.execute(delete(WebSession).where(WebSession.expires_at < now))
    expires = now + timedelta(hours=settings.session_hours)
    db.add(WebSession(token_hash=_digest(token), account_id=account_id, expires_at=expires))
    return token


def sign_out(db: Session, token: str) -> None:
    db.execute(delete(WebSession).where(WebSession.token_hash == _digest(token)))


def person_of(db: Session, token: str | None) -> Person:
    """Who holds this session. Raises NotSignedIn."""
    row = None
    if token:
        row = db.scalar(
            select(Account)
            .join(WebSession, WebSession.account_id == Account.id)
            .where(WebSession.token_hash == _digest(token), WebSession.expires_at > datetime.now(UTC))
        )
    if row is None:
        raise NotSignedIn
    return _person(row)
