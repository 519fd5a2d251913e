"""The `urdaten` command: it parses, calls one act, and prints."""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Annotated

import typer
from rich.console import Console

from urdaten.cli.account import account
from urdaten.cli.demo import demo
from urdaten.cli.project import project
from urdaten.cli.run import run as run_bundle
from urdaten.cli.tagger import tagger
from urdaten.cli.texts import texts
from urdaten.errors import UrdatenError
from urdaten.platform.settings import Settings

app = typer.Typer(no_args_is_help=True, add_completion=False, help="Urdaten on the command line.")
app.add_typer(account, name="account")
app.add_typer(demo, name="demo")
app.add_typer(project, name="project")
app.add_typer(tagger, name="tagger")
app.add_typer(texts, name="texts")


@app.command()
def up(
    fresh: Annotated[bool, typer.Option(help="Begin anew: remove all data first.")] = False,
    yes: Annotated[bool, typer.Option(help="Do not ask before data is removed.")] = False,
    port: Annotated[int, typer.Option(help="Port of the server.")] = 8710,
    idle: Annotated[
        bool, typer.Option(help="Do not train, score and assemble the demo on the first start.")
    ] = False,
) -> None:
    """Start database, worker and server, and stop them with Ctrl-C."""
    from urdaten.cli.supervisor import run

    sys.exit(run(fresh=fresh, yes=yes, port=port, idle=idle))


@app.command()
def serve(fd: Annotated[int, typer.Option(help="Socket that is already bound.")]) -> None:
    """Run the server on a socket handed over by `up`."""
    import socket

    import uvicorn

    from urdaten.platform.migrate import check_schema
    from urdaten.platform.patience import PatientProtocol
    from urdaten.server.application import build

    settings = Settings()
    check_schema(settings.database_url)
    config = uvicorn.Config(
        build(settings), http=PatientProtocol, log_level="warning", timeout_graceful_shutdown=2
    )
    # Handed over as a TCP socket, which asyncio answers on without delay; uvicorn's own --fd does not.
    uvicorn.Server(config).run(sockets=[socket.socket(fileno=fd)])


@app.command()
def work() -> None:
    """Run the worker that does long jobs."""
    import asyncio

    from urdaten.platform.jobs import work as take_jobs
    from urdaten.server.tables import METADATA
    from urdaten.server.work import KINDS

    assert METADATA.tables
    assert KINDS
    settings = Settings()
    asyncio.run(take_jobs(settings.psycopg_dsn, settings.database_url))


@app.command(
    context_settings={"allow_extra_args": True, "ignore_unknown_options": True}, add_help_option=False
)
def run(context: typer.Context) -> None:
    """Find spans in texts, or records, with a bundle: `urdaten run --help`."""
    sys.exit(run_bundle(context.args))


@app.command()
def migrate() -> None:
    """Bring the database to the present schema."""
    from urdaten.platform.migrate import migrate as bring_up

    bring_up(Settings().database_url)


@app.command()
def backup(file: Annotated[Path, typer.Argument(help="the file to write")]) -> None:
    """Write the whole database into one file; work can go on meanwhile."""
    from urdaten.cli.backup import backup as write
    from urdaten.cli.connection import settings_of_running

    write(settings_of_running(), file)
    print(f"Everything is in {file}.")


@app.command()
def restore(
    file: Annotated[Path, typer.Argument(help="a file that `backup` wrote", exists=True, dir_okay=False)],
    yes: Annotated[bool, typer.Option(help="Do not ask before everything is replaced.")] = False,
) -> None:
    """Put what a backup holds in the place of everything that is there now."""
    from urdaten.cli.backup import restore as put_back
    from urdaten.cli.connection import settings_of_running

    settings = settings_of_running()
    if not yes:
        typer.confirm("This replaces every project and account that is there now. Go on?", abort=True)
    put_back(settings, file)
    print("Everything is as it was in the backup; sign in anew.")


@app.command()
def openapi() -> None:
    """Print the OpenAPI document, from which the front end's types are generated."""
    from urdaten.server.application import build
    from urdaten.server.document import document_of

    settings = Settings(web_dir=Path("/nowhere"))
    document = document_of(build(settings), settings)
    print(json.dumps(document, indent=1, ensure_ascii=False, sort_keys=True))


@app.command()
def bench(
    name: str,
    as_json: Annotated[bool, typer.Option("--json", help="Print one JSON object as the last line.")] = False,
    judge: Annotated[bool, typer.Option(help="Hold the figures against bench/goals.toml.")] = False,
    full: Annotated[bool, typer.Option(help="Take longer and be surer.")] = False,
) -> None:
    """Run a benchmark: each is a module of bench/, which says what it measures."""
    from urdaten.cli.bench import report

    sys.exit(report(name, as_json=as_json, judge=judge, full=full))


def main() -> None:
    """Run the command; our own errors end it with one line and exit code 1."""
    try:
        app()
    except UrdatenError as error:
        Console(stderr=True).print(f"urdaten: {error.message}", markup=False, highlight=False)
        sys.exit(1)
