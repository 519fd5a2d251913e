"""What a pipeline is, in plain values; and stages in their places."""

from __future__ import annotations

import json
from dataclasses import dataclass, replace
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from urdaten.core.lists import CompiledLists, Entry, ListHead, NameList, Part
from urdaten.core.pipeline import (
    ALONE,
    KINDS,
    Beside,
    Bound,
    Changes,
    GivenSettings,
    ListsSettings,
    Material,
    PlacedStage,
    Plan,
    PolicyPlan,
    RepeatsSettings,
    RulesSettings,
    StagePlan,
    TaggerSettings,
    Trouble,
    TypesSettings,
    WhereSettings,
    build,
    plan_values,
    read_plan,
    standard,
)
from urdaten.core.pipeline.plan import SETTINGS, Settings
from urdaten.core.rules import Rule
from urdaten.core.spans import Span, SpanTable
from urdaten.core.text import Batch, batch_of
from urdaten.errors import BadFile, BadInput

EXAMPLES: dict[str, Settings] = {
    "lists": ListsSettings(lists=("vessels",)),
    "rules": RulesSettings(rules=("berth",)),
    "tagger": TaggerSettings(
        tagger="old", types={"VES": "SHIP"}, least=0.5, least_of={"SHIP": 0.2}, also=0.1
    ),
    "where": WhereSettings(pattern="'sails'", scope="text", has=False, types=("VES",), stages=("lists",)),
    "types": TypesSettings(keep=("VES",), drop=("PRT",), rename={"BTH": "LOC"}),
    "repeats": RepeatsSettings(types=("VES",), least=0.8, in_group=True, small=True, times=2),
    "given": GivenSettings(source="scanner", types={"ship": "VES"}),
}
FULL = Plan(
    stages=tuple(
        StagePlan(name=kind, kind=kind, settings=settings, on=kind != "given", after_fault="stop")
        for kind, settings in EXAMPLES.items()
    ),
    policy=PolicyPlan(
        kind="by type",
        order=("rules",),
        by_type={"VES": ("tagger", "lists")},
        least=0.25,
        worth={"lists": 0.5},
    ),
)


def test_there_is_an_example_of_every_kind() -> None:
    assert tuple(EXAMPLES) == KINDS == tuple(SETTINGS)


@pytest.mark.parametrize("plan", [FULL, standard(), standard(with_tagger=False), Plan(stages=())])
def test_a_plan_is_read_back_as_it_was_written(plan: Plan) -> None:
    assert read_plan(json.loads(json.dumps(plan_values(plan)))) == plan


