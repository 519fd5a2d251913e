"""What the evidence store has is what finding everything anew would give; and a change touches no more than it must."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from typing import Any

import pytest
from hypothesis import HealthCheck, given
from hypothesis import settings as hypothesis_settings
from hypothesis import strategies as st
from sqlalchemy import select, text
from sqlalchemy.orm import Session

from places.finding import (
    BODIES,
    PATTERNS,
    STEPS,
    begin,
    figures,
    figures_anew,
    found_anew,
    from_store,
    missed_anew,
    step,
    worths,
    worths_anew,
)
from places.test_tallies import rolled_back
from urdaten.core.rules import match_rules
from urdaten.core.spans import Span
from urdaten.errors import UrdatenError
from urdaten.places.desk import acts as desk
from urdaten.places.lists import acts as lists
from urdaten.places.lists.acts import changes, compiling
from urdaten.places.pipeline import acts as pipeline
from urdaten.places.pipeline.acts import lanes, store
from urdaten.places.pipeline.tables import EvidenceRow
from urdaten.places.rules import acts as rules
from urdaten.places.team import acts as team
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types
from urdaten.platform.database import transaction
from urdaten.platform.jobs import latest_job
from urdaten.platform.settings import Settings


@hypothesis_settings(
    max_examples=25, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture]
)
@given(steps=STEPS, many=st.booleans())
def test_it_follows_every_change(settings: Settings, steps: list[tuple[str, int, int]], many: bool) -> None:
    """Also where lists count as many, so that what was compiled before is used with what has changed beside it."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(compiling, "FEW", -1 if many else compiling.FEW)
        follow(settings, steps)


def follow(settings: Settings, steps: list[tuple[str, int, int]]) -> None:
    compiling._kept.clear()
    compiling._gazetteers.clear()
    with rolled_back(settings) as db:
        begin(db)
        for kind, a, b in [("list", 0, 0), ("entry", 0, 0), ("rule", 0, 1), *steps]:
            try:
                with db.begin_nested():
                    step(db, kind, a, b)
            except UrdatenError:
                continue  # a name that there is already, or a type that is used
            if a % 2:
                assert from_store(db) == found_anew(db)
            for source in ("lists", "rules"):
                assert figures(db, source) == figures_anew(db, source)
            assert pipeline.missed(db, team.project_by_id(db, 1)) == missed_anew(db)
            assert worths(db) == worths_anew(db)


def test_it_follows_each_change_of_lists(settings: Settings) -> None:
    with rolled_back(settings) as db:
        begin(db)
        # Of two lists of one name each, the same words are of two types, until these are one.
        for number, kind in ((0, "VES"), (1, "PER")):
            made = lists.add_list(db, 1, lists.ListDraft(name=f"list {number}", type=kind))
            lists.add_entries(db, team.project_by_id(db, 1), made.id, [lists.EntryDraft(preferred="Haldis")])
            assert from_store(db) == found_anew(db)
        assert sum(len(one["lists"]) for one in from_store(db)) == 4
        changes = (
            "merge",
            "entry",
            "change entry",
            "remove entry",
            "switch list",
            "switch list",
            "remove list",
        )
        for kind in changes:
            before = found_anew(db)
            step(db, kind, 0, 0)
            assert from_store(db) == found_anew(db) != before
            assert figures(db, "lists") == figures_anew(db, "lists")


@pytest.fixture
def db(settings: Settings) -> Iterator[Session]:
    with rolled_back(settings) as session:
        begin(session)
        yield session


def looked_at(monkeypatch: pytest.MonkeyPatch) -> list[str]:
    """The bodies that lists and rules are held against from now on."""
    seen: list[str] = []
    real = texts.batch_of

    def spy(db: Session, wanted: Any, language: str) -> Any:
        seen.extend(text.body for text in wanted)
        return real(db, wanted, language)

    monkeypatch.setattr("urdaten.places.pipeline.acts.lanes.texts.batch_of", spy)
    return seen


