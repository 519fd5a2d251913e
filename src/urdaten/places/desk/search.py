"""Searching sentences: by their words, by a span in them from some source, by what has become of them, by their text."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import date

from sqlalchemy.orm import Session

from urdaten.core.spans import Span
from urdaten.core.text import fold
from urdaten.errors import BadInput
from urdaten.places.desk import acts
from urdaten.places.desk.acts.quiet import quiet_among
from urdaten.places.desk.lanes import GOLD, SOURCES, Held, lane_spans
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts

STATES = (acts.UNTOUCHED, acts.DRAFT, acts.SIGNED, "empty", "asked")
# Of these, those that only an annotated sentence can be, and the state of its annotation; "" for any.
_ANNOTATED = {acts.DRAFT: acts.DRAFT, acts.SIGNED: acts.SIGNED, "empty": acts.SIGNED, "asked": ""}


@dataclass(frozen=True, kw_only=True)
class Search:
    """What a sentence has to be; everything that is said has to hold, and what is empty says nothing.

    `source`, `type`, `named`, `least` and `most` speak of one span in it; without a source that of gold is meant.
    Case makes no difference. Evidence is not looked for in quiet texts.
    """

    # Stands in the sentence.
    words: str = ""
    # The layer whose annotation is meant; None for gold.
    layer: int | None = None
    source: str = ""
    type: str = ""
    # Is what the span covers, as a whole.
    named: str = ""
    # Bounds of the span's probability, both included; a span without a probability is out of any bounds.
    least: float | None = None
    most: float | None = None
    state: str = ""
    title: str = ""
    group: str = ""
    since: date | None = None
    until: date | None = None

    @property
    def wants_span(self) -> bool:
        """Is there anything that a span has to be?"""
        bounded = self.least is not None or self.most is not None
        return bool(self.source or self.type or self.named or bounded)

    def check(self) -> None:
        """Raises BadInput, naming the field, for what cannot be searched."""
        if self.source and self.source not in SOURCES:
            raise BadInput(f"A source is one of {', '.join(SOURCES)}, not {self.source!r}.", field="source")
        if self.state and self.state not in STATES:
            raise BadInput(f"A state is one of {', '.join(STATES)}, not {self.state!r}.", field="state")
        for name, value in (("least", self.least), ("most", self.most)):
            if value is not None and not 0 <= value <= 1:
                raise BadInput("A probability lies between 0 and 1.", field=name)
        if self.least is not None and self.most is not None and self.least > self.most:
            raise BadInput("The least probability is above the most.", field="least")
        if self.since and self.until and self.since > self.until:
            raise BadInput("The first day lies after the last.", field="since")


Portion = tuple[list[texts.Text], Held]


def find(db: Session, project: Project, search: Search, which: texts.Which) -> Iterator[Portion]:
    """The sentences of these texts that are as the search says, by text; a portion at a time, in reading order.

    Texts without any are left out. Raises BadInput, NotFound for a layer that is not there.
    """
    search.check()
    if search.layer is not None:
        acts.read_layer(db, project.id, search.layer)
    search = replace(search, words=search.words.casefold().strip(), named=folded(search.named))
    for portion in texts.in_portions(db, project.id, _narrowed(db, project, search, which)):
        held = _found(db, project, search, portion, texts.sentences_of(db, [text.id for text in portion]))
        left = [text for text in portion if held[text.id]]
        if left:
            yield left, {text.id: held[text.id] for text in left}


def _narrowed(db: Session, project: Project, search: Search, which: texts.Which) -> texts.Which:
    """The texts that can have what is searched for, as far as the database can tell without reading them."""
    only = which.only
    if search.state in _ANNOTATED or (search.wants_span and search.source in ("", GOLD)):
        state = _ANNOTATED.get(search.state, "")
        kind = search.type if search.source in ("", GOLD) else ""
        annotated = acts.annotated_texts(db, project.id, layer=search.layer, state=state, type=kind)
        only = annotated if only is None else annotated & set(only)
    return replace(
        which,
        only=only,
        words=search.words,
        title=search.title.strip(),
        group=search.group.strip(),
        since=search.since,
        until=search.until,
    )


def _found(db: Session, project: Project, search: Search, wanted: Sequence[texts.Text], held: Held) -> Held:
    left: Held = {text.id: [s for s in held[text.id] if search.words in _words(text, s)] for text in wanted}
    if search.state:
        states = acts.states_of(db, [s.id for held in left.values() for s in held], search.layer)
        left = _kept(left, lambda s: _is_state(search.state, states.get(s.id, acts.Annotation())))
    if search.wants_span:
        left = _with_span(db, project, search, [text for text in wanted if left[text.id]], left)
    return left


def folded(words: str) -> str:
    """Words as they are compared: folded, and with one space for any run of spaces."""
    return " ".join(fold(words).split())


def _words(text: texts.Text, sentence: texts.Sentence) -> str:
    return text.body[sentence.start : sentence.end].casefold()


def _kept(held: Held, keep: Callable[[texts.Sentence], bool]) -> Held:
    return {text_id: [s for s in sentences if keep(s)] for text_id, sentences in held.items()}


def _is_state(wanted: str, annotation: acts.Annotation) -> bool:
    if wanted == "empty":
        return annotation.state == acts.SIGNED and not annotation.spans
    if wanted == "asked":
        return bool(annotation.question) and not annotation.answer
    return annotation.state == wanted


def _with_span(
    db: Session, project: Project, search: Search, wanted: Sequence[texts.Text], held: Held
) -> Held:
    if search.source in ("", GOLD):
        numbers = [s.id for sentences in held.values() for s in sentences]
        states = acts.states_of(db, numbers, search.layer)
        spans = {number: annotation.spans for number, annotation in states.items()}
    else:
        quiet = quiet_among(db, project, wanted)
        spans = lane_spans(
            db, project, search.source, [text for text in wanted if text.id not in quiet], held
        )
    found = dict(held)
    for text in wanted:
        found[text.id] = [
            s for s in held[text.id] if any(_is_span(search, text, span) for span in spans.get(s.id, ()))
        ]
    return found


def _is_span(search: Search, text: texts.Text, span: Span) -> bool:
    if search.type and span.type != search.type:
        return False
    if search.named and folded(text.body[span.start : span.end]) != search.named:
        return False
    if search.least is None and search.most is None:
        return True
    p = span.probability
    return p is not None and (search.least or 0.0) <= p <= (1.0 if search.most is None else search.most)
