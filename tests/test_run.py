"""`urdaten run`: texts in, spans or records out, however they are written."""

from __future__ import annotations

import csv
import io
import json
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest
from pyarrow import parquet

from core.bundles import TEXTS, small_bundle
from urdaten.cli.run import run
from urdaten.core.bundle import Runner, to_bytes
from urdaten.errors import BadFile, BadInput, NotFound

SPANS = [
    [("Pellin", "VES", "tagger"), ("Varnby", "LOC", "tagger"), ("berth 3", "BTH", "rules")],
    [("Haldis", "VES", "tagger"), ("Lindmoor", "LOC", "tagger")],
]


@pytest.fixture(scope="module")
def bundle(tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("run") / "small.bundle"
    path.write_bytes(to_bytes(small_bundle()))
    return path


@pytest.fixture
def here(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    monkeypatch.chdir(tmp_path)
    return tmp_path


def asked(bundle: Path, capsys: pytest.CaptureFixture[str], *arguments: str) -> tuple[str, str]:
    assert run([str(bundle), *arguments]) == 0
    out = capsys.readouterr()
    return out.out, out.err


def spans(lines: str) -> list[list[tuple[str, str, str]]]:
    return [
        [(row["text"][s["start"] : s["end"]], s["type"], s["from"]) for s in row["spans"]]
        for row in map(json.loads, lines.splitlines())
    ]


def into(monkeypatch: pytest.MonkeyPatch, text: str) -> None:
    monkeypatch.setattr(sys, "stdin", io.StringIO(text))


def test_standard_input_is_paragraphs_or_json_lines(
    bundle: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    into(monkeypatch, "\n\n".join(TEXTS))
    assert spans(asked(bundle, capsys)[0]) == SPANS
    rows = [{"text": text, "id": f"t{k}", "group": "g", "meta": {"k": k}} for k, text in enumerate(TEXTS)]
    into(monkeypatch, "".join(json.dumps(row) + "\n" for row in rows))
    out, _ = asked(bundle, capsys)
    assert spans(out) == [SPANS[0], [], SPANS[1]]
    told = [json.loads(line) for line in out.splitlines()]
    assert [{name: row.get(name) for name in ("text", "id", "group", "meta")} for row in told] == rows
    into(monkeypatch, "\n".join(TEXTS))
    assert spans(asked(bundle, capsys, "--per", "line")[0]) == SPANS
    into(monkeypatch, "")
    assert asked(bundle, capsys) == ("", "")


def test_files_folders_and_a_column_of_a_table(
    bundle: Path, here: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    (here / "texts" / "more").mkdir(parents=True)
    (here / "texts" / "a.txt").write_text(TEXTS[0])
    (here / "texts" / "more" / "b.jsonl").write_text(json.dumps({"text": TEXTS[2]}))
    (here / "texts" / ".hidden").write_text("not a text")
    out, _ = asked(bundle, capsys, "texts")
    assert spans(out) == SPANS
    assert [json.loads(line)["source"] for line in out.splitlines()] == ["texts/a.txt", "texts/more/b.jsonl"]
    with (here / "t.csv").open("w", newline="") as file:
        csv.writer(file).writerows([["day", "body"], ["1", TEXTS[0]], ["2", TEXTS[2]]])
    out, _ = asked(bundle, capsys, "t.csv", "--column", "body")
    assert spans(out) == SPANS
    assert [json.loads(line)["meta"] for line in out.splitlines()] == [{"day": "1"}, {"day": "2"}]
    with pytest.raises(BadFile, match=r"t\.csv: There is no column “text”\. There are day, body\."):
        run([str(bundle), "t.csv", "--column", "text"])


def test_tables_and_parquet_have_a_row_for_each_span(
    bundle: Path, here: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    (here / "t.jsonl").write_text("".join(json.dumps({"text": t, "id": "=1"}) + "\n" for t in TEXTS))
    out, _ = asked(bundle, capsys, "t.jsonl", "--to", "csv", "--why")
    rows = list(csv.DictReader(io.StringIO(out)))
    assert [(row["text"], row["words"], row["type"]) for row in rows] == [
        (number, words, kind) for number, own in (("1", SPANS[0]), ("3", SPANS[1])) for words, kind, _ in own
    ]
    assert rows[2]["why"] == "rule “berth”"
    assert rows[0]["id"] == "'=1"
    assert 0 < float(rows[0]["probability"]) <= 1
    asked(bundle, capsys, "t.jsonl", "--out", "o.parquet")
    table = parquet.read_table(here / "o.parquet")
    assert [(r["text"], r["words"], r["from"]) for r in table.to_pylist()] == [
        (number, words, source) for number, own in ((1, SPANS[0]), (3, SPANS[1])) for words, _, source in own
    ]
    assert str(table.schema.field("start").type) == "int64"
    assert sorted(path.name for path in here.iterdir()) == ["o.parquet", "t.jsonl"]


def test_records_by_a_template(bundle: Path, here: Path, capsys: pytest.CaptureFixture[str]) -> None:
    (here / "t.txt").write_text(TEXTS[0])
    out, _ = asked(bundle, capsys, "t.txt", "--records", "call")
    assert [json.loads(line) for line in out.splitlines()] == [
        {"number": 1, "source": "t.txt", "fields": {"vessel": "Pellin", "from": "Varnby"}, "missing": []}
    ]
    out, _ = asked(bundle, capsys, "t.txt", "--records", "call", "--to", "csv")
    assert out.splitlines() == ["text,source,id,group,vessel,from", "1,t.txt,,,Pellin,Varnby"]
    asked(bundle, capsys, "t.txt", "--records", "call", "--out", "r.parquet")
    assert parquet.read_table(here / "r.parquet").to_pylist()[0]["vessel"] == "Pellin"
    with pytest.raises(NotFound, match="no record template"):
        run([str(bundle), "t.txt", "--records", "visit"])


def test_bad_lines_end_it_or_are_told_of(
    bundle: Path, here: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    (here / "t.jsonl").write_text(
        json.dumps({"text": TEXTS[2]}) + "\n{bad\n\n" + json.dumps({"text": TEXTS[0]})
    )
    with pytest.raises(BadFile, match=r"t\.jsonl: Line 2: not JSON"):
        run([str(bundle), "t.jsonl", "--out", "o.jsonl"])
    # What is not whole is not there.
    assert [path.name for path in here.iterdir()] == ["t.jsonl"]
    (here / "b.csv").write_text('body\n"Haldis waits."\na,b\n')
    (here / "c.txt").write_bytes(b"\xff\xfe")
    out, err = asked(
        bundle, capsys, "t.jsonl", "b.csv", "c.txt", "none.txt", "--column", "body", "--keep-good"
    )
    assert [own[:1] for own in spans(out)] == [SPANS[1][:1], SPANS[0][:1], []]
    assert err.splitlines() == [
        "passed over: t.jsonl: Line 2: not JSON: Expecting property name enclosed in double quotes at character 2.",
        "passed over: b.csv: Line 3: it has 2 cells, and the first line has 1.",
        "passed over: c.txt is not UTF-8 (byte 0).",
        "passed over: none.txt cannot be read: No such file or directory.",
    ]


@pytest.mark.parametrize(
    ("arguments", "said"),
    [
        (["--to", "xml"], "written as jsonl, csv, parquet, not 'xml'"),
        (["--to", "parquet"], "Parquet goes into a file"),
        (["--as", "pdf"], "read as plain, jsonl, csv, not 'pdf'"),
        (["--per", "page"], "One text is a file, paragraph, line, not a 'page'"),
    ],
)
def test_a_wish_that_cannot_be_is_refused(bundle: Path, arguments: list[str], said: str) -> None:
    with pytest.raises(BadInput, match=said):
        run([str(bundle), *arguments])


def test_several_processes_say_the_same(bundle: Path, here: Path) -> None:
    """In a process of its own: whoever forks has no threads."""
    rows = [{"text": " ".join([TEXTS[k % 3]] * (k % 7)), "id": str(k)} for k in range(3000)]
    (here / "t.jsonl").write_text("".join(json.dumps(row) + "\n" for row in rows))
    found: list[Any] = []
    for processes in ("1", "2"):
        command = [sys.executable, "-m", "urdaten", "run", str(bundle), "t.jsonl", "--processes", processes]
        done = subprocess.run(command, capture_output=True, check=True, text=True)
        assert done.stderr == ""
        found.append(done.stdout)
    assert found[0] == found[1]
    assert len(found[0].splitlines()) == len(rows)
    runner = Runner(small_bundle())
    expected = [[(s.start, s.end, s.type) for s in one.spans] for one in runner.run(rows[:40])]
    told = [json.loads(line)["spans"] for line in found[0].splitlines()[:40]]
    assert [[(s["start"], s["end"], s["type"]) for s in own] for own in told] == expected


def test_a_failure_is_one_line_and_nobody_who_stops_reading_is_shouted_at(bundle: Path, here: Path) -> None:
    command = [sys.executable, "-m", "urdaten", "run"]
    done = subprocess.run([*command, "none.bundle"], capture_output=True, check=False, text=True)
    assert (done.returncode, done.stderr, done.stdout) == (1, "urdaten: There is no file none.bundle.\n", "")
    (here / "t.txt").write_text("\n\n".join(TEXTS * 20_000))
    with subprocess.Popen(
        [*command, str(bundle), "t.txt", "--per", "paragraph"], stdout=subprocess.PIPE, stderr=subprocess.PIPE
    ) as going:
        assert going.stdout is not None
        assert going.stderr is not None
        assert b"Pellin" in going.stdout.readline()
        going.stdout.close()
        assert going.stderr.read() == b""
        assert going.wait() == 0
