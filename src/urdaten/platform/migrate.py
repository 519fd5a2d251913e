"""Bringing a database to the present schema."""

from __future__ import annotations

import importlib.resources
from importlib.metadata import version as version_of
from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import Connection, text
from sqlalchemy.orm import Session

from urdaten.errors import Unavailable
from urdaten.platform.database import engine_for

FOLDER = Path(__file__).with_name("migrations")
_LOCK = 0x316A7E
# What the queue's own schema was made by, in the table kept_fact.
_QUEUE = "queue"
# The queue's schema of databases that were made before its version was kept.
_FIRST_QUEUE = "3.10.0"


def migrate(database_url: str) -> None:
    """Run every migration that the database has not seen, all in one transaction; nobody else does so meanwhile.

    Raises Unavailable for a database that is newer than this program.
    """
    config = Config()
    config.set_main_option("script_location", str(FOLDER))
    with engine_for(database_url).begin() as connection:
        connection.execute(text("SELECT pg_advisory_xact_lock(:lock)"), {"lock": _LOCK})
        _refuse_newer(connection, config)
        config.attributes["connection"] = connection
        command.upgrade(config, "head")
        _bring_queue_up(connection)


def check_schema(database_url: str) -> None:
    """Raises Unavailable unless the database is at the present schema."""
    config = Config()
    config.set_main_option("script_location", str(FOLDER))
    with engine_for(database_url).connect() as connection:
        _refuse_newer(connection, config)
        present = MigrationContext.configure(connection).get_current_revision()
        if present != ScriptDirectory.from_config(config).get_current_head():
            raise Unavailable("The database has an older schema; run `urdaten migrate` first.")


def schema_of(db: Session) -> str:
    """What a database's schema is called."""
    return MigrationContext.configure(db.connection()).get_current_revision() or ""


def _refuse_newer(connection: Connection, config: Config) -> None:
    present = MigrationContext.configure(connection).get_current_revision()
    known = {script.revision for script in ScriptDirectory.from_config(config).walk_revisions()}
    if present is not None and present not in known:
        raise Unavailable(
            f"The database was made by a newer Urdaten (schema {present}). Start that one, or restore an older backup."
        )


def _bring_queue_up(connection: Connection) -> None:
    """The queue brings migrations of its own, one file for each step, named by its versions."""
    read = text("SELECT value FROM kept_fact WHERE name = :name")
    kept = connection.scalar(read, {"name": _QUEUE}) or _FIRST_QUEUE
    installed = version_of("procrastinate")
    files = importlib.resources.files("procrastinate.sql") / "migrations"
    steps = sorted(file.name for file in files.iterdir() if file.name.endswith(".sql"))
    for step in steps:
        if _numbers(kept) < _numbers(step.split("_")[0]) <= _numbers(installed):
            connection.exec_driver_sql((files / step).read_text().replace("%", "%%"))
    write = text(
        "INSERT INTO kept_fact (name, value) VALUES (:name, :value) "
        "ON CONFLICT (name) DO UPDATE SET value = excluded.value"
    )
    connection.execute(write, {"name": _QUEUE, "value": installed})


def _numbers(version: str) -> tuple[int, ...]:
    return tuple(int(part) for part in version.split(".")[:3] if part.isdigit())
