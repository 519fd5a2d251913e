"""What has been signed in a project, remembered by its words: suggestions without training, and how words stood before.

Sentences of test texts are left out, so that nothing is learnt from what figures are measured on.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field
from threading import Lock

from sqlalchemy.orm import Session

from urdaten.core.memory import NameMemory, Told
from urdaten.core.spans import Span
from urdaten.core.text import Analysis, analyse_many
from urdaten.places.desk import acts
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types
from urdaten.platform.revisions import revisions

SOURCE = "learned"
# So many signed sentences are read at once, and up to so many of their texts are analysed one by one.
AT_ONCE = 5000
FEW = 20
LEARNT_SPLITS = tuple(split for split in texts.SPLITS if split != "test")


@dataclass
class _Kept:
    """The memory of one project, and what it was made from."""

    names: NameMemory = field(default_factory=NameMemory)
    versions: dict[int, int] = field(default_factory=dict)
    stamp: tuple[int, ...] = ()
    # When it was last brought up to date, as `acts.moment` tells it.
    moment: int = 0
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
            # Asked first: what is signed while it is read is read again, not left out.
            moment = acts.moment(db)
            # Where texts and types are as they were, acts alone can have changed anything.
            same = (kept.stamp[:1], kept.stamp[2:]) == (stamp[:1], stamp[2:])
            _catch_up(
                db, project, kept, acts.sentences_of_acts(db, project.id, kept.moment) if same else None
            )
            kept.stamp, kept.moment = stamp, moment
        yield kept.names


def _catch_up(db: Session, project: Project, kept: _Kept, touched: set[int] | None) -> None:
    """Learn what was signed and forget what is no longer; given `touched`, nothing else can have changed."""
    now = acts.signed_versions(db, project.id, LEARNT_SPLITS, touched)
    for number in list(kept.versions) if touched is None else touched & kept.versions.keys():
        if number not in now:
            kept.names.forget(number)
            del kept.versions[number]
    changed = [number for number, version in now.items() if kept.versions.get(number) != version]
    for portion in (changed[at : at + AT_ONCE] for at in range(0, len(changed), AT_ONCE)):
        _learn(db, project, kept.names, portion)
        kept.versions.update((number, now[number]) for number in portion)


def _learn(db: Session, project: Project, names: NameMemory, numbers: Sequence[int]) -> None:
    states = acts.states_of(db, numbers)
    held = texts.sentences_by_text(db, numbers)
    for (text, sentences), analysis in zip(held, analyses(project, [text for text, _ in held]), strict=True):
        for sentence, run in zip(sentences, texts.runs_of(text, analysis, bounds_of(sentences)), strict=True):
            first = {start: i for i, start in enumerate(run.starts)}
            last = {end: i + 1 for i, end in enumerate(run.ends)}
            # A span that does not begin and end with a token is no run of words.
            marked = [
                (first[s.start], last[s.end], s.type)
                for s in states[sentence.id].spans
                if s.start in first and s.end in last
            ]
            names.learn(sentence.id, run.words, marked)


def bounds_of(sentences: Iterable[texts.Sentence]) -> list[tuple[int, int]]:
    return [(sentence.start, sentence.end) for sentence in sentences]


def analyses(project: Project, wanted: Sequence[texts.Text]) -> list[Analysis]:
    """Tokens of each text: of few those that are kept; many are quicker together."""
    if len(wanted) <= FEW:
        return [texts.analysis_of(text.body, project.language) for text in wanted]
    return analyse_many([text.body for text in wanted], project.language)


def suggestions(
    db: Session, project: Project, text: texts.Text, sentences: Sequence[texts.Sentence]
) -> list[Span]:
    """Names in sentences of a text that were signed elsewhere, always alike."""
    found = []
    with memory(db, project) as held:
        runs = texts.words_of(text, project.language, bounds_of(sentences))
        for sentence, run in zip(sentences, runs, strict=True):
            found += [
                Span(
                    run.starts[name.first],
                    run.ends[name.last - 1],
                    name.type,
                    SOURCE,
                    why=f"signed {_times(name.times)}, never otherwise",
                    maker=SOURCE,
                )
                for name in held.names_in(run.words, besides=sentence.id)
            ]
    return found


def _times(count: int) -> str:
    return "twice" if count == 2 else f"{count} times"


def told(db: Session, project: Project, text: texts.Text, start: int, end: int) -> Told:
    """How the words of a text within [start, end) stand in signed sentences of texts that are not for testing."""
    (run,) = texts.words_of(text, project.language, [(start, end)])
    with memory(db, project) as held:
        return held.tell(run.words)
