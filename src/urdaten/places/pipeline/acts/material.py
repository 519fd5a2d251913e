"""What the names in a plan stand for in a project."""

from __future__ import annotations

from sqlalchemy.orm import Session

from urdaten.core.pipeline import Material, Plan, TaggerGiven, named_in
from urdaten.places.lists import acts as lists
from urdaten.places.pipeline.acts.makers import Makers, read_makers
from urdaten.places.pipeline.acts.weights import weigher_named
from urdaten.places.rules import acts as rules
from urdaten.places.tagger import acts as tagger
from urdaten.places.tagger.acts import TaggerInUse
from urdaten.places.team.acts import Project


def read_material(db: Session, project: Project, plan: Plan, makers: Makers | None = None) -> Material:
    """Lists and rules that are on, and the taggers that a plan names: by the number of their training, or "" for the one in
    use."""
    makers = makers or read_makers(db, project)
    parts, heads = lists.compiled_lists(db, project)
    models = {
        name: model for name in _named(plan) if (model := read_tagger(db, project.id, name)) is not None
    }
    return Material(
        language=project.language,
        overlap=project.overlap,
        parts=parts,
        heads=heads,
        rules=[one.rule for one in makers.rules],
        ranks=makers.ranks,
        fragments=rules.fragment_texts(db, project.id),
        words=rules.words_of(db, project.id),
        taggers={
            name: TaggerGiven(tagger=model.tagger, types=model.codes, makers=model.makers)
            for name, model in models.items()
        },
        weigher=weigher_named(db, project.id, plan),
    )


def _named(plan: Plan) -> set[str]:
    return {"", *named_in(plan).taggers}


def read_tagger(db: Session, project_id: int, name: str) -> TaggerInUse | None:
    """The tagger that a plan calls so."""
    if not name:
        return tagger.model_in_use(db, project_id)
    return tagger.read_model(db, project_id, int(name)) if name.isdecimal() and len(name) < 10 else None
