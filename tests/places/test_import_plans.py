"""Plans of imports: by name, as files and on the command line."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from typer.testing import CliRunner

from conftest import Api
from readers.samples import SHAPES
from readers.serving import Served
from urdaten.cli.command import app
from urdaten.demo.site import build_site
from urdaten.errors import BadFile, BadInput
from urdaten.places.intake.plan import Plan, plan_from, plan_values, read_plan
from urdaten.readers import How


@pytest.mark.parametrize(
    ("plan", "field"),
    [
        ({"split": "half"}, "split"),
        ({"per": "word"}, "per"),
        ({"kind": "doc"}, "kind"),
        ({"roles": {"a": "words"}}, "roles"),
        ({"near": "perhaps"}, "near"),
        ({"spans": "all"}, "spans"),
        ({"group_by": "moon"}, "group_by"),
    ],
)
def test_a_plan_that_cannot_be_is_refused(api: Api, plan: dict[str, Any], field: str) -> None:
    made = api.post("/imports")
    assert api.put(f"/imports/{made['id']}/plan", plan, 422)["field"] == field


def test_plans_are_kept_under_names(api: Api) -> None:
    api.put("/imports/plans", {"name": "remarks", "plan": {"split": "dev"}})
    api.put("/imports/plans", {"name": " remarks ", "plan": {"split": "train"}})
    (saved,) = api.get("/imports/plans")
    assert (saved["name"], saved["plan"]["split"]) == ("remarks", "train")
    api.delete(f"/imports/plans/{saved['id']}")
    assert api.get("/imports/plans") == []
    api.delete(f"/imports/plans/{saved['id']}", 404)


def test_plans_of_files_and_wire_are_the_same(tmp_path: Path) -> None:
    plan = Plan(how=How(roles={"Remark": "body"}, delimiter=";"), split="train", labels={"ship": "VES"})
    assert plan_from(plan_values(plan)) == plan
    path = tmp_path / "plan.toml"
    path.write_text('split = "train"\ndelimiter = ";"\n[roles]\nRemark = "body"\n[labels]\nship = "VES"\n')
    assert read_plan(path) == plan
    path.write_text("splits = 1")
    with pytest.raises(BadFile, match="no “splits”"):
        read_plan(path)
    with pytest.raises(BadInput):
        plan_from({"whole_page": "yes"})


@pytest.fixture(scope="module")
def site() -> Iterator[str]:
    served = Served(build_site())
    yield served.address
    served.stop()


def test_the_command_reads_a_site(site: str, tmp_path: Path) -> None:
    out = tmp_path / "out.jsonl"
    ended = CliRunner().invoke(
        app, ["texts", "read", f"{site}/tariff.html", "--depth", "0", "--to", str(out)]
    )
    assert ended.exit_code == 0, ended.output
    (row,) = [json.loads(line) for line in out.read_text().splitlines()]
    assert (row["title"], row["meta"]["source"]) == ("Tariff", f"{site}/tariff.html")


@pytest.fixture
def command(api: Api, monkeypatch: pytest.MonkeyPatch) -> CliRunner:
    monkeypatch.setenv("URDATEN_DATABASE_URL", api.settings.database_url)
    return CliRunner()


def test_the_command_reads_without_a_project(tmp_path: Path) -> None:
    out = tmp_path / "out.jsonl"
    ended = CliRunner().invoke(
        app, ["texts", "read", str(SHAPES / "mail"), str(SHAPES / "damaged"), "--to", str(out)]
    )
    assert ended.exit_code == 0, ended.output
    rows = [json.loads(line) for line in out.read_text().splitlines()]
    assert len(rows) == 16
    assert rows[0]["meta"]["source"] == "27-12.eml"
    assert "16 texts, 3 refused." in ended.stderr
    nothing = CliRunner().invoke(app, ["texts", "read", str(SHAPES / "damaged" / "cut-off.pdf")])
    assert isinstance(nothing.exception, BadFile)


def test_the_command_imports_by_a_plan(api: Api, command: CliRunner, tmp_path: Path) -> None:
    plan = tmp_path / "plan.toml"
    plan.write_text('split = "dev"\n[roles]\nDesk = "group"\n')
    arguments = ["texts", "import", "tessmar", str(SHAPES / "remarks.csv"), "--plan", str(plan)]
    ended = command.invoke(app, [*arguments, "--look"])
    assert ended.exit_code == 0, ended.output
    assert "column Desk = group" in ended.stdout
    assert api.get("/texts/count")["total"] == 0
    assert api.get("/imports") == []
    ended = command.invoke(app, arguments)
    assert ended.exit_code == 0, ended.output
    assert "200 texts imported, 0 refused." in ended.stdout
    assert api.get("/texts", limit=1)["texts"][0]["split"] == "dev"
    again = command.invoke(app, arguments)
    assert isinstance(again.exception, BadInput)
    assert api.get("/texts/count")["total"] == 200
