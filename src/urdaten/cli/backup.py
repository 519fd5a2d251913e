"""`urdaten backup` and `urdaten restore`: the whole database, by PostgreSQL's own tools."""

from __future__ import annotations

import os
import subprocess
from pathlib import Path
from urllib.parse import unquote, urlsplit

from sqlalchemy import text

from urdaten.errors import BadFile, Unavailable
from urdaten.platform.database import engine_for, transaction
from urdaten.platform.migrate import migrate
from urdaten.platform.postgres import binaries
from urdaten.platform.settings import Settings


def backup(settings: Settings, file: Path) -> None:
    """Write everything into a file, while work goes on. Raises Unavailable with what the tool says."""
    part = file.with_name(f"{file.name}.part")
    try:
        _run(settings, "pg_dump", "--format=custom", "--no-owner", "--no-privileges", f"--file={part}")
        # Passwords' hashes are in it.
        part.chmod(0o600)
        part.replace(file)
    finally:
        part.unlink(missing_ok=True)


def restore(settings: Settings, file: Path) -> None:
    """Put what a backup holds in the place of everything, all or nothing, and bring it to the present schema.

    Raises BadFile for a file that is no backup, Unavailable with what the tool says.
    """
    looked = subprocess.run(
        [str(binaries() / "pg_restore"), "--list", str(file)], capture_output=True, check=False
    )
    if looked.returncode:
        raise BadFile(f"“{file.name}” is no backup, or it is cut off; nothing was changed.")
    engine_for(settings.database_url).dispose()
    _run(
        settings,
        "pg_restore",
        "--clean",
        "--if-exists",
        "--no-owner",
        "--no-privileges",
        "--single-transaction",
        str(file),
    )
    migrate(settings.database_url)
    with transaction(settings.database_url) as db:
        # Numbers of transactions belong to the database that gave them.
        db.execute(text("UPDATE act SET transaction = 0 WHERE transaction <> 0"))


def _run(settings: Settings, tool: str, *words: str) -> None:
    address = urlsplit(settings.psycopg_dsn)
    env = {
        **os.environ,
        "PGHOST": address.hostname or "",
        "PGPORT": str(address.port or 5432),
        "PGUSER": unquote(address.username or ""),
        # Not on the command line, where everybody on the machine reads it.
        "PGPASSWORD": unquote(address.password or ""),
        "PGDATABASE": address.path.lstrip("/"),
    }
    target = [f"--dbname={env['PGDATABASE']}"] if tool == "pg_restore" else []
    done = subprocess.run(
        [str(binaries() / tool), *target, *words], env=env, capture_output=True, check=False, text=True
    )
    if done.returncode:
        raise Unavailable(f"{tool} failed: {done.stderr.strip()[-1500:]}")
