"""The corpus as it is taken out: texts with what stands in one layer."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from itertools import chain

from sqlalchemy.orm import Session

from urdaten.core.formats import (
    CORPUS_FORMATS,
    CorpusFormat,
    CorpusSentence,
    CorpusText,
    Shape,
    analysed,
    folds_of,
    layers_of,
)
from urdaten.errors import BadInput
from urdaten.places.desk.acts.annotation import SIGNED, Annotation, states_of
from urdaten.places.desk.acts.corpus_lines import corpus_lines
from urdaten.places.desk.acts.layers import read_layer
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types

MOST_FOLDS = 100


@dataclass(frozen=True, kw_only=True)
class CorpusWish:
    """Which texts, whose annotation, and how it is written."""

    format: str = "jsonl"
    which: texts.Which = field(default_factory=texts.Which)
    # A layer's number; gold unless said.
    layer: int | None = None
    # Texts without a signed sentence as well.
    unsigned: bool = False
    bare: bool = False
    folds: int = 0
    seed: int = 1


def write_out(db: Session, project: Project, wish: CorpusWish, *, first: int | None = None) -> Iterator[str]:
    """The lines of the file; of the first texts alone where it is said how many.

    Raises BadInput for a format, split or number of folds that there is not, NotFound for a layer.
    """
    made = format_of(wish.format)
    if not 0 <= wish.folds <= MOST_FOLDS or wish.folds == 1:
        raise BadInput(f"A corpus has 2 to {MOST_FOLDS} folds, or none; not {wish.folds}.", field="folds")
    if unknown := set(wish.which.splits) - set(texts.SPLITS):
        raise BadInput(f"A split is one of {', '.join(texts.SPLITS)}, not {min(unknown)!r}.", field="split")
    if wish.layer is not None:
        read_layer(db, project.id, wish.layer)
    if wish.format == "jsonl" and not wish.folds and first is None:
        return corpus_lines(db, project, wish.which, layer=wish.layer, unsigned=wish.unsigned)
    folds = _folds(db, project, wish) if wish.folds else {}
    shape = Shape(types=[one.code for one in types.list_types(db, project.id)], bare=wish.bare)
    if made.columns and project.overlap != "apart":
        needed = (len(layers_of(text.spans)) for text in _read(db, project, wish, {}, first))
        shape = replace(shape, layers=max(1, max(needed, default=1)))
    found = _read(db, project, wish, folds, first)
    if made.columns:
        portions = _portions(found)
        found = chain.from_iterable(
            analysed(portion, project.language, project.abbreviations) for portion in portions
        )
    return made.write(found, shape)


def format_of(name: str) -> CorpusFormat:
    """Raises BadInput, with those that there are."""
    if name not in CORPUS_FORMATS:
        raise BadInput(f"A format is one of {', '.join(CORPUS_FORMATS)}, not {name!r}.", field="format")
    return CORPUS_FORMATS[name]


def _read(
    db: Session, project: Project, wish: CorpusWish, folds: Mapping[int, int], first: int | None
) -> Iterator[CorpusText]:
    left = first
    for portion in texts.in_portions(db, project.id, wish.which):
        by_text = texts.sentences_of(db, [text.id for text in portion])
        states = states_of(db, [s.id for sentences in by_text.values() for s in sentences], wish.layer)
        for text in portion:
            told = _told(text, by_text[text.id], states, folds)
            if not wish.unsigned and not any(sentence.signed for sentence in told.sentences):
                continue
            if left is not None:
                if left == 0:
                    return
                left -= 1
            yield told


def _told(
    text: texts.Text,
    sentences: list[texts.Sentence],
    states: Mapping[int, Annotation],
    folds: Mapping[int, int],
) -> CorpusText:
    stood = [states.get(sentence.id, Annotation()) for sentence in sentences]
    return CorpusText(
        body=text.body,
        spans=tuple(sorted(span for one in stood for span in one.spans)),
        sentences=tuple(
            CorpusSentence(sentence.start, sentence.end, one.state == SIGNED)
            for sentence, one in zip(sentences, stood, strict=True)
        ),
        id=str(text.id),
        title=text.title,
        group=text.group,
        dated=text.dated,
        split=text.split,
        fold=folds.get(text.id),
        meta=text.meta,
    )


_AT_ONCE = 200


def _portions(found: Iterator[CorpusText]) -> Iterator[list[CorpusText]]:
    held: list[CorpusText] = []
    for text in found:
        held.append(text)
        if len(held) == _AT_ONCE:
            yield held
            held = []
    if held:
        yield held


def _folds(db: Session, project: Project, wish: CorpusWish) -> dict[int, int]:
    """The fold of each text that is written, by its number."""
    told = [(int(text.id), text.group, len(text.sentences)) for text in _read(db, project, wish, {}, None)]
    groups, sizes = [group for _, group, _ in told], [size for *_, size in told]
    folds = folds_of(groups, sizes, wish.folds, wish.seed)
    return {number: fold for (number, *_), fold in zip(told, folds, strict=True)}
