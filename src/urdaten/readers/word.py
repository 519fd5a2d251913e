"""Documents of word processors (docx): a line for each paragraph and row of a table."""

from __future__ import annotations

from collections.abc import Iterator
from io import BytesIO
from typing import Any

import docx
from docx.table import Table
from docx.text.paragraph import Paragraph

from urdaten.errors import BadFile
from urdaten.readers.blocks import CELLS
from urdaten.readers.document import Document, Found, How, Item, text_meta
from urdaten.readers.limits import open_zip

DEEPEST = 20


def read_word(data: bytes, source: str, _how: How) -> Iterator[Item]:
    """One document. Raises BadFile for what is damaged, locked or empty."""
    if data.startswith(b"\xd0\xcf\x11\xe0"):
        raise BadFile(
            "It is locked with a password, or of the old kind (doc); save it anew as docx without one."
        )
    open_zip(data).close()
    try:
        document = docx.Document(BytesIO(data))
        lines = [line for line in _lines(document, 0) if line]
        about = document.core_properties
        title = (about.title or "").strip()
        said = text_meta({"author": about.author, "file made": about.created.date() if about.created else ""})
        headed = next((p.text.strip() for p in document.paragraphs if p.text.strip()), "")
        styled = next((p.style.name or "" for p in document.paragraphs if p.text.strip() and p.style), "")
    except BadFile:
        raise
    except Exception as fault:
        raise BadFile(f"The document is damaged ({type(fault).__name__}).") from None
    yield Found(source=source, kind="docx")
    if not lines:
        raise BadFile("The document holds no words.")
    if styled.startswith(("Title", "Heading")):
        title = headed
    yield Document(body="\n".join(lines), title=title, meta=said, source=source)


def _lines(holder: Any, depth: int) -> Iterator[str]:
    if depth > DEEPEST:
        raise BadFile(f"Its tables lie in each other more than {DEEPEST} deep.")
    for block in holder.iter_inner_content():
        if isinstance(block, Paragraph):
            yield from (" ".join(line.split()) for line in block.text.split("\n"))
        elif isinstance(block, Table):
            for row in block.rows:
                told: list[str] = []
                last: Any = None
                for cell in row.cells:
                    # A cell that reaches over several columns is named once for each.
                    if last is not None and cell._tc is last:
                        continue
                    last = cell._tc
                    told.append(" ".join(_lines(cell, depth + 1)).strip())
                yield CELLS.join(told).rstrip(" |")
