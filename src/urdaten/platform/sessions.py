"""Signing in: by password or by a link that works once; sessions and their ends. Tokens are kept as hashes only."""

from __future__ import annotations

import hashlib
import secrets
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from sqlalchemy import ForeignKey, bindparam, delete, select, update
from sqlalchemy.orm import Mapped, Session, mapped_column

from urdaten.errors import BadInput, NotAllowed, NotFound, NotSignedIn, WrongPassword
from urdaten.platform.accounts import Account, Person, folded_login, person_from
from urdaten.platform.database import Base, Stamped, transaction
from urdaten.platform.events import end_streams
from urdaten.platform.passwords import check_password, fits, hash_password
from urdaten.platform.settings import Settings

LONGEST_AGENT = 200
# A session's last use is written down at most this often, in seconds.
SEEN_EVERY_S = 300


class WebSession(Base, Stamped):
    """A signed-in browser."""

    __tablename__ = "web_session"

    id: Mapped[int] = mapped_column(primary_key=True)
    token_hash: Mapped[str] = mapped_column(unique=True)
    account_id: Mapped[int] = mapped_column(ForeignKey("account.id", ondelete="CASCADE"), index=True)
    seen_at: Mapped[datetime]
    # When it ends if nobody uses it, and when it ends in any case.
    expires_at: Mapped[datetime]
    ends_at: Mapped[datetime]
    # What the browser calls itself.
    agent: Mapped[str]


class SignInLink(Base, Stamped):
    """A link that signs in once."""

    __tablename__ = "sign_in_link"

    token_hash: Mapped[str] = mapped_column(primary_key=True)
    account_id: Mapped[int] = mapped_column(ForeignKey("account.id", ondelete="CASCADE"))
    expires_at: Mapped[datetime]
    used_at: Mapped[datetime | None]


@dataclass(frozen=True, kw_only=True)
class SignedIn(Person):
    """A person with the session that they came by."""

    session_id: int


@dataclass(frozen=True, kw_only=True)
class OpenSession:
    """One of somebody's sessions."""

    id: int
    agent: str
    created_at: datetime
    seen_at: datetime
    ends_at: datetime


def digest(token: str) -> str:
    """What is kept of a token."""
    return hashlib.sha256(token.encode()).hexdigest()


def sign_in(settings: Settings, login: str, password: str, agent: str) -> tuple[Person, str]:
    """The person and a new session's token. No connection is held while the password is checked.

    Raises NotSignedIn, the same and after the same time for login and password; NotAllowed for an account that is
    switched off; Busy when many sign in at once.
    """
    with transaction(settings.database_url) as db:
        row = db.scalar(select(Account).where(Account.login == folded_login(login)))
        found = None if row is None else (person_from(row), row.password_hash)
    if not fits(settings, found[1] if found else None, password) or found is None:
        raise NotSignedIn(
            "Login and password do not go together; check both and try again.", field="password"
        )
    person = found[0]
    _check_active(person)
    with transaction(settings.database_url) as db:
        return person, open_session(db, settings, person.id, agent)


def _check_active(person: Person) -> None:
    if not person.active:
        raise NotAllowed("This account is switched off; ask whoever looks after this Urdaten.")


def make_link(db: Session, settings: Settings, login: str) -> str:
    """A token that signs this account in once. Raises NotFound for an unknown login."""
    row = db.scalar(select(Account).where(Account.login == folded_login(login)))
    if row is None:
        raise NotFound(f"There is no account “{login}”.")
    token = secrets.token_urlsafe(32)
    expires = datetime.now(UTC) + timedelta(minutes=settings.link_minutes)
    db.add(SignInLink(token_hash=digest(token), account_id=row.id, expires_at=expires))
    return token


