"""Bringing a database to the present schema."""

from __future__ import annotations

from pathlib import Path

from alembic import command
from alembic.config import Config

from urdaten.platform.database import engine_for

FOLDER = Path(__file__).with_name("migrations")


def migrate(database_url: str) -> None:
    """Run every migration that the database has not seen, all in one transaction."""
    config = Config()
    config.set_main_option("script_location", str(FOLDER))
    with engine_for(database_url).begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")
