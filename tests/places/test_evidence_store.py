"""What the evidence store has is what finding everything anew would give; and a change touches no more than it must."""

from __future__ import annotations

import threading
from collections import Counter
from collections.abc import Iterator
from contextlib import suppress
from typing import Any

import pytest
from hypothesis import HealthCheck, given
from hypothesis import settings as hypothesis_settings
from hypothesis import strategies as st
from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from conftest import Api
from places.test_tallies import rolled_back
from urdaten.core.lists import Entry, Gazetteer, NameList
from urdaten.core.pipeline import RuleStage
from urdaten.core.spans import Span
from urdaten.core.tagger import GoldText, TaggerInput, TrainingSettings, to_bytes, train
from urdaten.core.text import Batch, Vocabulary, analyse
from urdaten.errors import UrdatenError
from urdaten.places.desk import acts as desk
from urdaten.places.lists import acts as lists
from urdaten.places.pipeline import acts as pipeline
from urdaten.places.pipeline import jobs
from urdaten.places.pipeline.acts import finds, lanes, store
from urdaten.places.pipeline.tables import EvidenceRow
from urdaten.places.rules import acts as rules
from urdaten.places.tagger import acts as tagger
from urdaten.places.team import acts as team
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types
from urdaten.platform.database import transaction
from urdaten.platform.jobs import JobContext, latest_job, run_job
from urdaten.platform.settings import Settings

BODIES = (
    "Amber Quay is in. A. Quay sails at 0600.",
    "The amber is dry. Haldis comes at 0700.",
    "Nobody comes. Haldis Quay waits.",
)
NAMES = ("Amber Quay", "amber", "Haldis", "Quay", "a. quay", "0600", "Haldis Quay", "\u00ad")
PATTERNS = ("\\d{4}", "Haldis( Quay)?", "[A-Z]\\w+", "is in\\. A")


def begin(db: Session) -> None:
    for key, code in (("v", "VES"), ("p", "PER")):
        types.add_type(db, 1, 1, types.TypeDraft(code=code, name=code, key=key, hue=1))
    drafts = [
        (texts.TextDraft(title=body[:6], split=split), body)
        for body, split in zip(BODIES, ("train", "none", "test"), strict=True)
    ]
    texts.add_texts(db, team.project_by_id(db, 1), drafts)


