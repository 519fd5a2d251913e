"""Training and tagging: what is learnt, kept, stopped and refused."""

from __future__ import annotations

import os
import subprocess
import sys
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from core.invented import QUICK, TYPES, WAYS, invented
from urdaten.core.spans import CODINGS, Coding, Span
from urdaten.core.tagger import (
    GoldText,
    Neighbours,
    Progress,
    TaggerInput,
    TrainingSettings,
    from_bytes,
    inference,
    read_file,
    to_bytes,
    train,
)
from urdaten.core.tagger.calibration import Calibration
from urdaten.core.tagger.corpus import SpanKeys, find_layers, label_texts
from urdaten.core.tagger.layout import lay_out
from urdaten.core.text import Analysis, Vocabulary, analyse
from urdaten.errors import BadSettings


@pytest.mark.parametrize("way", WAYS)
def test_every_way_learns_tags_and_survives_being_kept(way: str, tmp_path: Path) -> None:
    vocabulary = Vocabulary()
    texts = invented(60, 1, vocabulary)
    seen: list[Progress] = []
    tagger = train(texts[:50], texts[50:], vocabulary, TYPES, WAYS[way], seen.append)
    assert [p.epoch for p in seen] == list(range(1, len(seen) + 1))
    assert seen[0].objective >= seen[-1].objective
    assert max(p.dev_f1 or 0 for p in seen) == 1.0
    body = "The Grey Mallard sailed from Skelby at 0400 with salt."
    other = Vocabulary()
    file = tmp_path / "kept"
    file.write_bytes(to_bytes(tagger))
    kept = read_file(file)
    assert to_bytes(kept) == to_bytes(tagger)
    (spans,) = kept.tag([TaggerInput(analyse(body, vocabulary=other), [])], other)
    assert [(body[s.start : s.end], s.type) for s in spans] == [("Grey Mallard", "VES"), ("Skelby", "PRT")]
    assert all(s.probability is not None and 0.5 < s.probability <= 1 for s in spans)
    assert kept.manifest["sentences"] == 50


@pytest.mark.parametrize("way", WAYS)
def test_same_input_and_seed_same_tagger_whatever_the_threads(way: str) -> None:
    def made(seed: int, threads: int) -> bytes:
        vocabulary = Vocabulary()
        texts = invented(40, 2, vocabulary)
        chosen = replace(WAYS[way], epochs=2, patience=2, seed=seed)
        return to_bytes(train(texts, [], vocabulary, TYPES, chosen, threads=threads))

    first = made(7, 1)
    assert made(7, 2) == first
    assert made(8, 1) != first


ELSEWHERE = """
import hashlib
from core.invented import TYPES, WAYS, invented
from urdaten.core.tagger import GoldText, Neighbours, TaggerInput, to_bytes, train
from urdaten.core.tagger.settings import FEATURE_GROUPS
from urdaten.core.text import Vocabulary, analyse

for settings in WAYS.values():
    vocabulary = Vocabulary()
    texts = invented(30, 2, vocabulary)
    # Words that share what is inside them.
    shared = analyse("unboarding unboarded reboarding reboarded unharboured reharboured", vocabulary=vocabulary)
    texts.insert(0, GoldText(TaggerInput(shared, []), []))
    settings = type(settings)(**{**vars(settings), "epochs": 2, "patience": 2, "features": FEATURE_GROUPS})
    unsigned = Neighbours()
    unsigned.add([text.item.analysis for text in texts[20:]])
    made = train(texts[:20], texts[20:], vocabulary, TYPES, settings, unsigned=unsigned)
    print(hashlib.sha256(to_bytes(made)).hexdigest())
"""


def test_another_process_makes_the_same_tagger() -> None:
    """Sets come in another order there, and nothing may follow it."""
    said = [
        subprocess.run(
            [sys.executable, "-c", ELSEWHERE],
            env={**os.environ, "PYTHONHASHSEED": seed, "PYTHONPATH": str(Path(__file__).parents[1])},
            capture_output=True,
            text=True,
            check=True,
            timeout=120,
        ).stdout.split()
        for seed in ("1", "2")
    ]
    assert len(set(said[0])) == len(WAYS)
    assert said[0] == said[1]


