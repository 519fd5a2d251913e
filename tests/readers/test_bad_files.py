"""Files that are damaged, lie, or are made to do harm: each is explained by file and place, and costs little."""

from __future__ import annotations

import io
import random
import time
import zipfile
from pathlib import Path

import pytest

from readers.samples import SHAPES, documents, one_of_each, packed, read, refusals, word_file
from urdaten.core.formats import write_corpus
from urdaten.errors import BadFile, Stopped
from urdaten.readers import (
    Document,
    Ended,
    How,
    Limits,
    Refusal,
    corpus_of,
    files_of,
    kinds,
    read_guarded,
    read_source,
)


def why(data: bytes, name: str, **how: object) -> str:
    """Of a file that is refused as a whole."""
    items = read(data, name, **how)
    assert not documents(items)
    (refusal,) = refusals(items)
    assert refusal.source.startswith(name)
    return refusal.why


@pytest.mark.parametrize(
    ("name", "words"),
    [
        ("cut-off.pdf", "The PDF is damaged"),
        ("odd-length-utf-16.txt", "not utf-16 throughout: byte 26 in line 1"),
    ],
)
def test_damaged_files_are_refused(name: str, words: str) -> None:
    assert words in why((SHAPES / "damaged" / name).read_bytes(), name)


def test_what_can_be_got_over_is_read_and_says_so() -> None:
    (document,) = documents(read((SHAPES / "damaged" / "broken-base64.eml").read_bytes(), "a.eml"))
    assert document.body.startswith("Pellin is in")
    assert "base64 is damaged" in document.note
    (page,) = documents(read((SHAPES / "damaged" / "cut-off.html").read_bytes(), "a.html"))
    assert page.body.startswith("Berths and depths\nSill Wharf has six")


def test_a_mail_with_a_wrong_boundary_is_read_all_the_same() -> None:
    mail = b'Subject: x\nFrom: a@x.invalid\nContent-Type: multipart/mixed; boundary="wrong"\n\n--right\nContent-Type: text/plain\n\nShe sails.\n--right--\n'
    (document,) = documents(read(mail, "a.eml"))
    assert (document.body, document.title) == ("She sails.", "x")
    assert "otherwise than its head says" in document.note


def test_a_mail_nested_deep_is_read_or_refused() -> None:
    def nested(depth: int) -> bytes:
        whole = b"Content-Type: text/plain\n\nShe sails.\n"
        for level in range(depth):
            mark = b"m%d" % level
            whole = b"Content-Type: multipart/mixed; boundary=%s\n\n--%s\n%s\n--%s--\n" % (
                mark,
                mark,
                whole,
                mark,
            )
        return b"From: a@x.invalid\nSubject: x\n" + whole

    (document,) = documents(read(nested(20), "a.eml"))
    assert document.body == "She sails."
    for depth in (200, 2000):
        items = read(nested(depth), "a.eml")
        assert documents(items) or "too deep" in refusals(items)[0].why


@pytest.mark.parametrize(
    ("name", "data", "words"),
    [
        ("a.txt", b"", "empty"),
        ("a.txt", b" \n\n", "empty"),
        ("a.txt", b"a\0b", "NUL"),
        ("a.dat", bytes(range(256)) * 50, "no text"),
        ("a.doc", b"\xd0\xcf\x11\xe0" + b"x" * 600, "old document"),
        ("a.docx", b"\xd0\xcf\x11\xe0" + b"x" * 600, "locked with a password"),
        ("a.xlsx", b"\xd0\xcf\x11\xe0" + b"x" * 600, "locked with a password"),
        ("a.png", b"\x89PNG\r\n", "a picture"),
        ("a.rar", b"Rar!", "packed"),
        ("a.html", b"<html><body><script>x</script></body></html>", "no words"),
        ("a.eml", b"just some words\nand more of them\n", "no mail"),
        ("a.eml", b"Subject: x\nFrom: a@x.invalid\n\n", "no words of its own"),
        ("a.mbox", b"nothing here", "no mails"),
        ("a.csv", b"1,2\n3,4\n", "No column holds texts"),
        ("a.csv", b"id,text\n", "no rows"),
        ("a.jsonl", b"[1, 2", "Not JSON"),
        ("a.jsonl", b"5\n", "An object with fields is wanted"),
        ("a.conllu", b"1\ttwo\n", "Line 1"),
        ("a.zip", b"PK\x03\x04 and nothing more", "damaged"),
        ("a.pdf", b"%PDF-1.7\nnothing", "damaged"),
        ("a.docx", packed(**{"word/document.xml": b"<x>"}), "damaged"),
        ("a.xlsx", packed(**{"xl/workbook.xml": b"<x>"}), "damaged"),
        ("a.odt", packed(**{"mimetype": b"x", "content.xml": b"x"}), "OpenDocument"),
    ],
)
def test_what_is_refused_says_why(name: str, data: bytes, words: str) -> None:
    assert words in why(data, name)


