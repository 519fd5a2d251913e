"""Plain text and Markdown."""

from __future__ import annotations

import re
from collections.abc import Iterator

from markdown_it import MarkdownIt

from urdaten.readers.blocks import lines_of
from urdaten.readers.document import Document, Found, How, Item
from urdaten.readers.encoding import decode
from urdaten.readers.html import tree_of

_FRONT = re.compile(r"\A---\n.*?\n---\n", re.DOTALL)


def read_plain(data: bytes, source: str, how: How) -> Iterator[Item]:
    """The file as one document, or one for each paragraph or line. Raises BadFile."""
    decoded = decode(data, how.encoding)
    yield Found(source=source, kind="txt", encoding=decoded.encoding, guessed=decoded.guessed)
    yield from _portions(decoded.text, source, how)


def read_markdown(data: bytes, source: str, how: How) -> Iterator[Item]:
    """As read_plain, of what the marks of Markdown (CommonMark) stand for: a line for each heading, paragraph, item and row."""
    decoded = decode(data, how.encoding)
    yield Found(source=source, kind="md", encoding=decoded.encoding, guessed=decoded.guessed)
    parser = MarkdownIt("commonmark", {"html": False}).enable("table")
    html = parser.render(_FRONT.sub("", decoded.text))
    lines = lines_of(tree_of(html)) if html.strip() else []
    title = lines[0] if lines and html.lstrip().startswith("<h1") else ""
    for item in _portions(("\n\n" if how.per == "paragraph" else "\n").join(lines), source, how):
        yield Document(body=item.body, title=title, source=source, place=item.place)


def _portions(text: str, source: str, how: How) -> Iterator[Document]:
    if how.per == "file":
        # White space around a file's text says nothing; within, it is kept to the letter.
        if body := text.strip("\n\f \t"):
            yield Document(body=body, source=source)
        return
    held: list[str] = []
    begun = 0
    for number, line in enumerate([*text.split("\n"), ""], start=1):
        if line.strip():
            if not held:
                begun = number
            held.append(line)
        if held and (how.per == "line" or not line.strip()):
            yield Document(body="\n".join(held), source=source, place=f"line {begun}")
            held = []
