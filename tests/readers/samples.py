"""Files of every kind, small, for tests that need one of each."""

from __future__ import annotations

import io
import zipfile
from datetime import date

import docx
import openpyxl

from urdaten.demo.files import FOLDER
from urdaten.readers import Document, Found, How, Item, Refusal, read_source

SHAPES = FOLDER / "shapes"


def read(data: bytes, name: str, **how: object) -> list[Item]:
    return list(read_source(data, name, How(**how)))  # type: ignore[arg-type] # tests name what they mean


def documents(items: list[Item]) -> list[Document]:
    return [item for item in items if isinstance(item, Document)]


def refusals(items: list[Item]) -> list[Refusal]:
    return [item for item in items if isinstance(item, Refusal)]


def found(items: list[Item]) -> Found:
    (one,) = (item for item in items if isinstance(item, Found))
    return one


def word_file() -> bytes:
    document = docx.Document()
    document.core_properties.author = "Edda Rook"
    document.add_heading("Berths", level=1)
    document.add_paragraph("The Varnby lies at Sill Wharf 3.")
    table = document.add_table(rows=2, cols=2)
    for row, values in enumerate((("ship", "berth"), ("Ketta", "Tide Berth"))):
        for column, value in enumerate(values):
            table.cell(row, column).text = value
    document.add_paragraph("That is all.")
    return _bytes(document)


def workbook() -> bytes:
    book = openpyxl.Workbook()
    sheet = book.active
    sheet.title = "July"
    sheet.append(["Date", "Desk", "Remark", "Tons"])
    sheet.append([date(2026, 7, 6), "day desk", "Amber Quay is in from Lindmoor.", 3200])
    sheet.append([date(2026, 7, 7), "night log", "The cook is on the launch.", 0.5])
    other = book.create_sheet("August")
    other.append(["Date", "Desk", "Remark", "Tons"])
    other.append([date(2026, 8, 1), "day desk", "Six crews and one bow.", None])
    return _bytes(book)


def _bytes(document: object) -> bytes:
    stream = io.BytesIO()
    document.save(stream)  # type: ignore[attr-defined] # both kinds have it
    return stream.getvalue()


def packed(**files: bytes) -> bytes:
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in files.items():
            archive.writestr(name, data)
    return stream.getvalue()


MAILBOX = b"""From desk@tessmar.invalid Mon Jul  6 08:00:00 2026
From: desk@tessmar.invalid
Subject: one
Date: Mon, 06 Jul 2026 08:00:00 +0200

The first.
>From here on it rains.

From office@tessmar.invalid Tue Jul  7 08:00:00 2026
From: office@tessmar.invalid
Subject: Re: one
Date: Tue, 07 Jul 2026 08:00:00 +0200

The second.
"""
BIO = b"Amber\tB-VES\tO\nQuay\tI-VES\tO\nin\tO\tO\nTessmar\tO\tB-PRT\n\nNone\tO\tO\n"
CONLLU = b"# newdoc id = a\n# text = Ketta sails.\n1\tKetta\t_\tPROPN\t_\t_\t_\t_\t_\tSpan=B-VES\n2\tsails\t_\tVERB\t_\t_\t_\t_\t_\tSpaceAfter=No\n3\t.\t_\tPUNCT\t_\t_\t_\t_\t_\t_\n\n"
CORPUS = b'{"text": "Ketta sails.", "title": "one", "spans": [{"start": 0, "end": 5, "type": "VES"}]}\n'


def one_of_each() -> dict[str, bytes]:
    """A good file of every kind by its name."""
    files = {
        "a.docx": word_file(),
        "a.xlsx": workbook(),
        "a.mbox": MAILBOX,
        "a.bio": BIO,
        "a.conllu": CONLLU,
        "a.jsonl": CORPUS,
        "rows.jsonl": b'{"body": "Ketta sails at noon today.", "day": "2026-07-06"}\n{"body": "She does not.", "day": "x"}\n',
        "a.md": b"# Head\n\n* one\n* two\n\n| a | b |\n|---|---|\n| 1 | 2 |\n",
        "a.zip": packed(**{"one.txt": b"One.", "in/two.csv": b"Date,Remark\n1.7.2026,Two and three.\n"}),
    }
    for kind in ("mail", "text", "pdf", "site"):
        path = sorted((SHAPES / kind).iterdir())[0]
        files[path.name] = path.read_bytes()
    files["remarks.csv"] = (SHAPES / "remarks.csv").read_bytes()[:3000]
    return files
