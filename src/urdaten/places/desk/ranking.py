"""Orders of the queue other than reading order: what to look at first so that a look teaches most."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import asdict, dataclass, field
from hashlib import blake2b, sha256

from sqlalchemy.orm import Session

from urdaten.core.pipeline import disputes, doubt, weigh
from urdaten.places.desk import acts, learned
from urdaten.places.desk.acts.quiet import quiet_among
from urdaten.places.desk.lanes import Held
from urdaten.places.desk.orders import By
from urdaten.places.desk.search import Search, find
from urdaten.places.pipeline import acts as pipeline
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts

# A sentence of two unknown words is no more novel than one of ten.
_SHORT = 4


@dataclass(frozen=True, kw_only=True)
class Ordering:
    """Which order, of which sentences. A ranking stays as it was first made for as long as the same turn is asked for, so
    that the queue does not move under the hands of whoever works through it."""

    by: By
    split: str = ""
    round_id: int | None = None
    seed: int = 0
    turn: int = 0
    search: Search = field(default_factory=Search)

    @property
    def digest(self) -> str:
        """Of all that is asked for."""
        return sha256(json.dumps(asdict(self), default=str, sort_keys=True).encode()).hexdigest()


def rank(db: Session, project: Project, ordering: Ordering) -> acts.Kept | acts.Made:
    """The project's sentences in this order; those of quiet texts come last, except at random.

    Raises NotFound for a round that is not there.
    """
    kept = acts.read_ranking(db, project.id, ordering.digest)
    if kept is not None:
        return kept
    made = _ranked(db, project, ordering)
    acts.keep_ranking(db, project.id, ordering.digest, made)
    return acts.Made(made)


def _ranked(db: Session, project: Project, ordering: Ordering) -> acts.Ranking:
    splits = (ordering.split,) if ordering.split else texts.SPLITS
    held = None if ordering.round_id is None else acts.texts_of_round(db, project.id, ordering.round_id)
    if ordering.by == "random" and ordering.search == Search():
        # Numbers are enough: nobody has to read the texts.
        return _at_random(ordering.seed, texts.sentence_numbers(db, project.id, splits, held))
    ranked: acts.Ranking = []
    last: acts.Ranking = []
    for wanted, sentences in find(db, project, ordering.search, texts.Which(splits=splits, only=held)):
        if ordering.by in ("reading", "random"):
            ranked += [(sentence.id, None) for text in wanted for sentence in sentences[text.id]]
            continue
        quiet = quiet_among(db, project, wanted)
        last += [(s.id, None) for text in wanted if text.id in quiet for s in sentences[text.id]]
        open_texts = [text for text in wanted if text.id not in quiet]
        ranked += _WORTHS[ordering.by](db, project, open_texts, sentences)
    if ordering.by == "random":
        return _at_random(ordering.seed, [number for number, _ in ranked])
    # Python's sort keeps reading order among equals.
    return sorted(ranked, key=lambda pair: -(pair[1] or 0.0)) + last


def _by_novelty(db: Session, project: Project, wanted: Sequence[texts.Text], held: Held) -> acts.Ranking:
    ranking: acts.Ranking = []
    analyses = learned.analyses(project, wanted)
    with learned.memory(db, project) as names:
        for text, analysis in zip(wanted, analyses, strict=True):
            runs = texts.runs_of(text, analysis, learned.bounds_of(held[text.id]))
            for sentence, run in zip(held[text.id], runs, strict=True):
                unknown = (1 - names.share_known(run.words)) * len(run.words)
                ranking.append((sentence.id, unknown / (len(run.words) + _SHORT)))
    return ranking


def _by_disputes(db: Session, project: Project, wanted: Sequence[texts.Text], held: Held) -> acts.Ranking:
    ranking: acts.Ranking = []
    makers = pipeline.read_makers(db, project)
    records = pipeline.track_records(db, project, makers)
    for text, evidence in zip(wanted, pipeline.evidence(db, project, wanted, makers), strict=True):
        lanes, _ = weigh(evidence.lanes, records, project.overlap, makers.ranks)
        every = [one.span for heard in lanes.values() for one in heard if one.overruled_by is None]
        by_sentence = texts.by_sentence(every, held[text.id])
        ranking += [(number, disputes(spans)) for number, spans in by_sentence.items()]
    return ranking


def _by_doubt(db: Session, project: Project, wanted: Sequence[texts.Text], held: Held) -> acts.Ranking:
    ranking: acts.Ranking = []
    found = pipeline.evidence(db, project, wanted)
    for text, evidence, analysis in zip(wanted, found, learned.analyses(project, wanted), strict=True):
        tagged = texts.by_sentence(evidence.lanes.get("tagger", []), held[text.id])
        runs = texts.runs_of(text, analysis, learned.bounds_of(held[text.id]))
        for sentence, run in zip(held[text.id], runs, strict=True):
            ranking.append((sentence.id, doubt(tagged[sentence.id], len(run.words))))
    return ranking


_WORTHS = {"novelty": _by_novelty, "disputes": _by_disputes, "doubt": _by_doubt}


def _at_random(seed: int, numbers: Sequence[int]) -> acts.Ranking:
    return [(number, None) for number in sorted(numbers, key=lambda number: _drawn(seed, number))]


def _drawn(seed: int, number: int) -> bytes:
    """A number's place in a random order that depends on the seed alone, not on what else is ordered."""
    return blake2b(f"{seed} {number}".encode(), digest_size=8).digest()
