"""Texts of an import on their way to the database: a portion at a time, the next one made while the one before is kept."""

from __future__ import annotations

import time
from collections.abc import Generator, Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from itertools import chain, islice

from urdaten.places.intake.acts import Arrival
from urdaten.places.team.acts import Project
from urdaten.places.texts import acts as texts

PORTION = 1_000
# What comes as quickly as this is kept while the rest is read; what does not is read to its end first, so that nobody waits
# for as long as it takes.
LOOKED_AT, QUICK_PER_S = 5 * PORTION, 500


def begun(coming: Iterator[Arrival]) -> Iterator[Arrival] | list[Arrival]:
    """The same, when it is known how quickly they come: a list of all when they come slowly."""
    began = time.monotonic()
    first = list(islice(coming, LOOKED_AT))
    if len(first) < LOOKED_AT or len(first) < QUICK_PER_S * (time.monotonic() - began):
        return [*first, *coming]
    return chain(first, coming)


def with_sentences(project: Project, coming: Iterator[Arrival]) -> Generator[list[Arrival]]:
    """Portions with their sentences, each made beside what is done with the one before."""
    with ThreadPoolExecutor(1) as beside:
        next_ = beside.submit(_portion, project, coming)
        while portion := next_.result():
            next_ = beside.submit(_portion, project, coming)
            yield portion


def _portion(project: Project, coming: Iterator[Arrival]) -> list[Arrival]:
    portion = list(islice(coming, PORTION))
    whole = texts.with_sentences(project, [one.text for one in portion])
    return [replace(one, text=text) for one, text in zip(portion, whole, strict=True)]
