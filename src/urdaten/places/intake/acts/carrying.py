"""What was signed in texts of the same sources, carried over to the versions of them that come now."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass, replace

from sqlalchemy.orm import Session

from urdaten.core.spans import Stood, carry
from urdaten.core.text import fold, token_forms
from urdaten.places.desk import acts as desk
from urdaten.places.intake.acts.deciding import Arrival
from urdaten.places.texts import acts as texts

# So much of the shorter of two texts stands in the other, when that is its new version; less where both come from the very same place.
_SHARED, _SHARED_IN_PLACE = 0.5, 0.2


@dataclass(frozen=True, kw_only=True)
class Remains:
    """A signed sentence that no new version has as it was. It stays signed where it is."""

    sentence: int
    title: str
    words: str
    # As core.spans.Left has it.
    why: str
    # Words of spans that were not found again.
    lost: tuple[str, ...] = ()
    # The sentence that it became, where one is known: its number in the text that arrived, which is known by its body.
    body: str = ""
    number: int | None = None


@dataclass(frozen=True)
class Version:
    """A text with what its sentences, by their numbers, take over."""

    text: texts.NewText
    loaded: dict[int, desk.Loaded]


@dataclass(frozen=True)
class _Before:
    """A text with signed sentences, from a source that comes again."""

    text: texts.Text
    sentences: Sequence[texts.Sentence]
    stood: Sequence[Stood]
    annotations: Sequence[desk.Annotation]


class Carrying:
    """Takes texts with their sentences, one after the other.

    sources: those of the texts that come. again: numbers of texts here whose very bodies come again; they need no other version.
    """

    def __init__(
        self, db: Session, project_id: int, sources: Collection[str], again: Collection[int]
    ) -> None:
        wanted = {source for source in sources if source}
        signed = desk.annotated_texts(db, project_id, state=desk.SIGNED) if wanted else set()
        held = texts.read_from_sources(db, project_id, wanted, signed - set(again)) if signed else []
        self._before = _read(db, held)
        self._having: dict[tuple[str, str], set[int]] = defaultdict(set)
        self._in_place: dict[tuple[str, str], list[int]] = defaultdict(list)
        for number, one in enumerate(self._before):
            self._in_place[one.text.source, one.text.place].append(number)
            for sentence in one.stood:
                self._having[one.text.source, _key(sentence.words)].add(number)
        self.sources = {one.text.source for one in self._before}
        self.versions = self.spans = 0
        self._whole: set[int] = set()
        self._begun: set[int] = set()
        self._left: dict[int, Remains] = {}
        self._continued: set[int] = set()

    def take(self, one: Arrival) -> Version | None:
        """The text as it is kept, when it is a new version of one here: in the same group and split, unless its source says more.

        None for another text, and for one that comes with marks of its own.
        """
        text = one.text
        words = [text.body[start:end] for start, end in text.sentences]
        number = None if one.spans or one.signed else self._version_of(text, words)
        if number is None:
            return None
        before = self._before[number]
        made, left = carry(before.stood, words)
        self.versions += 1
        self._continued.add(number)
        loaded = {}
        for at, carried in made.items():
            old = before.annotations[carried.before]
            start = text.sentences[at][0]
            spans = [replace(s, start=s.start + start, end=s.end + start) for s in carried.spans]
            sentence = before.sentences[carried.before].id
            self.spans += len(spans)
            if carried.whole or spans:
                (self._whole if carried.whole else self._begun).add(sentence)
                loaded[at] = desk.Loaded(spans, carried.whole, desk.Signature(old.signed_by, old.signed_at))
        for one_left in left:
            stood, sentence = before.stood[one_left.before], before.sentences[one_left.before].id
            if one_left.now is None and sentence in self._left:
                continue
            self._left[sentence] = Remains(
                sentence=sentence,
                title=before.text.title,
                words=stood.words,
                why=one_left.why,
                lost=tuple(stood.words[s.start : s.end] for s in one_left.spans),
                body=text.body if one_left.now is not None else "",
                number=one_left.now,
            )
        draft = replace(
            text.draft,
            group=text.draft.group or before.text.group,
            split=before.text.split if text.draft.split == "none" else text.draft.split,
        )
        return Version(replace(text, draft=draft), loaded)

    @property
    def signed(self) -> int:
        """Sentences whose signature came over."""
        return len(self._whole)

    @property
    def begun(self) -> int:
        """Sentences that were changed and are begun again."""
        return len(self._begun - self._whole)

    @property
    def stayed(self) -> int:
        """Texts of these sources with signed sentences, of which no new version came."""
        return len(self._before) - len(self._continued)

    def remains(self) -> list[Remains]:
        """What was not carried over as it was, in the order of sentences."""
        return [one for sentence, one in sorted(self._left.items()) if sentence not in self._whole]

    def _version_of(self, text: texts.NewText, words: Sequence[str]) -> int | None:
        """The text that has most of these sentences, of several the one from the same place, then the newest."""
        in_place = self._in_place.get((text.source, text.place), [])
        shared: Counter[int] = Counter(dict.fromkeys(in_place, 0))
        for key in {_key(one) for one in words}:
            for number in self._having.get((text.source, key), ()):
                shared[number] += len(key)
        best = None
        for number, signs in shared.items():
            before, own = self._before[number].text, number in in_place
            share = signs / max(1, min(len(text.body), len(before.body)))
            if own and share < _SHARED_IN_PLACE:
                share = max(share, _likeness(text.body, before.body) - _SHARED + _SHARED_IN_PLACE)
            if share >= (_SHARED_IN_PLACE if own else _SHARED) and (
                best is None or (share, own, before.id) > best[0]
            ):
                best = (share, own, before.id), number
        return None if best is None else best[1]


def has_sources(db: Session, project_id: int) -> bool:
    """Does anything stand signed in a text that came from somewhere, and could come again?"""
    signed = desk.annotated_texts(db, project_id, state=desk.SIGNED)
    return bool(signed) and texts.any_from_source(db, project_id, signed)


def _key(words: str) -> str:
    return " ".join(words.split())


def _likeness(one: str, other: str) -> float:
    """Twice the words that both have by all of both."""
    a, b = (Counter(map(fold, token_forms(body))) for body in (one, other))
    return 2 * (a & b).total() / max(1, a.total() + b.total())


def _read(db: Session, held: Iterable[texts.Text]) -> list[_Before]:
    held = list(held)
    by_text = texts.sentences_of(db, [text.id for text in held])
    states = desk.states_of(db, [one.id for sentences in by_text.values() for one in sentences])
    blank = desk.Annotation()
    found = []
    for text in held:
        sentences = by_text[text.id]
        annotations = [states.get(one.id, blank) for one in sentences]
        stood = [
            Stood(
                text.body[one.start : one.end],
                tuple(replace(s, start=s.start - one.start, end=s.end - one.start) for s in annotation.spans),
                annotation.state == desk.SIGNED,
            )
            for one, annotation in zip(sentences, annotations, strict=True)
        ]
        found.append(_Before(text, sentences, stood, annotations))
    return found
