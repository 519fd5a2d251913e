"""Stages: what each adds and removes, why, and that fingerprints tell contents apart."""

from __future__ import annotations

from collections.abc import Sequence

import pytest
from hypothesis import given
from hypothesis import strategies as st

from urdaten.core.lists import Entry, Gazetteer, NameList
from urdaten.core.pipeline import (
    ORDER,
    Beaten,
    Changes,
    LeftOut,
    ListStage,
    PolicyStage,
    RuleStage,
    SaidAlready,
    Stage,
    TaggerStage,
    resolve,
    trace,
)
from urdaten.core.rules import Rule
from urdaten.core.spans import OVERLAPS, Overlap, Span, SpanTable, forbidden_pairs
from urdaten.core.tagger import GoldText, Tagger, TaggerInput, TrainingSettings, train
from urdaten.core.text import Batch, Vocabulary, analyse, batch_of

from .invented import QUICK, invented

# The tagger has seen what lists find.
FED = (("lists", "tagger"),)
BODIES = ["The Amber Quay lies at berth 12.", "Haldis sails.", "Berth 7 is free for the Amber Quay."]


def lists(*names: str, type: str = "VES", name: str = "vessels") -> ListStage:
    return ListStage(
        Gazetteer([NameList(name=name, type=type, entries=tuple(Entry(preferred=n) for n in names))])
    )


def rules(*patterns: str) -> RuleStage:
    written = (Rule(name=f"r{k}", type="BTH", text=f"text(/{p}/)") for k, p in enumerate(patterns))
    return RuleStage(tuple(one.compiled() for one in written))


def shown(table: SpanTable) -> list[list[tuple[str, str, str]]]:
    return [
        [(body[s.start : s.end], s.type, s.why) for s in sorted(own)]
        for body, own in zip(BODIES, table.spans(len(BODIES)), strict=True)
    ]


def test_a_trace_shows_what_each_stage_added_and_what_stands_after_it() -> None:
    steps = trace([lists("Amber Quay"), rules("berth \\d+")], batch_of(BODIES))
    assert [shown(step.changes.added) for step in steps] == [
        [
            [("Amber Quay", "VES", "list vessels, entry “Amber Quay”")],
            [],
            [("Amber Quay", "VES", "list vessels, entry “Amber Quay”")],
        ],
        [[("berth 12", "BTH", "rule “r0”")], [], []],
    ]
    assert [len(own) for own in shown(steps[-1].after)] == [2, 0, 1]


def test_a_rule_that_takes_too_long_is_told_of_and_hinders_no_other() -> None:
    costly = "(?:" + "|".join(f"a{{{n},200}}" for n in range(1, 25)) + ")b"
    batch = batch_of(["a" * 2000 + " berth 3", "berth 4 ab"])
    changes = rules(costly, "berth \\d").apply(batch, SpanTable.empty())
    assert [[s.maker for s in own] for own in changes.added.spans(2)] == [["r1"], ["r0", "r1"]]
    assert [(t.text, t.maker) for t in changes.troubles] == [(0, "r0")]


@pytest.mark.parametrize(
    ("one", "other"),
    [
        (lists("Haldis"), lists("Haldis", "Amber")),
        (lists("Haldis"), lists("Haldis", type="PER")),
        (lists("Haldis"), lists("Haldis", name="ships")),
        (rules("a"), rules("b")),
        (rules("a", "b"), rules("b", "a")),
        (PolicyStage(left_out=FED), PolicyStage()),
        (PolicyStage(), PolicyStage(overlap="nested")),
        (PolicyStage(), PolicyStage(order=ORDER[::-1])),
        (PolicyStage(), PolicyStage("longest")),
        (PolicyStage("likeliest"), PolicyStage("likeliest", least=0.2)),
        (PolicyStage("by type"), PolicyStage("by type", by_type=(("VES", ORDER),))),
        (PolicyStage("likeliest"), PolicyStage("likeliest", worth=(("lists", 0.9),))),
        (PolicyStage(), PolicyStage(ranks=(("a rule", 1),))),
    ],
)
def test_a_fingerprint_tells_contents_apart(one: Stage, other: Stage) -> None:
    assert one.fingerprint != other.fingerprint


