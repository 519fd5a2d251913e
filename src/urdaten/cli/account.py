"""`urdaten account`: accounts of this Urdaten, for whoever looks after the server."""

from __future__ import annotations

from typing import Annotated

import typer
from rich.console import Console
from rich.table import Table

from urdaten.cli.connection import settings_of_running
from urdaten.platform import accounts, sessions
from urdaten.platform.database import transaction
from urdaten.platform.events import end_streams
from urdaten.platform.passwords import check_password, hash_password
from urdaten.server.tables import METADATA

assert METADATA.tables
account = typer.Typer(no_args_is_help=True, help="Accounts of this Urdaten.")


@account.command("list")
def list_accounts() -> None:
    """Every account, whether it can sign in, and who looks after the server."""
    with transaction(settings_of_running().database_url) as db:
        people = accounts.people(db)
    table = Table("login", "name", "can sign in", "looks after the server", box=None)
    for person in people:
        table.add_row(
            person.login, person.name, "yes" if person.active else "no", "yes" if person.keeper else ""
        )
    Console().print(table)


@account.command("add")
def add(
    login: str,
    name: str,
    keeper: Annotated[bool, typer.Option(help="Looks after the server.")] = False,
) -> None:
    """Add an account; the password is asked for. It belongs to no project until somebody invites it."""
    settings = settings_of_running()
    accounts.check_new(login, name)
    password = typer.prompt("Password", hide_input=True, confirmation_prompt=True)
    check_password(password)
    hashed = hash_password(settings, password)
    with transaction(settings.database_url) as db:
        accounts.create_account(db, login=login, name=name, password_hash=hashed, keeper=keeper)
    print(f"{name} can sign in as {login}.")


@account.command("link")
def link(login: str) -> None:
    """Print a link that signs this account in once."""
    settings = settings_of_running()
    with transaction(settings.database_url) as db:
        token = sessions.make_link(db, settings, login)
    print(f"{settings.address}/sign-in#{token}")


@account.command("off")
def switch_off(login: str) -> None:
    """Let an account sign in no more, and end its sessions. What it did stays."""
    with transaction(settings_of_running().database_url) as db:
        person = accounts.set_active(db, accounts.account_by_login(db, login).id, False)
        sessions.end_sessions(db, person.id)
        end_streams(db, account=person.id)
    print(f"{person.name} cannot sign in any more.")


@account.command("on")
def switch_on(login: str) -> None:
    """Let an account sign in again."""
    with transaction(settings_of_running().database_url) as db:
        person = accounts.set_active(db, accounts.account_by_login(db, login).id, True)
    print(f"{person.name} can sign in as {person.login}.")


@account.command("keeper")
def set_keeper(login: str, no: Annotated[bool, typer.Option("--no", help="Not any more.")] = False) -> None:
    """Let an account look after the server: everybody's accounts."""
    with transaction(settings_of_running().database_url) as db:
        person = accounts.set_keeper(db, accounts.account_by_login(db, login).id, not no)
    print(f"{person.name} {'looks' if person.keeper else 'does not look'} after the server.")
