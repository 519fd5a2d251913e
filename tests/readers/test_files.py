"""Files of every kind become documents, with what is said of them."""

from __future__ import annotations

from datetime import date

import pytest

from readers.samples import (
    BIO,
    CONLLU,
    CORPUS,
    MAILBOX,
    SHAPES,
    documents,
    found,
    packed,
    read,
    refusals,
    word_file,
    workbook,
)
from urdaten.demo.measures.pages import main_text_scores, token_f1
from urdaten.readers import Found
from urdaten.readers.dates import day_of
from urdaten.readers.encoding import decode


def test_plain_text_is_one_document_or_one_a_paragraph_or_line() -> None:
    data = b"\nFirst line.\nSecond line.\n\n\nThird.\n"
    (whole,) = documents(read(data, "a.txt"))
    assert whole.body == "First line.\nSecond line.\n\n\nThird."
    paragraphs = documents(read(data, "a.txt", per="paragraph"))
    assert [(d.body, d.place) for d in paragraphs] == [
        ("First line.\nSecond line.", "line 2"),
        ("Third.", "line 6"),
    ]
    lines = documents(read(data, "a.txt", per="line"))
    assert [(d.body, d.place) for d in lines] == [
        ("First line.", "line 2"),
        ("Second line.", "line 3"),
        ("Third.", "line 6"),
    ]


@pytest.mark.parametrize("name", ["utf-8.txt", "latin-1.txt", "utf-16.txt"])
def test_letters_are_right_whatever_they_are_written_in(name: str) -> None:
    items = read((SHAPES / "text" / name).read_bytes(), name)
    (document,) = documents(items)
    assert "Café" in document.body or name == "utf-16.txt"
    assert "�" not in document.body
    assert found(items).guessed == (name == "latin-1.txt")


def test_an_encoding_that_is_chosen_binds() -> None:
    data = "Łódź, gęś".encode("cp1250")
    assert decode(data, "cp1250").text == "Łódź, gęś"
    (refusal,) = refusals(read(b"Stra\xdfe", "a.txt", encoding="utf-8"))
    assert "byte 4 in line 1" in refusal.why
    (refusal,) = refusals(read(b"x", "a.txt", encoding="utf-99"))
    assert "utf-99" in refusal.why


def test_a_page_that_lies_about_its_encoding_is_read_as_what_it_is() -> None:
    page = '<html><head><meta charset="iso-8859-1"></head><body><p>Die Fähre läuft um fünf.</p></body></html>'
    (document,) = documents(read(page.encode("utf-8"), "a.html"))
    assert document.body == "Die Fähre läuft um fünf."
    # And what says UTF-8 and is not is guessed.
    items = read(page.replace("iso-8859-1", "utf-8").encode("cp1252"), "a.html")
    assert documents(items)[0].body == "Die Fähre läuft um fünf."
    assert found(items).guessed


def test_markdown_is_what_its_marks_stand_for() -> None:
    data = b"---\ntags: x\n---\n# Head *line*\n\nA [link](http://x.invalid) and `code`.\n\n* one\n* two\n\n| a | b |\n|---|---|\n| 1 | 2 |\n"
    (document,) = documents(read(data, "a.md"))
    assert document.body == "Head line\nA link and code.\none\ntwo\na | b\n1 | 2"
    assert document.title == "Head line"


def test_main_text_of_thirty_pages() -> None:
    scores = main_text_scores()
    assert len(scores) == 30
    assert sum(scores.values()) / len(scores) >= 0.95
    assert min(scores.values()) >= 0.9, min(scores, key=lambda name: scores[name])


def test_token_f1_is_of_bags_of_words() -> None:
    assert token_f1("a b c d", "d c b a") == 1
    assert token_f1("a b c d", "a b x y") == 0.5
    assert token_f1("a a", "a") == pytest.approx(2 / 3)


def test_a_page_has_its_title_day_and_whole_when_asked() -> None:
    page = (SHAPES / "pages" / "01-notice-with-everything-around.html").read_bytes()
    (document,) = documents(read(page, "a.html"))
    assert (document.title, document.dated) == ("Depth at Cutter Row", date(2026, 9, 3))
    assert document.meta["author"] == "Berth office"
    assert "Imprint" not in document.body
    (whole,) = documents(read(page, "a.html", whole_page=True))
    assert "Imprint" in whole.body


def test_rows_of_tables_are_lines_with_marks_between_cells() -> None:
    (document,) = documents(read((SHAPES / "site" / "week-39.html").read_bytes(), "week-39.html"))
    assert "Pellin | Pellin | SW-2 | 1105 | roof tiles 330 t" in document.body.split("\n")