def test_a_role_that_there_is_not_is_named() -> None:
    assert "not 'words'" in why(b"id,text\n1,one two\n", "a.csv", roles={"text": "words"})


def test_a_locked_zip_says_so() -> None:
    data = bytearray(packed(**{"a.txt": b"words"}))
    # The flag of a locked entry, in its own head and in the directory.
    data[6] |= 1
    data[data.index(b"PK\x01\x02") + 8] |= 1
    assert "locked with a password" in why(bytes(data), "a.zip")


def test_bombs_are_not_unpacked() -> None:
    began = time.process_time()
    zeros = packed(**{"a.txt": b"0" * 60_000_000})
    assert "times its size" in why(zeros, "a.zip")
    # The same in a document and a workbook.
    assert "times its size" in why(packed(**{"word/document.xml": b"0" * 60_000_000}), "a.docx")
    assert "times its size" in why(packed(**{"xl/workbook.xml": b"0" * 60_000_000}), "a.xlsx")
    assert "within another" in why(
        packed(**{"a.zip": packed(**{"b.zip": packed(**{"c.txt": b"c"})})}), "x.zip"
    )
    entities = "".join(f'<!ENTITY l{n} "{f"&l{n - 1};" * 10}">' for n in range(1, 10))
    bomb = f'<?xml version="1.0"?><!DOCTYPE x [<!ENTITY l0 "ha">{entities}]><w:document xmlns:w="x"><w:body>&l9;</w:body></w:document>'
    other = io.BytesIO(word_file())
    out = io.BytesIO()
    with zipfile.ZipFile(other) as source, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as target:
        for entry in source.infolist():
            target.writestr(entry, bomb if entry.filename == "word/document.xml" else source.read(entry))
    assert not documents(read(out.getvalue(), "a.docx"))
    assert time.process_time() - began < 20


def test_a_zip_that_lies_about_its_size_is_not_believed(monkeypatch: pytest.MonkeyPatch) -> None:
    from urdaten.readers import limits, reading

    monkeypatch.setattr(reading, "MOST_UNPACKED", 1000)
    items = read(packed(**{"a.txt": b"word " * 150, "b.txt": b"word " * 150}), "a.zip")
    assert [d.source for d in documents(items)] == ["a.zip/a.txt"]
    assert "more than the" in refusals(items)[0].why
    monkeypatch.setattr(limits, "MOST_ENTRIES", 1)
    assert "holds 2 files" in why(packed(**{"a.txt": b"a", "b.txt": b"b"}), "a.zip")


@pytest.mark.parametrize("name", ["../up.txt", "/root.txt", "a/../../up.txt", "C:/x.txt", "..\\up.txt"])
def test_names_that_lead_out_of_a_packed_file_are_refused(name: str) -> None:
    items = read(packed(**{name: b"words", "good.txt": b"good"}), "a.zip")
    assert [d.body for d in documents(items)] == ["good"]
    assert "leads out" in refusals(items)[0].why


def test_long_lines_and_open_quotes_are_bounded() -> None:
    began = time.process_time()
    (document,) = documents(read(b"word " * 4_000_000, "a.txt"))
    assert len(document.body) > 10_000_000
    items = read(b"id,text\n" + b"0,good one\n" * 201 + b'1,"open\n' * 30_000, "a.csv")
    assert len(documents(items)) == 201
    assert "is this the right separator" in refusals(items)[-1].why
    assert len(refusals(items)) < 1100
    items = read(b"id,text\n1," + b"x" * 5_000_000 + b"\n2,good one\n", "a.csv")
    assert [d.body for d in documents(items)] == ["good one"]
    assert "longer than" in refusals(items)[0].why
    assert not documents(read(b"[" * 200_000, "a.json"))
    assert documents(read(b"--\n" * 100_000 + b"x", "a.txt"))
    deep = b"<div>" * 50_000 + b"words" + b"</div>" * 50_000
    assert read(b"<html><body>" + deep, "a.html")
    assert time.process_time() - began < 40


def test_whatever_a_library_raises_is_a_refusal(monkeypatch: pytest.MonkeyPatch) -> None:
    def falls(_data: bytes, _source: str, _how: How) -> object:
        raise ZeroDivisionError

    monkeypatch.setattr("urdaten.readers.reading.reader_of", lambda _kind: falls)
    assert why(b"words", "a.txt") == "It is damaged and cannot be read (ZeroDivisionError)."