def paths(value: Any, at: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
    inner: list[tuple[Any, ...]] = []
    if isinstance(value, dict | list):
        for key in value if isinstance(value, dict) else range(len(value)):
            inner += paths(value[key], (*at, key))
    return [at, *inner]


JUNK = st.one_of(
    st.none(),
    st.booleans(),
    st.integers(),
    st.floats(),
    st.text(max_size=3),
    st.just([]),
    st.just({}),
    st.just([3]),
)


@given(data=st.data(), junk=JUNK)
def test_junk_anywhere_in_a_plan_is_refused_or_is_a_plan(data: st.DataObject, junk: Any) -> None:
    values = json.loads(json.dumps(plan_values(FULL)))
    path = data.draw(st.sampled_from(paths(values)))
    if path:
        holder = values
        for step in path[:-1]:
            holder = holder[step]
        holder[path[-1]] = junk
    else:
        values = junk
    try:
        read = read_plan(values)
    except BadInput as fault:
        told = fault.detail.get("field") and fault.message
    else:
        # Whatever is taken can be written again as it was read.
        told = read_plan(plan_values(read)) == read
    assert told


LISTS = StagePlan(name="lists", kind="lists", settings=ListsSettings())


@pytest.mark.parametrize(
    ("plan", "said"),
    [
        (Plan(stages=(LISTS, LISTS)), "two stages “lists”"),
        (Plan(stages=(replace(LISTS, name=" "),)), "has a name"),
        (Plan(stages=(replace(LISTS, name="a\u200bb"),)), "cannot be seen"),
        (
            Plan(stages=(replace(LISTS, towards={"rules": "binds"}),)),
            "names the stage “rules”, which is not there before it",
        ),
        (Plan(stages=(LISTS,), policy=PolicyPlan(order=("no",))), "policy names the stage “no”"),
        (
            Plan(stages=(StagePlan(name="t", kind="types", settings=TypesSettings()),)),
            "keeps, drops and renames nothing",
        ),
        (
            Plan(stages=(StagePlan(name="w", kind="where", settings=WhereSettings(pattern=" ")),)),
            "has no pattern",
        ),
        (Plan(stages=(StagePlan(name="g", kind="given", settings=GivenSettings(source="")),)), "come from"),
    ],
)
def test_stages_that_do_not_hold_together_are_refused(plan: Plan, said: str) -> None:
    with pytest.raises(BadInput, match=said):
        read_plan(plan_values(plan))


VESSELS = NameList(name="vessels", type="VES", entries=(Entry("Amber Quay"), Entry("Haldis")))
CARGOES = NameList(name="cargoes", type="CGO", entries=(Entry("Amber"),))
BERTH = Rule(name="berth", type="BTH", text="'berth' figure").compiled()
MATERIAL = Material(
    parts=[Part(CompiledLists.of([(0, VESSELS), (1, CARGOES)]))],
    heads={0: ListHead(name="vessels", type="VES"), 1: ListHead(name="cargoes", type="CGO")},
    rules=[BERTH],
)
BODY = "The Amber Quay lies at berth 3."


def found(plan: Plan, material: Material = MATERIAL) -> list[tuple[str, str, str]]:
    (spans,) = build(plan, material).run([BODY])
    return [(BODY[s.start : s.end], s.type, s.source) for s in spans]


def test_stages_go_by_their_names_and_the_policy_by_their_order() -> None:
    ships = StagePlan(name="ships", kind="lists", settings=ListsSettings(lists=("vessels",)))
    goods = StagePlan(name="goods", kind="lists", settings=ListsSettings(lists=("cargoes",)))
    ship, berth = ("Amber Quay", "VES", "ships"), ("berth 3", "BTH", "rules")
    rules = StagePlan(name="rules", kind="rules", settings=RulesSettings())
    # The later stage first, unless something else is said.
    assert found(Plan(stages=(ships, goods))) == [("Amber", "CGO", "goods")]
    assert found(Plan(stages=(ships, goods, rules), policy=PolicyPlan(order=("ships",)))) == [ship, berth]
    assert found(Plan(stages=(ships, goods), policy=PolicyPlan(kind="longest"))) == [ship]
    assert found(Plan(stages=(ships, replace(goods, on=False)))) == [ship]
    assert found(Plan(stages=(ships, replace(goods, towards={"ships": "feeds"})))) == [
        ("Amber", "CGO", "goods")
    ]


def test_a_bound_stage_leaves_what_is_there() -> None:
    ships = StagePlan(name="ships", kind="lists", settings=ListsSettings(lists=("vessels",)))
    goods = StagePlan(
        name="goods", kind="lists", settings=ListsSettings(lists=("cargoes",)), towards={"ships": "binds"}
    )
    pipeline = build(Plan(stages=(ships, goods)), MATERIAL)
    assert [s.type for s in pipeline.run([BODY])[0]] == ["VES"]
    _, step, _ = pipeline.steps(batch_of([BODY]))
    assert len(step.changes.added) == 0
    assert [s.type for s in step.changes.refused.spans_in_order()] == ["CGO"]
    (why,) = step.changes.why_refused
    assert isinstance(why, Bound)
    assert why.words == "bound by VES of the ships, from 4 to 14"


@pytest.mark.parametrize(
    ("stage", "said"),
    [
        (
            StagePlan(name="a", kind="lists", settings=ListsSettings(lists=("ports",))),
            "names the list “ports”",
        ),
        (StagePlan(name="a", kind="rules", settings=RulesSettings(rules=("no",))), "names the rule “no”"),
        (StagePlan(name="a", kind="tagger", settings=TaggerSettings()), "names the tagger in use"),
        (StagePlan(name="a", kind="tagger", settings=TaggerSettings(tagger="x")), "names the tagger “x”"),
        (
            StagePlan(name="a", kind="where", settings=WhereSettings(pattern="(")),
            "expected|ends|write|missing",
        ),
    ],
)
def test_a_plan_that_names_what_is_not_there_is_not_built(stage: StagePlan, said: str) -> None:
    with pytest.raises(BadInput, match=said):
        build(Plan(stages=(stage,)), MATERIAL)
    with pytest.raises(BadInput, match="Nothing has been learnt"):
        build(Plan(stages=(), policy=PolicyPlan(kind="weighed")), MATERIAL)


@dataclass(frozen=True)
class Failing:
    """Fails on texts with a certain word."""

    name = "failing"
    reads = ()
    fingerprint = "failing"

    def apply(self, batch: Batch, spans: SpanTable, _beside: Beside = ALONE, /) -> Changes:
        for k, body in enumerate(batch.bodies):
            if "bad" in body:
                raise BadFile("that is a bad text.")
            if "hard" in body:
                return Changes(SpanTable.empty(), troubles=(Trouble(k, "rule 1", "too long"),))
        own = SpanTable.of_spans([[Span(0, 2, "VES", "failing")] for _ in batch.bodies])
        return Changes(own, spans.text.argsort(kind="stable")[-1:].astype("int64"))


def test_a_stage_that_fails_on_a_text_is_named_with_it_and_works_on_the_others() -> None:
    stage = PlacedStage("third", "given", Failing(), {})
    batch = batch_of(["one is bad", "two", "three bad", "four"])
    spans = SpanTable.of_spans([[], [Span(0, 1, "A", "x")], [Span(1, 2, "B", "x")], [Span(2, 3, "C", "x")]])
    changes = stage.apply(batch, spans)
    assert [(t.text, t.maker, t.said) for t in changes.troubles] == [
        (0, "third", "that is a bad text."),
        (2, "third", "that is a bad text."),
    ]
    after = changes.to(spans).spans(4)
    assert [[(s.start, s.type, s.source) for s in own] for own in after] == [
        [],
        [(0, "A", "x"), (0, "VES", "third")],
        [(1, "B", "x")],
        [(0, "VES", "third")],
    ]
    assert [len(changes.added.spans(4)[k]) for k in range(4)] == [0, 1, 0, 1]
    alone = stage.apply(batch.only([0]), SpanTable.empty())
    assert [t.text for t in alone.troubles] == [0]


def test_a_stage_that_is_to_stop_does() -> None:
    for body in ("a bad one", "a hard one"):
        with pytest.raises(BadInput, match="stage “third” stopped at text 2"):
            PlacedStage("third", "given", Failing(), {}, stops=True).apply(
                batch_of(["good", body]), SpanTable.empty()
            )


def test_some_texts_of_a_batch_are_as_they_were() -> None:
    bodies = ["Haldis sails. It rains.", "", "Berth 3. Berth 4.", "Salt."]
    batch = batch_of(bodies)
    some = batch.only([2, 1, 0])
    again = batch_of([bodies[2], bodies[1], bodies[0]])
    assert some.bodies == again.bodies
    for name in ("first", "start", "end", "sentence"):
        assert getattr(some, name).tolist() == getattr(again, name).tolist()
    assert [batch.vocabulary.forms[k] for k in some.word] == [again.vocabulary.forms[k] for k in again.word]


def test_the_fingerprint_hangs_on_all_that_is_on() -> None:
    plan = standard(with_tagger=False)
    same = build(plan, MATERIAL).fingerprint
    assert build(plan, MATERIAL).fingerprint == same
    off = StagePlan(name="off", kind="rules", settings=RulesSettings(), on=False)
    assert build(replace(plan, stages=(off, *plan.stages)), MATERIAL).fingerprint == same
    others = [
        replace(plan, stages=plan.stages[::-1]),
        plan.without("rules"),
        replace(plan, policy=PolicyPlan(kind="longest")),
        replace(plan, stages=(plan.stages[0], replace(plan.stages[1], towards={"lists": "binds"}))),
        replace(plan, stages=(plan.stages[0], replace(plan.stages[1], after_fault="stop"))),
    ]
    prints = [build(other, MATERIAL).fingerprint for other in others]
    assert len({same, *prints}) == len(others) + 1
    assert build(plan, replace(MATERIAL, overlap="nested")).fingerprint not in {same, *prints}


def test_alone_keeps_what_a_stage_is_fed_with_and_without_leaves_one_out() -> None:
    plan = standard()
    assert [s.name for s in plan.alone("tagger").on] == ["lists", "tagger"]
    assert [s.name for s in plan.alone("rules").on] == ["rules"]
    assert [s.name for s in plan.without("rules").on] == ["lists", "tagger"]