def test_a_mail_marks_off_what_is_not_its_writers() -> None:
    mail = b"""From: a@x.invalid
Subject: =?utf-8?q?Re=3A_Gr=C3=BC=C3=9Fe?=
Date: Mon, 3 Aug 2026 23:30:00 +0200
Content-Type: text/plain; charset=utf-8

She is at the Spit.

On Mon, 2 Aug 2026, b@x.invalid wrote:
> Where is she?
>
> And who asks?

Ask her.

--\x20
A. Vane
pilot
"""
    (document,) = documents(read(mail, "a.eml"))
    assert (document.title, document.group, document.dated) == ("Re: Grüße", "Grüße", date(2026, 8, 3))
    aside = [document.body[start:end] for start, end in document.aside]
    assert aside == [
        "On Mon, 2 Aug 2026, b@x.invalid wrote:\n> Where is she?\n>\n> And who asks?",
        "--\nA. Vane\npilot",
    ]
    (own,) = documents(read(mail, "a.eml", without_quoted=True))
    assert own.body == "She is at the Spit.\n\nAsk her."
    assert own.aside == ()


def test_a_mail_quoted_whole_below_is_marked_off() -> None:
    mail = b"Subject: x\nFrom: a@x.invalid\n\nYes.\n\nFrom: b@x.invalid\nSent: Monday\nTo: a@x.invalid\nSubject: x\n\nDid she sail?\n"
    (document,) = documents(read(mail, "a.eml"))
    assert [document.body[a:b] for a, b in document.aside] == [
        "From: b@x.invalid\nSent: Monday\nTo: a@x.invalid\nSubject: x\n\nDid she sail?"
    ]


def test_of_alternatives_the_plain_one_is_read_and_attachments_are_named() -> None:
    mail = b"""From: a@x.invalid
Subject: x
Content-Type: multipart/mixed; boundary=m

--m
Content-Type: multipart/alternative; boundary=a

--a
Content-Type: text/plain

Plain words.
--a
Content-Type: text/html

<p>Other words.</p>
--a--
--m
Content-Type: application/pdf
Content-Disposition: attachment; filename="bill.pdf"

x
--m--
"""
    (document,) = documents(read(mail, "a.eml"))
    assert document.body == "Plain words."
    assert document.meta["attached"] == "bill.pdf"
    # Without a plain one the page is read.
    (document,) = documents(read(mail.replace(b"text/plain", b"text/html"), "a.eml"))
    assert "Other words." in document.body or "Plain words." in document.body


def test_lines_that_a_program_broke_are_whole_again() -> None:
    mail = b"Subject: x\nFrom: a@x.invalid\nContent-Type: text/plain; format=flowed\n\nShe lies at the \nSpit and \nwaits.\n> So do \n> we.\n"
    (document,) = documents(read(mail, "a.eml"))
    assert document.body == "She lies at the Spit and waits.\n> So do we."


def test_a_mailbox_is_a_document_for_each_mail() -> None:
    one, two = documents(read(MAILBOX, "a.mbox"))
    assert one.body == "The first.\nFrom here on it rains."
    assert (one.place, two.place, two.group) == ("mail 1", "mail 2", "one")


def test_pdfs_are_read_in_the_order_of_reading() -> None:
    (document,) = documents(read((SHAPES / "pdf" / "log-in-two-columns.pdf").read_bytes(), "log.pdf"))
    lines = document.body.split("\n")
    heads = [line for line in lines if line.replace("/", "").isdigit()]
    assert heads == sorted(heads, key=lambda head: [int(part) for part in head.split("/")])
    assert len(heads) > 5
    # A word that a line break parts, and a sentence that goes on in the next column.
    assert any("swung wide, dented bulwark." in line for line in lines)


def test_ruled_tables_of_pdfs_are_rows() -> None:
    (document,) = documents(read((SHAPES / "pdf" / "movements.pdf").read_bytes(), "m.pdf"))
    assert "Ketta | from Thornmouth | Tide Berth | 0215 | cement 590 t" in document.body.split("\n")
    pages = documents(read((SHAPES / "pdf" / "movements.pdf").read_bytes(), "m.pdf", per="page"))
    assert [page.place for page in pages] == ["page 1", "page 2"]


def test_a_page_on_its_side_is_read() -> None:
    (document,) = documents(read((SHAPES / "pdf" / "telex-on-its-side.pdf").read_bytes(), "t.pdf"))
    assert "SUNDREY RETURNING TESSMAR ETA 19 SEPTEMBER WITH SULPHUR 2800 T." in document.body


def test_a_word_file_is_its_paragraphs_and_rows() -> None:
    (document,) = documents(read(word_file(), "a.docx"))
    assert (
        document.body
        == "Berths\nThe Varnby lies at Sill Wharf 3.\nship | berth\nKetta | Tide Berth\nThat is all."
    )
    assert (document.title, document.meta["author"]) == ("Berths", "Edda Rook")


def test_columns_of_a_table_are_found_out_or_said() -> None:
    items = read((SHAPES / "remarks.csv").read_bytes(), "remarks.csv")
    assert {c.name: c.role for c in found(items).columns} == {
        "No.": "id",
        "Date": "date",
        "Desk": "meta",
        "Remark": "body",
        "seen": "meta",
    }
    first = documents(items)[0]
    assert (first.body, first.dated, first.place) == (
        "0015 wind SW 5, vis. good.",
        date(2026, 7, 6),
        "line 2",
    )
    assert first.meta == {"Desk": "night log", "No.": "1"}
    assert len(documents(items)) == 200
    said = documents(
        read((SHAPES / "remarks.csv").read_bytes(), "remarks.csv", roles={"Desk": "group", "No.": "none"})
    )
    assert (said[0].group, said[0].meta) == ("night log", {})