def test_partly_signed_texts_teach_what_was_signed() -> None:
    """One half of the texts had only vessels marked, the other only ports; both types are learnt."""
    vocabulary = Vocabulary()
    texts = invented(80, 6, vocabulary)
    half = [
        replace(text, gold=[s for s in text.gold if s.type == code], signed_types=frozenset({code}))
        for text, code in zip(texts[:60], TYPES * 30, strict=True)
    ]

    def best(chosen: list[GoldText]) -> float:
        seen: list[Progress] = []
        train(chosen, texts[60:], vocabulary, TYPES, QUICK, seen.append)
        return max(p.dev_f1 or 0 for p in seen)

    assert best(half) == 1.0
    # Taken for complete, the same texts teach that half of all names are none.
    assert best([replace(text, signed_types=None) for text in half]) < 0.95


def test_unread_words_and_weights_become_masks() -> None:
    vocabulary = Vocabulary()
    analysis = analyse("Pellin sailed. Haldis stayed.", vocabulary=vocabulary)
    texts = [
        GoldText(TaggerInput(analysis, ()), [Span(0, 6, "VES")], weight=0.5, unread=[(15, 21)]),
        GoldText(TaggerInput(analysis, ()), [Span(0, 6, "VES")], signed_types=frozenset({"VES"})),
    ]
    layout = lay_out([text.item for text in texts], TYPES, ())
    labels = label_texts(texts, layout, Coding("BIO", TYPES))
    gold = labels.gold[layout.position].tolist()
    assert gold[:6] == [1, 0, 0, -1, 0, 0]
    assert gold[6:] == [1, -2, -2, -2, -2, -2]
    assert labels.masks.tolist() == [[True] * 5, [True, False, True, False, True]]
    assert labels.weight.tolist() == [0.5, 0.5, 1.0, 1.0]


@pytest.mark.parametrize("way", WAYS)
def test_what_cannot_be_learnt_does_no_harm(way: str) -> None:
    """Spans over a sentence's end or of unknown types, unread words, words that only some types were sought in."""
    vocabulary = Vocabulary()
    texts = invented(30, 3, vocabulary)
    analysis = analyse("Pellin sailed. Haldis stayed at Varnby.", vocabulary=vocabulary)
    odd = GoldText(
        TaggerInput(analysis, ()),
        [Span(7, 21, "VES"), Span(0, 6, "ORG"), Span(32, 38, "PRT")],
        signed_types=frozenset({"PRT"}),
        unread=[(22, 28)],
    )
    seen: list[Progress] = []
    train([*texts, odd], texts, vocabulary, TYPES, replace(WAYS[way], epochs=4), seen.append)
    assert all(np.isfinite(p.objective) for p in seen)
    assert seen[-1].dev_f1 is not None
    labels = label_texts([odd], lay_out([odd.item], TYPES, ()), Coding("BIO", TYPES))
    assert 3 not in labels.gold, "nothing of the crossing span is left"


@pytest.mark.parametrize("how", ["unread", "not looked for"])
def test_what_nobody_has_judged_is_neither_right_nor_wrong(how: str) -> None:
    vocabulary = Vocabulary()
    texts = invented(60, 3, vocabulary)

    def judged_for_vessels(text: GoldText) -> GoldText:
        vessel, port = text.gold
        if how == "unread":
            return GoldText(text.item, [vessel], unread=[(vessel.end + 1, port.end)])
        return GoldText(text.item, [vessel], signed_types=frozenset({"VES"}))

    seen: list[Progress] = []
    dev = [judged_for_vessels(text) for text in texts[40:]]
    tagger = train(texts[:40], dev, vocabulary, TYPES, QUICK, seen.append)
    assert max(p.dev_f1 or 0 for p in seen) == 1.0
    # The ports are found all the same.
    assert all(len(spans) == 2 for spans in tagger.tag([text.item for text in dev], vocabulary))
    gold = SpanKeys(dev, TYPES)
    columns = (np.array([1, 1, 9]), np.array([2, 3, 10]), np.array([0, 1, 1]))
    assert gold.is_judged(*columns, TYPES).tolist() == (
        [True, True, True] if how == "unread" else [True, False, False]
    )


