"""Samples and the training config: files for the command line."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import replace
from types import SimpleNamespace
from typing import Any

import pytest

from urdaten.core.formats import Sample, read_columns, read_samples, read_texts, write_columns, write_samples
from urdaten.core.spans import Span
from urdaten.core.tagger import SETTINGS, TrainingSettings, folds, from_bytes, to_bytes
from urdaten.core.tagger.config import read_config, write_config
from urdaten.core.tagger.folds import FOLDS, L2_TIMES
from urdaten.core.tagger.samples import score_samples, tag_samples, tag_stream, train_on_samples
from urdaten.errors import BadFile, BadInput, BadSettings, BadSpan, Stopped


def line(text: str = "Pellin is in.", **more: Any) -> str:
    return json.dumps({"text": text} | more)


VES = {"start": 0, "end": 6, "type": "VES"}


def test_samples_are_read_with_all_that_belongs_to_them() -> None:
    rows = [line(spans=[VES], id=7, group="week-1", meta={"voice": "log"}), "", line("🚢 out", spans=None)]
    samples, problems = read_samples(rows)
    assert problems == []
    assert samples == [
        Sample(
            text="Pellin is in.", spans=(Span(0, 6, "VES"),), id="7", group="week-1", meta={"voice": "log"}
        ),
        Sample(text="🚢 out"),
    ]


@pytest.mark.parametrize(
    ("bad", "words"),
    [
        ("{", "not JSON"),
        ("[]", "an object with “text”"),
        ("{}", "“text” is missing"),
        (line(spans=3), "“spans” is no list"),
        (line(spans=[1]), "a span is an object"),
        (line(spans=[VES | {"start": 0.0}]), "whole numbers"),
        (line(spans=[VES | {"end": True}]), "whole numbers"),
        (line(spans=[VES | {"type": "ship"}]), "not 'ship'"),
        (line(spans=[VES | {"end": 14}]), "0–14 VES does not lie within the 13 code points"),
        (line(spans=[VES | {"start": 6}]), "does not lie within"),
        (line(spans=[VES, VES | {"start": 3, "end": 9}]), "0–6 VES and 3–9 VES overlap"),
        (line(meta=[1]), "“meta” is no object"),
        ('{"text": "x", "meta": {"n": NaN}}', "NaN is no JSON"),
        ('{"text": "x", "meta": {"n": -Infinity}}', "-Infinity is no JSON"),
        (line(meta={"n": "\ud800"}), "half of a pair"),
        (line("\udc00"), "half of a pair"),
        ('{"text": "x", "meta": {"n": ' + "9" * 5000 + "}}", "too large"),
        ("[" * 100_000, "too deep"),
    ],
)
def test_a_bad_line_is_named_and_the_good_ones_are_kept_on_wish(bad: str, words: str) -> None:
    rows = [line(), "", bad, line("out")]
    with pytest.raises(BadFile, match=r"^Line 3: ") as caught:
        read_samples(rows)
    assert words in caught.value.message
    assert caught.value.detail["line"] == 3
    samples, problems = read_samples(rows, keep_good=True)
    assert [s.text for s in samples] == ["Pellin is in.", "out"]
    assert len(problems) == 1
    assert words in problems[0]


def test_escaped_signs_beyond_the_first_plane_are_read() -> None:
    assert read_samples([line("🚢 out")])[0][0].text == "🚢 out"


def test_texts_are_read_as_a_stream() -> None:
    def lines() -> Iterator[str]:
        yield from ['{"text": "one", "spans": []}\n', "\n", '"two"\n']
        yield "3\n"
        raise AssertionError("read on past the fault")

    texts = read_texts(lines(), plain=False)
    assert [next(texts), next(texts)] == ["one", "two"]
    with pytest.raises(BadFile, match="Line 4: an object with “text”") as caught:
        next(texts)
    assert caught.value.detail["line"] == 4


def test_plain_text_is_given_by_paragraph_and_long_ones_in_parts(monkeypatch: pytest.MonkeyPatch) -> None:
    source = "One\ntwo.\n\n \nThree\n\nfour five six\nseven\neight"
    lines = source.splitlines(keepends=True)
    assert list(read_texts(lines, plain=True)) == ["One\ntwo.\n", "Three\n", "four five six\nseven\neight"]
    monkeypatch.setattr("urdaten.core.formats.texts.LONGEST_PART", 15)
    assert list(read_texts(lines, plain=True))[2:] == ["four five six\nseven\n", "eight"]


def test_columns_refuse_a_span_that_cuts_a_token() -> None:
    sample = Sample(text="Pellin at Varnby-roads")
    assert next(write_columns([sample], [[Span(0, 6, "VES")]])) == "Pellin\tB-VES\n"
    for span in (Span(17, 22, "PRT"), Span(10, 16, "PRT"), Span(0, 8, "VES")):
        with pytest.raises(BadSpan, match="within a token; write JSON Lines"):
            list(write_columns([sample], [[span]]))


def test_bad_columns_name_their_line() -> None:
    with pytest.raises(BadFile, match="Line 3") as caught:
        read_columns(["a O\n", "b O\n", "c\n"])
    assert caught.value.detail["line"] == 3


def test_found_spans_are_written_with_what_the_line_had() -> None:
    samples, _ = read_samples([line(id="a", meta={"n": 1}), line("out")])
    written = write_samples(samples, [[Span(0, 6, "VES", probability=0.5)], []])
    assert [json.loads(row) for row in written] == [
        {"text": "Pellin is in.", "id": "a", "meta": {"n": 1}, "spans": [VES | {"probability": 0.5}]},
        {"text": "out", "spans": []},
    ]


def fleet(names: list[str]) -> list[Sample]:
    """Ships that sail and masters that speak: the word after the name decides."""
    made = []
    for k, name in enumerate(names):
        for code, words in (("VES", "sailed at noon"), ("PER", "says no")):
            spans = (Span(0, len(name), code),)
            made.append(Sample(text=f"{name} {words} today.", spans=spans, group=f"g{k % 5}"))
    return made


TRAIN = fleet(["Haldis", "Ketta", "Pellin", "Marna", "Velda", "Isolde", "Averil", "Corrie", "Jory", "Edda"])
TEST = fleet(["Haldis", "Sorrel"])
SMALL = TrainingSettings(epochs=6, patience=3)


def test_a_tagger_learns_from_samples_and_tells_seen_from_unseen() -> None:
    tagger = train_on_samples(TRAIN, TEST, SMALL)
    result = score_samples(tagger, TEST)
    assert result.scores.overall.f1 == 1.0
    assert (result.seen.in_gold, result.unseen.in_gold) == (2, 2)
    spans = tag_samples(tagger, [Sample(text="Sorrel says no today.")])
    assert [(s.start, s.end, s.type) for s in spans[0]] == [(0, 6, "PER")]
    assert 0.5 < (spans[0][0].probability or 0) <= 1


def test_without_dev_texts_folds_that_split_no_group_choose_epochs_and_regularisation() -> None:
    stages: dict[str, int] = {}

    def note(stage: str, _progress: object) -> None:
        stages[stage] = stages.get(stage, 0) + 1

    tagger = train_on_samples(TRAIN, [], SMALL, note)
    tried = {SMALL.l2 * times for times in L2_TIMES}
    assert set(stages) == {*(f"fold {k + 1}, l2 {l2:g}" for k in range(FOLDS) for l2 in tried), "all"}
    assert tagger.manifest["l2_by_folds"] in tried
    assert stages["all"] == tagger.manifest["epochs_by_folds"] == tagger.manifest["best_epoch"] <= 6
    again = train_on_samples(TRAIN, [], SMALL)
    assert to_bytes(again) == to_bytes(tagger)
    assert from_bytes(to_bytes(tagger)).manifest["surfaces"] == tagger.manifest["surfaces"]


@pytest.mark.parametrize("after", [2, 9, 30])
def test_a_stop_while_the_folds_choose_keeps_the_best_of_them(after: int) -> None:
    stages: list[str] = []
    tagger = train_on_samples(
        TRAIN,
        [],
        SMALL,
        lambda stage, _progress: stages.append(stage),
        should_stop=lambda: len(stages) >= after,
    )
    assert len(stages) == after
    assert "all" not in stages
    assert tagger.manifest["stopped"]
    assert tagger.manifest["surfaces"]
    assert "epochs_by_folds" not in tagger.manifest
    assert tag_samples(tagger, TRAIN)
    with pytest.raises(Stopped, match="nothing to keep"):
        train_on_samples(TRAIN, [], SMALL, should_stop=lambda: True)


def test_the_seconds_are_those_of_the_whole_and_not_of_each_fold(monkeypatch: pytest.MonkeyPatch) -> None:
    stages: list[str] = []
    # A second goes by with every epoch.
    monkeypatch.setattr(folds, "time", SimpleNamespace(monotonic=lambda: float(len(stages))))
    tagger = train_on_samples(
        TRAIN, [], replace(SMALL, seconds=10), lambda stage, _progress: stages.append(stage)
    )
    choosing = [stage for stage in stages if stage != "all"]
    assert len(choosing) == 8  # the first that is more than seven tenths
    assert tagger.manifest["settings"]["seconds"] == 2
    assert not tagger.manifest["stopped"]
    assert stages.count("all") == tagger.manifest["epochs_by_folds"]
    # One pull alone was tried; it decides.
    assert tagger.manifest["l2_by_folds"] == pytest.approx(SMALL.l2 * L2_TIMES[0])


def test_one_group_alone_trains_without_folds() -> None:
    alone = [Sample(text=s.text, spans=s.spans, group="one") for s in TRAIN]
    assert train_on_samples(alone, [], SMALL).manifest["best_epoch"] == 6


def test_spans_that_cut_a_token_are_widened_and_texts_without_spans_refused() -> None:
    cut = [Sample(text=s.text, spans=(Span(0, 3, s.spans[0].type),)) for s in TRAIN]
    assert score_samples(train_on_samples(cut, TEST, SMALL), TEST).scores.overall.f1 == 1.0
    with pytest.raises(BadInput, match="nothing to learn"):
        train_on_samples([Sample(text="Nothing.")], [], SMALL)


def test_a_span_without_a_word_is_refused_by_its_text() -> None:
    broken = [*TRAIN, Sample(text="Pellin   is in.", spans=(Span(7, 8, "VES"),), id="b7")]
    with pytest.raises(BadSpan, match="Text b7: There is no word between offsets 7 and 8"):
        train_on_samples(broken, [], SMALL)


def test_a_type_that_the_tagger_does_not_know_counts_as_missed() -> None:
    tagger = train_on_samples(TRAIN, TEST, SMALL)
    other = [Sample(text="Haldis sailed at noon today.", spans=(Span(17, 21, "TIM"),))]
    scores = score_samples(tagger, other).scores
    assert (scores.types["TIM"].missed, scores.types["VES"].surplus) == (1, 1)


def test_the_written_config_is_read_back_and_names_every_setting() -> None:
    settings = TrainingSettings(epochs=3, rate=0.5, features=("words", "shapes"))
    source = write_config(settings)
    assert read_config(source) == settings
    assert all(setting.help in source for setting in SETTINGS)
    assert read_config("") == TrainingSettings()
    assert read_config("l2 = 1") == TrainingSettings(l2=1)


@pytest.mark.parametrize(
    ("source", "words"),
    [
        ("epoch = 3", "did you mean 'epochs'?"),
        ("zzz = 3", "the settings are method, coding"),
        ("epochs = 0", "between 1 and 1000"),
        ("epochs = 2.5", "a whole number, not 2.5"),
        ("rate = 'fast'", "a number, not 'fast'"),
        ("seed = true", "a whole number, not True"),
        ("features = 'words'", "a list of names"),
        ("features = ['lists']", "not enough"),
        ("epochs", "no TOML"),
    ],
)
def test_a_config_that_does_not_fit_is_refused(source: str, words: str) -> None:
    with pytest.raises(BadSettings) as caught:
        read_config(source)
    assert words in caught.value.message


def test_a_stream_is_tagged_as_the_whole_and_groups_stay_together() -> None:
    names = ("Pellin", "Sorrel", "Amber Quay")
    samples = [
        Sample(text=f"The {name} sailed.", spans=(Span(4, 4 + len(name), "VES"),)) for name in names * 4
    ]
    settings = TrainingSettings(epochs=3, features=("words", "shapes", "repeats"))
    tagger = train_on_samples(samples, samples, settings)
    groups = ["a", "a", "", "", "b", "b", "b", "c", "", "d"]
    asked = [
        Sample(text=f"The {name} lay, {name} left.", group=group)
        for name, group in zip(names * 4, groups, strict=False)
    ]
    for signs in (1, 40, 10**6):
        portions = list(tag_stream(tagger, iter(asked), signs_at_once=signs))
        assert [sample for portion, _ in portions for sample in portion] == asked
        assert [spans for _, found in portions for spans in found] == tag_samples(tagger, asked)
        if signs == 1:
            assert [[sample.group for sample in portion] for portion, _ in portions] == [
                ["a", "a"], [""], [""], ["b", "b", "b"], ["c"], [""], ["d"],
            ]  # fmt: skip
        columns = ""
        group = ""
        for portion, found in portions:
            columns += "".join(write_columns(portion, found, group))
            group = portion[-1].group
        read, _ = read_columns(columns.split("\n"))
        assert [sample.group for sample in read] == groups
