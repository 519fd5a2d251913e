"""Running a bundle over texts, however many: a portion at a time, so that memory does not grow with their number."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from typing import Any, TypeVar

from urdaten.core.bundle.bundle import Bundle
from urdaten.core.pipeline import Beside, Trouble
from urdaten.core.records import About, Assembler, Record
from urdaten.core.spans import Span, SpanTable
from urdaten.core.text import Vocabulary, batch_of
from urdaten.core.values import value_words
from urdaten.errors import BadInput

# About so many code points are read at once.
SIGNS_AT_ONCE = 50_000
# Texts of one group are read together up to so many; longer groups are read in parts.
LARGEST_GROUP = 300
# With more forms than this a vocabulary is begun anew, so that it does not grow with the number of texts.
MOST_FORMS = 100_000
# Where metadata tell the day that a text is of.
DAY_KEYS = ("dated", "date", "day")
T = TypeVar("T", bound="Incoming")


@dataclass(frozen=True, kw_only=True)
class Incoming:
    """A text to be read. Texts of one group belong together if they follow each other; those of "" stand for themselves."""

    text: str
    group: str = ""
    # What else is known of it goes through as it is.
    id: str = ""
    meta: Mapping[str, Any] = field(default_factory=dict)
    # Spans from elsewhere, by where they are from.
    given: Sequence[Span] = ()


@dataclass(frozen=True, kw_only=True)
class Extraction:
    """What was found in a text: spans in order, records of the template that was asked for, and what went wrong."""

    text: Incoming
    spans: list[Span]
    records: list[Record] = field(default_factory=list)
    troubles: tuple[str, ...] = ()


def portions(texts: Iterable[T], signs: int = SIGNS_AT_ONCE) -> Iterator[list[T]]:
    """Texts, about so many code points of them at a time; those of one group stay together, up to LARGEST_GROUP of them."""
    held: list[T] = []
    size = together = 0
    for one in texts:
        goes_on = bool(held) and one.group != "" and one.group == held[-1].group
        if held and (together == LARGEST_GROUP if goes_on else size >= signs):
            yield held
            held, size, goes_on = [], 0, False
        together = together + 1 if goes_on else 1
        held.append(one)
        size += len(one.text)
    if held:
        yield held


class Runner:
    """Runs a bundle's pipeline. For one thread at a time."""

    def __init__(self, bundle: Bundle) -> None:
        """Raises BadFile that names the part, where one cannot be used."""
        self.bundle = bundle
        self.pipeline = bundle.pipeline()
        self._vocabulary = Vocabulary()

    def run(
        self, texts: Iterable[str | Mapping[str, Any] | Incoming], template: str = ""
    ) -> Iterator[Extraction]:
        """What is found in each text, in their order, read a portion at a time. A text is a string, or has "text" and, where
        wanted, "id", "group" and "meta". With the name of a record template records are assembled as well.

        Raises BadInput for anything else, NotFound for a template that is not in the bundle.
        """
        chosen = self.bundle.assembler(template) if template else None
        for portion in portions(map(incoming, texts)):
            yield from self.read(portion, chosen)

    def read(self, portion: Sequence[Incoming], assembler: Assembler | None = None) -> list[Extraction]:
        """What is found in texts that are read at once."""
        if len(self._vocabulary) > MOST_FORMS:
            self._vocabulary = Vocabulary()
        pipeline = self.pipeline
        bodies = [one.text for one in portion]
        batch = batch_of(bodies, pipeline.language, self._vocabulary, pipeline.abbreviations)
        # A group's name may come again later, of texts that were not read together.
        beside = Beside([one.group for one in portion], SpanTable.of_spans([list(p.given) for p in portion]))
        troubles: dict[int, list[str]] = {}
        spans = SpanTable.empty()
        for step in pipeline.steps(batch, beside):
            spans = step.after
            for trouble in step.changes.troubles:
                troubles.setdefault(trouble.text, []).append(_told(trouble))
        spans = spans.in_order()
        found = spans.spans(len(batch))
        records: list[list[Record]] = [[] for _ in portion]
        if assembler is not None:
            about = About(
                days=[_day_of(one.meta) for one in portion],
                metadata=lambda text, key: str(portion[text].meta.get(key) or ""),
            )
            made = assembler.assemble(batch, spans, self.bundle.names, about, value_words(pipeline.language))
            records = [one.records for one in made]
        return [
            Extraction(text=one, spans=own, records=mine, troubles=tuple(troubles.get(k, ())))
            for k, (one, own, mine) in enumerate(zip(portion, found, records, strict=True))
        ]


def _day_of(meta: Mapping[str, Any]) -> date | None:
    """The day that a text is of, as its metadata tell it in ISO 8601."""
    for key in DAY_KEYS:
        try:
            return date.fromisoformat(str(meta.get(key) or "")[:10])
        except ValueError:
            continue
    return None


def _told(trouble: Trouble) -> str:
    return f"{trouble.maker}: {trouble.said}"


def incoming(text: str | Mapping[str, Any] | Incoming) -> Incoming:
    """A text as whoever calls may give it. Raises BadInput."""
    if isinstance(text, Incoming):
        return text
    if isinstance(text, str):
        return Incoming(text=text)
    if not isinstance(text, Mapping) or not isinstance(text.get("text"), str):
        raise BadInput("A text is a string, or a record with “text”.", field="text")
    meta = text.get("meta") or {}
    if not isinstance(meta, Mapping):
        raise BadInput("“meta” of a text is a record.", field="meta")
    number, group = ("" if text.get(name) is None else str(text[name]) for name in ("id", "group"))
    return Incoming(text=text["text"], meta=meta, id=number, group=group)
