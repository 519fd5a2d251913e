"""`urdaten account`: accounts of this Urdaten, for whoever looks after the server."""

from __future__ import annotations

from typing import Annotated

import typer
from rich.console import Console
from rich.table import Table

from urdaten.cli.connection import database, settings_of_running

# What works on the database is loaded by the command that needs it: starting the application must not wait for it.
account = typer.Typer(no_args_is_help=True, help="Accounts of this Urdaten.")


@account.command("list")
def list_accounts() -> None:
    """Every account, whether it can sign in, and who looks after the server."""
    from urdaten.platform import accounts

    with database() as db:
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
    from urdaten.platform import accounts
    from urdaten.platform.passwords import check_password, hash_password

    settings = settings_of_running()
    accounts.check_new(login, name)
    password = typer.prompt("Password", hide_input=True, confirmation_prompt=True)
    check_password(password)
    hashed = hash_password(settings, password)
    with database() as db:
        accounts.create_account(db, login=login, name=name, password_hash=hashed, keeper=keeper)
    print(f"{name} can sign in as {login}.")


@account.command("link")
def link(login: str) -> None:
    """Print a link that signs this account in once."""
    from urdaten.platform import sessions

    settings = settings_of_running()
    with database() as db:
        token = sessions.make_link(db, settings, login)
    print(f"{settings.address}/sign-in#{token}")


@account.command("off")
def switch_off(login: str) -> None:
    """Let an account sign in no more, and end its sessions. What it did stays."""
    from urdaten.platform import accounts, sessions
    from urdaten.platform.events import end_streams

    with database() as db:
        person = accounts.set_active(db, accounts.account_by_login(db, login).id, False)
        sessions.end_sessions(db, person.id)
        end_streams(db, account=person.id)
    print(f"{person.name} cannot sign in any more.")


@account.command("on")
def switch_on(login: str) -> None:
    """Let an account sign in again."""
    from urdaten.platform import accounts

    with database() as db:
        person = accounts.set_active(db, accounts.account_by_login(db, login).id, True)
    print(f"{person.name} can sign in as {person.login}.")


@account.command("keeper")
def set_keeper(login: str, no: Annotated[bool, typer.Option("--no", help="Not any more.")] = False) -> None:
    """Let an account look after the server: everybody's accounts."""
    from urdaten.platform import accounts

    with database() as db:
        person = accounts.set_keeper(db, accounts.account_by_login(db, login).id, not no)
    print(f"{person.name} {'looks' if person.keeper else 'does not look'} after the server.")
