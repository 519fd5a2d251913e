"""Routes of the rules place."""

from __future__ import annotations

from dataclasses import asdict
from typing import Annotated

from fastapi import APIRouter, Query

from urdaten.core.rules import CompiledRule
from urdaten.places.desk.wire import StavePage
from urdaten.places.pipeline import acts as pipeline
from urdaten.places.pipeline import wire as staves
from urdaten.places.rules import acts
from urdaten.places.rules.wire import (
    ChangedFragmentWish,
    ChangedRuleWish,
    ExampleShown,
    FragmentShown,
    FragmentWish,
    LeansShown,
    LookShown,
    OfferShown,
    OffersShown,
    OffersWish,
    PlaceWish,
    RuleLanguageShown,
    RuleShown,
    RuleWish,
    SharedShown,
    SlotShown,
    SlotsShown,
    TakenShown,
    TrialShown,
    TrialWish,
    WordsWish,
)
from urdaten.places.team.acts import Project
from urdaten.places.team.wire import Annotator, Id, Lead, OfProject
from urdaten.platform.web import Db

# So many of the words that a part of a rule took are shown.
TAKEN = 8
router = APIRouter(prefix="/api/projects/{project}/rules", tags=["rules"])


def _draft(wish: RuleWish) -> acts.RuleDraft:
    values = wish.model_dump(exclude={"version", "rule"})
    examples = {name: tuple(values[name]) for name in ("must_find", "must_not_find")}
    return acts.RuleDraft(**values | examples)


def _leans(rule: CompiledRule | None) -> LeansShown:
    if rule is None:
        return LeansShown(tags=[], lemmas=False)
    return LeansShown(tags=sorted(rule.tags), lemmas=rule.asks_of_lemmas)


def _shown(db: Db, project: Project, rules: list[acts.Rule]) -> list[RuleShown]:
    pipeline.counted(db, project)
    figures = pipeline.figures(db, project, "rules")
    blank = pipeline.Figures()
    fragments, words = acts.fragment_texts(db, project.id), acts.words_of(db, project.id)
    shown = []
    for rule in rules:
        own = figures.get(rule.id, blank) if rule.on else blank
        told = {
            "failing": acts.failing(db, project, rule),
            "trouble": rule.gone or acts.unreadable(rule, fragments, words) or own.trouble,
            "aloud": acts.read_aloud(rule),
            "leans": _leans(acts.compiled_or_none(rule, fragments, words)),
        }
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
def try_rule(wish: TrialWish, project: OfProject, _me: Annotator, db: Db) -> TrialShown:
    draft = _draft(wish)
    results = acts.try_rule(db, project, draft, wish.rule)
    rule = acts.compile_draft(db, project.id, draft)
    count = pipeline.count_rule(db, project, rule, wish.rule)
    shown = [ExampleShown.model_validate(result) for result in results]
    return TrialShown(
        examples=shown,
        **asdict(count.finds),
        texts=count.texts,
        all=count.all,
        staves=[staves.hit_stave(project, hit) for hit in count.hits],
        aloud=acts.read_aloud(draft),
        leans=_leans(rule),
    )


@router.put("/{rule_id}/place", status_code=204, operation_id="moveRule")
def move(rule_id: Id, wish: PlaceWish, project: OfProject, _me: Lead, db: Db) -> None:
    acts.move_rule(db, project.id, rule_id, wish.place)


@router.post("/words", operation_id="lookAtWords")
def words(wish: WordsWish, project: OfProject, _me: Annotator, db: Db) -> LookShown:
    return LookShown.model_validate(acts.look(db, project, wish.text))


@router.post("/offers", operation_id="offerRules")
def offers(wish: OffersWish, project: OfProject, _me: Annotator, db: Db) -> OffersShown:
    told = pipeline.offered(db, project, wish.type)
    return OffersShown(
        offers=[
            OfferShown(
                **asdict(one),
                aloud=acts.read_aloud(acts.RuleDraft(name="", type=wish.type, pattern=one.pattern)),
            )
            for one in told.offers
        ],
        sentences=told.sentences,
        all=told.all,
    )


@router.get("/language", operation_id="readRuleLanguage")
def language(project: OfProject, db: Db) -> RuleLanguageShown:
    return RuleLanguageShown(
        **acts.told_of_words(db, project.id),
        ready_made=[FragmentWish(**asdict(one)) for one in acts.READY_MADE],
    )


@router.get("/fragments", operation_id="listFragments")
def read_fragments(project: OfProject, db: Db) -> list[FragmentShown]:
    return [FragmentShown.model_validate(one) for one in acts.read_fragments(db, project.id)]


@router.post("/fragments", status_code=201, operation_id="addFragment")
def add_fragment(wish: FragmentWish, project: OfProject, _me: Lead, db: Db) -> FragmentShown:
    draft = acts.FragmentDraft(**wish.model_dump())
    return FragmentShown.model_validate(acts.add_fragment(db, project.id, draft))


@router.put("/fragments/{fragment_id}", operation_id="changeFragment")
def change_fragment(
    fragment_id: Id, wish: ChangedFragmentWish, project: OfProject, _me: Lead, db: Db
) -> FragmentShown:
    draft = acts.FragmentDraft(**wish.model_dump(exclude={"version"}))
    made = acts.change_fragment(db, project.id, fragment_id, draft, wish.version)
    return FragmentShown.model_validate(made)


@router.delete("/fragments/{fragment_id}", status_code=204, operation_id="removeFragment")
def remove_fragment(fragment_id: Id, project: OfProject, _me: Lead, db: Db) -> None:
    acts.remove_fragment(db, project.id, fragment_id)


@router.get("/{rule_id}/slots", operation_id="readRuleSlots")
def slots(rule_id: Id, project: OfProject, db: Db) -> SlotsShown:
    told = pipeline.slots(db, project, rule_id)
    return SlotsShown(
        finds=told.finds,
        right=told.right,
        alone=told.alone,
        shared=[SharedShown(rule=name, finds=finds) for name, finds in told.shared],
        slots=[
            SlotShown(
                line=one.line,
                said=one.said,
                marked=one.marked,
                distinct=len(one.values),
                taken=[
                    TakenShown(words=words, right=right, wrong=wrong)
                    for words, right, wrong in one.values[:TAKEN]
                ],
            )
            for one in told.places
        ],
    )


@router.get("/{rule_id}/finds", operation_id="readRuleFinds")
def finds(rule_id: Id, project: OfProject, db: Db, wish: Annotated[staves.FindsWish, Query()]) -> StavePage:
    rule = acts.read_rule(db, project.id, rule_id)
    return staves.finds_page(db, project, "rules", rule.id, rule.name, wish)
