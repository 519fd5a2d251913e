"""Routes of the rules place."""

from __future__ import annotations

from dataclasses import asdict
from typing import Annotated

from fastapi import APIRouter, Query

from urdaten.places.desk.wire import StavePage
from urdaten.places.pipeline import acts as pipeline
from urdaten.places.pipeline import wire as staves
from urdaten.places.rules import acts
from urdaten.places.rules.wire import ChangedRuleWish, ExampleShown, RuleShown, RuleWish, TrialShown
from urdaten.places.team.acts import Project
from urdaten.places.team.wire import Annotator, Id, Lead, OfProject
from urdaten.platform.web import Db

router = APIRouter(prefix="/api/projects/{project}/rules", tags=["rules"])


def _draft(wish: RuleWish) -> acts.RuleDraft:
    values = wish.model_dump(exclude={"version"})
    examples = {name: tuple(values[name]) for name in ("must_find", "must_not_find")}
    return acts.RuleDraft(**values | examples)


def _shown(db: Db, project: Project, rules: list[acts.Rule]) -> list[RuleShown]:
    pipeline.counted(db, project)
    figures = pipeline.figures(db, project, "rules")
    blank = pipeline.Figures()
    shown = []
    for rule in rules:
        own = figures.get(rule.id, blank) if rule.on else blank
        told = {"failing": acts.failing(rule, project.language), "trouble": own.trouble}
        shown.append(RuleShown.model_validate(asdict(rule) | asdict(own.finds) | told))
    return shown


@router.get("", operation_id="listRules")
def read(project: OfProject, db: Db) -> list[RuleShown]:
    return _shown(db, project, acts.read_rules(db, project.id))


@router.post("", status_code=201, operation_id="addRule")
def add(wish: RuleWish, project: OfProject, _me: Lead, db: Db) -> RuleShown:
    return _shown(db, project, [acts.add_rule(db, project.id, _draft(wish))])[0]


@router.put("/{rule_id}", operation_id="changeRule")
def change(rule_id: Id, wish: ChangedRuleWish, project: OfProject, _me: Lead, db: Db) -> RuleShown:
    return _shown(db, project, [acts.change_rule(db, project.id, rule_id, _draft(wish), wish.version)])[0]


@router.delete("/{rule_id}", status_code=204, operation_id="removeRule")
def remove(rule_id: Id, project: OfProject, _me: Lead, db: Db) -> None:
    acts.remove_rule(db, project.id, rule_id)


@router.post("/try", operation_id="tryRule")
def try_rule(wish: RuleWish, project: OfProject, _me: Annotator, db: Db) -> TrialShown:
    draft = _draft(wish)
    results = acts.try_rule(draft, project.language)
    count = pipeline.count_rule(db, project, draft.line_rule())
    shown = [ExampleShown.model_validate(result) for result in results]
    return TrialShown(examples=shown, finds=count.finds, texts=count.texts, all=count.all)


@router.get("/{rule_id}/finds", operation_id="readRuleFinds")
def finds(rule_id: Id, project: OfProject, db: Db, wish: Annotated[staves.FindsWish, Query()]) -> StavePage:
    rule = acts.read_rule(db, project.id, rule_id)
    return staves.finds_page(db, project, "rules", rule.id, rule.name, wish)
