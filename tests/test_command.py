"""The command line: it parses, calls one act, and prints."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from typer.testing import CliRunner

from conftest import Api
from urdaten.cli.command import app
from urdaten.errors import Clash
from urdaten.platform.settings import Settings


@pytest.fixture
def cli(settings: Settings, monkeypatch: pytest.MonkeyPatch) -> CliRunner:
    monkeypatch.setenv("URDATEN_DATABASE_URL", settings.database_url)
    monkeypatch.setenv("URDATEN_ADDRESS", "http://an.address")
    monkeypatch.setenv("URDATEN_PASSWORD_MEMORY_KIB", "64")
    monkeypatch.setenv("URDATEN_PASSWORD_PASSES", "1")
    return CliRunner()


def test_an_account_and_its_link(cli: CliRunner, api: Api) -> None:
    made = cli.invoke(app, ["account", "add", "kim", "Kim"], input="a long password\na long password\n")
    assert made.exit_code == 0, made.output
    assert "Kim can sign in as kim" in made.output
    printed = cli.invoke(app, ["account", "link", "kim"]).output.strip()
    assert printed.startswith("http://an.address/sign-in#")
    guest = Api(api.app, api.settings)
    token = printed.split("#")[1]
    assert guest.request("POST", "/api/sign-in/link", json={"token": token}).json()["keeper"] is False


def test_accounts_are_listed_switched_off_and_on(cli: CliRunner, api: Api) -> None:
    jo = api.other("jo")
    off = cli.invoke(app, ["account", "off", "jo"])
    assert off.output.strip() == "Jo cannot sign in any more."
    assert jo.request("GET", "/api/me").status_code == 401
    listed = cli.invoke(app, ["account", "list"]).output.splitlines()
    assert [line.split()[2] for line in listed if line.split()[0] in {"ines", "jo"}] == ["yes", "no"]
    assert cli.invoke(app, ["account", "on", "jo"]).exit_code == 0
    jo.sign_in("jo")
    # The last one who looks after the server stays.
    refused = cli.invoke(app, ["account", "keeper", "ines", "--no"])
    assert isinstance(refused.exception, Clash)
    assert cli.invoke(app, ["account", "keeper", "jo"]).exit_code == 0
    assert cli.invoke(app, ["account", "keeper", "ines", "--no"]).exit_code == 0
    assert api.request("GET", "/api/me").json()["keeper"] is False


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


def test_a_tagger_is_trained_scored_and_used_on_files(cli: CliRunner, tmp_path: Path) -> None:
    def line(name: str, code: str, words: str) -> str:
        return json.dumps(
            {"text": f"{name} {words}", "spans": [{"start": 0, "end": len(name), "type": code}]}
        )

    kinds = (("VES", "sailed."), ("PER", "says no."))
    names = ("Haldis", "Ketta", "Pellin", "Marna", "Velda")
    samples, config, model = tmp_path / "train.jsonl", tmp_path / "config.toml", tmp_path / "model"
    samples.write_text("\n".join(line(name, *kind) for name in names for kind in kinds) + "\nbroken\n")
    config.write_text(cli.invoke(app, ["tagger", "config"]).output.replace("epochs = 30", "epochs = 5"))
    command = ["tagger", "train", str(samples), "--config", str(config), "--out", str(model)]
    assert "Line 11" in str(cli.invoke(app, command).exception)
    assert not model.exists()
    nowhere = [*command[:-1], str(tmp_path), "--keep-good"]
    assert "cannot be written" in str(cli.invoke(app, nowhere).exception)
    plain, more = tmp_path / "more.txt", tmp_path / "more.jsonl"
    plain.write_text("Grey gulls follow.\n\nThey dive.\n")
    more.write_text('"Pellin waits."\n')
    command += ["--unsigned", str(plain), "--unsigned", str(more)]
    done = cli.invoke(app, [*command, "--keep-good"])
    assert done.exit_code == 0, done.output
    assert "10 tokens of 3 unsigned texts are counted" in done.stderr
    assert "2 types" in done.output
    more.write_text("[]\n")
    assert f"{more}: Line 1" in str(cli.invoke(app, [*command, "--keep-good"]).exception)
    scored = cli.invoke(app, ["tagger", "score", str(model), str(samples), "--json", "--keep-good"])
    figures = json.loads(scored.stdout)
    assert figures["micro"] == {"precision": 1.0, "recall": 1.0, "f1": 1.0}
    assert (figures["seen"]["f1"], figures["unseen"]["f1"]) == (1.0, None)
    table = cli.invoke(app, ["tagger", "score", str(model), str(samples), "--keep-good"])
    assert "unseen     –     –     –" in table.stdout
    tagged = cli.invoke(app, ["tagger", "tag", str(model)], input='{"text": "Sorrel sailed."}\n')
    (span,) = json.loads(tagged.stdout)["spans"]
    assert (span["start"], span["end"], span["type"]) == (0, 6, "VES")
    why = cli.invoke(app, ["tagger", "explain", str(model), "--text", "Sorrel sailed."]).stdout
    assert why.startswith("VES “Sorrel”, ")
    assert "word=sailed of “sailed” (+1)" in why
    assert "finds nothing" in cli.invoke(app, ["tagger", "explain", str(model), "--text", "."]).stdout
    assert "no file" in str(cli.invoke(app, ["tagger", "tag", str(tmp_path / "none")]).exception)
    columns = cli.invoke(
        app, ["tagger", "tag", str(model), "--columns"], input='{"text": "Sorrel sailed."}\n'
    )
    command = ["tagger", "tag", str(model), "--least", "0.0001"]
    weighed = json.loads(cli.invoke(app, command, input='{"text": "Sorrel sailed."}\n').stdout)["spans"]
    assert len(weighed) > 1
    assert weighed[0]["type"] == "VES"
    assert [s["probability"] for s in weighed] == sorted((s["probability"] for s in weighed), reverse=True)
    assert "above 0" in str(cli.invoke(app, [*command[:-1], "0"], input='{"text": "x"}\n').exception)
    assert columns.stdout == "Sorrel\tB-VES\nsailed\tO\n.\tO\n\n"


def test_a_tagger_is_trained_and_used_with_lists(cli: CliRunner, tmp_path: Path) -> None:
    samples, names, model = tmp_path / "train.jsonl", tmp_path / "ships.csv", tmp_path / "model"
    names.write_text("name,variants\nHaldis,Hal;Halda\n")
    lines = [
        {"text": f"{n} waits.", "spans": [{"start": 0, "end": 3, "type": "VES"}]} for n in ("Hal", "Tor")
    ]
    samples.write_text("\n".join(map(json.dumps, lines)))
    command = ["tagger", "train", str(samples), "--preset", "quick", "--out", str(model)]
    for bad, said in (
        ("ships", "NAME=FILE:TYPE"),
        (f"ships={names}:v", "NAME=FILE:TYPE"),
        (f"ships={tmp_path}/none:VES", "no file"),
        (f"ships={names}:PRT", "no span of that type"),
    ):
        assert said in str(cli.invoke(app, [*command, "--list", bad]).exception)
    given = ["--list", f"ships={names}:VES"]
    assert "two lists" in str(cli.invoke(app, [*command, *given, *given]).exception)
    done = cli.invoke(app, [*command, *given])
    assert done.exit_code == 0, done.output
    asked = '{"text": "Halda waits."}\n'
    assert "not given: ships" in str(cli.invoke(app, ["tagger", "tag", str(model)], input=asked).exception)
    (span,) = json.loads(cli.invoke(app, ["tagger", "tag", str(model), *given], input=asked).stdout)["spans"]
    assert (span["start"], span["end"], span["type"]) == (0, 5, "VES")
    scored = cli.invoke(app, ["tagger", "score", str(model), str(samples), "--json", *given])
    assert json.loads(scored.stdout)["micro"]["recall"] == 1.0
    command = ["tagger", "explain", str(model), "--text", "Halda waits."]
    assert cli.invoke(app, [*command, *given]).stdout.startswith("VES “Halda”, ")
    assert "not given: ships" in str(cli.invoke(app, command).exception)


def test_a_tagger_is_trained_on_columns_by_a_preset(cli: CliRunner, tmp_path: Path) -> None:
    kinds = (("VES", "sailed"), ("PER", "says"))
    names = ("Haldis", "Ketta", "Pellin", "Marna", "Velda")
    rows = [f"{name} B-{code}\n{word} O\n. O\n" for name in names for code, word in kinds]
    samples, dev, model = tmp_path / "train.bio", tmp_path / "dev.tsv", tmp_path / "model"
    samples.write_text("\n".join(rows))
    dev.write_text("\n".join(rows[:4]))
    command = ["tagger", "train", str(samples), "--dev", str(dev), "--out", str(model), "--threads", "2"]
    done = cli.invoke(app, [*command, "--preset", "quick"])
    assert done.exit_code == 0, done.output
    assert "all: epoch 1 of at most 7" in done.stderr
    figures = json.loads(cli.invoke(app, ["tagger", "score", str(model), str(dev), "--json"]).stdout)
    assert figures["micro"]["f1"] == 1.0
    assert "thorough, early, quick" in str(cli.invoke(app, [*command, "--preset", "hasty"]).exception)
    assert "in a project alone" in str(cli.invoke(app, [*command, "--preset", "early"]).exception)
    assert 'method = "perceptron"' in cli.invoke(app, ["tagger", "config", "--preset", "quick"]).stdout
