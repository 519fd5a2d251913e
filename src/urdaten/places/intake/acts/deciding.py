"""What becomes of each document: a text to keep, or the reason why not."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from functools import lru_cache
from pathlib import PurePosixPath

from urdaten.core.formats import CorpusText
from urdaten.core.spans import Overlap, Span, forbidden_pairs
from urdaten.places.intake.plan import Plan
from urdaten.places.texts import acts as texts
from urdaten.readers import Document, Refusal

_LONGEST_TITLE = 200
_OPENING = 60


@dataclass(frozen=True, kw_only=True)
class Arrival:
    """A document as it would be kept, with the spans that come along, by the codes that they have here."""

    text: texts.NewText
    spans: tuple[Span, ...] = ()
    # Sentences that somebody stands for, by their bounds.
    signed: frozenset[tuple[int, int]] = frozenset()


class Deciding:
    """Takes documents in their order, and remembers what it has met.

    here: digests of the bodies that the project has, with the numbers of their texts. codes: the scheme's, by themselves and by
    the names of their types.
    """

    def __init__(
        self, plan: Plan, here: Mapping[str, int], codes: Mapping[str, str], overlap: Overlap = "apart"
    ) -> None:
        self.plan, self._here, self._codes, self._overlap = plan, here, codes, overlap
        self._met: dict[str, str] = {}
        self.labels: Counter[str] = Counter()
        # Bodies that the project has, and those that came twice.
        self.same = self.twice = 0
        # Numbers of the former.
        self.again: set[int] = set()
        self.left_out: Counter[str] = Counter()

    def take(self, document: Document) -> Arrival | Refusal:
        """What becomes of it."""
        body = document.body
        if len(body) > texts.MOST_CODE_POINTS:
            return _refused(
                document,
                f"It has {len(body)} characters; a text has at most {texts.MOST_CODE_POINTS}. "
                "Read it by paragraphs, lines or pages.",
            )
        if not any(map(str.isalnum, body)):
            return _refused(document, "It holds no words.")
        digest = texts.digest_of(body)
        if digest in self._here:
            self.same += 1
            self.again.add(self._here[digest])
            return _refused(document, "This very text is in the project already.")
        if digest in self._met:
            self.twice += 1
            return _refused(document, f"This very text has come before, from {self._met[digest]}.")
        self._met[digest] = where(document)
        text = texts.NewText(
            draft=self._draft(document),
            body=body,
            meta=document.meta,
            source=document.source,
            place=document.place,
            aside=document.aside,
            aside_annotated=self.plan.annotate_quoted,
            digest=digest,
        )
        if document.corpus is None:
            return Arrival(text=text)
        return self._with_spans(text, document.corpus)

    def code_of(self, label: str) -> str:
        """The code that a label stands for, or nothing: as the plan says, or by its name."""
        if label in self.plan.labels:
            return self._codes.get(self.plan.labels[label].lower(), "")
        return self._codes.get(label.lower(), "")

    def _draft(self, document: Document) -> texts.TextDraft:
        plan = self.plan
        title = " ".join(document.title.split()) or _opening(document)
        by_place = _by_place(document.source, plan.group_by)
        return texts.TextDraft(
            title=title[:_LONGEST_TITLE],
            group=(document.group or by_place or plan.group)[:_LONGEST_TITLE],
            dated=document.dated,
            split=document.split or plan.split,
        )

    def _with_spans(self, text: texts.NewText, corpus: CorpusText) -> Arrival:
        self.labels.update(span.type for span in corpus.spans)
        if self.plan.spans == "left out":
            return Arrival(text=text)
        kept: list[Span] = []
        for span in corpus.spans:
            code = self.code_of(span.type)
            if code and text.body[span.start : span.end].strip() == text.body[span.start : span.end]:
                kept.append(Span(span.start, span.end, code))
            else:
                self.left_out["of types that are not here" if not code else "with spaces at their ends"] += 1
        kept = list(self._standing(kept))
        bounds = [(one.start, one.end) for one in corpus.sentences]
        sentences = texts.whole_over(bounds, [(s.start, s.end) for s in kept]) if bounds else []
        signed = frozenset(_signed(sentences, corpus)) if self.plan.spans == "signed" else frozenset()
        return Arrival(text=replace(text, sentences=sentences), spans=tuple(sorted(kept)), signed=signed)

    def _standing(self, spans: list[Span]) -> Iterator[Span]:
        """Those that the scheme lets stand together, the longest first."""
        taken: list[Span] = []
        for span in sorted(set(spans), key=lambda s: (s.start - s.end, s.start, s.type)):
            near = [one for one in taken if one.start < span.end and span.start < one.end]
            if forbidden_pairs(sorted([*near, span]), self._overlap):
                self.left_out["that overlap others, which this scheme does not let stand"] += 1
                continue
            taken.append(span)
            yield span


def _signed(sentences: list[tuple[int, int]], corpus: CorpusText) -> Iterator[tuple[int, int]]:
    """Sentences of which every part is signed in the corpus."""
    for start, end in sentences:
        own = [one for one in corpus.sentences if start <= one.start and one.end <= end]
        if own and all(one.signed for one in own):
            yield start, end


# The texts of a file come one after the other.
@lru_cache(maxsize=1000)
def _by_place(source: str, group_by: str) -> str:
    """The group of texts of a source that says none."""
    if group_by == "folder":
        return str(PurePosixPath(source).parent).removeprefix(".")
    return source.removeprefix(".") if group_by == "file" else ""


def where(document: Document) -> str:
    """In words."""
    return f"{document.source}, {document.place}" if document.place else document.source


def _refused(document: Document, why: str) -> Refusal:
    return Refusal(source=document.source, place=document.place, why=why, content=document.body[:2000])


def _opening(document: Document) -> str:
    """A title for what has none: its file where that is all, its first words otherwise."""
    if not document.place:
        return PurePosixPath(document.source).stem
    words = " ".join(document.body[: 4 * _OPENING].split())
    return words if len(words) <= _OPENING else words[:_OPENING].rsplit(" ", 1)[0] + " …"
