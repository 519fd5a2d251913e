"""A project goes into an archive and comes back the same."""

from __future__ import annotations

import asyncio
import hashlib
import io
import json
import threading
import time
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any
from uuid import uuid4

import httpx
import pytest
from sqlalchemy import text

from archiving import exported, imported, packed, unpacked
from conftest import ORIGIN, Api
from urdaten.cli.command import app as command
from urdaten.places.desk import acts as desk
from urdaten.places.rules import acts as rules
from urdaten.places.tagger import acts as tagger
from urdaten.places.team import acts as team
from urdaten.platform.accounts import account_by_login
from urdaten.platform.database import transaction
from urdaten.server import archive_routes
from urdaten.server.archive import import_project


def test_a_project_comes_back_the_same(full: Api) -> None:
    archive = exported(full.settings)
    files = unpacked(archive)
    manifest = json.loads(files.pop("manifest.json"))
    for name, facts in manifest["files"].items():
        assert facts == {"sha256": hashlib.sha256(files[name]).hexdigest(), "bytes": len(files[name])}
    # Something of everything is in it.
    assert {name for name, content in files.items() if not content} == set()
    assert b'"sentence_id":null' in files["log.jsonl"], "the log outlives a text that was removed"
    assert b"urdaten" not in files["people.jsonl"], "no hash and no token leaves the server"
    assert b"argon2" not in archive

    made = imported(full.settings, archive, with_members=True)
    assert made.slug == "port-of-tessmar"
    again = unpacked(exported(full.settings, made.slug))
    there = json.loads(again.pop("manifest.json"))
    assert again == files
    same = ("language", "overlap", "abbreviations", "retrain_after", "name")
    assert [there["project"][name] for name in same] == [manifest["project"][name] for name in same]

    # And it is a project like any other: it tags as before, is not out of date, and its acts can be undone.
    with transaction(full.settings.database_url) as db:
        one, other = (team.project_by_slug(db, slug) for slug in ("tessmar", made.slug))
        for project in (one, other):
            training = tagger.training_in_use(db, project.id)
            assert training is not None
            assert tagger.out_of_date(db, project.id, training) == []
        here, there = (desk.progress(db, project.id) for project in (one, other))
        counts = ("total", "signed", "empty", "asked")
        assert [getattr(here, name) for name in counts] == [getattr(there, name) for name in counts]
        assert here.total > here.signed > 100
    address = f"/api/projects/{made.slug}"
    cards = full.request("GET", f"{address}/scorecards").json()
    assert [card["f1"] for card in cards] == [card["f1"] for card in full.get("/scorecards")]
    assert full.request("POST", f"{address}/desk/undo").status_code == 200
    number = full.request("GET", f"{address}/desk/queue").json()["items"][1]["id"]
    there = full.request("GET", f"{address}/desk/sentences/{number}").json()
    here = full.get(f"/desk/sentences/{full.get('/desk/queue')['items'][1]['id']}")
    assert there["lanes"] == here["lanes"]
    assert there["lanes"]["tagger"]
    # Its pipeline weighs as it did, by the tagger and the weights that came along.
    assert there["resolved"] == here["resolved"] != []
    assert there["weighs_from"] == here["weighs_from"] is not None
    versions = [
        full.request("GET", f"{at}/pipeline/versions").json() for at in (address, "/api/projects/tessmar")
    ]
    for one, other in zip(*versions, strict=True):
        assert [one[n] for n in ("number", "said", "name")] == [other[n] for n in ("number", "said", "name")]
    now = versions[0][0]["plan"]
    trainings = full.request("GET", f"{address}/trainings").json()
    assert now["stages"][2]["settings"]["tagger"] == str(trainings[0]["id"])
    assert now["stages"][2]["settings"]["tagger"] != versions[1][0]["plan"]["stages"][2]["settings"]["tagger"]
    assert full.request("GET", f"{address}/pipeline/ablation").json() is None


def test_a_tagger_that_came_back_tags_identically(full: Api) -> None:
    files = unpacked(exported(full.settings))
    (model,) = [content for name, content in files.items() if name.startswith("taggers/")]
    made = imported(full.settings, packed(files))
    with transaction(full.settings.database_url) as db:
        query = text("SELECT model FROM training WHERE project_id = :p")
        assert bytes(db.execute(query, {"p": made.id}).scalar_one()) == model


