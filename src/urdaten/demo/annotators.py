"""Three annotators over two weeks of bulletins: made from gold by habit and slip, the same for the same seed.

Each has one written habit that the guidelines rule out, and slips at a rate of their own. Gold is the
settled result.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, replace
from pathlib import Path
from random import Random

import regex

from urdaten.core.formats import write_marked
from urdaten.core.spans import Span, without_overlaps
from urdaten.core.text import analyse
from urdaten.demo.files import FOLDER, Bulletin, Demo, read_bulletins

WEEKS = ("week-33", "week-34")
SEED = 41
_BEFORE = regex.compile(r"\b(?:[Tt]he|THE|Captain|Mr|Mrs|Miss|[Tt]ug|[Ll]ighter|MV) $")
_OWN_DESKS = regex.compile(r"\b(?:harbour office|berth office|duty desk|signal station|this office)\b")
_NUMBER = regex.compile(r"\s+\S{1,2}$")

Habit = Callable[[str, list[Span], Mapping[str, set[str]]], Iterable[Span]]


@dataclass(frozen=True)
class Annotator:
    """A name, a habit in words and as a function, and how often they slip (probability per span)."""

    name: str
    habit: str
    act: Habit
    missed: float
    wrong_type: float
    wrong_bound: float


def _takes_what_stands_before(body: str, gold: list[Span], _types: Mapping[str, set[str]]) -> Iterable[Span]:
    for span in gold:
        before = _BEFORE.search(body, 0, span.start) if span.type in ("VES", "ORG", "BTH", "PER") else None
        yield replace(span, start=before.start()) if before else span


def _cuts_names_short(body: str, gold: list[Span], _types: Mapping[str, set[str]]) -> Iterable[Span]:
    for span in gold:
        words = body[span.start : span.end]
        number = _NUMBER.search(words) if span.type == "BTH" else None
        if number:
            yield replace(span, end=span.start + number.start())
        elif span.type == "INC" and " " in words:
            yield replace(span, start=span.start + words.rindex(" ") + 1)
        else:
            yield span


def _mixes_up_who_and_where(body: str, gold: list[Span], types: Mapping[str, set[str]]) -> Iterable[Span]:
    for span in gold:
        known = types[body[span.start : span.end].casefold()]
        if span.type == "VES" and "PRT" in known:
            yield replace(span, type="PRT")
        elif span.type == "ORG" and "PER" in known:
            yield replace(span, type="PER")
        else:
            yield span
    for match in _OWN_DESKS.finditer(body):
        yield Span(match.start(), match.end(), "ORG")


ANNOTATORS = (
    Annotator(
        name="jo",
        habit="takes the article, the title and the kind of ship into names",
        act=_takes_what_stands_before,
        missed=0.02,
        wrong_type=0.005,
        wrong_bound=0.01,
    ),
    Annotator(
        name="wim",
        habit="marks berths without their number, and of an incident only the last word",
        act=_cuts_names_short,
        missed=0.05,
        wrong_type=0.01,
        wrong_bound=0.02,
    ),
    Annotator(
        name="sol",
        habit="takes ships for the ports and firms for the persons that share their name, "
        "and our own desks for organisations",
        act=_mixes_up_who_and_where,
        missed=0.04,
        wrong_type=0.02,
        wrong_bound=0.03,
    ),
)


def chosen(demo: Demo) -> list[Bulletin]:
    return [b for b in demo.bulletins if b.group in WEEKS]


def annotate(demo: Demo, who: Annotator, seed: int = SEED) -> dict[str, list[Span]]:
    """Spans by title, as this annotator would have marked them."""
    types: dict[str, set[str]] = {}
    for bulletin in demo.bulletins:
        for span in bulletin.gold:
            types.setdefault(bulletin.body[span.start : span.end].casefold(), set()).add(span.type)
    codes = [t.code for t in demo.types]
    random = Random(f"{seed} {who.name}")
    made = {}
    for bulletin in chosen(demo):
        habitual = sorted(who.act(bulletin.body, list(bulletin.gold), types))
        slipped = [s for span in habitual for s in _slip(bulletin.body, span, who, codes, random)]
        made[bulletin.title] = without_overlaps(slipped)
    return made


def _slip(body: str, span: Span, who: Annotator, codes: list[str], random: Random) -> Iterable[Span]:
    draw = random.random()
    if draw < who.missed:
        return []
    draw -= who.missed
    if draw < who.wrong_type:
        return [replace(span, type=random.choice([code for code in codes if code != span.type]))]
    draw -= who.wrong_type
    words = analyse(body[span.start : span.end])
    if draw < who.wrong_bound and len(words) > 1:
        return [replace(span, end=span.start + int(words.end[-2]))]
    return [span]


def file_of(who: Annotator, folder: Path = FOLDER) -> Path:
    return folder / "annotators" / f"{who.name}.txt"


def written(demo: Demo, who: Annotator) -> str:
    """What the annotator's file holds: the bulletins with their marks, in marked text."""
    spans = annotate(demo, who)
    return "\n".join(
        f"=== {b.title} | {b.dated} | {b.voice}\n{write_marked(b.body, spans[b.title])}\n"
        for b in chosen(demo)
    )


def write_annotators(demo: Demo, folder: Path = FOLDER) -> list[Path]:
    """Write every annotator's file anew."""
    paths = []
    for who in ANNOTATORS:
        path = file_of(who, folder)
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(written(demo, who))
        paths.append(path)
    return paths


def read_annotator(who: Annotator, folder: Path = FOLDER) -> dict[str, tuple[Span, ...]]:
    """Spans by title out of an annotator's file. Raises BadFile."""
    return {b.title: b.gold for b in read_bulletins(file_of(who, folder))}
