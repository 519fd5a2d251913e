"""Lists and rules told apart by the tagger, and lists on files."""

from __future__ import annotations

import random

import pytest

from urdaten.core.formats import Name, Sample, read_names
from urdaten.core.lists import Entry, Gazetteer, NameList
from urdaten.core.spans import Span, SpanTable
from urdaten.core.tagger import (
    GoldText,
    Tagger,
    TaggerInput,
    TrainingSettings,
    explain,
    from_bytes,
    to_bytes,
    train,
)
from urdaten.core.tagger.layout import MOST_MAKERS, evidence_hits, makers_apart
from urdaten.core.tagger.samples import tag_samples, train_on_samples
from urdaten.core.text import Batch, Vocabulary, analyse
from urdaten.errors import BadFile, BadInput

SETTINGS = TrainingSettings(epochs=8)


def found(maker: str, type: str = "VES", source: str = "lists") -> Span:
    return Span(5, 12, type, source, maker=maker)


def item(*evidence: Span) -> TaggerInput:
    return TaggerInput(analyse("Then Rostila was seen."), evidence)


def test_makers_are_told_apart_where_several_find_one_type() -> None:
    both = [item(found("clean")), item(found("noisy")), item(found("ports", "PRT"))]
    assert makers_apart(both, ("lists",)) == ["lists “clean”", "lists “noisy”"]
    # A rule of the same name is another maker, and one that is alone in its source says no more than its source.
    assert makers_apart([*both, item(found("clean", source="rules"))], ("lists", "rules")) == [
        "lists “clean”",
        "lists “noisy”",
    ]
    assert makers_apart(both, ("rules",)) == []


def test_of_very_many_makers_those_with_the_most_spans_are_told_apart() -> None:
    inputs = [item(found(f"list {k:03}")) for k in range(MOST_MAKERS + 20) for _ in range(1 + (k > 19))]
    assert makers_apart(inputs, ("lists",)) == [f"lists “list {k:03}”" for k in range(20, MOST_MAKERS + 20)]


def test_a_hit_is_one_of_its_source_and_of_its_maker() -> None:
    sources = ("lists", "lists “clean”")
    seen = SpanTable.of_spans([[found("clean"), found("noisy")]])
    token, kind = evidence_hits(Batch.joined([item().analysis]), seen, ("PRT", "VES"), sources)
    assert list(zip(token.tolist(), kind.tolist(), strict=True)) == [(1, 2), (1, 6)]


def learnt(settings: TrainingSettings) -> tuple[Tagger, Vocabulary]:
    """Two lists of one type: what one finds is a vessel always, what the other finds by chance."""
    vocabulary = Vocabulary()
    rng = random.Random(3)
    texts = []
    for k in range(120):
        name = "".join(rng.choices("aeioulmnrst", k=7)).title()
        analysis = analyse(f"Then {name} was seen.", vocabulary=vocabulary)
        is_vessel = k % 2 == 0
        evidence = [found("clean")] if is_vessel and k % 4 == 0 else [found("noisy")]
        texts.append(GoldText(TaggerInput(analysis, evidence), [Span(5, 12, "VES")] if is_vessel else []))
    return train(texts, texts[:10], vocabulary, ("VES",), settings), vocabulary


def test_a_clean_list_counts_for_more_than_a_noisy_one() -> None:
    tagger, vocabulary = learnt(SETTINGS)
    assert tagger.sources == ("lists", "rules", "repeats", "lists “clean”", "lists “noisy”")
    read = from_bytes(to_bytes(tagger), None)
    analysis = analyse("Then Uvixado was seen.", vocabulary=vocabulary)
    for one in (tagger, read):
        clean, noisy = (
            next(
                (
                    s.probability or 0
                    for s in one.likely([TaggerInput(analysis, [found(name)])], vocabulary, 0.01)[0]
                ),
                0.0,
            )
            for name in ("clean", "noisy")
        )
        assert clean > 0.8 > 0.6 > noisy
    why = explain(tagger, TaggerInput(analysis, [found("clean")]), vocabulary, Span(5, 12, "VES"))
    assert "lists “clean” VES begins" in {part.feature for part in why.contributions}


def test_without_the_group_they_are_alike() -> None:
    tagger, _ = learnt(SETTINGS.without(["makers"]))
    assert tagger.sources == ("lists", "rules", "repeats")


# Lists on files.


def random_names() -> list[str]:
    rng = random.Random(4)
    return ["".join(rng.choices("aeioulmnrst", k=5)).title() for _ in range(80)]


LISTED = random_names()[::2]
LISTS = Gazetteer(
    [
        NameList(
            name="ships",
            type="VES",
            entries=tuple(Entry(preferred=name) for name in [*LISTED, "Uvixado"]),
        )
    ]
)


def samples() -> list[Sample]:
    return [
        Sample(text=f"Then {name} was seen.", spans=(Span(5, 10, "VES"),) if name in LISTED else ())
        for name in random_names()
    ]


def test_a_tagger_learns_from_samples_with_lists_and_wants_them_again() -> None:
    made = train_on_samples(samples(), samples()[:8], SETTINGS, lists=LISTS)
    asked = [Sample(text="Then Uvixado was seen.")]
    assert [[(s.start, s.end) for s in spans] for spans in tag_samples(made, asked, lists=LISTS)] == [
        [(5, 12)]
    ]
    with pytest.raises(BadInput, match="not given: ships"):
        tag_samples(made, asked)
    with pytest.raises(BadInput, match="no span of that type"):
        train_on_samples(
            samples(),
            (),
            SETTINGS,
            lists=Gazetteer([NameList(name="x", type="PRT", entries=(Entry(preferred="a"),))]),
        )


@pytest.mark.parametrize(
    ("lines", "names"),
    [
        (["Brell\n", "\n", ' Foo "the" Bar, Inc \n'], [Name("Brell"), Name('Foo "the" Bar, Inc')]),
        (["\ufeffname,variants\n", "A,b; c ;\n", ",\n", '"D, E",\n'], [Name("A", ("b", "c")), Name("D, E")]),
        (["note,name\n", "x,A\n", "y,B\n"], [Name("A"), Name("B")]),
    ],
)
def test_names_are_read_from_a_table_or_by_line(lines: list[str], names: list[Name]) -> None:
    assert read_names(lines) == names


@pytest.mark.parametrize(
    ("lines", "said"),
    [
        ([], "no name"),
        (["name,variants\n"], "no name"),
        (["name,variants\n", "A,\n", ",b\n"], "Line 3: there is no name"),
        (["name,variants\n", 'A,"b\n'], "Line 2"),
    ],
)
def test_bad_names_are_refused(lines: list[str], said: str) -> None:
    with pytest.raises(BadFile, match=said):
        read_names(lines)