def step(db: Session, kind: str, a: int, b: int) -> None:
    """One change of whatever evidence depends on; UrdatenError where it cannot be made."""
    codes = [one.code for one in types.list_types(db, 1)]
    code = codes[a % len(codes)]
    all_lists, all_rules = lists.read_lists(db, 1), rules.read_rules(db, 1)
    name = NAMES[b % len(NAMES)]
    if kind == "list":
        lists.add_list(db, 1, lists.ListDraft(name=f"list {b}", type=code))
    elif kind == "rule":
        draft = rules.RuleDraft(name=f"rule {b}", type=code, pattern=PATTERNS[b % len(PATTERNS)])
        rules.add_rule(db, 1, draft)
    elif kind == "type":
        one = next(t for t in types.list_types(db, 1) if t.code == code)
        draft_of_type = types.TypeDraft(code="T" + "ABCDEFGH"[b], name=f"T{b}", key=one.key, hue=1)
        types.change_type(db, 1, 1, one.id, draft_of_type, one.version)
    elif kind == "merge" and len(codes) > 1:
        first, other = types.list_types(db, 1)[:2]
        types.merge_type(db, 1, 1, first.id, other.id, types.scheme_version(db, 1))
    elif kind == "sign":
        every = [
            s for own in texts.sentences_of(db, [t.id for t in texts.all_texts(db, 1)]).values() for s in own
        ]
        sentence = every[a % len(every)]
        body = texts.read_text(db, 1, sentence.text_id).body
        words = body[sentence.start : sentence.end].split()[0]
        span = Span(sentence.start, sentence.start + len(words), code, "gold")
        version = desk.annotation_of(db, sentence.id).version
        if b % 2:
            act = desk.Signing(kind="sign", version=version, wanted=(span,))
        else:
            act = desk.Signing(kind="sign as empty", version=version, wanted=())
        desk.annotate(db, 1, 1, sentence.id, act, desk.gold_layer(db, 1))
    elif kind == "text":
        text = texts.all_texts(db, 1)[a % 3]
        split = texts.SPLITS[b % len(texts.SPLITS)]
        texts.change_text(db, 1, text.id, texts.TextDraft(title="x", split=split, group="g"), text.version)
    elif kind == "add text":
        texts.add_texts(
            db, team.project_by_id(db, 1), [(texts.TextDraft(title="new"), f"{name} and Haldis {b}.")]
        )
    elif kind == "cut":
        project = team.set_abbreviations(db, 1, frozenset({"in"} if b % 2 else set()))
        texts.split_again(db, project, lambda: [t.id for t in texts.all_texts(db, 1)])
    elif all_lists and kind in ("entry", "change entry", "remove entry", "switch list", "remove list"):
        one_list = all_lists[a % len(all_lists)]
        entries = lists.page_of_entries(db, 1, one_list.id, after=None, limit=10)
        if kind == "entry":
            lists.add_entries(db, 1, one_list.id, [lists.EntryDraft(preferred=name)])
        elif kind == "switch list":
            draft_of_list = lists.ListDraft(name=one_list.name, type=code, on=not one_list.on)
            lists.change_list(db, 1, one_list.id, draft_of_list, one_list.version)
        elif kind == "remove list":
            lists.remove_list(db, 1, one_list.id)
        elif entries and kind == "change entry":
            entry = entries[b % len(entries)]
            lists.change_entry(
                db,
                1,
                one_list.id,
                entry.id,
                lists.EntryDraft(preferred="Osk", variants=(name,)),
                entry.version,
            )
        elif entries:
            lists.remove_entry(db, 1, one_list.id, entries[0].id)
    elif all_rules and kind in ("switch rule", "change rule", "remove rule"):
        one_rule = all_rules[a % len(all_rules)]
        changed = rules.RuleDraft(
            name=one_rule.name,
            type=code,
            pattern=PATTERNS[b % len(PATTERNS)] if kind == "change rule" else one_rule.pattern,
            on=not one_rule.on if kind == "switch rule" else one_rule.on,
        )
        if kind == "remove rule":
            rules.remove_rule(db, 1, one_rule.id)
        else:
            rules.change_rule(db, 1, one_rule.id, changed, one_rule.version)


KINDS = (
    "list",
    "rule",
    "type",
    "merge",
    "sign",
    "text",
    "add text",
    "cut",
    "entry",
    "entry",
    "change entry",
    "remove entry",
    "switch list",
    "remove list",
    "switch rule",
    "change rule",
    "remove rule",
)
STEPS = st.lists(st.tuples(st.sampled_from(KINDS), st.integers(0, 3), st.integers(0, 7)), max_size=10)


def found_anew(db: Session) -> list[dict[str, list[Any]]]:
    """The slow way: everything compiled and held against every text, with what each span says of itself."""
    project = team.project_by_id(db, 1)
    every = texts.all_texts(db, 1)
    names = Gazetteer(
        NameList(
            name=one.name,
            type=one.type,
            entries=tuple(
                Entry(preferred=e.preferred, variants=e.variants)
                for e in sorted(
                    lists.page_of_entries(db, 1, one.id, after=None, limit=100), key=lambda e: e.id
                )
            ),
        )
        for one in lists.read_lists(db, 1)
        if one.on
    )
    line_rules = [one.line_rule() for one in rules.read_rules(db, 1) if one.on]
    return [
        {
            "lists": [told(s) for s in names.match(analysis)],
            "rules": [told(s) for s in sorted(s for rule in line_rules for s in rule.match(analysis))],
        }
        for analysis in texts.batch_of(db, every, project.language).analyses
    ]


def told(span: Span) -> tuple[Any, ...]:
    return (span.start, span.end, span.type, span.source, span.maker, span.why)


