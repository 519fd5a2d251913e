"""`urdaten project`: projects taken out of a running Urdaten and brought into it, without the browser."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Annotated

import typer
from rich.console import Console
from rich.progress import Progress
from rich.table import Table

from urdaten.cli.connection import database

# What works on the database is loaded by the command that needs it: starting the application must not wait for it.
project = typer.Typer(no_args_is_help=True, help="Projects of this Urdaten.")
_screen = Console(stderr=True)


@project.command("list")
def list_projects() -> None:
    """Every project, those in the bin too."""
    from urdaten.places.desk import acts as desk
    from urdaten.places.team import acts as team

    with database() as db:
        everything = team.list_projects(db)
        shares = desk.shares(db, [one.id for one in everything])
    table = Table("short name", "name", "sentences", "signed", "", box=None)
    for one in everything:
        share = shares[one.id]
        table.add_row(
            one.slug,
            one.name,
            str(share.sentences),
            str(share.signed),
            "in the bin" if one.removed_at else "",
        )
    Console().print(table)


@project.command("export")
def export(
    name: Annotated[str, typer.Argument(help="short name, as it stands in addresses")],
    file: Annotated[Path, typer.Argument(help="the file to write")],
) -> None:
    """Write a project into one file."""
    from urdaten.places.team import acts as team
    from urdaten.server.archive import export_project

    part = file.with_name(f"{file.name}.part")
    with (
        database(snapshot=True) as db,
        Progress(console=_screen) as bar,
    ):
        task = bar.add_task(name)
        try:
            with part.open("wb") as out:
                export_project(
                    db,
                    team.project_by_slug(db, name),
                    out,
                    lambda done, of: bar.update(task, completed=done, total=of),
                )
            part.replace(file)
        finally:
            part.unlink(missing_ok=True)
    print(f"{name} is in {file}.")


@project.command("import")
def bring_back(
    file: Annotated[Path, typer.Argument(help="a file that `export` wrote", exists=True, dir_okay=False)],
    lead: Annotated[str, typer.Option(help="Login of whoever leads it.")],
    members: Annotated[bool, typer.Option(help="Let those who are here be members again.")] = True,
) -> None:
    """Bring a project back from its file, as a new one beside those that are there."""
    from urdaten.platform.accounts import account_by_login
    from urdaten.server.archive import import_project

    with (
        file.open("rb") as source,
        database() as db,
        Progress(console=_screen) as bar,
    ):
        task = bar.add_task(file.name)
        made = import_project(
            db,
            source,
            account_by_login(db, lead).id,
            with_members=members,
            report=lambda done, of: bar.update(task, completed=done, total=of),
        )
    print(f"“{made.name}” is here as {made.slug}.")
    sys.stdout.flush()
