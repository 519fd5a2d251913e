"""PDFs: words by where they stand, as lines in the order of reading."""

from __future__ import annotations

import io
import logging
import re
from collections.abc import Iterator, Sequence
from itertools import pairwise
from statistics import median
from typing import Any

import pdfplumber
from pdfminer.pdfdocument import PDFEncryptionError, PDFPasswordIncorrect

from urdaten.errors import BadFile
from urdaten.readers.blocks import CELLS
from urdaten.readers.dates import day_of
from urdaten.readers.document import Beat, Document, Found, How, Item, text_meta
from urdaten.readers.layout import Word, regions, rows_of
from urdaten.readers.paragraphs import Line, paragraphs, without_edges

logging.getLogger("pdfminer").setLevel(logging.CRITICAL)

MOST_PAGES = 2_000
# So many pages are read between two signs of life.
_BEAT = 20


def read_pdf(data: bytes, source: str, how: How) -> Iterator[Item]:
    """One document, or one for each page.

    Raises BadFile for what is damaged, locked, too long, or holds pictures alone.
    """
    try:
        pdf = pdfplumber.open(io.BytesIO(data))
    except Exception as fault:
        raise _unreadable(fault) from None
    with pdf:
        yield Found(source=source, kind="pdf")
        if len(pdf.pages) > MOST_PAGES:
            raise BadFile(f"It has {len(pdf.pages)} pages; the most is {MOST_PAGES}. Split it up.")
        pages: list[list[Line]] = []
        try:
            for page in pdf.pages:
                pages.append(_lines_of(page))
                # What it has read of a page stays in memory otherwise.
                page.close()
                if len(pages) % _BEAT == 0:
                    yield Beat(source=source, done=len(pages), total=len(pdf.pages), unit="pages")
        except Exception as fault:
            raise _unreadable(fault, page=len(pages) + 1) from None
        meta = pdf.metadata or {}
    kept = without_edges(pages)
    if not any(kept):
        raise BadFile("It holds no words: its pages are pictures, which would have to be recognised first.")
    title = _title(str(meta.get("Title") or ""))
    made = day_of(str(meta.get("CreationDate") or "").removeprefix("D:")[:8])
    said = text_meta({"author": meta.get("Author"), "pages": len(pages), "file made": made})
    if how.per == "page":
        for number, lines in enumerate(kept, start=1):
            if body := "\n".join(paragraphs([lines])):
                yield Document(
                    body=body, title=title, meta=said, source=source, place=f"page {number}", group=source
                )
        return
    yield Document(body="\n".join(paragraphs(kept)), title=title, meta=said, source=source)


def _title(said: str) -> str:
    """What a PDF calls itself, without what programs put there."""
    said = " ".join(said.split())
    return (
        ""
        if not said
        or re.match(r"(?i)about:|untitled|microsoft |https?:|.*\.(?:docx?|html?|tex|indd|pdf)$", said)
        else said
    )


def _unreadable(fault: Exception, page: int = 0) -> BadFile:
    inner = fault.args[0] if fault.args and isinstance(fault.args[0], Exception) else fault
    if isinstance(inner, (PDFPasswordIncorrect, PDFEncryptionError)):
        return BadFile("It is locked with a password; unlock it first.")
    where = f" at page {page}" if page else ""
    return BadFile(f"The PDF is damaged{where} ({type(inner).__name__}).")


def _lines_of(page: Any) -> list[Line]:
    """The lines of a page, in order of reading."""
    found = page.dedupe_chars().extract_words(x_tolerance_ratio=0.2, y_tolerance=3, keep_blank_chars=False)
    turned = [word for word in found if not word.get("upright", True)]
    if len(turned) > len(found) / 2:
        found = _upright(turned)
    words = [
        Word(_clean(word["text"]), word["x0"], word["x1"], word["top"], word["bottom"])
        for word in found
        if word["text"].strip()
    ]
    words = [word for word in words if word.text]
    tables = _tables(page) if words and not turned else []
    lines: list[Line] = []
    for box, rows in tables:
        words = [word for word in words if not _within(word, box)]
        left, top, right, bottom = box
        step = (bottom - top) / max(1, len(rows))
        lines += [
            Line(row, left, right, top + step * n, top + step * (n + 1), -1, row=True)
            for n, row in enumerate(rows)
        ]
    ordered: list[Line] = []
    for block, region in enumerate(regions(words)):
        ordered += _in_lines(region, block)
    return _merged(ordered, lines)


def _clean(text: str) -> str:
    return "".join(
        sign for sign in text if sign == "\u00ad" or (sign.isprintable() and not "\ue000" <= sign <= "\uf8ff")
    )


def _upright(words: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Words of a page that lies on its side, as it would stand: read upwards or downwards."""
    down = sum(word.get("direction") == "ttb" for word in words) > len(words) / 2
    turned = []
    for word in words:
        x0, x1, top, bottom = word["x0"], word["x1"], word["top"], word["bottom"]
        if down:
            box = {"x0": top, "x1": bottom, "top": -x1, "bottom": -x0}
        else:
            box = {"x0": -bottom, "x1": -top, "top": x0, "bottom": x1}
        turned.append({"text": word["text"], **box})
    return turned


def _tables(page: Any) -> list[tuple[tuple[float, float, float, float], list[str]]]:
    """Ruled tables: their box, and a line for each row."""
    tables = []
    for table in page.find_tables():
        rows = [
            [" ".join((cell or "").split()) for cell in row] for row in table.extract(x_tolerance_ratio=0.2)
        ]
        told = [CELLS.join(row).rstrip(" |") for row in rows if any(row)]
        if told and max(map(len, rows)) > 1:
            tables.append((table.bbox, told))
    return tables


def _within(word: Word, box: tuple[float, float, float, float]) -> bool:
    left, top, right, bottom = box
    x, y = (word.left + word.right) / 2, (word.top + word.bottom) / 2
    return left <= x <= right and top <= y <= bottom


def _in_lines(words: Sequence[Word], block: int) -> list[Line]:
    size = median(word.height for word in words)
    lines = []
    for row in rows_of(words, size):
        parts = [row[0].text]
        for one, next_ in pairwise(row):
            # What stands far apart in one line are cells, whether ruled or not.
            parts.append((CELLS if next_.left - one.right > 2.5 * size else " ") + next_.text)
        lines.append(
            Line(
                "".join(parts),
                row[0].left,
                row[-1].right,
                min(word.top for word in row),
                max(word.bottom for word in row),
                block,
                row=CELLS in "".join(parts),
            )
        )
    return lines


def _merged(lines: list[Line], rows: list[Line]) -> list[Line]:
    """Rows of ruled tables put among the lines, before the first line that stands below them in their column."""
    for row in sorted(rows, key=lambda r: r.top):
        at = next(
            (
                n
                for n, line in enumerate(lines)
                if line.top >= row.top - 1 and line.left < row.right and line.right > row.left
            ),
            len(lines),
        )
        lines.insert(at, row)
    return lines
