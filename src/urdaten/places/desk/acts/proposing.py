"""A layer of what lists propose: every clear find in sentences that nobody has signed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from sqlalchemy.orm import Session

from urdaten.core.spans import Span
from urdaten.errors import BadInput
from urdaten.places.desk.acts.annotation import DRAFT, Annotation
from urdaten.places.desk.acts.layers import GOLD_NAME, LONGEST_LAYER_NAME, proposed_layer
from urdaten.places.desk.acts.storing import Step, store
from urdaten.places.lists import acts as lists
from urdaten.platform.database import MANY, count_anew
from urdaten.platform.jobs import JobView, add_job

PROPOSE = "propose spans"


def start_proposing(
    db: Session, project_id: int, account_id: int, name: str, only: Sequence[int] | None
) -> JobView:
    """Have the finds of lists, of all that are on or of some, written into a layer of this name.

    Raises BadInput for no name or no list, NotFound for a list that there is not, Clash while it is being done already.
    """
    name = name.strip()
    if not 1 <= len(name) <= LONGEST_LAYER_NAME or name == GOLD_NAME:
        raise BadInput(
            f"A layer needs a name of 1 to {LONGEST_LAYER_NAME} characters that is not “{GOLD_NAME}”.",
            field="name",
        )
    for number in only or ():
        lists.read_list(db, project_id, number)
    on = {one.id for one in lists.lists_on(db, project_id)}
    wanted = sorted(on if only is None else on.intersection(only))
    if not wanted:
        raise BadInput("No list is chosen that is on.", field="lists")
    return add_job(
        db,
        project_id=project_id,
        account_id=account_id,
        kind=PROPOSE,
        title=f"What lists find becomes the layer “{name}”",
        params={"name": name, "lists": wanted},
        alone="A layer is being made from lists already.",
    )


def keep_proposed(db: Session, project_id: int, name: str, found: Mapping[int, Sequence[Span]]) -> None:
    """Write spans by sentence into a layer of this name; what was proposed in it before is gone. No act is logged: nobody has
    annotated."""
    layer = proposed_layer(db, project_id, name)
    blank = Annotation()
    steps = {
        number: Step(before=blank, after=Annotation(state=DRAFT, spans=tuple(sorted(spans))))
        for number, spans in found.items()
    }
    if steps:
        store(db, project_id, layer.id, None, steps)
    if len(steps) >= MANY:
        count_anew(db, "annotation", "span")