def from_store(db: Session) -> list[dict[str, list[Any]]]:
    every = texts.all_texts(db, 1)
    made = pipeline.evidence(db, team.project_by_id(db, 1), every)
    return [{name: [told(s) for s in spans] for name, spans in one.lanes.items()} for one in made]


def figures_anew(db: Session, source: str) -> dict[str, tuple[int, int, int]]:
    found: dict[str, Counter[str]] = {}
    every = texts.all_texts(db, 1)
    signed = pipeline.gold_by_sentence(db, every)
    for text, found_there in zip(every, found_anew(db), strict=True):
        if text.split == "test":
            continue
        for start, end, code, _, maker, _ in found_there[source]:
            counts = found.setdefault(maker, Counter())
            counts["finds"] += 1
            for sentence, annotation in signed[text.id]:
                if sentence.start <= start and end <= sentence.end:
                    counts["judged"] += 1
                    counts["right"] += Span(start, end, code) in annotation.spans
    return {maker: (c["finds"], c["right"], c["judged"]) for maker, c in found.items()}


def figures(db: Session, source: str) -> dict[str, tuple[int, int, int]]:
    project = team.project_by_id(db, 1)
    assert pipeline.counted(db, project)
    read: Any = lists.read_lists if source == "lists" else rules.read_rules
    name = {one.id: one.name for one in read(db, 1)}
    return {
        name[maker]: (f.finds.finds, f.finds.right, f.finds.judged)
        for maker, f in pipeline.figures(db, project, source).items()
        if f.finds.finds
    }


@hypothesis_settings(
    max_examples=15, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture]
)
@given(steps=STEPS)
def test_it_follows_every_change(settings: Settings, steps: list[tuple[str, int, int]]) -> None:
    lists._compiled.clear()
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


def test_it_follows_each_change_of_lists(settings: Settings) -> None:
    with rolled_back(settings) as db:
        begin(db)
        # Of two lists of one name each, the same words are of two types, until these are one.
        for number, kind in ((0, "VES"), (1, "PER")):
            made = lists.add_list(db, 1, lists.ListDraft(name=f"list {number}", type=kind))
            lists.add_entries(db, 1, made.id, [lists.EntryDraft(preferred="Haldis")])
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
    assert figures(db, "lists") == {"list 0": (1, 0, 0)}
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

    def spy(given: Any) -> Any:
        held.extend(rule.pattern for rule in given)
        return RuleStage(given)

    monkeypatch.setattr("urdaten.places.pipeline.acts.lanes.RuleStage", spy)
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
        assert figures(db, "rules") == {"rule 1": (1, 0, 0)}
        _, second, _ = texts.all_texts(db, 1)
        sentence = texts.sentences_of(db, [second.id])[second.id][1]
    for start, end, right in ((0, 6, 1), (7, 12, 0)):
        with transaction(settings.database_url) as db:
            version = desk.annotation_of(db, sentence.id).version
            span = Span(sentence.start + start, sentence.start + end, "PER")
            act = desk.Signing(kind="sign", version=version, wanted=(span,))
            desk.annotate(db, 1, 1, sentence.id, act, desk.gold_layer(db, 1))
        with transaction(settings.database_url) as db:
            assert figures(db, "rules") == {"rule 1": (1, 0, 1)}
        # The rule finds what stands in gold once it has that type.
        for code, now in (("PER", right), ("VES", 0)):
            with transaction(settings.database_url) as db:
                (rule,) = rules.read_rules(db, 1)
                draft = rules.RuleDraft(name=rule.name, type=code, pattern=rule.pattern)
                rules.change_rule(db, 1, rule.id, draft, rule.version)
            with transaction(settings.database_url) as db:
                assert figures(db, "rules") == {"rule 1": (1, now, 1)}


def test_a_name_is_found_once_no_sentence_ends_in_it(db: Session) -> None:
    step(db, "list", 0, 0)
    (one,) = lists.read_lists(db, 1)
    lists.add_entries(db, 1, one.id, [lists.EntryDraft(preferred="is in. A. Quay")])
    assert figures(db, "lists") == {}
    step(db, "cut", 0, 1)
    assert figures(db, "lists") == {"list 0": (1, 0, 0)}
    assert from_store(db) == found_anew(db)


