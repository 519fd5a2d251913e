"""A project's pipeline as a bundle."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

from sqlalchemy.orm import Session

from urdaten.core.bundle import Bundle, BundledRule, BundledTagger, gathered_lists
from urdaten.core.formats import Scheme
from urdaten.core.pipeline import Named, Plan, build, named_in, renamed_plan
from urdaten.core.records import Template
from urdaten.installed import general_lexicon
from urdaten.places.lists import acts as lists
from urdaten.places.pipeline.acts.makers import read_makers
from urdaten.places.pipeline.acts.material import read_material, read_tagger
from urdaten.places.rules import acts as rules
from urdaten.places.tagger import acts as tagger
from urdaten.places.tagger.acts import TaggerInUse
from urdaten.places.team.acts import Project


def bundle_of(
    db: Session,
    project: Project,
    plan: Plan,
    scheme: Scheme,
    templates: Sequence[Template],
    learnt: Mapping[str, bytes],
) -> Bundle:
    """Everything that a plan needs, with the scheme, the record templates and what was learnt for them. Raises BadInput and BadPattern where the plan cannot
    be built."""
    material = read_material(db, project, plan)
    build(plan, material)
    makers = read_makers(db, project)
    known = rules.words_of(db, project.id)
    models = _models(db, project.id, plan)
    asks = any(one.rule.base is not None for one in makers.rules) or _has_condition(plan)
    general = general_lexicon()
    learnt_with = {model.tagger.manifest.get("lexicon") for model in models.values()}
    with_lexicon = general is not None and (asks or general.digest in learnt_with)
    compiled, heads = gathered_lists(lists.name_lists(db, project), project.language)
    names = {name: _called(db, project.id, model) for name, model in models.items()}
    # In a bundle no tagger is in use: the one that is goes by its name.
    plan = renamed_plan(plan, Named(taggers=names))
    plan = replace(plan, policy=replace(plan.policy, weights=""))
    return Bundle(
        name=project.name,
        plan=plan,
        scheme=scheme,
        language=project.language,
        abbreviations=project.abbreviations,
        lists=compiled,
        heads=heads,
        rules=tuple(
            BundledRule(
                name=one.name, type=one.rule.rule.type, pattern=one.rule.rule.text, priority=one.priority
            )
            for one in makers.rules
        ),
        fragments=rules.fragment_texts(db, project.id),
        taggers={
            names[name]: BundledTagger(data=model.data, types=model.codes, makers=_by_source(model))
            for name, model in models.items()
        },
        words=known.parts.to_bytes() if known is not None and asks else None,
        lexicon=general.to_bytes() if general is not None and with_lexicon else None,
        weigher=material.weigher if plan.policy.kind == "weighed" else None,
        templates=tuple(templates),
        learnt=learnt,
    )


def _has_condition(plan: Plan) -> bool:
    return any(stage.kind == "where" for stage in plan.stages)


def _models(db: Session, project_id: int, plan: Plan) -> dict[str, TaggerInUse]:
    """The taggers that a plan names, as it names them."""
    stages = [stage for stage in plan.stages if stage.kind == "tagger"]
    wanted = {getattr(stage.settings, "tagger", "") for stage in stages}
    found = {name: read_tagger(db, project_id, name) for name in sorted(wanted | set(named_in(plan).taggers))}
    return {name: model for name, model in found.items() if model is not None}


def _called(db: Session, project_id: int, model: TaggerInUse) -> str:
    """What a tagger is called in a bundle: trainings may share their names."""
    return f"{tagger.read_training(db, project_id, model.training_id).name} ({model.training_id})"


def _by_source(model: TaggerInUse) -> dict[str, dict[str, str]]:
    found: dict[str, dict[str, str]] = {}
    for (source, now), learnt in sorted(model.makers.items()):
        found.setdefault(source, {})[now] = learnt
    return found
