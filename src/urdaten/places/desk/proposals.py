"""Changes of many sentences that somebody looks through before they are made."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from sqlalchemy.orm import Session

from urdaten.core.memory import places_of
from urdaten.core.spans import Overlap, Span, add_fitting
from urdaten.errors import BadInput, BadSpan
from urdaten.places.desk import acts, learned
from urdaten.places.desk.acts.quiet import quiet_among, refuse_where_quiet
from urdaten.places.desk.lanes import GOLD, Held
from urdaten.places.desk.search import Search, find, folded
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types


@dataclass(frozen=True, kw_only=True)
class Proposal:
    """One sentence as it stands, and the spans that it would have."""

    text: texts.Text
    sentence: texts.Sentence
    now: acts.Annotation
    then: tuple[Span, ...]


# Sentences of a text as they stand, and what each would have instead.
Stands = Sequence[tuple[texts.Sentence, acts.Annotation]]
Change = Callable[[texts.Text, Stands], Iterator[tuple[Span, ...]]]


def mark_alike(
    db: Session, project: Project, sentence_id: int, start: int, end: int, code: str
) -> Iterator[Proposal]:
    """The words from `start` to `end` marked alike in every other unsigned sentence that has them.

    Where a span stands on the words, or where they were turned down as this type, they are left alone. Raises
    NotAllowed for words of quiet texts, in which nothing is proposed either; BadSpan for no words of the sentence.
    """
    text, sentence = texts.read_sentence(db, project.id, sentence_id)
    refuse_where_quiet(db, project, text)
    if not sentence.start <= start < end <= sentence.end:
        raise BadSpan("These words do not lie in this sentence.", start=start, end=end)
    types.type_numbers(db, project.id, [code])
    (run,) = texts.words_of(text, project.language, [(start, end)])
    if not run.words or (run.starts[0], run.ends[-1]) != (start, end):
        raise BadSpan("Only whole words can be looked for in other sentences.", start=start, end=end)

    def mark(other: texts.Text, stands: Stands) -> Iterator[tuple[Span, ...]]:
        there = texts.words_of(other, project.language, learned.bounds_of(at for at, _ in stands))
        for (at, now), held in zip(stands, there, strict=True):
            spans = list(now.spans)
            covered = bytearray(at.end - at.start)
            for span in spans:
                covered[span.start - at.start : span.end - at.start] = b"\1" * (span.end - span.start)
            for first, last in places_of(run.words, held.words):
                new = Span(held.starts[first], held.ends[last - 1], code, "gold")
                here = slice(new.start - at.start, new.end - at.start)
                if not any(covered[here]) and new not in now.turned_down:
                    covered[here] = b"\1" * (new.end - new.start)
                    spans.append(new)
            yield tuple(sorted(spans))

    # Of the words one alone is looked for at first: how they are spaced may differ.
    for wanted, held in find(db, project, Search(words=max(run.words, key=len)), texts.Which()):
        quiet = quiet_among(db, project, wanted)
        open_texts = [other for other in wanted if other.id not in quiet]
        yield from _proposals(
            db, open_texts, held, mark, lambda at, now: at.id != sentence_id and now.state != acts.SIGNED
        )


def correct(
    db: Session, project: Project, search: Search, split: str, round_id: int | None, code: str
) -> Iterator[Proposal]:
    """Every gold span that the search describes given another type, or none for "", in the sentences that it finds.

    Raises BadInput for a search that describes no gold span, NotFound for a round that is not there.
    """
    if search.layer is not None:
        raise BadInput("Only gold is corrected; leave the layer out.", field="layer")
    if search.source not in ("", GOLD) or not (search.type or search.named):
        raise BadInput(
            "Search gold by a type, or by what its spans are named, to correct it.",
            field="type" if search.source in ("", GOLD) else "source",
        )
    if code:
        types.type_numbers(db, project.id, [code])
    named = folded(search.named)

    def change(text: texts.Text, stands: Stands) -> Iterator[tuple[Span, ...]]:
        for _, now in stands:
            spans: dict[Span, None] = {}
            for span in now.spans:
                is_meant = (not search.type or span.type == search.type) and (
                    not named or folded(text.body[span.start : span.end]) == named
                )
                if not is_meant:
                    spans[span] = None
                elif code:
                    spans[replace(span, type=code)] = None
            yield tuple(sorted(spans))

    which = texts.Which(
        splits=[split] if split else texts.SPLITS,
        only=None if round_id is None else acts.texts_of_round(db, project.id, round_id),
    )
    for wanted, held in find(db, project, search, which):
        yield from _proposals(db, wanted, held, change, lambda _at, _now: True)


def from_layer(db: Session, project: Project, layer_id: int) -> Iterator[Proposal]:
    """What stands in another layer added to gold, in sentences that nobody has signed.

    Spans that do not fit beside what stands in gold are left out, and so are those that were turned down there. Nothing is
    proposed in quiet texts. Raises NotFound, and BadInput for gold itself.
    """
    if acts.read_layer(db, project.id, layer_id).kind == GOLD:
        raise BadInput("What stands in gold need not be taken over.", field="layer")
    which = texts.Which(only=acts.annotated_texts(db, project.id, layer=layer_id))
    for portion in texts.in_portions(db, project.id, which):
        quiet = quiet_among(db, project, portion)
        wanted = [text for text in portion if text.id not in quiet]
        held = texts.sentences_of(db, [text.id for text in wanted])
        theirs = acts.states_of(db, [s.id for sentences in held.values() for s in sentences], layer_id)

        yield from _proposals(db, wanted, held, *_taking(theirs, project.overlap))


def _taking(
    theirs: Mapping[int, acts.Annotation], overlap: Overlap
) -> tuple[Change, Callable[[texts.Sentence, acts.Annotation], bool]]:
    def take(_text: texts.Text, stands: Stands) -> Iterator[tuple[Span, ...]]:
        for at, now in stands:
            more = [span for span in theirs[at.id].spans if span not in now.turned_down]
            yield tuple(sorted(add_fitting(now.spans, more, overlap)))

    return take, lambda at, now: at.id in theirs and now.state != acts.SIGNED


def _proposals(
    db: Session,
    wanted: Sequence[texts.Text],
    held: Held,
    change: Change,
    is_wanted: Callable[[texts.Sentence, acts.Annotation], bool],
) -> Iterator[Proposal]:
    states = acts.states_of(db, [s.id for text in wanted for s in held[text.id]])
    blank = acts.Annotation()
    for text in wanted:
        stands = [(sentence, states.get(sentence.id, blank)) for sentence in held[text.id]]
        stands = [(sentence, now) for sentence, now in stands if is_wanted(sentence, now)]
        for (sentence, now), then in zip(stands, change(text, stands), strict=True):
            if then != now.spans:
                yield Proposal(text=text, sentence=sentence, now=now, then=then)
