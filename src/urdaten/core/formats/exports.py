"""The formats in which a corpus is taken out."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from functools import partial

from urdaten.core.formats.conllu import write_conllu
from urdaten.core.formats.corpus import CorpusText, write_corpus
from urdaten.core.formats.label_columns import write_label_columns
from urdaten.core.formats.tables import write_csv
from urdaten.core.formats.web_annotations import write_web_annotations
from urdaten.core.spans import CodingKind

_VALUES = "; "


@dataclass(frozen=True, kw_only=True)
class Shape:
    """What a writer has to know of the texts before it begins."""

    # Codes of the types, in their order.
    types: Sequence[str] = ()
    # How many layers the spans need, so that none overlap in one.
    layers: int = 1
    # Tokens and labels alone, for programs that know no remarks.
    bare: bool = False


@dataclass(frozen=True, kw_only=True)
class CorpusFormat:
    """A format with what stands at the end of its files' names."""

    name: str
    suffix: str
    media: str
    write: Callable[[Iterable[CorpusText], Shape], Iterator[str]]
    # Does it need tokens?
    columns: bool = False


def _columns(texts: Iterable[CorpusText], shape: Shape, *, kind: CodingKind) -> Iterator[str]:
    return write_label_columns(texts, kind, layers=shape.layers, bare=shape.bare)


def _table(texts: Iterable[CorpusText], shape: Shape) -> Iterator[str]:
    """A row for each text: the words of each type's spans in a column of its own, each word once, those of signed sentences."""
    header = ("id", "title", "group", "date", "split", "fold", "text", *shape.types)
    return write_csv(header, (_row(text, shape.types) for text in texts))


def _row(text: CorpusText, types: Sequence[str]) -> list[str]:
    signed = [(s.start, s.end) for s in text.sentences if s.signed]
    values: dict[str, dict[str, None]] = {code: {} for code in types}
    for span in text.spans:
        if span.type in values and any(start <= span.start and span.end <= end for start, end in signed):
            values[span.type][" ".join(text.body[span.start : span.end].split())] = None
    head = (text.id, text.title, text.group, text.dated.isoformat() if text.dated else "", text.split)
    fold = "" if text.fold is None else str(text.fold)
    return [*head, fold, text.body, *(_VALUES.join(found) for found in values.values())]


CORPUS_FORMATS = {
    one.name: one
    for one in (
        CorpusFormat(
            name="jsonl",
            suffix=".jsonl",
            media="application/jsonl",
            write=lambda texts, _shape: write_corpus(texts),
        ),
        CorpusFormat(
            name="bio", suffix=".bio", media="text/plain", write=partial(_columns, kind="BIO"), columns=True
        ),
        CorpusFormat(
            name="bilou",
            suffix=".bilou",
            media="text/plain",
            write=partial(_columns, kind="BILOU"),
            columns=True,
        ),
        CorpusFormat(
            name="conllu",
            suffix=".conllu",
            media="text/plain",
            write=lambda texts, _shape: write_conllu(texts),
            columns=True,
        ),
        CorpusFormat(
            name="annotations",
            suffix=".anno.jsonl",
            media="application/ld+json",
            write=lambda texts, _shape: write_web_annotations(texts),
        ),
        CorpusFormat(name="csv", suffix=".csv", media="text/csv", write=_table),
    )
}
