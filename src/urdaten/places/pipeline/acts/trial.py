"""A rule tried while it is typed."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy.orm import Session

from urdaten.core.rules import LineRule
from urdaten.places.desk import acts as desk
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts

# On so many code points, the last text whole, and in so many steps.
TRIAL_SIGNS = 500_000
TRIAL_STEPS = 100_000_000


@dataclass(frozen=True)
class Count:
    """How often a rule finds something in so many texts, and whether these are all that are not quiet."""

    finds: int
    texts: int
    all: bool


def count_rule(db: Session, project: Project, rule: LineRule) -> Count:
    """How often a rule that is not saved yet would find something, in the first texts. Raises BadPattern."""
    read, every = texts.first_texts(db, project.id, TRIAL_SIGNS)
    quiet = desk.quiet_among(db, project, read)
    read = [text for text in read if text.id not in quiet]
    steps = TRIAL_STEPS
    finds = 0
    for analysis in texts.batch_of(db, read, project.language).analyses:
        found, took = rule.matches(analysis, steps)
        steps -= took
        finds += len(found)
    return Count(finds, len(read), every)
