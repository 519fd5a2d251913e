"""A project as one file and back: nothing is lost, and what means ill is refused whole."""

from __future__ import annotations

import asyncio
import hashlib
import io
import json
import threading
import time
import zipfile
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from typing import Any
from uuid import uuid4

import httpx
import pytest
from hypothesis import HealthCheck, given
from hypothesis import settings as hypothesis_settings
from hypothesis import strategies as st
from sqlalchemy import text

from acting import act
from conftest import ORIGIN, Api
from urdaten.cli.command import app as command
from urdaten.core.tagger import PRESETS
from urdaten.errors import BadFile
from urdaten.places.desk import acts as desk
from urdaten.places.tagger import acts as tagger
from urdaten.places.team import acts as team
from urdaten.platform.accounts import account_by_login
from urdaten.platform.database import transaction
from urdaten.platform.settings import Settings
from urdaten.server import archive_routes
from urdaten.server.archive import container, export_project, import_project

Files = dict[str, bytes]


def exported(settings: Settings, slug: str = "tessmar") -> bytes:
    out = io.BytesIO()
    with transaction(settings.database_url, snapshot=True) as db:
        export_project(db, team.project_by_slug(db, slug), out)
    return out.getvalue()


def unpacked(archive: bytes) -> Files:
    with zipfile.ZipFile(io.BytesIO(archive)) as file:
        return {name: file.read(name) for name in file.namelist()}


def packed(files: Files, *, hashes: bool = True) -> bytes:
    """An archive of these files, with a manifest that fits them."""
    files = dict(files)
    if hashes:
        manifest = json.loads(files["manifest.json"])
        manifest["files"] = {
            name: {"sha256": hashlib.sha256(content).hexdigest(), "bytes": len(content)}
            for name, content in files.items()
            if name != "manifest.json"
        }
        files["manifest.json"] = json.dumps(manifest).encode()
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file:
        for name, content in files.items():
            file.writestr(name, content)
    return out.getvalue()


def imported(settings: Settings, archive: bytes, login: str = "ines", **more: Any) -> team.Project:
    with transaction(settings.database_url) as db:
        return import_project(db, io.BytesIO(archive), account_by_login(db, login).id, **more)


def projects(settings: Settings) -> int:
    with transaction(settings.database_url) as db:
        return team.count_projects(db)


@pytest.fixture
def full(demo_api: Api) -> Api:
    """The demo project with something of everything in it."""
    first = demo_api.get("/desk/queue")["items"][0]["id"]
    shown = demo_api.get(f"/desk/sentences/{first}")["annotation"]
    demo_api.put(f"/desk/sentences/{first}", act("ask", shown["version"], question="a ship?"))
    demo_api.put(f"/desk/sentences/{first}", act("answer", shown["version"] + 1, answer="yes"))
    opened = demo_api.get(f"/desk/sentences/{first}")
    down = {"start": opened["tokens"][0]["start"], "end": opened["tokens"][0]["end"], "type": "CGO"}
    gold = [{name: s[name] for name in ("start", "end", "type")} for s in opened["annotation"]["spans"]]
    verdict = down | {"source": "lists", "maker": "cargoes", "taken": False}
    judged = act("turn down", shown["version"] + 2, gold, turned_down=[down], verdicts=[verdict])
    demo_api.put(f"/desk/sentences/{first}", judged)
    jo = next(m["id"] for m in demo_api.get("/team")["members"] if m["login"] == "jo")
    text_of_first = demo_api.get("/texts")["texts"][0]["id"]
    demo_api.post("/desk/rounds", {"name": "asked", "people": [jo], "texts": [text_of_first]})
    with transaction(demo_api.settings.database_url) as db:
        layer = desk.add_layer(db, 1, "Wim", account=jo)
        desk.sign_many(db, 1, jo, {first: []}, layer.id)
    tug = {
        "code": "TUG",
        "name": "tug",
        "key": "u",
        "hue": 3,
        "parent": demo_api.get("/types")["types"][0]["id"],
    }
    made = demo_api.post("/types", tug)
    old = demo_api.post("/types", tug | {"code": "OLD", "key": "z", "parent": None})
    scheme = demo_api.get("/types")["version"]
    demo_api.post(f"/types/{old['id']}/merge", {"into": made["id"], "scheme": scheme}, expect=200)
    settings = {name: value for name, value in PRESETS["quick"].as_dict().items()} | {"epochs": 2}
    demo_api.post("/trainings", {"name": "first", "settings": settings})
    demo_api.run_jobs()
    demo_api.post("/scorecards", expect=202)
    demo_api.run_jobs()
    demo_api.post("/records/assembly", expect=202)
    demo_api.run_jobs()
    demo_api.post("/texts", {"title": "gone", "body": "This text is removed again."})
    text_id = demo_api.get("/texts", search="removed again")["texts"][0]["id"]
    sentence = demo_api.get(f"/texts/{text_id}/sentences")["sentences"][0]["id"]
    demo_api.put(f"/desk/sentences/{sentence}", act("sign as empty", 0))
    demo_api.put(f"/desk/sentences/{sentence}", act("unsign", 1))
    demo_api.delete(f"/texts/{text_id}")
    return demo_api


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
    lanes = full.request("GET", f"{address}/desk/sentences/{number}").json()["lanes"]
    here = full.get(f"/desk/sentences/{full.get('/desk/queue')['items'][1]['id']}")["lanes"]
    assert lanes == here
    assert lanes["tagger"]


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


