"""How a command finds the Urdaten that is running: by the environment, or by what `urdaten up` wrote into its folder."""

from __future__ import annotations

import json
import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

from urdaten.errors import Unavailable
from urdaten.platform.settings import Settings

if TYPE_CHECKING:
    from sqlalchemy.orm import Session

FILE = "connection.json"


class RunningSettings(Settings):
    """Settings of a running Urdaten, with its address."""

    address: str = ""


def write_connection(folder: Path, settings: Settings, address: str) -> None:
    """For commands of the same person, and nobody else: the database's password stands in it."""
    path = folder / FILE
    path.unlink(missing_ok=True)
    path.touch(mode=0o600)
    values = {"database_url": settings.database_url, "instance": settings.instance, "address": address}
    path.write_text(json.dumps(values))


def settings_of_running() -> RunningSettings:
    """Raises Unavailable when nothing is running here."""
    if os.environ.get("URDATEN_DATABASE_URL"):
        return RunningSettings(address=os.environ.get("URDATEN_ADDRESS", ""))
    from urdaten.cli.supervisor import home

    try:
        values = json.loads((home() / FILE).read_text())
    except (OSError, ValueError) as fault:
        raise Unavailable("No Urdaten is running with its data here; start it with ./start first.") from fault
    return RunningSettings(**values)


@contextmanager
def database(*, snapshot: bool = False) -> Iterator[Session]:
    """A transaction in the database of the Urdaten that is running. Raises Unavailable when none is."""
    from urdaten.platform.database import transaction
    from urdaten.server.tables import METADATA

    assert METADATA.tables
    with transaction(settings_of_running().database_url, snapshot=snapshot) as db:
        yield db