def use_link(db: Session, settings: Settings, token: str, agent: str) -> tuple[Person, str]:
    """Sign in by link; the link is spent. Raises NotSignedIn when it is unknown, spent or too old."""
    now = datetime.now(UTC)
    spent = (
        update(SignInLink)
        .where(
            SignInLink.token_hash == digest(token),
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
    person = person_from(db.get_one(Account, account_id))
    _check_active(person)
    return person, open_session(db, settings, person.id, agent)


def open_session(db: Session, settings: Settings, account_id: int, agent: str) -> str:
    """A new session's token."""
    token = secrets.token_urlsafe(32)
    now = datetime.now(UTC)
    db.execute(delete(WebSession).where((WebSession.expires_at < now) | (WebSession.ends_at < now)))
    db.add(
        WebSession(
            token_hash=digest(token),
            account_id=account_id,
            seen_at=now,
            expires_at=now + timedelta(hours=settings.idle_hours),
            ends_at=now + timedelta(days=settings.session_days),
            agent=agent[:LONGEST_AGENT],
        )
    )
    return token


def sign_out(db: Session, token: str) -> None:
    """End a session, and what streams to it."""
    ended = delete(WebSession).where(WebSession.token_hash == digest(token)).returning(WebSession.id)
    for number in db.scalars(ended):
        end_streams(db, session=number)


def end_sessions(db: Session, account_id: int, *, only: int | None = None, besides: int | None = None) -> int:
    """End somebody's sessions: one, all, or all besides one; how many ended."""
    ended = delete(WebSession).where(WebSession.account_id == account_id)
    if only is not None:
        ended = ended.where(WebSession.id == only)
    if besides is not None:
        ended = ended.where(WebSession.id != besides)
    numbers = db.scalars(ended.returning(WebSession.id)).all()
    for number in numbers:
        end_streams(db, session=number)
    return len(numbers)


def end_session(db: Session, account_id: int, session_id: int) -> None:
    """Raises NotFound for a session that has ended or is somebody else's."""
    if not end_sessions(db, account_id, only=session_id):
        raise NotFound("This session has ended.")


def open_sessions(db: Session, account_id: int) -> list[OpenSession]:
    """Somebody's sessions that stand, the one used last first."""
    now = datetime.now(UTC)
    query = select(WebSession).where(
        WebSession.account_id == account_id, WebSession.expires_at > now, WebSession.ends_at > now
    )
    return [
        OpenSession(
            id=row.id, agent=row.agent, created_at=row.created_at, seen_at=row.seen_at, ends_at=row.ends_at
        )
        for row in db.scalars(query.order_by(WebSession.seen_at.desc(), WebSession.id.desc()))
    ]


def signed_in(db: Session, settings: Settings, token: str | None, *, touch: bool = False) -> SignedIn:
    """Who holds this session. Raises NotSignedIn.

    With `touch` the session counts as used, so that it lives on, until its fixed end at the latest.
    """
    now = datetime.now(UTC)
    found = db.execute(_HELD, {"token": digest(token or ""), "now": now}).first()
    if found is None:
        raise NotSignedIn
    number, login, name, keeper, session, seen_at = found
    if touch and (now - seen_at).total_seconds() > SEEN_EVERY_S:
        used = update(WebSession).where(WebSession.id == session)
        db.execute(used.values(seen_at=now, expires_at=now + timedelta(hours=settings.idle_hours)))
    return SignedIn(id=number, login=login, name=name, keeper=keeper, session_id=session)


# Made once, and columns alone: every request asks it.
_HELD = (
    select(Account.id, Account.login, Account.name, Account.keeper, WebSession.id, WebSession.seen_at)
    .join(WebSession, WebSession.account_id == Account.id)
    .where(WebSession.token_hash == bindparam("token"), Account.active)
    .where(WebSession.expires_at > bindparam("now"), WebSession.ends_at > bindparam("now"))
)


def change_password(settings: Settings, person: SignedIn, old: str, new: str) -> None:
    """Give somebody another password and end their other sessions.

    Raises WrongPassword for an old one that does not fit, BadInput for a new one that is no good; Busy.
    """
    check_password(new, "new")
    with transaction(settings.database_url) as db:
        kept = db.get_one(Account, person.id).password_hash
    if not fits(settings, kept, old):
        raise WrongPassword(field="old")
    hashed = hash_password(settings, new)
    with transaction(settings.database_url) as db:
        changed = update(Account).where(Account.id == person.id, Account.password_hash == kept)
        if db.scalar(changed.values(password_hash=hashed).returning(Account.id)) is None:
            raise BadInput("Your password was changed elsewhere in this moment; try again.", field="old")
        end_sessions(db, person.id, besides=person.session_id)
