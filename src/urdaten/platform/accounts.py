"""Accounts: who can sign in, and who looks after the server."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from sqlalchemy import func, select, text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, Session, mapped_column

from urdaten.errors import BadInput, Clash, NotAllowed, NotFound
from urdaten.platform.database import Base, Stamped

LONGEST_LOGIN, LONGEST_NAME = 60, 80
_KEEPERS_LOCK = 0x0CEE9


class Account(Base, Stamped):
    """Somebody who signs in."""

    __tablename__ = "account"

    id: Mapped[int] = mapped_column(primary_key=True)
    login: Mapped[str] = mapped_column(unique=True)
    name: Mapped[str]
    password_hash: Mapped[str]
    # Whoever is not active cannot sign in; what they did stays theirs.
    active: Mapped[bool] = mapped_column(default=True)
    # Looks after the server: accounts of everybody.
    keeper: Mapped[bool] = mapped_column(default=False)
    # As the page wants them: what single characters do, and keys by what they do.
    keys: Mapped[dict[str, Any]] = mapped_column(JSONB, default=dict, server_default=text("'{}'::jsonb"))


@dataclass(frozen=True, kw_only=True)
class Person:
    """An account as the rest of the program sees it."""

    id: int
    login: str
    name: str
    keeper: bool
    active: bool = True

    def must_keep(self) -> None:
        """Raise NotAllowed unless this person looks after the server."""
        if not self.keeper:
            raise NotAllowed("This is for whoever looks after the server.")


def person_from(row: Account) -> Person:
    return Person(id=row.id, login=row.login, name=row.name, keeper=row.keeper, active=row.active)


def people(db: Session) -> list[Person]:
    """Every account, by name."""
    return [person_from(row) for row in db.scalars(select(Account).order_by(Account.name, Account.id))]


def folded_login(login: str) -> str:
    """A login as it is kept: case and spaces around it make no difference."""
    return login.strip().casefold()


def check_new(login: str, name: str) -> None:
    """Raises BadInput for a login or name that no account can have."""
    login = folded_login(login)
    if not login or len(login) > LONGEST_LOGIN or any(c.isspace() or not c.isprintable() for c in login):
        raise BadInput(f"A login has 1 to {LONGEST_LOGIN} characters without spaces.", field="login")
    if not name.strip() or len(name.strip()) > LONGEST_NAME:
        raise BadInput(f"A name has 1 to {LONGEST_NAME} characters.", field="name")


def create_account(
    db: Session, *, login: str, name: str, password_hash: str, keeper: bool = False, active: bool = True
) -> Person:
    """A new account. Raises Clash for a login that is taken, BadInput for a login or name that is no good."""
    check_new(login, name)
    login = folded_login(login)
    if db.scalar(select(Account.id).where(Account.login == login)):
        raise Clash(f"The login “{login}” is taken; choose another.", field="login")
    row = Account(login=login, name=name.strip(), password_hash=password_hash, keeper=keeper, active=active)
    db.add(row)
    db.flush()
    return person_from(row)


def account_by_login(db: Session, login: str) -> Person:
    """Raises NotFound."""
    row = db.scalar(select(Account).where(Account.login == folded_login(login)))
    if row is None:
        raise NotFound(f"There is no account “{login}”.")
    return person_from(row)


def account_by_id(db: Session, account_id: int) -> Person:
    """Raises NotFound."""
    row = db.get(Account, account_id)
    if row is None:
        raise NotFound(f"There is no account {account_id}.")
    return person_from(row)


def set_active(db: Session, account_id: int, active: bool) -> Person:
    """Let somebody sign in or not. Raises NotFound, and Clash for the last one who looks after the server."""
    row = _own(db, account_id)
    if not active:
        _keep_one(db, row)
    row.active = active
    db.flush()
    return person_from(row)


def set_keeper(db: Session, account_id: int, keeper: bool) -> Person:
    """Let somebody look after the server or not. Raises NotFound, and Clash for the last one who does."""
    row = _own(db, account_id)
    if not keeper:
        _keep_one(db, row)
    row.keeper = keeper
    db.flush()
    return person_from(row)


def rename(db: Session, account_id: int, name: str) -> Person:
    """Raises BadInput for a name that is no good."""
    row = _own(db, account_id)
    check_new(row.login, name)
    row.name = name.strip()
    db.flush()
    return person_from(row)


def read_keys(db: Session, account_id: int) -> dict[str, Any]:
    """An account's own keys, as they were last set; empty before that."""
    return dict(db.scalars(select(Account.keys).where(Account.id == account_id)).one())


def set_keys(db: Session, account_id: int, keys: dict[str, Any]) -> None:
    _own(db, account_id).keys = keys


def _own(db: Session, account_id: int) -> Account:
    # Two who change it at once, or each other, do so one after the other.
    db.execute(select(func.pg_advisory_xact_lock(_KEEPERS_LOCK)))
    row = db.get(Account, account_id, with_for_update=True, populate_existing=True)
    if row is None:
        raise NotFound(f"There is no account {account_id}.")
    return row


def _keep_one(db: Session, row: Account) -> None:
    others = select(func.count()).where(Account.keeper, Account.active, Account.id != row.id)
    if row.keeper and row.active and not db.scalar(others):
        raise Clash(f"{row.name} is the last who looks after this server; let somebody else do so first.")
