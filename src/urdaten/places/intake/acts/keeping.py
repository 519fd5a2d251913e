"""Documents of an import kept as texts, with what is marked in them."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from sqlalchemy.orm import Session

from urdaten.core.spans import Span
from urdaten.places.desk import acts as desk
from urdaten.places.intake.acts.deciding import Arrival
from urdaten.places.intake.plan import Plan
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts

GOLD = "gold"


class Keeping:
    """Takes portions of what has been decided to be kept, all in one transaction."""

    def __init__(self, db: Session, project: Project, plan: Plan, account_id: int | None) -> None:
        self._db, self._project, self._account = db, project, account_id
        self._bringing = texts.Bringing(db, project)
        self._layer = _layer_of(db, project.id, plan.layer)
        self.texts = self.sentences = self.spans = self.signed = 0

    def add(self, portion: Sequence[Arrival]) -> None:
        """Keep them, with the sentences that they have. Raises BadInput for what cannot be kept."""
        numbers = self._bringing.add([one.text for one in portion])
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

    def end(self) -> None:
        """When all have come."""
        self._bringing.end()


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
