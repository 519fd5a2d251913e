"""Annotated corpora: label columns, CoNLL-U and Web Annotation, with their spans."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from dataclasses import replace

from urdaten.core.formats import CorpusText, read_conllu, read_label_columns, read_web_annotations
from urdaten.errors import BadFile
from urdaten.readers.document import Document, Found, How, Item, Refusal, sentence, text_meta
from urdaten.readers.encoding import decode
from urdaten.readers.labelled import label_columns

_SPLITS = {"train", "dev", "test"}
_LINE = re.compile(r"^Line (\d+): ")
_SHOWN = 80


def read_labelled(data: bytes, source: str, how: How) -> Iterator[Item]:
    """Tokens and labels, one a line; every last column that holds labels throughout is one of them."""
    yield from _corpus(
        data, source, how, "columns", lambda lines: read_label_columns(lines, label_columns(lines) or None)
    )


def read_treebank(data: bytes, source: str, how: How) -> Iterator[Item]:
    """CoNLL-U."""
    yield from _corpus(data, source, how, "conllu", read_conllu)


def read_annotations(data: bytes, source: str, how: How) -> Iterator[Item]:
    """Web Annotation, a page with its text a line."""
    yield from _corpus(data, source, how, "annotations", read_web_annotations)


def _corpus(
    data: bytes, source: str, how: How, kind: str, read: Callable[[list[str]], Iterator[CorpusText]]
) -> Iterator[Item]:
    decoded = decode(data, how.encoding)
    yield Found(source=source, kind=kind, encoding=decoded.encoding, guessed=decoded.guessed)
    texts = 0
    try:
        for texts, text in enumerate(read(decoded.text.split("\n")), start=1):
            yield document_of(text, source, f"text {texts}")
    except BadFile as fault:
        found = _LINE.match(fault.message)
        why = sentence(fault.message[found.end() :] if found else fault.message)
        if not texts:
            raise BadFile(f"{found[0] if found else ''}{why}") from None
        # A corpus says where it goes wrong, not where it goes on.
        yield Refusal(
            source=source,
            place=f"line {found[1]}" if found else f"after text {texts}",
            why=f"{why} What follows it is not read.",
            content="\n".join(decoded.text.split("\n")[int(found[1]) - 1 : int(found[1])])[:_SHOWN]
            if found
            else "",
        )


def document_of(text: CorpusText, source: str, place: str) -> Document:
    """A text of a corpus as a document."""
    return Document(
        body=text.body,
        title=text.title,
        dated=text.dated,
        group=text.group,
        split=text.split if text.split in _SPLITS else "",
        meta=text_meta({"id": text.id, **text.meta}),
        source=source,
        place=place,
        # Words are cut by the project's own language.
        corpus=replace(text, tokens=(), tags=()),
    )


def corpus_of(document: Document) -> CorpusText:
    """A document as a text of a corpus: with its metadata, where it comes from, and the spans that it brought along."""
    where = {"source": document.source, "place": document.place}
    return replace(
        document.corpus or CorpusText(body=document.body),
        title=document.title,
        group=document.group,
        dated=document.dated,
        split=document.split,
        meta=text_meta({**document.meta, **where}),
    )
