"""What a plan names may get other names; what sets two plans apart is said in words."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from urdaten.core.pipeline import (
    GivenSettings,
    ListsSettings,
    Named,
    Plan,
    PolicyPlan,
    RepeatsSettings,
    RulesSettings,
    StagePlan,
    TaggerSettings,
    TypesSettings,
    WhereSettings,
    differences,
    named_in,
    renamed_plan,
    standard,
)
from urdaten.core.pipeline.differences import TITLES
from urdaten.core.pipeline.plan import SETTINGS, Settings

NAMES = st.sampled_from(["ships", "goods", "ports"])
TYPES = st.sampled_from(["VES", "PRT", "CGO"])
SETTINGS_OF = st.one_of(
    st.builds(ListsSettings, lists=st.lists(NAMES, unique=True).map(tuple)),
    st.builds(RulesSettings, rules=st.lists(NAMES, unique=True).map(tuple)),
    st.builds(
        TaggerSettings,
        tagger=st.sampled_from(["", "4", "5"]),
        types=st.dictionaries(TYPES, TYPES),
        least_of=st.dictionaries(TYPES, st.just(0.5)),
    ),
    st.builds(
        WhereSettings,
        pattern=st.sampled_from(["'sails'", "list(ships)", "found(VES) list(goods)"]),
        types=st.lists(TYPES, unique=True).map(tuple),
    ),
    st.builds(
        TypesSettings,
        keep=st.lists(TYPES, unique=True).map(tuple),
        drop=st.just(("VES",)),
        rename=st.dictionaries(TYPES, TYPES),
    ),
    st.builds(RepeatsSettings, types=st.lists(TYPES, unique=True).map(tuple)),
    st.builds(GivenSettings, source=st.just("scanner"), types=st.dictionaries(st.just("ship"), TYPES)),
)


def planned(every: list[Settings]) -> Plan:
    kinds = {of: kind for kind, of in SETTINGS.items()}
    stages = (StagePlan(name=f"s{k}", kind=kinds[type(one)], settings=one) for k, one in enumerate(every))
    return Plan(stages=tuple(stages), policy=PolicyPlan(by_type={"PRT": ("s0",)} if every else {}))


@given(every=st.lists(SETTINGS_OF, max_size=4))
def test_with_other_names_and_back_it_is_the_same_plan(every: list[Settings]) -> None:
    plan = planned(every)
    named = named_in(plan)
    there = Named(*({name: f"X{name}" for name in own} for own in vars(named).values()))
    back = Named(*({f"X{name}": name for name in own} for own in vars(named).values()))
    other = renamed_plan(plan, there)
    # What a tagger or another source calls its types is theirs, and stays.
    assert {name for own in vars(named_in(other)).values() for name in own} == {
        f"X{name}" for own in vars(named).values() for name in own
    }
    assert renamed_plan(other, back) == plan
    assert renamed_plan(plan, Named()) == plan


def test_names_within_a_pattern_are_found_and_follow() -> None:
    plan = planned([WhereSettings(pattern="found(VES) list(ships)", types=("PRT",))])
    named = named_in(plan)
    assert (set(named.lists), set(named.types)) == ({"ships"}, {"VES", "PRT"})
    new = renamed_plan(plan, Named(lists={"ships": "all ships"}, types={"VES": "BOAT"}))
    assert new.stages[0].settings == WhereSettings(pattern="found(BOAT) list(all ships)", types=("PRT",))
    # One that cannot be read names nothing, and stays.
    broken = planned([WhereSettings(pattern="found(VES")])
    assert named_in(broken) == Named(types={"PRT": "PRT"})
    assert renamed_plan(broken, Named(types={"VES": "BOAT"})).stages == broken.stages


LISTS, RULES, TAGGER = standard().stages


@pytest.mark.parametrize(
    ("stages", "policy", "said"),
    [
        ((LISTS, RULES, TAGGER), PolicyPlan(), []),
        ((LISTS, TAGGER), PolicyPlan(), ["“rules” is gone"]),
        ((LISTS, RULES, TAGGER, replace(LISTS, name="more")), PolicyPlan(), ["“more” is new"]),
        ((RULES, LISTS, TAGGER), PolicyPlan(), ["the order is rules, lists, tagger"]),
        ((LISTS, replace(RULES, on=False), TAGGER), PolicyPlan(), ["“rules” is off"]),
        (
            (LISTS, RULES, replace(TAGGER, towards={}, settings=TaggerSettings(least=0.5))),
            PolicyPlan(),
            ["“tagger” has other settings: towards earlier stages, least probability"],
        ),
        (
            (replace(RULES, name="lists"), RULES, TAGGER),
            PolicyPlan(),
            ["“lists” is of another kind"],
        ),
        ((LISTS, RULES, TAGGER), PolicyPlan(kind="longest"), ["the policy is “longest”"]),
        (
            (LISTS, RULES, TAGGER),
            PolicyPlan(order=("lists",), least=0.2),
            ["the policy has other settings: order of the policy, least probability"],
        ),
    ],
)
def test_what_sets_two_plans_apart(
    stages: tuple[StagePlan, ...], policy: PolicyPlan, said: list[str]
) -> None:
    assert differences(standard(), Plan(stages=stages, policy=policy)) == said


def test_every_setting_has_a_name_in_words() -> None:
    for of in SETTINGS.values():
        assert set(of.__dataclass_fields__) <= set(TITLES)
