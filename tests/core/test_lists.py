"""Lists and their matching."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from urdaten.core.lists import Entry, EntryReason, Gazetteer, NameList
from urdaten.core.spans import Span, without_overlaps
from urdaten.core.text import Vocabulary, analyse, batch_of, fold, token_forms

VESSELS = NameList(
    name="vessels",
    type="VES",
    entries=(
        Entry(preferred="Amber Quay", variants=("A. Quay",)),
        Entry(preferred="Lindmoor"),
        Entry(preferred="Corrie Lindmoor"),
        Entry(preferred="Seamen's Rest"),
    ),
)
PORTS = NameList(name="ports", type="PRT", entries=(Entry(preferred="Lindmoor", variants=("LMR",)),))
CARGO = NameList(name="cargo", type="CGO", entries=(Entry(preferred="amber"), Entry(preferred="steel coil")))


def found(body: str, *lists: NameList) -> list[tuple[str, str]]:
    spans = Gazetteer(lists or (VESSELS, PORTS, CARGO)).match(analyse(body))
    return [(span.type, body[span.start : span.end]) for span in spans]


def test_the_longest_name_of_a_type_is_found_at_each_place() -> None:
    assert found("Corrie Lindmoor sailed", VESSELS) == [("VES", "Corrie Lindmoor")]


def test_types_do_not_stand_in_each_others_way() -> None:
    assert found("Corrie Lindmoor sailed") == [("VES", "Corrie Lindmoor"), ("PRT", "Lindmoor")]


def test_case_does_not_count_but_a_capital_is_not_given_up() -> None:
    assert found("AMBER QUAY with STEEL COIL", VESSELS, CARGO) == [
        ("CGO", "AMBER"),
        ("VES", "AMBER QUAY"),
        ("CGO", "STEEL COIL"),
    ]
    assert found("the amber quay of the harbour", VESSELS) == []


def test_apostrophes_are_alike() -> None:
    assert found("at the Seamen’s Rest") == [("VES", "Seamen’s Rest")]


def test_a_name_does_not_run_over_the_end_of_a_sentence() -> None:
    assert found("He saw Corrie. Lindmoor was next.", VESSELS) == [("VES", "Lindmoor")]


def test_a_span_names_entry_and_variant() -> None:
    (span,) = Gazetteer([PORTS]).match(analyse("ex LMR today"))
    assert span.why == "list ports, entry “Lindmoor”, variant “LMR”"
    assert (span.source, span.maker) == ("lists", "ports")


def test_preferred_names() -> None:
    gazetteer = Gazetteer([VESSELS, PORTS])
    assert gazetteer.preferred("A. QUAY", "VES") == "Amber Quay"
    assert gazetteer.preferred("lmr", "PRT") == "Lindmoor"
    assert gazetteer.preferred("LMR", "VES") is None
    assert gazetteer.preferred("nowhere", "PRT") is None


def test_two_entries_for_one_writing_give_no_preferred_name() -> None:
    twice = NameList(
        name="agents",
        type="ORG",
        entries=(Entry(preferred="North", variants=("NB",)), Entry(preferred="New", variants=("NB",))),
    )
    assert Gazetteer([twice]).preferred("NB", "ORG") is None


def test_an_empty_gazetteer_finds_nothing() -> None:
    assert Gazetteer([]).match(analyse("Amber Quay")) == []
    blank = NameList(name="x", type="VES", entries=(Entry(preferred=" "),))
    assert Gazetteer([blank]).match(analyse("Amber Quay")) == []


NAME = st.lists(
    st.sampled_from(["amber", "Amber", "quay", "Quay", "II", "’s", "É"]), min_size=0, max_size=3
).map(" ".join)
ENTRY = st.builds(
    lambda preferred, variants: Entry(preferred=preferred, variants=tuple(variants)),
    NAME,
    st.lists(NAME, max_size=2),
)
BODY = st.lists(
    st.sampled_from(
        ["amber", "Amber", "AMBER", "quay", "Quay", "ii", "'s", "E\u0301", "é", ".", "The", "\n\n"]
    ),
    max_size=14,
).map(" ".join)


def slow(lists: list[NameList], body: str) -> list[Span]:
    """Every run of tokens held against every way to write every entry."""
    analysis = analyse(body)
    forms = [analysis.vocabulary.forms[word] for word in analysis.word]
    by_type: dict[str, list[Span]] = {}
    for first in range(len(forms)):
        for last in range(first + 1, len(forms) + 1):
            if analysis.sentence[first] != analysis.sentence[last - 1]:
                continue
            start, end = int(analysis.start[first]), int(analysis.end[last - 1])
            for names in lists:
                for entry in names.entries:
                    for written in (entry.preferred, *entry.variants):
                        tokens = token_forms(written)
                        capital = bool(tokens) and (tokens[0][0].isupper() or tokens[0][0].isdigit())
                        small = not (forms[first][0].isupper() or forms[first][0].isdigit())
                        if [fold(t) for t in tokens] != [fold(f) for f in forms[first:last]] or (
                            capital and small
                        ):
                            continue
                        why = EntryReason(names.name, entry.preferred, written).words
                        by_type.setdefault(names.type, []).append(
                            Span(start, end, names.type, "lists", None, why, names.name)
                        )
    return sorted(span for spans in by_type.values() for span in without_overlaps(spans))


@given(
    st.lists(st.lists(ENTRY, max_size=3), min_size=1, max_size=3),
    st.lists(st.sampled_from(["VES", "PRT"]), min_size=3, max_size=3),
    st.lists(BODY, min_size=1, max_size=3),
)
def test_lists_find_what_a_slow_search_finds(
    entries: list[list[Entry]], types: list[str], bodies: list[str]
) -> None:
    lists = [
        NameList(name=f"list {k}", type=code, entries=tuple(own))
        for k, (own, code) in enumerate(zip(entries, types, strict=False))
    ]
    gazetteer = Gazetteer(lists)
    batch = batch_of(bodies)
    found = gazetteer.table(batch).spans(len(batch))
    for body, spans in zip(bodies, found, strict=True):
        wanted = slow(lists, body)
        assert [(s, s.why, s.maker) for s in spans] == [(s, s.why, s.maker) for s in wanted]
        assert gazetteer.match(analyse(body)) == wanted


def test_a_vocabulary_that_grows_is_followed() -> None:
    gazetteer = Gazetteer([VESSELS])
    vocabulary = Vocabulary()
    for body, count in (("nothing", 0), ("Corrie Lindmoor sails", 1), ("The Amber Quay", 1), ("Lindmoor", 1)):
        assert len(gazetteer.match(analyse(body, vocabulary=vocabulary))) == count
