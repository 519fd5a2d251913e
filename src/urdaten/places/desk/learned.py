"""What has been signed in a project, remembered by its words: suggestions without training, and how words stood before.

Sentences of test texts are left out, so that nothing is learnt from what figures are measured on.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from threading import Lock

from sqlalchemy.orm import Session

from urdaten.core.memory import NameMemory, Told
from urdaten.core.spans import Span
from urdaten.places.desk import acts
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types
from urdaten.platform.revisions import revisions

SOURCE = "learned"
LEARNT_SPLITS = tuple(split for split in texts.SPLITS if split != "test")


@dataclass
class _Kept:
    """The memory of one project, and what it was made from."""

    names: NameMemory = field(default_factory=NameMemory)
    versions: dict[int, int] = field(default_factory=dict)
    stamp: tuple[int, ...] = ()
    lock: Lock = field(default_factory=Lock)


_kept: dict[int, _Kept] = {}
_kept_lock = Lock()


@contextmanager
def memory(db: Session, project: Project) -> Iterator[NameMemory]:
    """The project's memory, up to date with what is signed, for one thread at a time."""
    with _kept_lock:
        kept = _kept.setdefault(project.id, _Kept())
    with kept.lock:
        numbers = revisions(db, project.id)
        stamp = tuple(numbers.get(place, 0) for place in (types.PLACE, acts.PLACE, texts.PLACE))
        # A type can change its code: then all is read again.
        if kept.stamp[:1] != stamp[:1]:
            kept.names, kept.versions = NameMemory(), {}
        if kept.stamp != stamp:
            _catch_up(db, project, kept)
            kept.stamp = stamp
        yield kept.names


def _catch_up(db: Session, project: Project, kept: _Kept) -> None:
    now = acts.signed_versions(db, project.id, LEARNT_SPLITS)
    for number in [number for number in kept.versions if number not in now]:
        kept.names.forget(number)
    changed = [number for number, version in now.items() if kept.versions.get(number) != version]
    kept.versions = now
    states = acts.states_of(db, changed)
    for text, sentences in texts.sentences_by_text(db, changed):
        for sentence in sentences:
            words, starts, ends = words_of(project, text, sentence.start, sentence.end)
            first = {start: i for i, start in enumerate(starts)}
            last = {end: i + 1 for i, end in enumerate(ends)}
            # A span that does not begin and end with a token is no run of words.
            marked = [
                (first[s.start], last[s.end], s.type)
                for s in states[sentence.id].spans
                if s.start in first and s.end in last
            ]
            kept.names.learn(sentence.id, words, marked)


def words_of(
    project: Project, text: texts.Text, start: int, end: int
) -> tuple[list[str], list[int], list[int]]:
    """Tokens of a text within [start, end): their words, starts and ends."""
    analysis = texts.analysis_of(text.body, project.language)
    first, last = analysis.token_range(start, end)
    starts, ends = analysis.start[first:last].tolist(), analysis.end[first:last].tolist()
    return [text.body[a:b] for a, b in zip(starts, ends, strict=True)], starts, ends


def suggestions(
    db: Session, project: Project, text: texts.Text, sentences: Iterable[texts.Sentence]
) -> list[Span]:
    """Names in sentences of a text that were signed elsewhere, always alike."""
    found = []
    with memory(db, project) as held:
        for sentence in sentences:
            words, starts, ends = words_of(project, text, sentence.start, sentence.end)
            found += [
                Span(
                    starts[name.first],
                    ends[name.last - 1],
                    name.type,
                    SOURCE,
                    why=f"signed {_times(name.times)}, never otherwise",
                    maker=SOURCE,
                )
                for name in held.names_in(words, besides=sentence.id)
            ]
    return found


def _times(count: int) -> str:
    return "twice" if count == 2 else f"{count} times"


def told(db: Session, project: Project, text: texts.Text, start: int, end: int) -> Told:
    """How the words of a text within [start, end) stand in signed sentences of texts that are not for testing."""
    words, _, _ = words_of(project, text, start, end)
    with memory(db, project) as held:
        return held.tell(words)
