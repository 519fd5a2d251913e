"""What a file is: by its first bytes, then by its name, then by what stands in it."""

from __future__ import annotations

import re
import zipfile
from collections.abc import Callable, Iterator
from importlib import import_module
from io import BytesIO
from pathlib import PurePosixPath

from urdaten.errors import BadFile
from urdaten.readers.document import How, Item
from urdaten.readers.encoding import decode
from urdaten.readers.labelled import label_columns

Reader = Callable[[bytes, str, How], Iterator[Item]]
# Module and function: what a kind needs is loaded when a file of that kind comes.
READERS: dict[str, tuple[str, str]] = {
    "txt": ("plain", "read_plain"),
    "md": ("plain", "read_markdown"),
    "html": ("html", "read_html"),
    "eml": ("mail", "read_mail"),
    "mbox": ("mail", "read_mailbox"),
    "pdf": ("pdf", "read_pdf"),
    "docx": ("word", "read_word"),
    "csv": ("tables", "read_csv"),
    "xlsx": ("tables", "read_workbook"),
    "jsonl": ("records", "read_records"),
    "columns": ("corpora", "read_labelled"),
    "conllu": ("corpora", "read_treebank"),
    "annotations": ("corpora", "read_annotations"),
}
ZIP = "zip"
_BY_NAME = {
    "txt": "txt text log asc",
    "md": "md markdown",
    "html": "html htm xhtml",
    "eml": "eml",
    "mbox": "mbox mbx",
    "csv": "csv tsv tab psv",
    "jsonl": "jsonl ndjson json",
    "columns": "bio bilou iob labels",
    "conllu": "conllu conll-u",
    "annotations": "jsonld",
}
_KINDS = {ending: kind for kind, endings in _BY_NAME.items() for ending in endings.split()}
_NOT_READ = {
    "doc": "an old document; save it as docx",
    "xls": "an old workbook; save it as xlsx",
    "msg": "a mail of one program alone; save it as eml",
    "rtf": "rich text; save it as docx or txt",
    "odt": "an OpenDocument text; save it as docx",
    "gz": "packed; unpack it first, or pack it as zip",
    "rar": "packed; unpack it first, or pack it as zip",
    "7z": "packed; unpack it first, or pack it as zip",
    "tar": "packed; unpack it first, or pack it as zip",
    **dict.fromkeys(
        ("png", "jpg", "jpeg", "gif", "tif", "tiff", "webp", "bmp"),
        "a picture; its words would have to be recognised first",
    ),
    **dict.fromkeys(("mp3", "mp4", "wav", "mov", "avi", "ogg"), "sound or film"),
    **dict.fromkeys(("exe", "dll", "so", "bin", "class", "pyc"), "a program"),
}
_MAIL = re.compile(rb"\A(?:[!-9;-~]+:[^\n]*\r?\n(?:[ \t][^\n]*\r?\n)*){2,}")
_MAIL_HEADS = re.compile(
    rb"^(?:from|date|subject|message-id|received|return-path):", re.IGNORECASE | re.MULTILINE
)
_PAGE = re.compile(
    rb"\A\s*(?:<\?xml[^>]*\?>\s*)?(?:<!--.*?-->\s*)*<(?:!doctype\s+html|html|head|body)\b",
    re.IGNORECASE | re.DOTALL,
)
_ROW = re.compile(rb"\A\s*\{\s*\"")
_LOOK = 1 << 16


def reader_of(kind: str) -> Reader:
    """The function that reads a kind. Raises BadFile for one that there is not."""
    if kind not in READERS:
        raise BadFile(f"There is no kind {kind!r}; there are {', '.join(READERS)}.")
    module, name = READERS[kind]
    reader: Reader = getattr(import_module(f"urdaten.readers.{module}"), name)
    return reader


def kind_of(data: bytes, name: str) -> str:
    """The kind of a file. Raises BadFile for what is none that is read here."""
    if not data.strip():
        raise BadFile("The file is empty.")
    if data[:1024].find(b"%PDF-") >= 0 and data[:4] != b"PK\x03\x04":
        return "pdf"
    if data.startswith(b"PK"):
        return _packed(data)
    ending = PurePosixPath(name).suffix[1:].lower()
    if ending in ("docx", "xlsx") or data.startswith(b"\xd0\xcf\x11\xe0"):
        if ending in ("docx", "xlsx"):
            return ending
        raise BadFile(
            f"This is {_NOT_READ.get(ending, 'a file of an old office program; save it anew as docx or xlsx')}."
        )
    if ending in _NOT_READ:
        raise BadFile(f"This is {_NOT_READ[ending]}.")
    if found := _KINDS.get(ending):
        return _nearer(found, data)
    return _by_content(data)


def _packed(data: bytes) -> str:
    try:
        names = set(zipfile.ZipFile(BytesIO(data)).namelist())
    except (zipfile.BadZipFile, ValueError, NotImplementedError, OSError, EOFError):
        return ZIP
    if "word/document.xml" in names:
        return "docx"
    if "xl/workbook.xml" in names:
        return "xlsx"
    if "mimetype" in names and "content.xml" in names:
        raise BadFile(f"This is {_NOT_READ['odt']}.")
    return ZIP


def _nearer(kind: str, data: bytes) -> str:
    """Files are named after a family; what stands in them says which member it is."""
    if kind == "jsonl" and _annotates(data[:_LOOK]):
        return "annotations"
    if kind in ("txt", "csv") and label_columns(_first_lines(data)):
        return "columns"
    return kind


def _annotates(head: bytes) -> bool:
    return b'"http://www.w3.org/ns/anno.jsonld"' in head and _ROW.match(head) is not None


def _by_content(data: bytes) -> str:
    head = data[:_LOOK]
    if _PAGE.match(head):
        return "html"
    if head.startswith(b"From ") and _MAIL.match(head[head.find(b"\n") + 1 :]):
        return "mbox"
    if (found := _MAIL.match(head)) and len(_MAIL_HEADS.findall(found[0])) >= 2:
        return "eml"
    if _ROW.match(head):
        return _nearer("jsonl", data)
    if head.startswith((b"# newdoc", b"# sent_id", b"# text =")):
        return "conllu"
    return _nearer("txt", data)


def _first_lines(data: bytes) -> list[str]:
    try:
        return decode(data[:_LOOK]).text.split("\n")[:-1][:500]
    except BadFile:
        return []
