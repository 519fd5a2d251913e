"""The corpus taken out, in every format, and read back."""

from __future__ import annotations

import csv
import io
from collections import Counter
from pathlib import Path
from typing import Any

import pytest
from typer.testing import CliRunner

from acting import act
from conftest import Api
from urdaten.cli.command import app
from urdaten.core.formats import (
    CorpusText,
    read_conllu,
    read_corpus,
    read_label_columns,
    read_web_annotations,
)

VES = {"code": "VES", "name": "vessel", "key": "v", "hue": 1}
PRT = {"code": "PRT", "name": "port", "key": "p", "hue": 2}
BODY = "Amber Quay of Lindmoor sails.\nNobody has read this. The Pellin is in."
READERS = {
    "jsonl": read_corpus,
    "bio": read_label_columns,
    "bilou": read_label_columns,
    "conllu": read_conllu,
    "annotations": read_web_annotations,
}


def taken(api: Api, **wish: Any) -> str:
    answer = api.request("GET", "/api/projects/tessmar/corpus", params=wish)
    assert answer.status_code == 200, answer.text
    return answer.text


def read(format_: str, file: str) -> list[CorpusText]:
    return list(READERS[format_](io.StringIO(file, newline="\n")))


@pytest.fixture
def port(api: Api) -> Api:
    """Three sentences, of which the first and the last are signed."""
    for one in (VES, PRT):
        api.post("/types", one)
    api.post(
        "/texts", {"title": "33/1", "body": BODY, "group": "week-33", "split": "train", "dated": "2026-08-10"}
    )
    items = api.get("/desk/queue")["items"]
    mark(api, items[0]["id"], "sign", ("Amber Quay", "VES"), ("Lindmoor", "PRT"))
    mark(api, items[1]["id"], "mark", ("Nobody", "VES"))
    mark(api, items[2]["id"], "sign", ("Pellin", "VES"))
    return api


def mark(api: Api, sentence: int, kind: str, *marked: tuple[str, str]) -> None:
    spans = [
        {"start": BODY.index(words), "end": BODY.index(words) + len(words), "type": code}
        for words, code in marked
    ]
    api.put(f"/desk/sentences/{sentence}", act(kind, 0, spans))


@pytest.mark.parametrize("format_", READERS)
def test_what_is_marked_comes_out_and_is_read_back(port: Api, format_: str) -> None:
    (text,) = read(format_, taken(port, format=format_))
    assert (text.body, text.title, text.group, text.split) == (BODY, "33/1", "week-33", "train")
    assert str(text.dated) == "2026-08-10"
    assert [(BODY[s.start : s.end], s.type) for s in text.spans] == [
        ("Amber Quay", "VES"),
        ("Lindmoor", "PRT"),
        ("Nobody", "VES"),
        ("Pellin", "VES"),
    ]
    if format_ != "annotations":
        assert [s.signed for s in text.sentences] == [True, False, True]


@pytest.mark.parametrize("format_", READERS)
def test_the_demo_comes_out_whole_in_every_format(demo_api: Api, format_: str) -> None:
    first = read("jsonl", taken(demo_api, unsigned=True))
    told = read(format_, taken(demo_api, format=format_, unsigned=True))
    assert [(t.body, t.spans, t.group, t.split) for t in told] == [
        (t.body, t.spans, t.group, t.split) for t in first
    ]
    assert len(told) == demo_api.get("/figures")["texts"]
    kinds = Counter(span.type for text in told for span in text.spans)
    assert kinds == {t["code"]: t["spans"] for t in demo_api.get("/types")["types"] if t["spans"]}


def test_bare_columns_and_a_table_hold_signed_sentences_alone(port: Api) -> None:
    lines = taken(port, format="bilou", bare=True).splitlines()
    assert lines[:3] == ["Amber\tB-VES", "Quay\tL-VES", "of\tO"]
    assert not [line for line in lines if line.startswith(("#", "Nobody"))]
    (row,) = csv.DictReader(io.StringIO(taken(port, format="csv"), newline=""))
    assert (row["VES"], row["PRT"], row["text"]) == ("Amber Quay; Pellin", "Lindmoor", BODY)
    assert (row["title"], row["date"], row["split"]) == ("33/1", "2026-08-10", "train")


