"""Weighing: who is believed is learnt from what was signed."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np
import pytest

from urdaten.core.pipeline import (
    LEAST_SPANS,
    Beside,
    Learnt,
    PolicyStage,
    Signed,
    Weigher,
    answers_by_folds,
    learn,
    learning,
    looks,
)
from urdaten.core.spans import Span, SpanTable
from urdaten.core.text import batch_of
from urdaten.errors import BadFile, BadInput, Stopped


def signed(count: int, seed: int = 1, *, judged: bool = True) -> Signed:
    """A careful stage that is right nine times in ten, a hasty one that is right one time in ten, and a doubtful one that says
    by its probability how often it is right."""
    random = np.random.default_rng(seed)
    bodies = [f"Haldis waits at {number} and Pellin sails." for number in range(count)]
    spans: list[list[Span]] = []
    gold: list[list[Span]] = []
    for body in bodies:
        ship = Span(body.index("Pellin"), body.index("Pellin") + 6, "VES")
        port = Span(0, 6, "PRT")
        own, right = [], []
        for span in (ship, port):
            is_gold = random.random() < 0.5
            if random.random() < (0.9 if is_gold else 0.1):
                own.append(Span(span.start, span.end, span.type, "careful", maker="names"))
            if random.random() < (0.1 if is_gold else 0.9):
                own.append(Span(span.start, span.end, span.type, "hasty"))
            p = 0.8 if (random.random() < 0.8) == is_gold else 0.2
            own.append(Span(span.start, span.end, span.type, "doubtful", p))
            if is_gold:
                right.append(span)
        spans.append(own)
        gold.append(right)
    batch = batch_of(bodies)
    flags = np.full(len(batch.word), judged)
    return Signed(batch, SpanTable.of_spans(spans), SpanTable.of_spans(gold), flags)


def f1(answers: Sequence[Sequence[Span]], one: Signed) -> float:
    gold = one.gold.spans(len(one.batch))
    right = sum(len(set(own) & set(g)) for own, g in zip(answers, gold, strict=True))
    return 2 * right / (sum(map(len, answers)) + sum(map(len, gold)))


def answers(weigher: Weigher, one: Signed) -> list[list[Span]]:
    policy = PolicyStage("weighed", order=(), least=weigher.least, weigher=weigher)
    return policy.apply(one.batch, one.spans).to(one.spans).spans(len(one.batch))


def test_those_who_were_right_are_believed() -> None:
    weigher = learn([signed(200)])
    other = signed(200, seed=2)
    assert f1(answers(weigher, other), other) > 0.9
    weights = dict(weigher.weights)
    assert weights["said by careful"] + weights["said by careful, “names”"] > 1
    assert weights["said by hasty"] < -1
    assert weights["log odds of doubtful"] > 0.3
    # What is so probable is right as often.
    probabilities = weigher.probabilities(other.batch, other.spans)
    seen = looks(other.batch, other.spans)
    one_each = probabilities[seen.span]
    gold = {(k, s) for k, own in enumerate(other.gold.spans(len(other.batch))) for s in own}
    chosen = other.spans.at(seen.span)
    right = np.array(
        [(t, s) in gold for t, s in zip(chosen.text.tolist(), chosen.spans_in_order(), strict=True)]
    )
    for low in (0.0, 0.25, 0.5, 0.75):
        inside = (one_each >= low) & (one_each < low + 0.25)
        if inside.sum() > 30:
            assert right[inside].mean() == pytest.approx(one_each[inside].mean(), abs=0.15)


def test_an_answer_by_folds_has_not_seen_its_own_gold() -> None:
    one = signed(150)
    honest = f1(answers_by_folds([], one), one)
    assert 0.8 < honest < 1
    # With gold that nothing foretells there is nothing to learn, though there is much to learn by heart.
    random = np.random.default_rng(3)
    made = [[s for s in own if random.random() < 0.5] for own in one.spans.spans(len(one.batch))]
    noise = Signed(one.batch, one.spans, SpanTable.of_spans([sorted(set(own)) for own in made]), one.judged)
    assert f1(answers_by_folds([], noise), noise) < 0.85
    helped = f1(answers_by_folds([signed(150, seed=5)], one), one)
    assert helped > 0.85


def test_no_text_is_answered_by_what_was_learnt_from_it(monkeypatch: pytest.MonkeyPatch) -> None:
    one, other = signed(23), signed(11, seed=4)
    learnt_from: list[np.ndarray] = []

    def listening(_examples: object, _data: object, texts: np.ndarray, *_rest: object) -> Weigher:
        learnt_from.append(texts)
        # Whoever is answered by this one says which fold it was.
        return Weigher((("any span", float(len(learnt_from))),), 0.0)

    monkeypatch.setattr(learning, "_learn", listening)
    answered = answers_by_folds([other], one, folds=4)
    held_out = np.stack([~texts for texts in learnt_from])
    assert not held_out[:, :11].any()
    assert (held_out[:, 11:].sum(axis=0) == 1).all()
    for k, own in enumerate(answered):
        fold = int(held_out[:, 11 + k].argmax())
        assert all(span.probability == pytest.approx(1 / (1 + np.exp(-(fold + 1)))) for span in own)


def test_same_texts_same_weights_and_unsigned_ones_teach_nothing() -> None:
    assert learn([signed(80)]) == learn([signed(80)])
    unsigned = signed(80, seed=9, judged=False)
    blank = Signed(unsigned.batch, unsigned.spans, SpanTable.of_spans([[]]), unsigned.judged)
    assert learn([signed(80), blank]).weights == learn([signed(80)]).weights


def test_too_little_to_learn_from_and_stopping() -> None:
    with pytest.raises(BadInput, match=f"it takes {LEAST_SPANS}"):
        learn([signed(10)])
    with pytest.raises(Stopped):
        learn([signed(80)], should_stop=lambda: True)


def test_what_speaks_for_a_span_adds_up_to_its_log_odds() -> None:
    one = signed(60)
    weigher = learn([one])
    for row in (0, 3):
        parts = weigher.explain(one.batch, one.spans, row)
        p = weigher.probabilities(one.batch, one.spans)[row]
        assert sum(part.adds for part in parts) == pytest.approx(np.log(p / (1 - p)))
        assert [abs(part.adds) for part in parts] == sorted((abs(part.adds) for part in parts), reverse=True)


def seen(
    body: str, spans: list[Span], row: int, more: list[list[Span]] | None = None, **beside: Any
) -> dict[str, float]:
    rest = more or []
    bodies = [body, *(body for _ in rest)]
    table = SpanTable.of_spans([spans, *rest])
    found = looks(batch_of(bodies), table, Beside(**beside))
    mine = found.row == found.of_span[row]
    return {
        found.names[k]: v for k, v in zip(found.name[mine].tolist(), found.value[mine].tolist(), strict=True)
    }


def test_what_is_seen_of_a_span() -> None:
    body = "The Amber Quay sails."
    ship = Span(4, 14, "VES", "tagger", 0.75)
    told = seen(
        body, [ship, Span(4, 14, "VES", "rules", maker="ships"), Span(4, 9, "CGO", "lists", maker="goods")], 0
    )
    odds = np.log(3)
    assert told["log odds of tagger"] == told["log odds of tagger, VES"] == pytest.approx(odds)
    for name in (
        "any span", "VES", "said by tagger", "said by rules", "said by rules, VES", "said by rules, “ships”", "two say it",
        "2 tokens", "2 tokens, VES", "another of lists, shorter",
    ):  # fmt: skip
        assert told[name] == 1, name
    assert "said by lists" not in told
    assert "said by lists, “goods”" not in told
    goods = seen(body, [ship, Span(4, 9, "CGO", "lists")], 1)
    assert goods["log odds of what tagger has over it"] == pytest.approx(odds)
    assert goods["another of tagger, longer"] == 1
    assert "two say it" not in goods


def test_the_same_words_elsewhere_speak_too() -> None:
    body = "Haldis and Haldis and Haldis"
    one, two, three = (Span(a, a + 6, "VES", "lists") for a in (0, 11, 22))
    told = seen(body, [one, two, Span(22, 28, "PRT", "lists")], 0)
    assert told["the same words are it elsewhere"] == pytest.approx(np.log(2))
    assert told["the same words are another elsewhere"] == pytest.approx(np.log(2))
    # Another type in the same place is no other place; what is unlikely is not said.
    told = seen(body, [one, Span(0, 6, "PRT", "rules"), Span(11, 17, "VES", "tagger", 0.1)], 0)
    assert not any(name.startswith("the same words") for name in told)
    # A text of its group.
    told = seen(body, [one], 0, [[one, two, three]], groups=["a", "a"])
    assert told["the same words are it elsewhere"] == pytest.approx(np.log(4))
    assert not any("elsewhere" in name for name in seen(body, [one], 0, [[two]], groups=["a", "b"]))


def test_no_spans_no_looks() -> None:
    found = looks(batch_of(["nothing"]), SpanTable.of_spans([[]]))
    assert found.candidates == 0
    assert len(found.scores({})) == 0


def test_weights_are_read_back_as_they_were_written() -> None:
    weigher = learn([signed(60)])
    assert Weigher.from_dict(json.loads(json.dumps(weigher.as_dict()))) == weigher


@pytest.mark.parametrize(
    "values",
    [
        None,
        {},
        {"least": 2, "weights": {}},
        {"least": True, "weights": {}},
        {"least": 0.5, "weights": []},
        {"least": 0.5, "weights": {"a": "b"}},
        {"least": 0.5, "weights": {"a": float("nan")}},
        {"least": 0.5, "weights": {"a": 1e9}},
        {"least": 0.5, "weights": {}, "more": 1},
    ],
)
def test_what_are_no_weights_is_refused(values: object) -> None:
    with pytest.raises(BadFile):
        Weigher.from_dict(values)


def test_what_is_called_otherwise_now_weighs_as_before() -> None:
    weigher = learn([signed(60)])
    one = signed(20, seed=3)
    before = weigher.probabilities(one.batch, one.spans)
    called = replace(
        one.spans,
        types=tuple({"VES": "SHP"}.get(code, code) for code in one.spans.types),
        makers=tuple({"names": "all names"}.get(maker, maker) for maker in one.spans.makers),
    )
    assert not np.allclose(weigher.probabilities(one.batch, called), before)
    learnt = Learnt((("SHP", "VES"),), (("careful", "all names", "names"), ("hasty", "names", "other")))
    knows = replace(weigher, learnt=learnt)
    assert np.allclose(knows.probabilities(one.batch, called), before)
    assert Weigher.from_dict(json.loads(json.dumps(knows.as_dict()))) == knows
    assert knows.fingerprint != weigher.fingerprint
    told = [part.name for part in knows.explain(one.batch, called, 0)]
    assert not any("SHP" in name or "all names" in name for name in told)


@pytest.mark.parametrize(
    "change",
    [
        {"types": []},
        {"types": {"VES": 3}},
        {"makers": {}},
        {"makers": [["careful", "names"]]},
        {"makers": [["careful", "names", None]]},
        {"makers": ["abc"]},
        {"more": 1},
    ],
)
def test_names_that_were_not_learnt_are_refused(change: dict[str, Any]) -> None:
    weigher = learn([signed(60)])
    with pytest.raises(BadFile):
        Weigher.from_dict(weigher.as_dict() | change)


def test_only_what_stands_in_signed_sentences_is_judged() -> None:
    bodies = ["Haldis waits. Pellin sails. Haldis goes.", "Nobody is here.", ""]
    batch = batch_of(bodies)
    gold = [[Span(0, 6, "VES")], [], []]
    found = SpanTable.of_spans([[Span(0, 6, "VES", "a"), Span(14, 20, "VES", "a")], [], []])
    one = Signed.of(batch, found, gold, [[(0, 13), (28, 40)], [(0, 15)], []])
    words = [batch.bodies[t][s:e] for t, s, e in zip(batch.text, batch.start, batch.end, strict=True)]
    judged = [word for word, flag in zip(words, one.judged.tolist(), strict=True) if flag]
    assert judged == ["Haldis", "waits", ".", "Haldis", "goes", ".", "Nobody", "is", "here", "."]
    assert one.gold.spans(3) == gold
    none = Signed.of(batch, found, [[], [], []], [[], [], []])
    assert not none.judged.any()
