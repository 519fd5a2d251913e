"""The command line: it parses, calls one act, and prints."""

from __future__ import annotations

import json

import pytest
from typer.testing import CliRunner

from conftest import Api
from urdaten.cli.command import app
from urdaten.platform.settings import Settings


@pytest.fixture
def cli(settings: Settings, monkeypatch: pytest.MonkeyPatch) -> CliRunner:
    monkeypatch.setenv("URDATEN_DATABASE_URL", settings.database_url)
    monkeypatch.setenv("URDATEN_PASSWORD_MEMORY_KIB", "64")
    monkeypatch.setenv("URDATEN_PASSWORD_PASSES", "1")
    return CliRunner()


def test_an_account_and_its_link(cli: CliRunner, api: Api) -> None:
    made = cli.invoke(app, ["account", "add", "kim", "Kim"], input="a long password\na long password\n")
    assert made.exit_code == 0, made.output
    assert "Kim can sign in as kim" in made.output
    token = cli.invoke(app, ["account", "link", "kim"]).output.strip()
    guest = Api(api.app, api.settings)
    assert guest.request("POST", "/api/sign-in/link", json={"token": token}).json()["role"] == "annotator"


def test_a_wrong_role_is_refused(cli: CliRunner) -> None:
    done = cli.invoke(app, ["account", "add", "kim", "Kim", "--role", "king"])
    assert done.exit_code == 2
    assert "lead or annotator" in done.output


def test_the_demo_check_prints_figures(cli: CliRunner) -> None:
    done = cli.invoke(app, ["demo", "check", "--json", "--no-tagger"])
    assert done.exit_code == 0
    printed = json.loads(done.output)
    assert printed["figures"]["bulletins"] == 340
    assert printed["faults"] == []


def test_the_openapi_document_names_every_operation_once(cli: CliRunner) -> None:
    document = json.loads(cli.invoke(app, ["openapi"]).output)
    names = [operation["operationId"] for path in document["paths"].values() for operation in path.values()]
    assert len(names) == len(set(names)) > 40
    assert all(name[0].islower() and "_" not in name for name in names)


def test_migrating_from_the_command_line(cli: CliRunner) -> None:
    assert cli.invoke(app, ["migrate"]).exit_code == 0