def test_it_comes_back_elsewhere_where_nobody_is_known(full: Api, api: Api) -> None:
    archive = exported(full.settings)
    with transaction(api.settings.database_url) as db:
        db.execute(text("UPDATE account SET name = 'Another Jo' WHERE login = 'jo'"))
    made = imported(api.settings, archive, "stan")
    with transaction(api.settings.database_url) as db:
        assert [m.login for m in team.read_members(db, made.id)] == ["stan"]
    accounts = {a["login"]: a for a in api.request("GET", "/api/accounts").json()}
    # Who shares a login but not the name is somebody else, and gets an account that cannot sign in.
    assert (accounts["jo"]["active"], accounts["jo-2"]["name"], accounts["jo-2"]["active"]) == (
        True,
        "Jo",
        False,
    )
    files, there = unpacked(archive), unpacked(exported(api.settings, made.slug))
    for name in sorted(files.keys() - {"manifest.json", "people.jsonl"}):
        assert there[name] == files[name], name


def test_over_the_web_and_back(full: Api) -> None:
    answer = full.request("GET", "/api/projects/tessmar/archive")
    assert answer.status_code == 200
    assert answer.headers["content-disposition"].endswith('.urdaten.zip"')
    assert zipfile.is_zipfile(io.BytesIO(answer.content))
    jo = full.other("jo")
    assert jo.request("GET", "/api/projects/tessmar/archive").status_code == 403
    made = jo.request("POST", "/api/archives/import", content=answer.content, params={"with_members": True})
    assert made.status_code == 201, made.text
    assert made.json()["role"] == "lead"
    slug = made.json()["slug"]
    # Only who looks after the server brings others along.
    assert full.request("GET", f"/api/projects/{slug}").status_code == 404
    bad = full.request("POST", "/api/archives/import", content=answer.content[:5000])
    assert bad.status_code == 422
    assert "cut off" in bad.json()["detail"]


def scope_of(api: Api, path: str, query: str) -> dict[str, Any]:
    cookies = "; ".join(f"{name}={value}" for name, value in api.cookies.items())
    headers = {"host": "urdaten.test", "origin": ORIGIN, "cookie": cookies}
    return {
        "type": "http",
        "method": "POST",
        "path": path,
        "raw_path": path.encode(),
        "query_string": query.encode(),
        "headers": [(name.encode(), value.encode()) for name, value in headers.items()],
        "http_version": "1.1",
        "scheme": "https",
        "server": ("urdaten.test", 443),
        "client": ("127.0.0.1", 1),
        "root_path": "",
    }


