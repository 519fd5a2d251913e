"""A project's abbreviations: which there are, which its texts suggest, and texts split anew by them."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable
from dataclasses import dataclass

import regex
from sqlalchemy.orm import Session

from urdaten.core.text import find_abbreviations, language_pack
from urdaten.errors import BadInput
from urdaten.places.team import acts as team
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts

LONGEST = 20
# So many code points of a project are looked through for more, the last text whole.
LOOKED_THROUGH = 1_000_000
MOST = 1000
_WORD = regex.compile(r"[\p{L}\p{Nd}]+(?:\.[\p{L}\p{Nd}]+)*")


@dataclass(frozen=True, kw_only=True)
class Abbreviations:
    """Those of the project, and those that its texts suggest besides, the surest first."""

    own: list[str]
    suggested: list[str]


def read_abbreviations(db: Session, project: Project) -> Abbreviations:
    """The project's abbreviations, and suggestions from its first texts."""
    read, _ = acts.first_texts(db, project.id, LOOKED_THROUGH)
    analyses = acts.batch_of(db, read, project.language).analyses
    pack = language_pack(project.language)
    known = project.abbreviations | pack.abbreviations | pack.may_end | pack.before_figures
    suggested = [word for word in find_abbreviations(analyses) if word not in known]
    return Abbreviations(own=sorted(project.abbreviations), suggested=suggested)


def set_abbreviations(
    db: Session, project: Project, words: Iterable[str], untouched: Callable[[], Collection[int]]
) -> int:
    """Give the project these abbreviations and split its untouched texts anew; how many of them changed.

    Words may have their stop or not. Raises BadInput for what is no abbreviation.
    """
    wanted = frozenset(_folded(word) for word in words if word.strip())
    if len(wanted) > MOST:
        raise BadInput(f"These are {len(wanted)} abbreviations; a project may have {MOST}.", field="words")
    project = team.set_abbreviations(db, project.id, wanted)
    return acts.split_again(db, project, untouched)


def _folded(word: str) -> str:
    folded = word.strip().removesuffix(".").casefold()
    if len(folded) > LONGEST or not _WORD.fullmatch(folded):
        raise BadInput(
            f"“{word.strip()}” is no abbreviation: letters and figures, {LONGEST} at most, with stops between or behind them.",
            field="words",
        )
    return folded