def test_many_names_at_once_may_touch_every_text(db: Session) -> None:
    step(db, "list", 0, 0)
    (one,) = lists.read_lists(db, 1)
    figures(db, "lists")
    drafts = [lists.EntryDraft(preferred=f"name {k}") for k in range(lists.TOLD_APART)]
    lists.add_entries(db, 1, one.id, [*drafts, lists.EntryDraft(preferred="Haldis")])
    assert figures(db, "lists") == {"list 0": (1, 0, 0)}
    assert lists.last_change(db, 1) < lists.TOLD_APART


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
        gazetteer = lists.gazetteer(slow, 1)
        with transaction(settings.database_url) as db:
            step(db, "entry", 0, 2)
        assert gazetteer.content == []
        lists._compiled[1] = (lists._compiled[1][0], gazetteer)
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
        texts.remove_text(removing, 1, first.id, lambda: 0)
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
    assert figures(db, "lists") == {"list 0": (2, 0, 0)}
    _, second, _ = texts.all_texts(db, 1)
    draft = desk.RoundDraft(name="silent", note="", priority=1, suggestions=False, open=True)
    number = desk.add_round(db, 1, draft, [second.id])
    assert figures(db, "lists") == {"list 0": (1, 0, 0)}
    desk.remove_round(db, 1, number)
    assert figures(db, "lists") == {"list 0": (2, 0, 0)}


def test_one_project_touches_no_other(settings: Settings) -> None:
    with rolled_back(settings) as db:
        begin(db)
        figures(db, "lists")
        other = team.create_project(db, slug="other", name="Other", language="en")
        desk.gold_layer(db, other.id)
        types.add_type(db, other.id, 1, types.TypeDraft(code="VES", name="vessel", key="v", hue=1))
        made = lists.add_list(db, other.id, lists.ListDraft(name="others", type="VES"))
        lists.add_entries(db, other.id, made.id, [lists.EntryDraft(preferred="Haldis")])
        texts.add_texts(db, other, [(texts.TextDraft(title="theirs"), "Haldis waits.")])
        assert pipeline.counted(db, other)
        assert pipeline.figures(db, other, "lists")[made.id].finds == pipeline.Finds(1, 0, 0)
        assert figures(db, "lists") == {}
        assert from_store(db) == found_anew(db)


# A job does what is too much for a request.


@pytest.fixture
def large(api: Api, monkeypatch: pytest.MonkeyPatch) -> Api:
    """A project that is too large to be counted while somebody waits."""
    monkeypatch.setattr(finds, "FEW_TEXTS", 0)
    api.post("/types", {"code": "VES", "name": "vessel", "key": "v", "hue": 1})
    for number, body in enumerate(BODIES):
        api.post("/texts", {"title": str(number), "body": body})
    made = api.post("/lists", {"name": "vessels", "type": "VES"})
    api.post(f"/lists/{made['id']}/entries", {"preferred": "Haldis"})
    return api


def evidence_jobs(api: Api) -> list[dict[str, Any]]:
    return [job for job in api.get("/jobs") if job["kind"] == pipeline.JOB]


def test_a_job_counts_what_is_too_much_for_a_request(large: Api) -> None:
    assert [one["finds"] for one in large.get("/lists")] == [0]
    standing = large.get("/evidence")
    assert (standing["texts"], standing["behind"], standing["job"]["state"]) == (3, 3, "waiting")
    # However often somebody asks, it is one job.
    large.get("/lists")
    large.get("/rules")
    assert len(evidence_jobs(large)) == 1
    (done,) = large.run_jobs()
    assert (done["state"], done["done"]) == ("done", 3)
    assert "3 texts were behind" in done["message"]
    assert [one["finds"] for one in large.get("/lists")] == [2]
    assert large.get("/evidence")["behind"] == 0
    assert len(evidence_jobs(large)) == 1