def test_how_far_it_is_can_be_asked_and_whoever_goes_away_stops_it(
    full: Api, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(archive_routes, "LOOK_S", 0.02)
    archive, name = exported(full.settings), uuid4()
    how_far = f"/api/archives/import/{name}"
    assert full.request("GET", how_far).status_code == 404
    goes_away, told, seen = asyncio.Event(), threading.Event(), []

    def slowly(*given: Any, report: Callable[[int, int], None], **more: Any) -> team.Project:
        def wait(done: int, total: int) -> None:
            report(done, total)
            seen.append((done, total))
            if len(seen) == 5:
                told.set()
            if len(seen) >= 5:
                time.sleep(0.1)

        return import_project(*given, report=wait, **more)

    monkeypatch.setattr(archive_routes, "import_project", slowly)
    said: list[Any] = []

    async def send_and_leave() -> None:
        parts = iter([{"type": "http.request", "body": archive, "more_body": False}])

        async def receive() -> Any:
            for part in parts:
                return part
            await goes_away.wait()
            return {"type": "http.disconnect"}

        async def send(message: Any) -> None:
            said.append(message)

        scope = scope_of(full, "/api/archives/import", f"arrival={name}")
        working = asyncio.create_task(full.app(scope, receive, send))
        await asyncio.to_thread(told.wait, 60)
        transport = httpx.ASGITransport(app=full.app)
        async with httpx.AsyncClient(
            transport=transport, base_url=ORIGIN, headers=full.headers, cookies=full.cookies
        ) as client:
            answer = await client.get(how_far)
            again = await client.post("/api/archives/import", params={"arrival": str(name)}, content=b"")
        assert answer.status_code == 200
        assert 0 < answer.json()["done"] <= answer.json()["total"]
        assert again.status_code == 409
        goes_away.set()
        await working

    full.app.state.room = None
    asyncio.run(send_and_leave())
    assert said[0]["status"] == 409
    assert len(seen) < 20, "it was stopped in the middle"
    assert [done for done, _ in seen] == sorted(done for done, _ in seen)
    full.app.state.room = None
    assert full.request("GET", how_far).status_code == 404
    assert [p["slug"] for p in full.request("GET", "/api/projects").json()] == ["tessmar"]


def test_progress_ends_at_the_whole(full: Api) -> None:
    told: list[tuple[int, int]] = []
    with transaction(full.settings.database_url) as db:
        import_project(
            db,
            io.BytesIO(exported(full.settings)),
            account_by_login(db, "ines").id,
            report=lambda done, total: told.append((done, total)),
        )
    assert len(told) > 20
    # What is read at the end, links between types, is a few lines.
    assert 0.99 < told[-1][0] / told[-1][1] <= 1


def test_on_the_command_line_and_back(full: Api, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    from typer.testing import CliRunner

    monkeypatch.setenv("URDATEN_DATABASE_URL", full.settings.database_url)
    cli, file = CliRunner(), tmp_path / "demo.zip"
    done = cli.invoke(command, ["project", "export", "tessmar", str(file)])
    assert done.exit_code == 0, done.output
    assert unpacked(file.read_bytes()) == unpacked(exported(full.settings)) | {
        "manifest.json": unpacked(file.read_bytes())["manifest.json"]
    }
    back = cli.invoke(command, ["project", "import", str(file), "--lead", "ines"])
    assert back.exit_code == 0, back.output
    assert "port-of-tessmar" in back.output
    listed = cli.invoke(command, ["project", "list"]).output
    assert "port-of-tessmar" in listed
    nothing = cli.invoke(command, ["project", "export", "nowhere", str(tmp_path / "no.zip")])
    assert nothing.exit_code == 1
    assert not list(tmp_path.glob("no*")), "nothing half-written is left"


def test_rules_of_an_older_archive_are_carried_over(full: Api) -> None:
    files = unpacked(exported(full.settings))
    lines = [json.loads(line) for line in files["rules.jsonl"].splitlines()]
    assert any(line["refers"].get("lists") for line in lines)
    for line in lines:
        del line["refers"]
        line["pattern"] = r"\d{4}/\d"
    files["rules.jsonl"] = b"".join(json.dumps(line).encode() + b"\n" for line in lines)
    del files["fragments.jsonl"]
    made = imported(full.settings, packed(files), with_members=True)
    with transaction(full.settings.database_url) as db:
        held = rules.read_rules(db, made.id)
        assert {one.pattern for one in held} == {"[ text(/\\d{4}\\/\\d/) ]\nacross sentences"}
        assert len(held) == len(lines)
        assert rules.read_fragments(db, made.id) == []


def test_what_patterns_name_is_its_own_in_the_copy(full: Api) -> None:
    made = imported(full.settings, exported(full.settings), with_members=True)
    address = f"/api/projects/{made.slug}"
    vessels = next(one for one in full.request("GET", f"{address}/lists").json() if one["name"] == "vessels")
    wish = {"name": "ships", "type": "VES", "version": vessels["version"]}
    assert full.request("PUT", f"{address}/lists/{vessels['id']}", json=wish).status_code == 200
    there = {one["name"]: one for one in full.request("GET", f"{address}/rules").json()}
    here = {one["name"]: one for one in full.get("/rules")}
    moves = "list vessel that moves"
    assert here[moves]["pattern"].count("list(vessels)") > 3
    assert there[moves]["pattern"] == here[moves]["pattern"].replace("list(vessels)", "list(ships)")
    assert there[moves]["finds"] == here[moves]["finds"]