def test_rows_come_in_the_order_that_a_column_says() -> None:
    data = b"n;text\n10;ten is last\n9;nine is first\n;no order, comes after all\n"
    got = documents(read(data, "a.csv", roles={"n": "order", "text": "body"}))
    assert [d.body for d in got] == ["nine is first", "ten is last", "no order, comes after all"]


def test_a_row_that_is_amiss_is_refused_and_the_others_are_read() -> None:
    data = (
        b'id,text\n1,"good one"\n2,"never closed\n3,a third row here\n4,too,many,values\n5,\n6,the last one\n'
    )
    items = read(data, "a.csv")
    assert [d.body for d in documents(items)] == ["good one", "a third row here", "the last one"]
    assert [(r.place, r.content) for r in refusals(items)] == [
        ("line 3", '2,"never closed'),
        ("line 5", "4 · too · many · values"),
        ("line 6", "5"),
    ]


def test_a_quoted_value_may_go_on_over_lines() -> None:
    (document,) = documents(read(b'id,text\n1,"one\ntwo"\n', "a.csv"))
    assert document.body == "one\ntwo"


def test_a_workbook_is_a_document_for_each_row_of_each_sheet() -> None:
    items = read(workbook(), "a.xlsx")
    assert [(d.body, d.dated, d.place) for d in documents(items)] == [
        ("Amber Quay is in from Lindmoor.", date(2026, 7, 6), "July, row 2"),
        ("The cook is on the launch.", date(2026, 7, 7), "July, row 3"),
        ("Six crews and one bow.", date(2026, 8, 1), "August, row 2"),
    ]
    assert documents(items)[0].meta == {"Desk": "day desk", "Tons": "3200"}
    assert len([item for item in items if isinstance(item, Found)]) == 2


def test_objects_of_json_lines_are_rows() -> None:
    data = b'{"body": "Ketta sails.", "day": "2026-07-06", "tags": ["a"]}\nno json\n[1]\n{"body": "She is back.", "more": 1}\n'
    items = read(data, "a.jsonl")
    one, two = documents(items)
    assert (one.body, one.dated, one.meta) == ("Ketta sails.", date(2026, 7, 6), {"tags": '["a"]'})
    assert (two.place, two.meta) == ("line 4", {"more": "1"})
    assert [(r.place, r.why) for r in refusals(items)] == [
        ("line 2", "Not JSON: Expecting value at character 1."),
        ("line 3", "An object with fields is wanted."),
    ]
    assert len(documents(read(b'[{"text": "one two"}, {"text": "three"}]', "a.json"))) == 2


@pytest.mark.parametrize(
    ("name", "data", "spans"),
    [
        ("a.jsonl", CORPUS, [(0, 5, "VES")]),
        ("a.conllu", CONLLU, [(0, 5, "VES")]),
        ("a.bio", BIO, [(0, 10, "VES"), (14, 21, "PRT")]),
        # Labels are found by what stands there, whatever the file is called.
        ("a.txt", BIO, [(0, 10, "VES"), (14, 21, "PRT")]),
    ],
)
def test_an_annotated_corpus_brings_its_spans(
    name: str, data: bytes, spans: list[tuple[int, int, str]]
) -> None:
    document = documents(read(data, name))[0]
    assert document.corpus is not None
    assert [(s.start, s.end, s.type) for s in document.corpus.spans] == spans


def test_a_packed_file_is_all_that_lies_in_it() -> None:
    data = packed(
        **{
            "one.txt": b"One.",
            "in/two.csv": b"Date,Remark\n1.7.2026,Two and three.\n",
            ".hidden": b"x",
            "__MACOSX/a.txt": b"x",
        }
    )
    assert [(d.source, d.body) for d in documents(read(data, "a.zip"))] == [
        ("a.zip/one.txt", "One."),
        ("a.zip/in/two.csv", "Two and three."),
    ]


@pytest.mark.parametrize(
    ("words", "day"),
    [
        ("2026-03-04", (2026, 3, 4)),
        ("20260304", (2026, 3, 4)),
        ("2026-03-04T23:59:59Z", (2026, 3, 4)),
        ("3.4.2026", (2026, 4, 3)),
        ("3/4/26", (2026, 4, 3)),
        ("4/13/2026", (2026, 4, 13)),
        ("4 March 2026", (2026, 3, 4)),
        ("March 4, 2026 at 10:00", (2026, 3, 4)),
        ("31.02.2026", None),
        ("12", None),
        ("Monday", None),
        ("", None),
    ],
)
def test_days_as_people_write_them(words: str, day: tuple[int, int, int] | None) -> None:
    assert day_of(words) == (date(*day) if day else None)


def test_a_day_may_begin_with_its_month() -> None:
    assert day_of("3/4/2026", day_first=False) == date(2026, 3, 4)
    assert day_of("13/4/2026", day_first=False) == date(2026, 4, 13)
