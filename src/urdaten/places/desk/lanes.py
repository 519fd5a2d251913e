"""What one source says in sentences. It asks places that come after the Desk's acts, and so is not one of them."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy.orm import Session

from urdaten.core.pipeline import Ranks, resolve
from urdaten.core.spans import Span
from urdaten.places.desk import learned
from urdaten.places.pipeline import acts as pipeline
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts

GOLD, TOGETHER = "gold", "together"
# Of the pipeline's answer what no other lane has.
PIPELINE = "pipeline"
SOURCES = (GOLD, "lists", "rules", "tagger", learned.SOURCE, TOGETHER)

# Sentences by their text.
Held = dict[int, list[texts.Sentence]]


def lane_spans(
    db: Session, project: Project, source: str, wanted: Sequence[texts.Text], held: Held
) -> dict[int, tuple[Span, ...]]:
    """What a source says in each sentence, as the Desk's lane of that name has it."""
    names: dict[int, list[Span]] = {}
    if source in (learned.SOURCE, TOGETHER):
        names = {text.id: learned.suggestions(db, project, text, held[text.id]) for text in wanted}
    found: dict[int, tuple[Span, ...]] = {}
    ranks: Ranks = {}
    evidence = [] if source == learned.SOURCE else pipeline.evidence(db, project, wanted)
    for at, text in enumerate(wanted):
        ranks = evidence[at].ranks if evidence else ranks
        lanes = {learned.SOURCE: names.get(text.id, []), **(evidence[at].lanes if evidence else {})}
        kept = lanes if source == TOGETHER else {source: lanes.get(source, [])}
        by_lane = {name: texts.by_sentence(spans, held[text.id]) for name, spans in kept.items()}
        if source == TOGETHER and evidence and evidence[at].is_own:
            own = texts.by_sentence(evidence[at].resolved, held[text.id])
            found |= {number: tuple(spans) for number, spans in own.items()}
            continue
        for s in held[text.id]:
            here = {name: spans[s.id] for name, spans in by_lane.items()}
            found[s.id] = tuple(
                resolve(here, overlap=project.overlap, ranks=ranks) if source == TOGETHER else here[source]
            )
    return found