Change = Callable[[Files], None]


def without(name: str) -> Change:
    def apply(files: Files) -> None:
        del files[name]

    return apply


def lines(name: str, change: Callable[[list[dict[str, Any]]], None]) -> Change:
    """An archive in which some lines of a file are others."""

    def apply(files: Files) -> None:
        rows = [json.loads(line) for line in files[name].splitlines()]
        change(rows)
        files[name] = b"".join(json.dumps(row).encode() + b"\n" for row in rows)

    return apply


def put(name: str, member: str, value: object, at: int = 0) -> Change:
    return lines(name, lambda rows: rows[at].update({member: value}))


def manifest(member: str, value: object) -> Change:
    def apply(files: Files) -> None:
        told = json.loads(files["manifest.json"])
        target = told
        *path, last = member.split(".")
        for part in path:
            target = target[part]
        target[last] = value
        files["manifest.json"] = json.dumps(told).encode()

    return apply


HOSTILE: dict[str, tuple[Change, str]] = {
    "another file": (lambda f: f.update({"../../etc/passwd": b"x"}), "has no place in an archive"),
    "an absolute path": (lambda f: f.update({"/etc/passwd": b"x"}), "has no place in an archive"),
    "a part is missing": (without("spans.jsonl"), "“spans.jsonl” is missing"),
    "no manifest": (without("manifest.json"), "“manifest.json” is missing"),
    "a newer version": (manifest("version", 2), "version 2, and 1 is read here"),
    "another format": (manifest("format", "something"), "no archive of a project"),
    "a language nobody knows": (manifest("project.language", "xx"), "not known here"),
    "no name": (manifest("project.name", " "), "no name"),
    "a name that is too long": (manifest("project.name", "x" * 500), "name cannot be kept"),
    "a line that is no JSON": (
        lambda f: f.update({"texts.jsonl": b"{\n"}),
        "texts.jsonl, line 1: this is no JSON",
    ),
    "deep JSON": (lambda f: f.update({"texts.jsonl": b"[" * 100_000 + b"\n"}), "line 1: this is no JSON"),
    "a line that is a list": (lambda f: f.update({"rules.jsonl": b"[]\n"}), "a line is an object"),
    "a member too many": (put("rules.jsonl", "colour", "red"), "“colour” is unknown"),
    "a member too few": (lines("rules.jsonl", lambda rows: rows[0].pop("name")), "“name” is missing"),
    "a number that is a text": (put("texts.jsonl", "position", "1"), "“position” cannot be"),
    "a number that is too large": (put("texts.jsonl", "position", 2**40), "“position” cannot be"),
    "a truth that is a number": (put("lists.jsonl", "on", 1), "“on” cannot be"),
    "no value": (put("texts.jsonl", "title", None), "“title” is missing"),
    "a time without a zone": (
        put("texts.jsonl", "created_at", "2026-01-01T00:00:00"),
        "“created_at” cannot be",
    ),
    "NUL in a body": (put("texts.jsonl", "body", "a\0b"), "“body” cannot be"),
    "half a surrogate pair": (put("texts.jsonl", "title", "\ud800"), "“title” cannot be"),
    "NUL in JSON": (put("records.jsonl", "missing", ["\0"]), "“missing” cannot be"),
    "a split nobody knows": (put("texts.jsonl", "split", "exam"), "a split is one of"),
    "a sentence beyond its text": (put("sentences.jsonl", "end", 10**6), "does not lie in its text"),
    "sentences that overlap": (put("sentences.jsonl", "start", 0, 1), "does not lie in its text"),
    "a span beyond its sentence": (put("spans.jsonl", "end", 10**6), "does not lie in its sentence"),
    "a text that is not there": (put("sentences.jsonl", "text_id", 4711), "there is no texts 4711"),
    "a later line as reference": (put("annotation.jsonl", "layer_id", 99), "there is no layers 99"),
    "a truth as reference": (put("annotation.jsonl", "layer_id", True), "there is no layers True"),
    "two layers of gold": (put("layers.jsonl", "kind", "gold", 1), "contradict each other"),
    "no layer of gold": (put("layers.jsonl", "kind", "imported"), "one layer of gold, not 0"),
    "two types of one code": (put("types.jsonl", "code", "VES", 1), "contradict each other"),
    "a code that is none": (put("types.jsonl", "code", "no code"), "2 to 4 capital letters"),
    "the same text twice": (lines("texts.jsonl", lambda rows: rows.append(rows[0])), "contradict each other"),
    "a state nobody knows": (put("annotation.jsonl", "state", "perhaps"), "a state is one of"),
    "a log that says nothing": (put("log.jsonl", "before", {}), "a state of the log"),
    "a job that goes on": (put("jobs.jsonl", "state", "running"), "a job has ended as"),
    "a tagger that is elsewhere": (put("trainings.jsonl", "model", "../model"), "is not in the archive"),
    "a tagger that is none": (
        lambda f: f.update({name: b"URDATAGG" + bytes(90) for name in f if name.startswith("taggers/")}),
        "trainings.jsonl, line 1: This is not a tagger",
    ),
    "somebody without a name": (put("people.jsonl", "name", ""), "people.jsonl, line 1"),
    "a type that is its own parent": (
        lines("type_links.jsonl", lambda rows: rows.append({"type": 1, "parent": 1, "into": None})),
        "in a circle",
    ),
    "types in a circle": (
        lines(
            "type_links.jsonl",
            lambda rows: rows.extend(
                [{"type": 1, "parent": 2, "into": None}, {"type": 2, "parent": 1, "into": None}]
            ),
        ),
        "in a circle",
    ),
}


