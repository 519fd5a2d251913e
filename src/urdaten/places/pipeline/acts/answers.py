"""What the pipeline of a project answers in its texts, where somebody has changed it."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import replace

from sqlalchemy.orm import Session

from urdaten.core.pipeline import Beside, Pipeline, build
from urdaten.core.spans import Span
from urdaten.errors import BadInput
from urdaten.places.pipeline.acts import versions
from urdaten.places.pipeline.acts.groups import reading_groups, units_of
from urdaten.places.pipeline.acts.makers import Makers
from urdaten.places.pipeline.acts.material import read_material
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts
from urdaten.platform.database import has_written

# Answers of so many texts are held, those that were made last.
MOST_HELD = 20_000
# Of a project, its makers, the version of its pipeline, and a text.
Key = tuple[int, str, int, int]
_held: OrderedDict[Key, list[Span]] = OrderedDict()


def answers(
    db: Session, project: Project, makers: Makers, wanted: Sequence[texts.Text]
) -> dict[int, list[Span]] | None:
    """By text; None as long as the pipeline is the one that every project begins with. One that cannot run answers nothing:
    its place says why, and nobody else is kept from their work."""
    number = versions.number_of(db, project.id)
    if number == 0:
        return None
    keys = {text.id: (project.id, makers.stamp, number, text.id) for text in wanted}
    found = {text_id: _held[key] for text_id, key in keys.items() if key in _held}
    missing = [text for text in wanted if text.id not in found]
    if not missing:
        return found
    try:
        made = _made(db, project, makers, missing, number)
    except BadInput:
        return found | {text.id: [] for text in missing}
    return found | made


def check_runs(db: Session, project: Project) -> None:
    """Raises BadInput where a pipeline that somebody has kept cannot run, for whoever must not take nothing for an answer."""
    if versions.number_of(db, project.id):
        plan = versions.present(db, project.id).plan
        build(plan, read_material(db, project, plan))


def _made(
    db: Session, project: Project, makers: Makers, missing: Sequence[texts.Text], number: int
) -> dict[int, list[Span]]:
    plan = versions.present(db, project.id).plan
    pipeline = build(plan, read_material(db, project, plan, makers))
    groups = reading_groups(db, project.id)
    units = units_of(db, project.id, [(text.id, text.group) for text in missing], groups)
    read = texts.read_texts(db, project.id, {one for unit in units for one in unit})
    unit_of = {one: k for k, unit in enumerate(units) for one in unit}
    made = run(db, project, pipeline, read, [str(unit_of[text.id]) for text in read])
    # What a transaction has changed itself may be rolled back.
    if not has_written(db):
        for text, spans in zip(read, made, strict=True):
            _held[project.id, makers.stamp, number, text.id] = spans
        while len(_held) > MOST_HELD:
            _held.popitem(last=False)
    return {text.id: spans for text, spans in zip(read, made, strict=True)}


def run(
    db: Session, project: Project, pipeline: Pipeline, wanted: Sequence[texts.Text], groups: Sequence[str]
) -> list[list[Span]]:
    """What a pipeline answers in each text, in the sentences that it was split into."""
    batch = texts.batch_of(db, wanted, project.language)
    found = pipeline.answer(batch, Beside(groups)).spans(len(batch))
    return [[replace(span, why=span.why or span.source) for span in own] for own in found]
