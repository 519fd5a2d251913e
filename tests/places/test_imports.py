"""Imports: files are looked into by a plan before anything is kept, and are kept whole or not at all."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator
from typing import Any

import pytest

from conftest import Api
from importing import begun, kept, lines, looked
from readers.samples import SHAPES, packed
from readers.serving import Served
from urdaten.demo.site import build_site
from urdaten.errors import BadInput
from urdaten.places.intake import acts, coming, jobs
from urdaten.platform.database import transaction
from urdaten.platform.jobs import stop_job


def test_a_table_is_seen_first_and_then_kept(api: Api) -> None:
    data = (SHAPES / "remarks.csv").read_bytes()
    found = looked(api, {"remarks.csv": data})
    seen = found["looked"]
    assert (seen["texts"], seen["refused"], seen["holds"]) == (200, 0, True)
    assert len(seen["sample"]) == 10
    assert [c["role"] for c in seen["files"][0]["columns"]] == ["id", "date", "meta", "body", "meta"]
    assert api.get("/texts/count")["total"] == 0
    # Another plan: what was found does not hold any more.
    changed = api.put(f"/imports/{found['id']}/plan", {"roles": {"Desk": "group"}, "split": "train"})
    assert not changed["looked"]["holds"]
    api.post(f"/imports/{found['id']}/keep", expect=202)
    api.run_jobs()
    ended = api.get(f"/imports/{found['id']}")
    assert (ended["state"], ended["report"]["texts"], ended["work"]["state"]) == ("kept", 200, "done")
    page = api.get("/texts", limit=3)
    assert api.get("/texts/count") == {"total": 200, "found": 200}
    first = page["texts"][0]
    assert (first["title"], first["group"], first["split"]) == (
        "0015 wind SW 5, vis. good.",
        "night log",
        "train",
    )
    assert first["dated"] == "2026-07-06"
    shown = api.get(f"/texts/{first['id']}")
    assert (shown["source"], shown["place"], shown["meta"]) == ("remarks.csv", "line 2", {"No.": "1"})
    # What has been kept is not kept again.
    assert api.post(f"/imports/{found['id']}/keep", expect=409)


def test_what_is_here_already_and_what_comes_twice_is_not_kept_again(api: Api) -> None:
    files = {"a.txt": b"Ketta sails at noon from the Spit.", "b.txt": b"Ketta sails at noon from the Spit."}
    ended = kept(api, files)
    assert (ended["report"]["texts"], ended["report"]["twice"]) == (1, 1)
    again = looked(api, {**files, "c.txt": b"KETTA sails at  noon from the Spit."})["looked"]
    assert (again["same"], again["texts"], again["near"]) == (2, 1, 1)
    (alike,) = again["alike"]
    assert (alike["source"], alike["other"], alike["in_project"], alike["share"]) == ("c.txt", "a", True, 1.0)
    ended = kept(
        api, {"c.txt": b"KETTA sails at  noon from the Spit.", "d.txt": b"She does not."}, near="leave out"
    )
    assert (ended["report"]["texts"], ended["report"]["refused"]) == (1, 1)
    answer = api.request("GET", f"/api/projects/tessmar/imports/{ended['id']}/refusals")
    rows = list(csv.DictReader(io.StringIO(answer.text)))
    assert [(row["source"], row["content"]) for row in rows] == [
        ("c.txt", "KETTA sails at  noon from the Spit.")
    ]
    assert "nearly the same as “a”" in rows[0]["why"]


def test_what_no_database_takes_is_left_out_of_what_is_said(api: Api) -> None:
    rows = lines(
        {"text": "Ketta sails.", "title": "a\0b", "more\0": "c\0d"}, {"text": "a\0b"}, {"text": "", "x": "\0"}
    )
    seen = looked(api, {"a.jsonl": rows})["looked"]
    assert (seen["texts"], seen["refused"]) == (1, 2)
    ended = kept(api, {"a.jsonl": rows})
    assert (ended["report"]["texts"], ended["report"]["refused"]) == (1, 2)
    (head,) = api.get("/texts")["texts"]
    assert (head["title"], api.get(f"/texts/{head['id']}")["meta"]) == ("ab", {"more": "cd"})


def test_refused_rows_can_be_had_with_what_stood_in_them(api: Api) -> None:
    ended = kept(api, {"a.csv": b'id,text\n1,"good one"\n2,"never closed\n3,a third row here\n'})
    assert (ended["report"]["texts"], ended["report"]["refused"]) == (2, 1)
    answer = api.request("GET", f"/api/projects/tessmar/imports/{ended['id']}/refusals")
    assert answer.headers["content-disposition"].endswith('-refused.csv"')
    (row,) = csv.DictReader(io.StringIO(answer.text))
    assert (row["source"], row["place"], row["content"]) == ("a.csv", "line 3", '2,"never closed')


def test_an_import_of_nothing_fails_and_keeps_nothing(api: Api) -> None:
    made = begun(api, {"a.pdf": b"%PDF-1.7 nothing"})
    api.post(f"/imports/{made['id']}/keep", expect=202)
    api.run_jobs()
    ended = api.get(f"/imports/{made['id']}")
    assert (ended["state"], ended["work"]["state"]) == ("open", "failed")
    assert "No text is left" in ended["work"]["message"]
    empty = api.post("/imports")
    assert "no files yet" in api.post(f"/imports/{empty['id']}/look", expect=422)["detail"]


def test_files_of_all_kinds_are_seen_together(api: Api) -> None:
    names = (
        "text/latin-1.txt",
        "mail/28-4.eml",
        "pdf/movements.pdf",
        "site/week-39.html",
        "damaged/cut-off.pdf",
    )
    seen = looked(api, {name: (SHAPES / name).read_bytes() for name in names})["looked"]
    files = {file["name"]: file for file in seen["files"]}
    assert {name: file["kind"] for name, file in files.items()} == {
        "text/latin-1.txt": "txt",
        "mail/28-4.eml": "eml",
        "pdf/movements.pdf": "pdf",
        "site/week-39.html": "html",
        "damaged/cut-off.pdf": "",
    }
    # How it would read in others is shown for what was guessed.
    readings = {one["encoding"]: one["words"] for one in files["text/latin-1.txt"]["readings"]}
    assert readings["cp1252"].startswith("Café")
    assert "utf-8" not in readings
    mail = next(one for one in seen["sample"] if one["source"] == "mail/28-4.eml")
    first = mail["aside"][0]
    assert mail["body"][first["start"] : first["end"]].startswith("> your invoice")


def test_files_with_other_columns_are_read_by_one_plan(api: Api) -> None:
    files = {
        "a.csv": b"Remark,Desk\nKetta sails at noon.,night\n",
        "b.csv": b"Words;Tide\nShe does not sail.;low\n",
    }
    seen = looked(api, files, roles={"Desk": "group", "Nowhere": "title"})["looked"]
    assert {c["name"]: c["role"] for c in seen["columns"]} == {
        "Remark": "body",
        "Desk": "group",
        "Words": "body",
        "Tide": "meta",
    }
    assert seen["unknown"] == ["Nowhere"]
    assert (seen["texts"], seen["refused"]) == (2, 0)


@pytest.fixture(scope="module")
def site() -> Iterator[str]:
    served = Served(build_site())
    yield served.address
    served.stop()


def test_a_web_site_is_fetched_seen_and_kept(api: Api, site: str, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("URDATEN_FETCH_LOCAL", "1")
    made = api.post("/imports")
    wish = {"start": f"{site}/index.html", "depth": 1, "pages": 30, "per_second": 20}
    api.post(f"/imports/{made['id']}/site", wish, expect=202)
    api.run_jobs()
    seen = api.get(f"/imports/{made['id']}")
    assert seen["work"]["state"] == "done", seen["work"]
    assert seen["looked"]["kinds"] == {"html": seen["looked"]["texts"]}
    assert seen["looked"]["texts"] > 20
    assert any("status 404" in one["why"] for one in seen["looked"]["refusals"])
    api.post(f"/imports/{made['id']}/keep", expect=202)
    api.run_jobs()
    week = next(text for text in api.get("/texts")["texts"] if text["title"] == "Bulletins of week 39")
    shown = api.get(f"/texts/{week['id']}")
    assert shown["source"] == f"{site}/week-39.html"
    assert "Light dues are due" not in shown["body"]
    answer = api.request("GET", f"/api/projects/tessmar/imports/{made['id']}/refusals")
    assert "/lost.html" in answer.text
    # What was left out on the way is told with what was refused.
    report = api.get(f"/imports/{made['id']}")["report"]
    assert report["refused"] == len(list(csv.DictReader(io.StringIO(answer.text))))


def test_a_site_on_this_machine_is_not_fetched_unless_it_is_allowed(api: Api, site: str) -> None:
    made = api.post("/imports")
    api.post(f"/imports/{made['id']}/site", {"start": site}, expect=202)
    # Another plan does not stop it: its pages are still to come.
    api.put(f"/imports/{made['id']}/plan", {"split": "dev"}, 409)
    api.run_jobs()
    work = api.get(f"/imports/{made['id']}")["work"]
    assert (work["state"], "private network" in work["message"]) == ("failed", True)
    assert api.post(f"/imports/{made['id']}/site", {"start": "nowhere"}, expect=422)["field"] == "start"


@pytest.mark.parametrize("looked_at", [60, 1000], ids=["kept while it is read", "read first"])
def test_a_stopped_import_keeps_nothing(api: Api, monkeypatch: pytest.MonkeyPatch, looked_at: int) -> None:
    monkeypatch.setattr(coming, "LOOKED_AT", looked_at)
    monkeypatch.setattr(coming, "QUICK_PER_S", 0)
    made = begun(api, {"remarks.csv": (SHAPES / "remarks.csv").read_bytes()})
    job = api.post(f"/imports/{made['id']}/keep", expect=202)["work"]
    monkeypatch.setattr(coming, "PORTION", 50)
    monkeypatch.setattr(jobs, "_TELL_S", 0.0)
    adding = acts.Keeping.add
    seen = []

    def then_stopped(self: Any, portion: Any) -> None:
        adding(self, portion)
        seen.append(len(portion))
        if len(seen) == 2:
            with transaction(api.settings.database_url) as db:
                stop_job(db, 1, job["id"])

    monkeypatch.setattr(jobs, "_stop_look", lambda context: context.should_stop)
    monkeypatch.setattr(acts.Keeping, "add", then_stopped)
    api.run_jobs()
    assert seen == [50, 50]
    assert api.get(f"/imports/{made['id']}")["work"]["state"] == "stopped"
    assert api.get("/texts/count")["total"] == 0
    # And can be begun again.
    monkeypatch.setattr(acts.Keeping, "add", adding)
    api.post(f"/imports/{made['id']}/keep", expect=202)
    api.run_jobs()
    assert api.get("/texts/count")["total"] == 200


@pytest.mark.parametrize("quick", [0, 1e9], ids=["kept while it is read", "read first"])
def test_texts_that_come_quickly_are_kept_while_the_rest_is_read(
    api: Api, monkeypatch: pytest.MonkeyPatch, quick: float
) -> None:
    monkeypatch.setattr(coming, "PORTION", 30)
    monkeypatch.setattr(coming, "LOOKED_AT", 60)
    monkeypatch.setattr(coming, "QUICK_PER_S", quick)
    read: list[int] = []
    taking, adding = acts.Deciding.take, acts.Keeping.add
    read_when_added: list[int] = []

    def take(self: Any, document: Any) -> Any:
        read.append(1)
        return taking(self, document)

    def add(self: Any, portion: Any) -> None:
        read_when_added.append(len(read))
        adding(self, portion)

    monkeypatch.setattr(acts.Deciding, "take", take)
    monkeypatch.setattr(acts.Keeping, "add", add)
    rows = [{"text": f"Ketta sails on day {number}."} for number in range(300)]
    report = kept(api, {"a.jsonl": lines(*rows, {"text": ""}, rows[0])})["report"]
    assert (report["texts"], report["refused"], report["twice"]) == (300, 2, 1)
    assert (read_when_added[0] < 200) == (quick == 0)
    bodies = [api.get(f"/texts/{head['id']}")["body"] for head in api.get("/texts", limit=200)["texts"]]
    assert bodies == [row["text"] for row in rows[:200]]


def test_a_file_that_fails_while_its_texts_are_kept_leaves_none(
    api: Api, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(coming, "PORTION", 30)
    monkeypatch.setattr(coming, "LOOKED_AT", 60)
    monkeypatch.setattr(coming, "QUICK_PER_S", 0)
    taking = acts.Deciding.take

    def take(self: Any, document: Any) -> Any:
        if document.body.endswith("day 200."):
            raise BadInput("No more of this.", field="files")
        return taking(self, document)

    monkeypatch.setattr(acts.Deciding, "take", take)
    rows = [{"text": f"Ketta sails on day {number}."} for number in range(300)]
    ended = kept(api, {"a.jsonl": lines(*rows)})
    assert (ended["state"], ended["work"]["state"]) == ("open", "failed")
    assert "No more of this." in ended["work"]["message"]
    assert api.get("/texts/count")["total"] == 0


def test_an_import_is_changed_while_it_is_looked_into_and_not_while_it_is_kept(api: Api) -> None:
    made = begun(api, {"a.txt": b"Ketta sails."})
    api.post(f"/imports/{made['id']}/look", expect=202)
    # Whoever looks is stopped by another plan, and by another look.
    api.put(f"/imports/{made['id']}/plan", {"split": "dev"})
    api.post(f"/imports/{made['id']}/look", expect=202)
    api.post(f"/imports/{made['id']}/keep", expect=202)
    # While it waits to be kept nobody changes it.
    assert "being worked on" in api.put(f"/imports/{made['id']}/plan", {"split": "test"}, 409)["detail"]
    assert api.delete(f"/imports/{made['id']}", 409)
    assert [job["state"] for job in api.get("/jobs")] == ["waiting", "stopped", "stopped"]
    api.run_jobs()
    assert api.get("/texts")["texts"][0]["split"] == "dev"
    api.delete(f"/imports/{made['id']}")
    api.get(f"/imports/{made['id']}", 404)


def test_another_project_knows_nothing_of_it(api: Api) -> None:
    made = begun(api, {"a.txt": b"Ketta sails."})
    other = api.request("POST", "/api/projects", json={"name": "Other", "language": "en"}).json()
    for method, path in (
        ("GET", ""),
        ("DELETE", ""),
        ("POST", "/look"),
        ("POST", "/keep"),
        ("GET", "/refusals"),
    ):
        answer = api.request(method, f"/api/projects/{other['slug']}/imports/{made['id']}{path}")
        assert answer.status_code == 404, (method, path)


def test_a_packed_folder_is_grouped_by_its_folders(api: Api) -> None:
    data = packed(
        **{"june/a.txt": b"One of June.", "june/b.txt": b"Two of June.", "july/c.txt": b"One of July."}
    )
    kept(api, {"all.zip": data}, group_by="folder")
    assert [text["group"] for text in api.get("/texts")["texts"]] == [
        "all.zip/june",
        "all.zip/june",
        "all.zip/july",
    ]


def test_too_large_a_file_is_refused(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    made = api.post("/imports")
    monkeypatch.setattr("urdaten.places.intake.routes.MOST_BYTES", 10)
    answer = api.request("POST", f"/api/projects/tessmar/imports/{made['id']}/file?name=a", content=b"x" * 11)
    assert answer.status_code == 413
    assert api.get(f"/imports/{made['id']}")["files"] == 0