@pytest.fixture(scope="session")
def sample(demo_template: str) -> dict[str, Files]:
    """The files of the full archive; filled by the first test that asks for them."""
    assert demo_template
    return {}


@pytest.fixture
def files(sample: dict[str, Files], request: pytest.FixtureRequest) -> Files:
    if "full" not in sample:
        full: Api = request.getfixturevalue("full")
        sample["full"] = unpacked(exported(full.settings))
    return dict(sample["full"])


@pytest.mark.parametrize("name", HOSTILE)
def test_hostile_archives_are_refused_whole_with_the_reason(
    settings: Settings, files: Files, name: str
) -> None:
    change, words = HOSTILE[name]
    change(files)
    hashes = "manifest.json" in files
    before = projects(settings)
    with pytest.raises(BadFile, match=r".") as caught:
        imported(settings, packed(files, hashes=hashes))
    assert words in caught.value.message
    assert projects(settings) == before


def test_a_wrong_hash_is_noticed(settings: Settings, files: Files) -> None:
    files["rules.jsonl"] += b" \n"
    with pytest.raises(BadFile, match="its hash differs"):
        imported(settings, packed(files, hashes=False))


def test_files_are_bounded(settings: Settings, files: Files, monkeypatch: pytest.MonkeyPatch) -> None:
    bomb = dict(files)
    bomb["rules.jsonl"] = b" " * 20_000_000
    with pytest.raises(BadFile, match="packed closer than any text"):
        imported(settings, packed(bomb))
    monkeypatch.setattr(container, "MOST_BYTES", 1000)
    with pytest.raises(BadFile, match="it may have 1000"):
        imported(settings, packed(files))
    monkeypatch.setattr(container, "MOST_FILES", 5)
    with pytest.raises(BadFile, match="it may have 5"):
        imported(settings, packed(files))


def test_an_entry_that_lies_about_its_length_is_refused(settings: Settings, files: Files) -> None:
    archive = bytearray(packed(files))
    name = b"texts.jsonl"
    # In the central directory: the uncompressed length lies 22 bytes before the name.
    at = archive.rindex(name)
    archive[at - 22 : at - 18] = (10).to_bytes(4, "little")
    with pytest.raises(BadFile):
        imported(settings, bytes(archive))


def test_a_file_twice_is_refused(settings: Settings, files: Files) -> None:
    out = io.BytesIO(packed(files))
    with zipfile.ZipFile(out, "a") as file, pytest.warns(UserWarning, match="Duplicate name"):
        file.writestr("rules.jsonl", b"")
    with pytest.raises(BadFile, match="a file twice"):
        imported(settings, out.getvalue())


@hypothesis_settings(
    max_examples=60, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture]
)
@given(data=st.data())
def test_mutated_archives_never_do_more_than_be_refused(
    settings: Settings, files: Files, data: st.DataObject
) -> None:
    archive = bytearray(packed(files))
    for _ in range(data.draw(st.integers(1, 6))):
        archive[data.draw(st.integers(0, len(archive) - 1))] = data.draw(st.integers(0, 255))
    cut = data.draw(st.one_of(st.none(), st.integers(0, len(archive))))
    # Whatever else is raised fails the test.
    with suppress(BadFile):
        imported(settings, bytes(archive[:cut]))
