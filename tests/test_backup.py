"""The whole database written into a file and put back."""

from __future__ import annotations

from pathlib import Path

import pytest
from sqlalchemy import text
from typer.testing import CliRunner

from acting import act
from conftest import Api
from urdaten.cli.command import app
from urdaten.errors import BadFile
from urdaten.platform.database import engine_for, transaction


@pytest.fixture
def cli(demo_api: Api, monkeypatch: pytest.MonkeyPatch) -> CliRunner:
    monkeypatch.setenv("URDATEN_DATABASE_URL", demo_api.settings.database_url)
    return CliRunner()


def test_what_was_there_is_there_again(demo_api: Api, cli: CliRunner, tmp_path: Path) -> None:
    file = tmp_path / "all.backup"
    before = demo_api.get("/figures")
    first = demo_api.get("/desk/queue")["items"][0]["id"]
    shown = demo_api.get(f"/desk/sentences/{first}")["annotation"]
    written = cli.invoke(app, ["backup", str(file)])
    assert written.exit_code == 0, written.output
    assert file.stat().st_mode & 0o077 == 0, "nobody else reads the hashes in it"
    demo_api.put(f"/desk/sentences/{first}", act("unsign", shown["version"]))
    demo_api.post("/types", {"code": "NEW", "name": "new", "key": "y", "hue": 1})
    refused = cli.invoke(app, ["restore", str(file)], input="n\n")
    assert refused.exit_code == 1
    assert len(demo_api.get("/types")["types"]) == before["types"] + 1
    back = cli.invoke(app, ["restore", str(file), "--yes"])
    assert back.exit_code == 0, back.output
    engine_for(demo_api.settings.database_url).dispose()
    assert demo_api.get("/figures") == before
    assert demo_api.get(f"/desk/sentences/{first}")["annotation"] == shown
    # What is new is told from here on, and what is old is not told again.
    since = demo_api.get("/desk/queue")["moment"]
    assert demo_api.get("/desk/queue/changes", since=since)["sentences"] == []
    demo_api.put(f"/desk/sentences/{first}", act("unsign", shown["version"]))
    told = demo_api.get("/desk/queue/changes", since=since)["sentences"]
    assert [one["id"] for one in told] == [first]


def test_a_file_that_is_no_backup_changes_nothing(demo_api: Api, cli: CliRunner, tmp_path: Path) -> None:
    file = tmp_path / "all.backup"
    cli.invoke(app, ["backup", str(file)])
    cut = tmp_path / "cut.backup"
    cut.write_bytes(file.read_bytes()[:2000])
    before = demo_api.get("/figures")
    for content in (cut.read_bytes(), b"no backup at all"):
        cut.write_bytes(content)
        done = cli.invoke(app, ["restore", str(cut), "--yes"])
        assert done.exit_code == 1
        assert isinstance(done.exception, BadFile) or done.exception is not None
    assert demo_api.get("/figures") == before
    with transaction(demo_api.settings.database_url) as db:
        assert db.scalar(text("SELECT count(*) FROM sentence"))