def test_equal_content_has_one_fingerprint() -> None:
    assert lists("Haldis", "Amber").fingerprint == lists("Haldis", "Amber").fingerprint
    assert rules("a").fingerprint == rules("a").fingerprint


def test_the_tagger_sees_the_spans_of_lists_and_rules_and_reads_groups_together() -> None:
    """A word that is a name only where the list says so."""
    vocabulary = Vocabulary()
    words = ["Brell", "Orda", "Tamsin", "Velk", "Yarrow", "Quill"]
    gold = []
    for k in range(60):
        word = words[k // 2 % 6]
        analysis = analyse(f"{word} waits.", vocabulary=vocabulary)
        span = Span(0, len(word), "VES", "lists", maker="vessels")
        gold.append(GoldText(TaggerInput(analysis, [span] if k % 2 else []), [span] if k % 2 else []))
    tagger = train(gold, gold, vocabulary, ["VES"], TrainingSettings(epochs=8))
    bodies = ["Nelk waits.", "Nelk waits."]
    batch = batch_of(bodies)
    spans = lists("Nelk").apply(batch_of(["Nelk waits.", ""]), SpanTable.empty()).added
    found = TaggerStage(tagger).apply(batch, spans).added.spans(2)
    assert [[(s.start, s.end, s.type, s.source) for s in own] for own in found] == [
        [(0, 4, "VES", "tagger")],
        [],
    ]
    assert all(0 < s.probability <= 1 for own in found for s in own if s.probability is not None)


SPAN = st.builds(
    lambda start, size, kind, source: Span(start, start + size, kind, source),
    st.integers(0, 12),
    st.integers(1, 6),
    st.sampled_from(["VES", "PRT"]),
    st.sampled_from(ORDER),
)


def lanes_of(spans: Sequence[Span], with_tagger: bool) -> dict[str, list[Span]]:
    lanes: dict[str, list[Span]] = {"tagger": []} if with_tagger else {}
    for span in spans:
        lanes.setdefault(span.source, []).append(span)
    return lanes


@pytest.mark.parametrize("overlap", OVERLAPS)
@given(texts=st.lists(st.lists(SPAN, max_size=6), min_size=1, max_size=3), with_tagger=st.booleans())
def test_a_policy_keeps_what_resolves_and_says_of_the_rest_why(
    overlap: Overlap, texts: list[list[Span]], with_tagger: bool
) -> None:
    if not with_tagger:
        texts = [[span for span in own if span.source != "tagger"] for own in texts]
    batch = batch_of(["a text of some words"] * len(texts))
    # Not text by text: stages add to each other's spans.
    table = SpanTable.of_spans(texts)
    table = table.at(table.start.argsort(kind="stable"))
    changes = PolicyStage(left_out=FED if with_tagger else (), overlap=overlap).apply(batch, table)
    after = [sorted(own) for own in changes.to(table).spans(len(texts))]
    assert after == [resolve(lanes_of(own, with_tagger), overlap=overlap) for own in texts]
    gone = table.at(changes.removed)
    assert list(changes.removed) == sorted(set(changes.removed))
    rows = zip(gone.text.tolist(), gone.spans_in_order(), changes.why_removed, strict=True)
    for text, span, why in rows:
        kept = after[text]
        if isinstance(why, Beaten):
            assert why.by in kept
            assert forbidden_pairs([span, why.by], overlap)
        elif isinstance(why, SaidAlready):
            assert span in kept
        else:
            assert isinstance(why, LeftOut)
            assert span.source == "lists"


def test_changes_take_rows_away_and_add_others() -> None:
    before = SpanTable.of_spans([[Span(0, 1, "VES"), Span(2, 3, "PRT")], [Span(4, 5, "VES")]])
    added = SpanTable.of_spans([[], [Span(6, 7, "BTH")]])
    after = Changes(added, removed=before.text.argsort()[:1]).to(before)
    assert after.spans(2) == [[Span(2, 3, "PRT")], [Span(4, 5, "VES"), Span(6, 7, "BTH")]]


def test_rules_take_spans_of_lists_and_of_rules_before_them_away_and_say_so() -> None:
    written = (
        Rule(name="berth", type="BTH", text="'berth' figure"),
        Rule(name="no quay", type="BTH", text="'the' [found(VES)] 'lies'\ndrop VES"),
        Rule(name="place", type="PRT", text="[found(BTH)]\nretype BTH"),
    )
    stage = RuleStage(tuple(one.compiled() for one in written))
    first, second = trace([lists("Amber Quay", "Haldis"), stage], batch_of(BODIES))
    assert [why.words for why in second.changes.why_removed] == ["taken away by the rule “no quay”"]
    assert len(first.after) == 3
    assert shown(second.after) == [
        [("berth 12", "PRT", "rule “place”")],
        [("Haldis", "VES", "list vessels, entry “Haldis”")],
        [("Berth 7", "PRT", "rule “place”"), ("Amber Quay", "VES", "list vessels, entry “Amber Quay”")],
    ]
    other = RuleStage(tuple(one.compiled() for one in reversed(written)))
    assert other.fingerprint != stage.fingerprint


def quick_tagger() -> tuple[Tagger, Batch, SpanTable]:
    vocabulary = Vocabulary()
    texts = invented(60, 2, vocabulary)
    tagger = train(texts, texts[:10], vocabulary, ["VES", "PRT"], QUICK)
    bodies = [text.item.analysis.body for text in invented(30, 5, vocabulary)]
    return tagger, batch_of(bodies), SpanTable.empty()


def told(changes: Changes) -> set[tuple[int, int, str]]:
    table = changes.added
    return {
        (text, span.start, span.type)
        for text, span in zip(table.text.tolist(), table.spans_in_order(), strict=True)
    }


def test_a_tagger_may_have_some_types_under_other_names_and_a_least_probability() -> None:
    tagger, batch, none = quick_tagger()
    every = told(TaggerStage(tagger).apply(batch, none))
    assert {kind for *_, kind in every} == {"VES", "PRT"}
    ships = TaggerStage(tagger, {"VES": "BOAT"}).apply(batch, none)
    assert told(ships) == {(text, at, "BOAT") for text, at, kind in every if kind == "VES"}
    bounds = sorted(s.probability or 0 for own in ships.added.spans(30) for s in own)
    middle = bounds[len(bounds) // 2]
    half = TaggerStage(tagger, {"VES": "BOAT"}, least=middle + 1e-4).apply(batch, none)
    assert 0 < len(half.refused) == len(ships.added) - len(half.added)
    assert all((s.probability or 0) > middle for own in half.added.spans(30) for s in own)
    assert all(why.words.endswith(f"the {middle + 1e-4:.0%} that it takes") for why in half.why_refused)
    spared = TaggerStage(tagger, {"VES": "BOAT"}, least=1.0, least_of={"BOAT": 0.0}).apply(batch, none)
    assert told(spared) == told(ships)


def test_second_thoughts_come_beside_what_was_chosen() -> None:
    tagger, batch, none = quick_tagger()
    chosen = TaggerStage(tagger).apply(batch, none)
    both = TaggerStage(tagger, also=0.01).apply(batch, none)
    likely = tagger.likely([TaggerInput(analysis, []) for analysis in batch.analyses], batch.vocabulary, 0.01)
    expected = told(chosen) | {(k, s.start, s.type) for k, own in enumerate(likely) for s in own}
    assert told(both) == expected
    assert len(both.added) > len(chosen.added)


def test_evidence_goes_by_the_names_that_a_tagger_learnt() -> None:
    tagger, batch, _ = quick_tagger()
    seen: list[SpanTable] = []

    class Listening(Tagger):
        def tag_batch(self, batch: Batch, evidence: SpanTable, groups: Sequence[str] = ()) -> SpanTable:
            seen.append(evidence)
            return super().tag_batch(batch, evidence, groups)

    listening = Listening(**{name: getattr(tagger, name) for name in tagger.__dataclass_fields__})
    spans = SpanTable.of_spans(
        [
            [
                Span(4, 8, "BOAT", "lists", maker="now"),
                Span(4, 8, "PRT", "rules", maker="new"),
                Span(0, 3, "PRT", "given"),
            ]
        ]
    )
    for makers, named in ((None, ["now", "new"]), ({("lists", "now"): "then"}, ["then", ""])):
        TaggerStage(listening, {"VES": "BOAT"}, makers).apply(batch, spans)
        told_of = seen[-1].spans_in_order()
        assert [(s.type, s.source, s.maker) for s in told_of] == [
            ("VES", "lists", named[0]),
            ("PRT", "rules", named[1]),
        ]