def test_texts_are_chosen_by_what_is_said_of_them(port: Api) -> None:
    port.post(
        "/texts", {"title": "34/1", "body": "Nothing is signed here.", "group": "week-34", "split": "dev"}
    )

    def count(**wish: Any) -> int:
        return len(read("jsonl", taken(port, **wish)))

    assert (count(), count(unsigned=True), count(unsigned=True, split="dev"), count(split="dev")) == (
        1,
        2,
        1,
        0,
    )
    assert (count(group="week-33"), count(group="none")) == (1, 0)
    assert (count(since="2026-08-10"), count(until="2026-08-10"), count(since="2026-08-11")) == (1, 1, 0)


def test_spans_within_each_other_stand_in_columns_of_their_own(port: Api) -> None:
    port.put("/types/overlap", {"overlap": "nested"}, 204)
    item = port.get("/desk/queue")["items"][0]
    now = port.get(f"/desk/sentences/{item['id']}")["annotation"]
    spans = [{"start": 0, "end": 22, "type": "VES"}, {"start": 14, "end": 22, "type": "PRT"}]
    port.put(f"/desk/sentences/{item['id']}", act("sign", now["version"], spans))
    file = taken(port, format="bio")
    assert "Lindmoor\tI-VES\tB-PRT\n" in file
    (text,) = read_label_columns(io.StringIO(file), [1, 2])
    assert [(s.start, s.end, s.type) for s in text.spans[:2]] == [(0, 22, "VES"), (14, 22, "PRT")]
    (text,) = read("conllu", taken(port, format="conllu"))
    assert [(s.start, s.end, s.type) for s in text.spans[:2]] == [(0, 22, "VES"), (14, 22, "PRT")]


def test_folds_keep_groups_whole(demo_api: Api) -> None:
    dealt = read("jsonl", taken(demo_api, folds=3, seed=4))
    assert {text.fold for text in dealt} == {1, 2, 3}
    groups = {(text.group, text.fold) for text in dealt if text.group}
    assert len(groups) == len({group for group, _ in groups})
    assert [text.fold for text in read("bio", taken(demo_api, format="bio", folds=3, seed=4))] == [
        text.fold for text in dealt
    ]


def test_what_cannot_be_written_is_refused(port: Api) -> None:
    for wish, status in (
        ({"format": "docx"}, 422),
        ({"folds": 1}, 422),
        # A slip of the fingers is no empty file.
        ({"split": "tset"}, 422),
        ({"folds": 101}, 422),
        ({"layer": 99_999}, 404),
        ({"since": "August"}, 422),
    ):
        for path in ("/corpus", "/corpus/preview"):
            port.get(path, expect=status, **wish)


def test_the_preview_is_how_the_file_begins(demo_api: Api) -> None:
    shown = demo_api.get("/corpus/preview", format="bio")
    assert shown["more"]
    assert shown["lines"][1:] == taken(demo_api, format="bio").splitlines()[1 : len(shown["lines"])]
    assert all(len(line) <= 401 for line in shown["lines"])
    assert demo_api.get("/corpus/preview", group="none") == {"lines": [], "more": False}


def test_the_command_writes_the_same(port: Api, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("URDATEN_DATABASE_URL", port.settings.database_url)
    file = tmp_path / "out.conllu"
    run = CliRunner().invoke(app, ["texts", "export", "tessmar", str(file), "--as", "conllu"])
    assert run.exit_code == 0, run.output
    assert file.read_text() == taken(port, format="conllu")
    assert [path.name for path in tmp_path.iterdir()] == ["out.conllu"]
    assert CliRunner().invoke(app, ["texts", "export", "tessmar"]).stdout == taken(port)
    refused = CliRunner().invoke(app, ["texts", "export", "tessmar", str(file), "--as", "docx"])
    assert refused.exit_code == 1
    assert file.read_text() == taken(port, format="conllu"), "what was there is left"
    assert "no layer" in str(
        CliRunner().invoke(app, ["texts", "export", "tessmar", "--layer", "Jo"]).exception
    )
