"""Documents of an import kept as texts, with what is marked in them."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from sqlalchemy.orm import Session

from urdaten.core.spans import Span
from urdaten.places.desk import acts as desk
from urdaten.places.intake.acts.carrying import Carrying, Version
from urdaten.places.intake.acts.deciding import Arrival
from urdaten.places.intake.plan import Plan
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts

GOLD = "gold"
# Of what did not come over; all of it is counted.
MOST_REMAINS = 500
_LONGEST_SHOWN = 2_000


class Keeping:
    """Takes portions of what has been decided to be kept, all in one transaction."""

    def __init__(
        self, db: Session, project: Project, plan: Plan, account_id: int | None, carrying: Carrying
    ) -> None:
        self._db, self._project, self._account, self._carrying = db, project, account_id, carrying
        self._bringing = texts.Bringing(db, project)
        self._layer = _layer_of(db, project.id, plan.layer)
        # Sentences of new versions, by their bodies.
        self._cut: dict[str, Sequence[texts.Sentence]] = {}
        self.texts = self.sentences = self.spans = self.signed = 0

    def add(self, portion: Sequence[Arrival]) -> None:
        """Keep them, with the sentences that they have. Raises BadInput for what cannot be kept."""
        versions = [
            self._carrying.take(one) if one.text.source in self._carrying.sources else None for one in portion
        ]
        numbers = self._bringing.add(
            [
                one.text if version is None else version.text
                for one, version in zip(portion, versions, strict=True)
            ]
        )
        self.texts += len(portion)
        self.sentences += sum(len(one.text.sentences) for one in portion)
        marked = {
            number: one for number, one in zip(numbers, portion, strict=True) if one.spans or one.signed
        }
        if marked:
            sentences = texts.sentences_of(self._db, list(marked))
            loaded = {
                sentence: held
                for number, one in marked.items()
                for sentence, held in _loaded(one, sentences[number])
            }
            self.spans += sum(len(held.spans) for held in loaded.values())
            self.signed += sum(held.signed for held in loaded.values())
            desk.load_many(self._db, self._project.id, self._account, loaded, self._layer)
        self._carry({number: one for number, one in zip(numbers, versions, strict=True) if one})

    def _carry(self, versions: Mapping[int, Version]) -> None:
        if not versions:
            return
        sentences = texts.sentences_of(self._db, versions)
        self._cut |= {version.text.body: sentences[number] for number, version in versions.items()}
        loaded = {
            sentences[number][at].id: held
            for number, version in versions.items()
            for at, held in version.loaded.items()
        }
        desk.load_many(self._db, self._project.id, self._account, loaded)

    def carried(self) -> dict[str, Any]:
        """What came over from versions that were here, and the first of what did not."""
        remains = self._carrying.remains()
        return carried_counts(self._carrying) | {
            "remains": [
                {
                    "sentence": one.sentence,
                    "now": None if one.number is None else self._cut[one.body][one.number].id,
                    "title": one.title,
                    "words": one.words[:_LONGEST_SHOWN],
                    "why": one.why,
                    "lost": one.lost,
                }
                for one in remains[:MOST_REMAINS]
            ]
        }

    def end(self) -> None:
        """When all have come."""
        self._bringing.end()


def carried_counts(carrying: Carrying) -> dict[str, Any]:
    """How much of what is signed in versions that are here comes over."""
    return {
        "texts": carrying.versions,
        "signed": carrying.signed,
        "begun": carrying.begun,
        "spans": carrying.spans,
        "left": len(carrying.remains()),
        "stayed": carrying.stayed,
    }


def _loaded(one: Arrival, sentences: Sequence[texts.Sentence]) -> Iterator[tuple[int, desk.Loaded]]:
    """What stands in each sentence. Spans and sentences both stand in order, and no span leaves its own."""
    at = 0
    for sentence in sentences:
        own: list[Span] = []
        while at < len(one.spans) and one.spans[at].start < sentence.end:
            own.append(one.spans[at])
            at += 1
        signed = (sentence.start, sentence.end) in one.signed
        if own or signed:
            yield sentence.id, desk.Loaded(own, signed)


def _layer_of(db: Session, project_id: int, name: str) -> int | None:
    """The layer of this name, which is made where there is none; gold for no name."""
    name = name.strip()
    if not name or name == GOLD:
        return None
    held = next((layer.id for layer in desk.read_layers(db, project_id) if layer.name == name), None)
    return desk.add_layer(db, project_id, name, kind="imported").id if held is None else held