def test_a_job_counts_anew_where_many_have_signed(large: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    large.get("/lists")
    large.run_jobs()
    monkeypatch.setattr(jobs, "PORTION", 1)
    with transaction(large.settings.database_url) as db:
        held = texts.sentences_of(db, [text.id for text in texts.all_texts(db, 1)])
        desk.sign_many(db, 1, 1, {s.id: () for own in held.values() for s in own})
    assert [(one["finds"], one["judged"]) for one in large.get("/lists")] == [(2, 0)]
    assert large.get("/evidence")["behind"] == 3
    large.run_jobs()
    assert [(one["finds"], one["judged"]) for one in large.get("/lists")] == [(2, 2)]
    assert large.get("/evidence")["behind"] == 0


def test_old_figures_stay_until_the_new_ones_are_there(large: Api) -> None:
    large.get("/lists")
    large.run_jobs()
    (one,) = large.get("/lists")
    large.post(f"/lists/{one['id']}/entries", {"preferred": "Amber Quay"})
    assert [one["finds"] for one in large.get("/lists")] == [2]
    assert large.get("/evidence")["behind"] == 1
    large.run_jobs()
    assert [one["finds"] for one in large.get("/lists")] == [3]


def test_a_stopped_job_keeps_what_it_counted_and_is_not_begun_again_by_itself(
    large: Api, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(jobs, "PORTION", 1)
    large.get("/lists")
    (job,) = evidence_jobs(large)
    monkeypatch.setattr(JobContext, "should_stop", lambda _: True)
    run_job(large.settings.database_url, job["id"])
    (job,) = evidence_jobs(large)
    assert (job["state"], job["done"], job["total"]) == ("stopped", 1, 3)
    monkeypatch.undo()
    monkeypatch.setattr(finds, "FEW_TEXTS", 0)
    large.get("/lists")
    assert large.get("/evidence")["behind"] == 2
    assert len(evidence_jobs(large)) == 1
    assert large.post("/evidence/count", expect=202)["job"]["state"] == "waiting"
    assert "already" in large.post("/evidence/count", expect=409)["detail"]
    large.run_jobs()
    assert large.get("/evidence")["behind"] == 0
    # Nor is one begun where a reader looks in.
    large.other("rea").post("/evidence/count", expect=403)


def test_another_job_goes_first(large: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(jobs, "PORTION", 1)
    large.get("/lists")
    (job,) = evidence_jobs(large)
    large.post("/trainings", {"name": "other"})
    run_job(large.settings.database_url, job["id"])
    (job,) = evidence_jobs(large)
    assert (job["state"], job["message"]) == ("done", "Another job goes first; the rest is counted later.")
    large.run_jobs()
    large.get("/lists")
    large.run_jobs()
    assert large.get("/evidence")["behind"] == 0


def test_a_job_that_failed_is_tried_again_once_something_has_changed(
    large: Api, monkeypatch: pytest.MonkeyPatch
) -> None:
    large.get("/lists")
    with monkeypatch.context() as broken:
        broken.setattr(pipeline, "count", lambda *_: 1 / 0)
        large.run_jobs()
    large.get("/lists")
    assert [job["state"] for job in evidence_jobs(large)] == ["failed"]
    (one,) = large.get("/lists")
    large.post(f"/lists/{one['id']}/entries", {"preferred": "Amber Quay"})
    large.get("/lists")
    large.run_jobs()
    assert [job["state"] for job in evidence_jobs(large)] == ["done", "failed"]
    assert [one["finds"] for one in large.get("/lists")] == [3]


# The tagger.


def put_to_use(db: Session) -> None:
    """A tagger that has learnt to trust lists."""
    vocabulary = Vocabulary()
    words = ["Brell", "Orda", "Tamsin", "Velk", "Yarrow", "Quill"]
    gold = []
    for k in range(60):
        word = words[k // 2 % 6]
        span = Span(0, len(word), "VES", "lists", maker="list 0")
        analysis = analyse(f"{word} waits.", vocabulary=vocabulary)
        gold.append(GoldText(TaggerInput(analysis, [span] if k % 2 else []), [span] if k % 2 else []))
    settings = TrainingSettings(epochs=8, features=("words", "shapes", "lists", "repeats"))
    made = train(gold, gold, vocabulary, ["VES"], settings)
    training = tagger.start_training(db, 1, 1, "small", settings)
    numbers = {one.code: one.id for one in types.list_types(db, 1)}
    tagger.stop_training(db, 1, training.id)
    tagger.keep_model(db, training.id, to_bytes(made), {"type_numbers": {"VES": numbers["VES"]}})


def by_tagger(db: Session) -> list[list[tuple[Any, ...]]]:
    return [one.get("tagger", []) for one in from_store(db)]


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
    lists._compiled.clear()
    tagger._load.cache_clear()
    with rolled_back(settings) as db:
        begin(db)
        put_to_use(db)
        for kind, a, b in [("list", 0, 0), ("text", 0, 0), ("text", 1, 0), *steps]:
            with suppress(UrdatenError), db.begin_nested():
                step(db, kind, a, b)
            assert by_tagger(db) == from_an_empty_store(db)


def test_the_tagger_speaks_again_where_it_sees_something_else_and_nowhere_else(
    db: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    put_to_use(db)
    step(db, "list", 0, 0)
    # The first two belong to one group.
    for number in (0, 1):
        step(db, "text", number, 0)
    assert by_tagger(db) == [[], [], []]
    spoken: list[str] = []
    real = tagger.TaggerInUse.tag

    def spy(self: tagger.TaggerInUse, batch: Batch, *more: Any) -> Any:
        spoken.extend(batch.bodies)
        return real(self, batch, *more)

    monkeypatch.setattr(tagger.TaggerInUse, "tag", spy)
    step(db, "entry", 0, 0)
    assert [len(own) for own in by_tagger(db)] == [1, 0, 0]
    assert sorted(spoken) == sorted(BODIES[:2])
    spoken.clear()
    # A type under another code is the same type, and a name that nobody bears changes nothing.
    step(db, "type", 0, 5)
    (one,) = lists.read_lists(db, 1)
    lists.add_entries(db, 1, one.id, [lists.EntryDraft(preferred="Nelk")])
    assert [[span[2] for span in own] for own in by_tagger(db)] == [["TF"], [], []]
    assert spoken == []
    # What is said of the second text is heard for the first one too.
    lists.add_entries(db, 1, one.id, [lists.EntryDraft(preferred="dry")])
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
    (added,) = lists.add_entries(db, 1, one.id, [lists.EntryDraft(preferred="dry")])
    by_tagger(db)
    spoken: list[str] = []
    real = tagger.TaggerInUse.tag

    def spy(self: tagger.TaggerInUse, batch: Batch, *more: Any) -> Any:
        spoken.extend(batch.bodies)
        return real(self, batch, *more)

    monkeypatch.setattr(tagger.TaggerInUse, "tag", spy)
    lists.remove_entry(db, 1, one.id, added.id)
    lists.add_entries(db, 1, other.id, [lists.EntryDraft(preferred="dry")])
    by_tagger(db)
    assert spoken == [BODIES[1]]
    spoken.clear()
    (rule,) = rules.read_rules(db, 1)
    draft = rules.RuleDraft(name=rule.name, type="PER", pattern=rule.pattern)
    rules.change_rule(db, 1, rule.id, draft, rule.version)
    by_tagger(db)
    assert sorted(spoken) == sorted(body for body in BODIES if "Haldis" in body)


def test_the_job_lets_the_tagger_speak_of_every_text(large: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    with transaction(large.settings.database_url) as db:
        put_to_use(db)
    monkeypatch.setattr(jobs, "PORTION", 1)
    large.run_jobs()
    with transaction(large.settings.database_url) as db:
        rows = db.execute(select(EvidenceRow.stamp, EvidenceRow.tagger_key, EvidenceRow.tagger)).all()
        now = pipeline.read_makers(db, team.project_by_id(db, 1)).stamp
        assert [row.stamp for row in rows] == [now] * 3
        assert all(row.tagger_key for row in rows)
        assert sum(len(row.tagger) for row in rows) == sum(map(len, by_tagger(db))) > 0
