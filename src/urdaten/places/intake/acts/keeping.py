"""Documents of an import kept as texts, with what is marked in them."""

from __future__ import annotations

from collections.abc import Sequence

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
        """Keep them. Raises BadInput for what cannot be kept."""
        made = self._bringing.add([one.text for one in portion])
        loaded: dict[int, desk.Loaded] = {}
        for one, sentences in zip(portion, made, strict=True):
            self.texts += 1
            self.sentences += len(sentences)
            at = 0
            for sentence in sentences:
                own: list[Span] = []
                # Spans and sentences both stand in order, and none leaves its own.
                while at < len(one.spans) and one.spans[at].start < sentence.end:
                    own.append(one.spans[at])
                    at += 1
                signed = (sentence.start, sentence.end) in one.signed
                if own or signed:
                    loaded[sentence.id] = desk.Loaded(own, signed)
                    self.spans += len(own)
                    self.signed += signed
        if loaded:
            desk.load_many(self._db, self._project.id, self._account, loaded, self._layer)

    def end(self) -> None:
        """When all have come."""
        self._bringing.end()


def _layer_of(db: Session, project_id: int, name: str) -> int | None:
    """The layer of this name, which is made where there is none; gold for no name."""
    name = name.strip()
    if not name or name == GOLD:
        return None
    held = next((layer.id for layer in desk.read_layers(db, project_id) if layer.name == name), None)
    return desk.add_layer(db, project_id, name, kind="imported").id if held is None else held
