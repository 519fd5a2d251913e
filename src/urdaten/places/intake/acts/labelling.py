"""New types for the labels of an annotated corpus."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from sqlalchemy.orm import Session

from urdaten.errors import BadInput
from urdaten.places.intake.acts.store import Intake, change_plan, read_intake
from urdaten.places.types import acts as types


def add_types(db: Session, project_id: int, account_id: int, intake_id: int, labels: Sequence[str]) -> Intake:
    """A type for each label, as one version of the scheme, and the plan by which the labels stand for them.

    Raises BadInput for a label that stands for a type already, or for more types than a scheme has.
    """
    types.hold_scheme(db, project_id)
    plan = read_intake(db, project_id, intake_id).plan
    present = types.list_types(db, project_id)
    held = {one.code for one in present}
    wanted = list(dict.fromkeys(label for label in labels if label.strip()))
    if len(wanted) != len(labels):
        raise BadInput("A label is words, and each is named once.", field="labels")
    if taken := [label for label in wanted if plan.labels.get(label) in held]:
        raise BadInput(f"“{taken[0]}” stands for {plan.labels[taken[0]]} already.", field="labels")
    made = types.add_more_types(db, project_id, account_id, types.drafts_for(wanted, present))
    codes = {label: one.code for label, one in zip(wanted, made, strict=True)}
    return change_plan(db, project_id, intake_id, replace(plan, labels={**plan.labels, **codes}))
