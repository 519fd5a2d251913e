"""What sets two plans apart, in words."""

from __future__ import annotations

from dataclasses import fields
from typing import Any

from urdaten.core.pipeline.plan import Plan, PolicyPlan, StagePlan

# How settings are called where people read.
TITLES = {
    "lists": "lists",
    "rules": "rules",
    "tagger": "tagger",
    "types": "types",
    "least": "least probability",
    "least_of": "least probability by type",
    "also": "second thoughts",
    "pattern": "pattern",
    "scope": "where it looks",
    "has": "has or has not",
    "stages": "stages",
    "keep": "types that stay",
    "drop": "types that go",
    "rename": "types that change",
    "in_group": "in the whole group",
    "small": "small letters",
    "times": "how often",
    "source": "source",
    "kind": "policy",
    "order": "order of the policy",
    "by_type": "order by type",
    "worth": "what spans are worth",
    "weights": "weights",
    "towards": "towards earlier stages",
    "after_fault": "after a fault",
}


def differences(before: Plan, after: Plan) -> list[str]:
    """What has become of each stage, and of the policy; empty for equal plans."""
    old = {stage.name: stage for stage in before.stages}
    new = {stage.name: stage for stage in after.stages}
    said = [f"“{name}” is gone" for name in old if name not in new]
    said += [f"“{name}” is new" for name in new if name not in old]
    both = [name for name in old if name in new]
    if both != [name for name in new if name in old]:
        said.append(f"the order is {', '.join(stage.name for stage in after.stages)}")
    for name in both:
        said += _of_stage(old[name], new[name])
    return said + _of_policy(before.policy, after.policy)


def _of_stage(old: StagePlan, new: StagePlan) -> list[str]:
    if old.kind != new.kind:
        return [f"“{new.name}” is of another kind"]
    said = []
    if old.on != new.on:
        said.append(f"“{new.name}” is {'on' if new.on else 'off'}")
    changed = [*_changed(old, new, ("towards", "after_fault")), *_changed(old.settings, new.settings)]
    if changed:
        said.append(f"“{new.name}” has other settings: {', '.join(changed)}")
    return said


def _of_policy(old: PolicyPlan, new: PolicyPlan) -> list[str]:
    changed = _changed(old, new)
    if "policy" in changed:
        return [f"the policy is “{new.kind}”"]
    return [f"the policy has other settings: {', '.join(changed)}"] if changed else []


def _changed(old: Any, new: Any, names: tuple[str, ...] = ()) -> list[str]:
    of = names or tuple(one.name for one in fields(old))
    return [TITLES[name] for name in of if getattr(old, name) != getattr(new, name)]
