"""Routes of the rules place."""

from __future__ import annotations

from dataclasses import asdict
from typing import Annotated

from fastapi import APIRouter, Query

from urdaten.core.rules import CompiledRule
from urdaten.core.spans import Span
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
    LatestRuleAct,
    LeansShown,
    LookShown,
    OfferShown,
    OffersShown,
    OffersWish,
    PlaceWish,
    RuleActShown,
    RuleLanguageShown,
    RuleShown,
    RuleUndoneShown,
    RuleWhyShown,
    RuleWish,
    SharedShown,
    SlotShown,
    SlotsShown,
    TakenShown,
    TrialOfAllShown,
    TrialShown,
    TrialWish,
    WordsWish,
)
from urdaten.places.tagger.wire import JobShown
from urdaten.places.team.acts import Project
from urdaten.places.team.wire import Annotator, Id, Lead, OfProject
from urdaten.places.types import acts as types
from urdaten.platform.web import Db

MOST_NUMBER = 2**31 - 1
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
    missed = pipeline.missed(db, project)
    blank = pipeline.Figures()
    fragments, words = acts.fragment_texts(db, project.id), acts.words_of(db, project.id)
    shown = []
    for rule in rules:
        own = figures.get(rule.id, blank) if rule.on else blank
        made = acts.compiled_or_none(rule, fragments, words)
        told = {
            "takes": made is not None and not made.marks,
            "alone": own.alone,
            "missed": missed.get(rule.type, 0),
            "failing": acts.failing(db, project, rule),
            "trouble": rule.gone or acts.unreadable(rule, fragments, words) or own.trouble,
            "aloud": acts.read_aloud(rule),
            "leans": _leans(made),
        }
        shown.append(RuleShown.model_validate(asdict(rule) | asdict(own.finds) | told))
    return shown


@router.get("", operation_id="listRules")
def read(project: OfProject, db: Db) -> list[RuleShown]:
    return _shown(db, project, acts.read_rules(db, project.id))


@router.post("", status_code=201, operation_id="addRule")
def add(wish: RuleWish, project: OfProject, me: Lead, db: Db) -> RuleShown:
    return _shown(db, project, [acts.add_rule(db, project.id, _draft(wish), me.id)])[0]


@router.put("/{rule_id}", operation_id="changeRule")
def change(rule_id: Id, wish: ChangedRuleWish, project: OfProject, me: Lead, db: Db) -> RuleShown:
    made = acts.change_rule(db, project.id, rule_id, _draft(wish), wish.version, me.id)
    return _shown(db, project, [made])[0]


@router.delete("/{rule_id}", status_code=204, operation_id="removeRule")
def remove(rule_id: Id, project: OfProject, me: Lead, db: Db) -> None:
    acts.remove_rule(db, project.id, rule_id, me.id)


@router.get("/acts/latest", operation_id="readLatestRuleAct")
def latest(project: OfProject, me: Lead, db: Db) -> LatestRuleAct:
    act = acts.latest_act(db, project.id, me.id)
    return LatestRuleAct(act=RuleActShown.model_validate(act) if act else None)


@router.post("/acts/{number}/undo", operation_id="undoRuleAct")
def undo(number: Id, project: OfProject, _me: Lead, db: Db) -> RuleUndoneShown:
    return RuleUndoneShown(left=acts.undo_act(db, project.id, number))


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
        takes=not rule.marks,
        texts=count.texts,
        all=count.all,
        staves=[staves.hit_stave(project, hit) for hit in count.hits],
        aloud=acts.read_aloud(draft),
        leans=_leans(rule),
    )


def _of_all(project: Project, told: pipeline.TrialOfAll) -> TrialOfAllShown:
    return TrialOfAllShown(
        job=JobShown.model_validate(told.job),
        **asdict(told.finds),
        takes=told.takes,
        texts=told.texts,
        staves=[staves.hit_stave(project, hit) for hit in told.hits],
    )


@router.post("/trials", status_code=202, operation_id="tryRuleOnAll")
def try_on_all(wish: TrialWish, project: OfProject, me: Lead, db: Db) -> TrialOfAllShown:
    return _of_all(project, pipeline.begin_trial(db, project, me.id, _draft(wish), wish.rule))


@router.get("/trials/{number}", operation_id="readTrialOnAll")
def trial_on_all(number: Id, project: OfProject, _me: Lead, db: Db) -> TrialOfAllShown:
    return _of_all(project, pipeline.read_trial(db, project, number))


@router.put("/{rule_id}/place", status_code=204, operation_id="moveRule")
def move(rule_id: Id, wish: PlaceWish, project: OfProject, me: Lead, db: Db) -> None:
    acts.move_rule(db, project.id, rule_id, wish.place, me.id)


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
def add_fragment(wish: FragmentWish, project: OfProject, me: Lead, db: Db) -> FragmentShown:
    draft = acts.FragmentDraft(**wish.model_dump())
    return FragmentShown.model_validate(acts.add_fragment(db, project.id, draft, me.id))


@router.put("/fragments/{fragment_id}", operation_id="changeFragment")
def change_fragment(
    fragment_id: Id, wish: ChangedFragmentWish, project: OfProject, me: Lead, db: Db
) -> FragmentShown:
    draft = acts.FragmentDraft(**wish.model_dump(exclude={"version"}))
    made = acts.change_fragment(db, project.id, fragment_id, draft, wish.version, me.id)
    return FragmentShown.model_validate(made)


@router.delete("/fragments/{fragment_id}", status_code=204, operation_id="removeFragment")
def remove_fragment(fragment_id: Id, project: OfProject, me: Lead, db: Db) -> None:
    acts.remove_fragment(db, project.id, fragment_id, me.id)


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
    made = acts.compiled_or_none(rule, acts.fragment_texts(db, project.id), acts.words_of(db, project.id))
    takes = made is not None and not made.marks
    return staves.finds_page(db, project, "rules", rule.id, rule.name, wish, takes=takes)


@router.get("/{rule_id}/missed", operation_id="readMissed")
def missed(rule_id: Id, project: OfProject, db: Db, wish: Annotated[staves.FindsWish, Query()]) -> StavePage:
    """Gold of the rule's type that no rule finds."""
    rule = acts.read_rule(db, project.id, rule_id)
    number = types.type_numbers(db, project.id, [rule.type])[rule.type]
    return staves.missed_page(db, project, number, rule.type, wish)


@router.get("/why", operation_id="explainRules")
def why(
    project: OfProject,
    db: Db,
    sentence: Annotated[int, Query(ge=1, le=MOST_NUMBER)],
    start: Annotated[int, Query(ge=0, le=MOST_NUMBER)],
    end: Annotated[int, Query(ge=0, le=MOST_NUMBER)],
    type: Annotated[str, Query(max_length=40)],
) -> list[RuleWhyShown]:
    """The rules that set a span, and those that took it away, with what each of their parts took."""
    return [
        RuleWhyShown.model_validate(one)
        for one in pipeline.why_ruled(db, project, sentence, Span(start, end, type))
    ]
