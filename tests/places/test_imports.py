"""Imports: files are looked into by a plan before anything is kept, and are kept whole or not at all."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from typer.testing import CliRunner

from acting import act
from conftest import Api
from importing import begun, kept, lines, looked
from readers.samples import SHAPES, packed
from readers.serving import Served
from urdaten.cli.command import app
from urdaten.demo.site import build_site
from urdaten.errors import BadFile, BadInput
from urdaten.places.intake import acts, coming, jobs
from urdaten.places.intake.plan import Plan, plan_from, plan_values, read_plan
from urdaten.places.texts.acts import whole_over
from urdaten.platform.database import transaction
from urdaten.platform.jobs import run_job, stop_job
from urdaten.readers import How

TYPES = (
    {"code": "VES", "name": "vessel", "key": "v", "hue": 1},
    {"code": "PRT", "name": "port", "key": "p", "hue": 2},
)
CORPUS = [
    {
        "text": "Amber Quay of Lindmoor sails. Nobody saw it.",
        "title": "one",
        "spans": [
            {"start": 0, "end": 10, "type": "ship"},
            {"start": 14, "end": 22, "type": "PRT"},
            {"start": 0, "end": 22, "type": "VES"},
            {"start": 30, "end": 36, "type": "other"},
        ],
        "sentences": [
            {"start": 0, "end": 29, "signed": True},
            {"start": 30, "end": 44, "signed": False},
        ],
    },
    {"text": "The Pellin is in.", "spans": [{"start": 4, "end": 10, "type": "vessel"}]},
]


@pytest.fixture
def typed(api: Api) -> Api:
    for one in TYPES:
        api.post("/types", one)
    return api


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


@pytest.mark.parametrize("spans", ["signed", "begun", "left out"])
def test_an_annotated_corpus_brings_its_spans(typed: Api, spans: str) -> None:
    seen = looked(typed, {"c.jsonl": lines(*CORPUS)})["looked"]
    assert {one["label"]: one["code"] for one in seen["labels"]} == {
        "ship": "",
        "PRT": "PRT",
        "VES": "VES",
        "vessel": "VES",
        "other": "",
    }
    ended = kept(typed, {"c.jsonl": lines(*CORPUS)}, spans=spans, labels={"ship": "VES", "other": ""})
    report = ended["report"]
    queue = typed.get("/desk/queue")["items"]
    states = [(item["state"], item["spans"]) for item in queue]
    if spans == "left out":
        assert report["spans"] == 0
        assert states == [("untouched", 0)] * 3
        return
    # The longest of those that overlap stands; nobody stands for what the corpus has not signed.
    assert report["left_out"] == {
        "of types that are not here": 1,
        "that overlap others, which this scheme does not let stand": 2,
    }
    assert report["spans"] == 2
    signed = "signed" if spans == "signed" else "draft"
    assert states == [(signed, 1), ("untouched", 0), ("draft", 1)]
    # Without sentences of its own nobody signed anything.
    first = typed.get(f"/desk/sentences/{queue[0]['id']}")
    assert [(s["start"], s["end"], s["type"]) for s in first["annotation"]["spans"]] == [(0, 22, "VES")]


def test_types_are_added_for_labels_that_have_none(typed: Api) -> None:
    made = begun(typed, {"c.jsonl": lines(*CORPUS)}, labels={"PRT": "PRT"}, spans="signed")
    shown = typed.post(f"/imports/{made['id']}/types", {"labels": ["ship", "other"]})
    assert shown["plan"]["labels"] == {"PRT": "PRT", "ship": "SHIP", "other": "OTH"}
    types = {one["code"]: one for one in typed.get("/types")["types"]}
    assert [(code, one["name"], one["key"]) for code, one in types.items()][2:] == [
        ("SHIP", "ship", "s"),
        ("OTH", "other", "o"),
    ]
    assert len({one["hue"] for one in types.values()}) == 4
    # As one version of the scheme.
    assert len(typed.get("/types/versions")[0]["step"]) == 2
    again = typed.post(f"/imports/{made['id']}/types", {"labels": ["ship"]}, expect=422)
    assert again["field"] == "labels"
    typed.post(f"/imports/{made['id']}/keep", expect=202)
    typed.run_jobs()
    assert typed.get(f"/imports/{made['id']}")["report"]["spans"] == 3


def test_a_hundred_labels_become_types_of_which_the_last_have_no_key(api: Api) -> None:
    labels = [f"LABEL-{number}" for number in range(110)]
    body = " ".join(f"w{number}" for number in range(110))
    starts = [body.index(f"w{number} ") if number < 109 else body.rindex("w") for number in range(110)]
    row = {
        "text": body,
        "spans": [
            {"start": start, "end": start + len(f"w{number}"), "type": label}
            for number, (start, label) in enumerate(zip(starts, labels, strict=True))
        ],
    }
    made = begun(api, {"c.jsonl": lines(row)})
    api.post(f"/imports/{made['id']}/types", {"labels": labels})
    types = api.get("/types")["types"]
    assert len({one["code"] for one in types}) == 110
    assert sorted(one["key"] for one in types if one["key"]) == sorted("abcdefghijklmnopqrstuvwxyz0123456789")
    api.post(f"/imports/{made['id']}/keep", expect=202)
    api.run_jobs()
    assert api.get(f"/imports/{made['id']}")["report"]["spans"] == 110


def test_spans_can_stand_in_a_layer_of_their_own(typed: Api) -> None:
    kept(typed, {"c.jsonl": lines(*CORPUS)}, spans="signed", layer="from elsewhere")
    assert [item["state"] for item in typed.get("/desk/queue")["items"]] == ["untouched"] * 3
    layers = {layer["name"]: layer for layer in typed.get("/desk/layers")}
    assert layers["from elsewhere"]["kind"] == "imported"
    answer = typed.request(
        "GET",
        "/api/projects/tessmar/corpus",
        params={"layer": layers["from elsewhere"]["id"], "unsigned": "true"},
    )
    rows = [json.loads(line) for line in answer.text.splitlines()]
    assert [len(row["spans"]) for row in rows] == [1, 1]


def test_a_corpus_that_was_taken_out_comes_back_the_same(typed: Api) -> None:
    typed.post(
        "/texts", {"title": "33/1", "body": "Amber Quay sails. Pellin stays.", "group": "w", "split": "train"}
    )
    items = typed.get("/desk/queue")["items"]
    signing = act("sign", 0, [{"start": 0, "end": 10, "type": "VES"}])
    typed.put(f"/desk/sentences/{items[0]['id']}", signing)
    for format_ in ("jsonl", "bio", "conllu"):
        file = typed.request("GET", "/api/projects/tessmar/corpus", params={"format": format_}).content
        other = typed.request(
            "POST", "/api/projects", json={"name": f"Copy {format_}", "language": "en"}
        ).json()
        there = OtherProject(typed, other["slug"])
        for one in TYPES:
            there.post("/types", one)
        ended = kept(there, {f"corpus.{format_}": file}, spans="signed")  # type: ignore[arg-type] # as the other
        assert (ended["report"]["signed"], ended["report"]["spans"]) == (1, 1), format_
        again = there.request("GET", f"/api/projects/{other['slug']}/corpus", params={"format": "jsonl"}).text
        (one,) = [json.loads(line) for line in again.splitlines()]
        assert one["spans"] == [{"start": 0, "end": 10, "type": "VES"}]
        assert [s["signed"] for s in one["sentences"]] == [True, False]


class OtherProject:
    """The same client in another project."""

    def __init__(self, api: Api, slug: str) -> None:
        self._api, self._slug = api, slug

    def request(self, method: str, path: str, **more: Any) -> Any:
        return self._api.request(method, path.replace("/projects/tessmar", f"/projects/{self._slug}"), **more)

    def _ask(self, method: str, path: str, expect: int, **more: Any) -> Any:
        answer = self.request(method, f"/api/projects/{self._slug}{path}", **more)
        assert answer.status_code == expect, answer.text
        return answer.json()

    def get(self, path: str, expect: int = 200, **params: Any) -> Any:
        return self._ask("GET", path, expect, params=params)

    def post(self, path: str, body: Any = None, expect: int = 201) -> Any:
        return self._ask("POST", path, expect, json=body)

    def put(self, path: str, body: Any = None, expect: int = 200) -> Any:
        return self._ask("PUT", path, expect, json=body)

    def run_jobs(self) -> None:
        for job in reversed(self.get("/jobs")):
            if job["state"] == "waiting":
                run_job(self._api.settings.database_url, job["id"])


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


def test_the_command_reads_a_site(site: str, tmp_path: Path) -> None:
    out = tmp_path / "out.jsonl"
    ended = CliRunner().invoke(
        app, ["texts", "read", f"{site}/tariff.html", "--depth", "0", "--to", str(out)]
    )
    assert ended.exit_code == 0, ended.output
    (row,) = [json.loads(line) for line in out.read_text().splitlines()]
    assert (row["title"], row["meta"]["source"]) == ("Tariff", f"{site}/tariff.html")


def test_a_label_for_a_type_that_is_not_there_fails(typed: Api) -> None:
    made = begun(typed, {"c.jsonl": lines(*CORPUS)}, labels={"ship": "SHP"})
    typed.post(f"/imports/{made['id']}/look", expect=202)
    typed.run_jobs()
    work = typed.get(f"/imports/{made['id']}")["work"]
    assert (work["state"], "no such type" in work["message"]) == ("failed", True)


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


@pytest.mark.parametrize(
    ("sentences", "spans", "made"),
    [
        ([(0, 5), (6, 9)], [], [(0, 5), (6, 9)]),
        ([(0, 5), (6, 9)], [(1, 3), (6, 9)], [(0, 5), (6, 9)]),
        ([(0, 5), (6, 9)], [(4, 7)], [(0, 9)]),
        ([(0, 5), (5, 9)], [(3, 5), (5, 6)], [(0, 5), (5, 9)]),
        ([(0, 5), (9, 12)], [(6, 8)], [(0, 5), (6, 8), (9, 12)]),
        ([(0, 2), (3, 4), (5, 6)], [(1, 6)], [(0, 6)]),
    ],
)
def test_sentences_are_joined_where_a_span_reaches_over_them(
    sentences: list[tuple[int, int]], spans: list[tuple[int, int]], made: list[tuple[int, int]]
) -> None:
    assert whole_over(sentences, spans) == made


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