def mutated(data: bytes, chance: random.Random) -> bytes:
    """The bytes with a few of them changed, cut out, doubled or put elsewhere."""
    made = bytearray(data)
    for _ in range(chance.randint(1, 8)):
        at, size = chance.randrange(len(made) + 1), chance.choice((1, 1, 4, 64, 1024))
        what = chance.randrange(5)
        if what == 0:
            made[at : at + size] = b""
        elif what == 1:
            made[at:at] = bytes(made[max(0, at - size) : at])
        elif what == 2:
            made[at : at + size] = chance.randbytes(len(made[at : at + size]))
        elif what == 3:
            made[at:at] = chance.choice((b"\0", b'"', b"\n", b"<", b"\xff\xfe", b"--", b"9" * 30, b"{", b"("))
        elif len(made) > 20:
            made = made[: max(10, at)]
    return bytes(made)


@pytest.mark.parametrize("name", one_of_each())
def test_mutated_files_are_read_or_refused(name: str) -> None:
    chance = random.Random(name)
    good = one_of_each()[name]
    assert documents(read(good, name))
    slow = name.endswith((".pdf", ".docx", ".xlsx"))
    for _ in range(12 if slow else 40):
        data = mutated(good, chance)
        items = read(data, name)
        assert items, data
        for document in documents(items):
            assert document.body.strip()
            assert "\0" not in document.body
            assert all(0 <= a < b <= len(document.body) for a, b in document.aside)


@pytest.mark.parametrize("name", one_of_each())
def test_what_a_reader_accepts_is_written_and_read_back_the_same(name: str) -> None:
    for document in documents(read(one_of_each()[name], name)):
        told = corpus_of(document)
        (line,) = write_corpus([told])
        (again,) = documents(read(line.encode(), "x.jsonl"))
        assert again.corpus is not None
        assert corpus_of(again).spans == told.spans
        assert (again.body, again.title, again.group, again.dated) == (
            document.body,
            document.title,
            document.group,
            document.dated,
        )
        assert {k: v for k, v in told.meta.items() if k not in ("source", "place")}.items() <= dict(
            again.meta
        ).items()


class Given:
    """Files in a folder, read by another process."""

    def __init__(self, folder: Path, **files: bytes) -> None:
        self.files: list[tuple[str, Path]] = []
        for name, data in files.items():
            path = folder / name
            path.write_bytes(data)
            self.files.append((name, path))


def test_another_process_reads_the_same(tmp_path: Path) -> None:
    given = Given(tmp_path, **one_of_each())
    there = list(read_guarded(given.files, How()))
    for number, (name, path) in enumerate(given.files):
        here = list(read_source(path.read_bytes(), name, How()))
        assert [item for n, item in there if n == number] == [*here, Ended(number)]


def test_a_file_that_takes_the_process_down_is_refused_and_the_next_is_read(tmp_path: Path) -> None:
    given = Given(tmp_path, **{"a.txt": b"first", "big.txt": b"word " * 30_000_000, "b.txt": b"last"})
    items = [item for _, item in read_guarded(given.files, How(), Limits(memory=300 << 20))]
    assert [item.body for item in items if isinstance(item, Document)] == ["first", "last"]
    (refusal,) = [item for item in items if isinstance(item, Refusal)]
    assert refusal.source == "big.txt"
    assert "memory" in refusal.why or "fell over" in refusal.why


def test_a_file_that_takes_too_long_is_given_up(tmp_path: Path) -> None:
    pdf = next(data for name, data in one_of_each().items() if name.endswith(".pdf"))
    given = Given(tmp_path, **{"a.pdf": pdf, "b.txt": b"last"})
    items = [item for _, item in read_guarded(given.files, How(), Limits(patience_s=0.001))]
    assert any("was given up" in item.why for item in items if isinstance(item, Refusal))
    assert [item.number for item in items if isinstance(item, Ended)] == [0, 1]


def test_reading_is_stopped_at_once(tmp_path: Path) -> None:
    given = Given(tmp_path, **{f"{n}.txt": b"words" for n in range(50)})
    with pytest.raises(Stopped):
        list(read_guarded(given.files, How(), stop=lambda: True))


def test_a_folder_is_its_files_without_hidden_ones_and_links(tmp_path: Path) -> None:
    (tmp_path / "in").mkdir()
    (tmp_path / "in" / "b.txt").write_text("b")
    (tmp_path / "a.txt").write_text("a")
    (tmp_path / ".hidden").write_text("h")
    (tmp_path / "link.txt").symlink_to("/etc/hostname")
    assert [name for name, _ in files_of(tmp_path)] == ["a.txt", "in/b.txt"]
    with pytest.raises(BadFile):
        files_of(tmp_path / "nowhere")


def test_names_that_are_no_text_are_written_all_the_same(tmp_path: Path) -> None:
    (tmp_path / b"caf\xe9.txt".decode(errors="surrogateescape")).write_text("words")
    ((name, path),) = files_of(tmp_path)
    assert name == "caf\ufffd.txt"
    assert path.read_text() == "words"


def test_kinds_all_have_their_reader() -> None:
    for kind in kinds.READERS:
        assert callable(kinds.reader_of(kind))
    assert "no kind 'word'" in why(b"words", "a.txt", kind="word")