def test_f1_of_the_first_sentences_counts_their_own_spans_alone() -> None:
    vocabulary = Vocabulary()
    texts = invented(3, 3, vocabulary)
    tokens = len(texts[0].item.analysis)
    # The last text has a span that cuts a word, which nothing can find.
    cut = texts[2].gold[0]
    texts[2] = GoldText(texts[2].item, [replace(cut, end=cut.end - 1)])
    gold = SpanKeys(texts, TYPES)
    assert [len(gold.before(count)) for count in (tokens, 10**6)] == [2, 5]


@pytest.mark.parametrize(
    "calibration", [Calibration(0.5, 1.0), Calibration(0.6, -1.0), Calibration(2.0, 0.3)]
)
def test_likely_spans_are_so_once_they_are_calibrated(calibration: Calibration) -> None:
    vocabulary = Vocabulary()
    items = [text.item for text in invented(6, 9, vocabulary)]
    # So little is learnt that it is sure of nothing.
    unsure = replace(QUICK, epochs=1, rate=0.02, prune=0)
    tagger = train(invented(30, 2, vocabulary), [], vocabulary, TYPES, unsure)
    raw = replace(tagger, calibration=Calibration()).likely(items, vocabulary, 0.0001)
    calibrated = replace(tagger, calibration=calibration)
    for least in (0.1, 0.2):
        found = calibrated.likely(items, vocabulary, least)
        for spans, every in zip(found, raw, strict=True):
            p = {s: float(calibration.apply(np.array([s.probability]))[0]) for s in every}
            # Raw figures are rounded to four digits; what lies that near to the least may fall on either side.
            assert (
                {s for s in p if p[s] > least + 0.01} <= set(spans) <= {s for s in p if p[s] > least - 0.01}
            )
            for span in spans:
                assert span.probability == pytest.approx(p[span], abs=0.01)
        assert any(found)
    assert sum(map(len, calibrated.likely(items, vocabulary, 0.1))) != sum(
        len([s for s in o if (s.probability or 0) >= 0.1]) for o in raw
    )


def test_raw_probabilities_are_those_that_calibration_makes_of_them() -> None:
    calibration = Calibration(0.7, -0.4)
    for p in (0.01, 0.3, 0.9):
        assert float(calibration.apply(np.array([calibration.raw(p)]))[0]) == pytest.approx(p)
    assert Calibration().raw(0.3) == 0.3


def test_types_that_overlap_are_learnt_in_layers() -> None:
    vocabulary = Vocabulary()
    texts = []
    for text in invented(60, 7, vocabulary):
        vessel, port = text.gold
        body = text.item.analysis.body
        whole = Span(vessel.start, body.index(" at "), "INC")
        texts.append(GoldText(text.item, [vessel, port, whole]))
    types = ("VES", "INC", "PRT")
    assert find_layers(texts, types) == [("VES", "PRT"), ("INC",)]
    seen: list[Progress] = []
    tagger = train(texts[:50], texts[50:], vocabulary, types, QUICK, seen.append)
    assert max(p.dev_f1 or 0 for p in seen) == 1.0
    kept = from_bytes(to_bytes(tagger))
    found = kept.tag([text.item for text in texts[50:]], vocabulary)
    assert [[(s.start, s.end, s.type) for s in spans] for spans in found] == [
        [(s.start, s.end, s.type) for s in sorted(text.gold)] for text in texts[50:]
    ]


def test_only_the_wanted_types_are_learnt() -> None:
    vocabulary = Vocabulary()
    texts = invented(40, 8, vocabulary)
    tagger = train(texts, [], vocabulary, TYPES, replace(QUICK, types=("PRT",)))
    assert tagger.types == ("PRT",)
    assert {s.type for spans in tagger.tag([t.item for t in texts], vocabulary) for s in spans} == {"PRT"}
    with pytest.raises(BadSettings, match="no type ORG; the types are VES, PRT"):
        train(texts, [], vocabulary, TYPES, replace(QUICK, types=("ORG",)))