def test_a_changed_name_is_looked_for_where_its_words_are_and_nowhere_else(
    db: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    step(db, "list", 0, 0)
    figures(db, "lists")
    seen = looked_at(monkeypatch)
    step(db, "entry", 0, 2)
    assert figures(db, "lists") == {"list 0": (1, 0, 0, 0)}
    assert sorted(seen) == sorted(body for body in BODIES if "Haldis" in body)
    seen.clear()
    step(db, "change entry", 0, 0)
    figures(db, "lists")
    # What held the old name, and what holds the new one.
    assert sorted(seen) == sorted(BODIES)
    seen.clear()
    figures(db, "lists")
    from_store(db)
    assert seen == []


def test_a_changed_rule_alone_is_held_against_texts_anew(
    db: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    for number in (0, 1):
        step(db, "rule", 0, number)
    figures(db, "rules")
    held: list[str] = []

    def spy(given: Any, *rest: Any) -> Any:
        held.extend(one.rule.text for one in given)
        return match_rules(given, *rest)

    monkeypatch.setattr("urdaten.places.pipeline.acts.lanes.match_rules", spy)
    step(db, "change rule", 1, 2)
    assert figures(db, "rules")["rule 1"][0] > 0
    assert held == [PATTERNS[2]]
    # Of a pattern that no rule has any more nothing stays.
    on = sorted(one.fingerprint for one in pipeline.read_makers(db, team.project_by_id(db, 1)).rules)
    assert db.scalars(select(EvidenceRow.patterns)).all() == [on] * 3
    held.clear()
    # Another type, or being off for a while, changes nothing in what it matches.
    step(db, "switch rule", 1, 0)
    step(db, "switch rule", 1, 0)
    from_store(db)
    assert held == []


def test_figures_follow_gold_and_the_types_of_their_makers(settings: Settings) -> None:
    """Each in a transaction of its own: acts of this one would be counted anew whatever else is."""
    with transaction(settings.database_url) as db:
        begin(db)
        step(db, "rule", 0, 1)
        assert figures(db, "rules") == {"rule 1": (1, 0, 0, 0)}
        _, second, _ = texts.all_texts(db, 1)
        sentence = texts.sentences_of(db, [second.id])[second.id][1]
    for start, end, right in ((0, 6, 1), (7, 12, 0)):
        with transaction(settings.database_url) as db:
            version = desk.annotation_of(db, sentence.id).version
            span = Span(sentence.start + start, sentence.start + end, "PER")
            act = desk.Signing(kind="sign", version=version, wanted=(span,))
            desk.annotate(db, 1, 1, sentence.id, act, desk.gold_layer(db, 1))
        with transaction(settings.database_url) as db:
            assert figures(db, "rules") == {"rule 1": (1, 0, 1, 0)}
        # The rule finds what stands in gold once it has that type.
        for code, now in (("PER", right), ("VES", 0)):
            with transaction(settings.database_url) as db:
                (rule,) = rules.read_rules(db, 1)
                draft = rules.RuleDraft(name=rule.name, type=code, pattern=rule.pattern)
                rules.change_rule(db, 1, rule.id, draft, rule.version)
            with transaction(settings.database_url) as db:
                assert figures(db, "rules") == {"rule 1": (1, now, 1, now)}


def test_a_name_is_found_once_no_sentence_ends_in_it(db: Session) -> None:
    step(db, "list", 0, 0)
    (one,) = lists.read_lists(db, 1)
    lists.add_entries(db, team.project_by_id(db, 1), one.id, [lists.EntryDraft(preferred="is in. A. Quay")])
    assert figures(db, "lists") == {}
    step(db, "cut", 0, 1)
    assert figures(db, "lists") == {"list 0": (1, 0, 0, 0)}
    assert from_store(db) == found_anew(db)


def test_many_names_at_once_may_touch_every_text(db: Session) -> None:
    step(db, "list", 0, 0)
    (one,) = lists.read_lists(db, 1)
    figures(db, "lists")
    drafts = [lists.EntryDraft(preferred=f"name {k}") for k in range(changes.TOLD_APART)]
    lists.add_entries(db, team.project_by_id(db, 1), one.id, [*drafts, lists.EntryDraft(preferred="Haldis")])
    assert figures(db, "lists") == {"list 0": (1, 0, 0, 0)}
    assert lists.last_change(db, 1) < changes.TOLD_APART


def test_what_was_found_with_lists_of_before_a_change_is_not_taken_for_what_they_find_now(
    settings: Settings,
) -> None:
    """Somebody reads the lists, somebody else changes them, and only then the first one keeps what was found."""
    with transaction(settings.database_url) as db:
        begin(db)
        step(db, "list", 0, 0)
    with transaction(settings.database_url) as slow:
        project = team.project_by_id(slow, 1)
        makers = pipeline.read_makers(slow, project)
        every = texts.all_texts(slow, 1)
        gazetteer = lists.gazetteer(slow, project)
        with transaction(settings.database_url) as db:
            step(db, "entry", 0, 2)
        assert gazetteer.content == []
        compiling._gazetteers[1] = (compiling._gazetteers[1][0], gazetteer)
        held: dict[int, store.Held] = {}
        known = {text.id: text for text in every}
        with pytest.MonkeyPatch.context() as patch:
            patch.setattr(lists, "gazetteer", lambda *_: gazetteer)
            lanes.CatchUp(slow, project, makers, held, known, keep=True).match(list(known))
            store.keep_stamp(slow, makers, known)
    with transaction(settings.database_url) as db:
        assert from_store(db) == found_anew(db)
        assert sum(len(one["lists"]) for one in from_store(db)) == 2


def test_a_text_that_is_being_removed_is_no_hindrance(settings: Settings) -> None:
    with transaction(settings.database_url) as db:
        begin(db)
        first, *_ = texts.all_texts(db, 1)
    with transaction(settings.database_url) as removing:
        texts.remove_texts(removing, 1, None, [first.id], lambda _: {})
        with transaction(settings.database_url) as db:
            assert len(from_store(db)) == 3
            assert set(db.scalars(select(EvidenceRow.text_id))) == {first.id + 1, first.id + 2}


def test_two_that_find_at_once_do_not_wait_for_each_other(settings: Settings) -> None:
    with transaction(settings.database_url) as db:
        begin(db)
    with transaction(settings.database_url) as first:
        from_store(first)
        found: list[Any] = []

        def other() -> None:
            with transaction(settings.database_url) as db:
                found.append(from_store(db))
                found.append(pipeline.counted(db, team.project_by_id(db, 1)))

        thread = threading.Thread(target=other)
        thread.start()
        thread.join(10)
        assert found == [from_store(first), False]


def test_whoever_reads_an_older_state_is_answered_from_it_and_overwrites_nothing(settings: Settings) -> None:
    """A request that began before somebody else kept what they found and counted."""
    with transaction(settings.database_url) as db:
        begin(db)
        step(db, "list", 0, 0)
        step(db, "rule", 0, 0)
    with transaction(settings.database_url, snapshot=True) as early:
        before = found_anew(early)
        with transaction(settings.database_url) as db:
            step(db, "entry", 0, 2)
            now = figures(db, "lists"), figures(db, "rules")
            found = from_store(db)
            assert found != before
        assert from_store(early) == before
        assert not pipeline.counted(early, team.project_by_id(early, 1))
        pipeline.figures(early, team.project_by_id(early, 1), "lists")
    with transaction(settings.database_url) as db:
        assert from_store(db) == found
        assert (figures(db, "lists"), figures(db, "rules")) == now
        # Nobody began a job for it.
        assert latest_job(db, 1, pipeline.JOB) is None


def test_finds_of_a_silent_round_do_not_count(db: Session) -> None:
    step(db, "list", 0, 0)
    step(db, "entry", 0, 2)
    step(db, "text", 2, 0)
    assert figures(db, "lists") == {"list 0": (2, 0, 0, 0)}
    _, second, _ = texts.all_texts(db, 1)
    draft = desk.RoundDraft(name="silent", note="", priority=1, suggestions=False, open=True)
    number = desk.add_round(db, 1, draft, [second.id])
    assert figures(db, "lists") == {"list 0": (1, 0, 0, 0)}
    desk.remove_round(db, 1, number)
    assert figures(db, "lists") == {"list 0": (2, 0, 0, 0)}


def test_one_project_touches_no_other(settings: Settings) -> None:
    with rolled_back(settings) as db:
        begin(db)
        figures(db, "lists")
        other = team.create_project(db, slug="other", name="Other", language="en")
        desk.gold_layer(db, other.id)
        types.add_type(db, other.id, 1, types.TypeDraft(code="VES", name="vessel", key="v", hue=1))
        made = lists.add_list(db, other.id, lists.ListDraft(name="others", type="VES"))
        lists.add_entries(db, other, made.id, [lists.EntryDraft(preferred="Haldis")])
        texts.add_texts(db, other, [(texts.TextDraft(title="theirs"), "Haldis waits.")])
        assert pipeline.counted(db, other)
        assert pipeline.figures(db, other, "lists")[made.id].finds == pipeline.Finds(1, 0, 0)
        assert figures(db, "lists") == {}
        assert from_store(db) == found_anew(db)


def test_whoever_reads_figures_waits_a_little_for_whoever_counts(
    settings: Settings, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(store, "PATIENCE_MS", 50)
    with transaction(settings.database_url) as reading:
        reading.execute(text("SET LOCAL lock_timeout = '7s'"))
        with transaction(settings.database_url) as counting:
            assert store.get_hold(counting, 1)
            assert not store.get_hold_soon(reading, 1)
            # What it does besides goes on, and as patiently as before.
            assert reading.scalar(text("SHOW lock_timeout")) == "7s"
            waiting = threading.Timer(0.2, counting.commit)
            monkeypatch.setattr(store, "PATIENCE_MS", 10_000)
            waiting.start()
            assert store.get_hold_soon(reading, 1)
            waiting.join()
        assert reading.scalar(text("SHOW lock_timeout")) == "7s"


@pytest.mark.parametrize(("priority", "wanted"), [("usual", (0, 10)), ("high", (0, 5))])
def test_the_answer_goes_by_the_priority_of_rules(
    db: Session, priority: str, wanted: tuple[int, int]
) -> None:
    for name, pattern, own in (("short", "['Amber'] 'Quay'", priority), ("long", "'Amber' 'Quay'", "usual")):
        draft = rules.RuleDraft(name=name, type="VES", pattern=pattern, priority=own)
        rules.add_rule(db, 1, draft)
    (first, *_) = pipeline.evidence(db, team.project_by_id(db, 1), texts.all_texts(db, 1))
    assert [(span.start, span.end) for span in first.resolved] == [wanted]
    assert len(first.lanes["rules"]) == 2
