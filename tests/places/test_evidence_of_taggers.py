"""The tagger's part of the evidence store: it speaks again where it sees something else, and nowhere else."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import suppress
from typing import Any

import pytest
from hypothesis import HealthCheck, given
from hypothesis import settings as hypothesis_settings
from sqlalchemy import delete
from sqlalchemy.orm import Session

from places.finding import (
    BODIES,
    STEPS,
    begin,
    by_tagger,
    put_to_use,
    step,
)
from places.test_tallies import rolled_back
from urdaten.core.text import Batch
from urdaten.errors import UrdatenError
from urdaten.places.lists import acts as lists
from urdaten.places.lists.acts import compiling
from urdaten.places.pipeline.tables import EvidenceRow
from urdaten.places.rules import acts as rules
from urdaten.places.tagger import acts as tagger
from urdaten.places.team import acts as team
from urdaten.platform.settings import Settings


@pytest.fixture
def db(settings: Settings) -> Iterator[Session]:
    with rolled_back(settings) as session:
        begin(session)
        yield session


def from_an_empty_store(db: Session) -> list[list[tuple[Any, ...]]]:
    with db.begin_nested() as nested:
        db.execute(delete(EvidenceRow))
        made = by_tagger(db)
        nested.rollback()
    db.expire_all()
    return made


@hypothesis_settings(
    max_examples=8, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture]
)
@given(steps=STEPS)
def test_the_tagger_follows_every_change_too(settings: Settings, steps: list[tuple[str, int, int]]) -> None:
    compiling._gazetteers.clear()
    tagger._load.cache_clear()
    with rolled_back(settings) as db:
        begin(db)
        put_to_use(db)
        for kind, a, b in [("list", 0, 0), ("text", 0, 0), ("text", 1, 0), *steps]:
            with suppress(UrdatenError), db.begin_nested():
                step(db, kind, a, b)
            assert by_tagger(db) == from_an_empty_store(db)


def spoken_of(monkeypatch: pytest.MonkeyPatch) -> list[str]:
    """The bodies that the tagger speaks of from now on."""
    spoken: list[str] = []
    real = tagger.TaggerInUse.tag

    def spy(self: tagger.TaggerInUse, batch: Batch, *more: Any) -> Any:
        spoken.extend(batch.bodies)
        return real(self, batch, *more)

    monkeypatch.setattr(tagger.TaggerInUse, "tag", spy)
    return spoken


def test_the_tagger_speaks_again_where_it_sees_something_else_and_nowhere_else(
    db: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    put_to_use(db)
    step(db, "list", 0, 0)
    # The first two belong to one group.
    for number in (0, 1):
        step(db, "text", number, 0)
    assert by_tagger(db) == [[], [], []]
    spoken = spoken_of(monkeypatch)
    step(db, "entry", 0, 0)
    assert [len(own) for own in by_tagger(db)] == [1, 0, 0]
    assert sorted(spoken) == sorted(BODIES[:2])
    spoken.clear()
    # A type under another code is the same type, and a name that nobody bears changes nothing.
    step(db, "type", 0, 5)
    (one,) = lists.read_lists(db, 1)
    lists.add_entries(db, team.project_by_id(db, 1), one.id, [lists.EntryDraft(preferred="Nelk")])
    assert [[span[2] for span in own] for own in by_tagger(db)] == [["TF"], [], []]
    assert spoken == []
    # What is said of the second text is heard for the first one too.
    lists.add_entries(db, team.project_by_id(db, 1), one.id, [lists.EntryDraft(preferred="dry")])
    by_tagger(db)
    assert sorted(spoken) == sorted(BODIES[:2])


def test_the_tagger_speaks_again_when_a_span_gets_another_type_or_maker(
    db: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    put_to_use(db)
    for number in (0, 1):
        step(db, "list", 0, number)
    one, other = lists.read_lists(db, 1)
    step(db, "rule", 0, 1)
    (added,) = lists.add_entries(db, team.project_by_id(db, 1), one.id, [lists.EntryDraft(preferred="dry")])
    by_tagger(db)
    spoken = spoken_of(monkeypatch)
    lists.remove_entry(db, team.project_by_id(db, 1), one.id, added.id)
    lists.add_entries(db, team.project_by_id(db, 1), other.id, [lists.EntryDraft(preferred="dry")])
    by_tagger(db)
    assert spoken == [BODIES[1]]
    spoken.clear()
    (rule,) = rules.read_rules(db, 1)
    draft = rules.RuleDraft(name=rule.name, type="PER", pattern=rule.pattern)
    rules.change_rule(db, 1, rule.id, draft, rule.version)
    by_tagger(db)
    assert sorted(spoken) == sorted(body for body in BODIES if "Haldis" in body)