def test_evidence_decides_where_words_cannot() -> None:
    """The same sentence either way: only the list knows which name is a vessel."""
    vocabulary = Vocabulary()
    random = np.random.default_rng(5)
    texts = []
    for i in range(80):
        name = "".join(random.choice(list("aeioulmnrst"), size=7)).title()
        body = f"Then {name} was seen."
        span = Span(5, 12, "VES", "lists")
        analysis = analyse(body, vocabulary=vocabulary)
        texts.append(GoldText(TaggerInput(analysis, [span] if i % 2 else []), [span] if i % 2 else []))
    words = TrainingSettings(epochs=8, features=("words", "shapes", "affixes"))
    scores: dict[bool, float] = {}
    for chosen, with_lists in ((TrainingSettings(epochs=8), True), (words, False)):
        last: list[Progress] = []
        train(texts[:60], texts[60:], vocabulary, ("VES",), chosen, last.append)
        scores[with_lists] = max(p.dev_f1 or 0 for p in last)
    assert scores[True] > 0.85
    assert scores[False] < 0.75


def test_only_named_sentences_are_learnt_from_and_scored() -> None:
    vocabulary = Vocabulary()
    analysis = analyse("Pellin sailed. Haldis stayed.", vocabulary=vocabulary)
    layout = lay_out([TaggerInput(analysis, [], [1])], TYPES, ())
    words = [vocabulary.forms[w - 1] for w in layout.word[layout.position]]
    assert words == ["Haldis", "stayed", "."]
    assert layout.word[[0, 1, -1]].tolist() == [0, 0, 0]
    text = GoldText(TaggerInput(analysis, [], [1]), [Span(0, 6, "VES"), Span(15, 21, "VES")])
    seen: list[Progress] = []
    tagger = train(
        [text], [text], vocabulary, TYPES, TrainingSettings(epochs=40, patience=40, l2=0.01), seen.append
    )
    assert max(p.dev_f1 or 0 for p in seen) == 1.0
    (found,) = tagger.tag([text.item], vocabulary)
    assert [(s.start, s.end) for s in found] == [(15, 21)]


def test_word_classes_do_not_look_at_dev() -> None:
    """The same training with other dev words learns the same classes; with other unsigned ones it does not."""
    vocabulary = Vocabulary()
    texts, dev = invented(60, 3, vocabulary), invented(40, 4, vocabulary)
    strange = [analyse("Grey gulls follow every trawler home. " * 6, vocabulary=vocabulary)]
    settings = replace(QUICK, epochs=1, features=("words", "classes"))

    def classes(dev: list[GoldText], unsigned: list[Analysis]) -> object:
        counted = Neighbours()
        counted.add(unsigned)
        return train(texts, dev, vocabulary, TYPES, settings, unsigned=counted).table.classes

    assert classes(dev, []) == classes([GoldText(TaggerInput(strange[0], ()), [])], []) != {}
    assert classes(dev, strange) != classes(dev, [])


@pytest.mark.parametrize("coding", CODINGS)
def test_sentences_are_tagged_alike_alone_and_together(coding: str, monkeypatch: pytest.MonkeyPatch) -> None:
    # As many runs of sentences as there can be: two.
    monkeypatch.setattr(inference, "_SCORES", 1)
    vocabulary = Vocabulary()
    texts = invented(150, 12, vocabulary)
    tagger = train(texts[:40], [], vocabulary, TYPES, replace(QUICK, coding=coding))
    items = [text.item for text in texts]
    together = tagger.tag(items, vocabulary)
    alone = [tagger.tag([item], vocabulary)[0] for item in items]
    assert together == alone
    assert [[s.probability for s in spans] for spans in together] == [
        [pytest.approx(s.probability, abs=1e-3) for s in spans] for spans in alone
    ]
    for all_likely, text in zip(tagger.likely(items, vocabulary, 0.02), items, strict=True):
        wanted = tagger.likely([text], vocabulary, 0.02)[0]
        assert {(s.start, s.end, s.type) for s in all_likely} == {(s.start, s.end, s.type) for s in wanted}
    assert tagger.tag([], vocabulary) == []
    assert tagger.tag([TaggerInput(analyse("", vocabulary=vocabulary), ())], vocabulary) == [[]]
