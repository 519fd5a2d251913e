"""Templates and assembly."""

from __future__ import annotations

from dataclasses import replace
from datetime import date
from itertools import product

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from urdaten.core.formats import read_marked
from urdaten.core.records import About, Assembler, Field, Names, Record, Template, TextRecords, assemble
from urdaten.core.records.deciding import best_rows, decide
from urdaten.core.records.linker import NOTHING_LEARNT
from urdaten.core.records.material import material_of
from urdaten.core.records.opening import may_open
from urdaten.core.spans import Span, SpanTable
from urdaten.core.text import analyse, batch_of
from urdaten.errors import BadInput

ANY = ("from", "to", "berth", "arrives", "sails")
CALL = Template(
    name="Port call",
    anchor="vessel",
    opens=(ANY,),
    fields=(
        Field(name="vessel", types=("VES",), kind="name", required=True),
        Field(name="from", types=("PRT",), kind="name", cues=("from", "ex")),
        Field(name="to", types=("PRT",), kind="name", cues=("for", "bound for")),
        Field(name="berth", types=("BTH",), kind="name"),
        Field(name="arrives", types=("DAT", "TIM"), kind="moment", cues=("due", "in", "arrived")),
        Field(name="sails", types=("DAT", "TIM"), kind="moment", cues=("sailed", "out")),
        Field(name="cargo", types=("CGO",), kind="name"),
        Field(name="weight", types=("QTY",), kind="quantity", unit="t", least="1", most="20000"),
        Field(name="agent", types=("ORG",), kind="name", cues=("agents",), required=True),
    ),
)
INCIDENT = Template(
    name="Incident",
    anchor="what",
    each="mention",
    fields=(
        Field(name="what", types=("INC",)),
        Field(name="when", types=("DAT", "TIM"), kind="moment", shared=True),
        Field(name="persons", types=("PER",), kind="name", many=True),
    ),
)
MONDAY = date(2026, 7, 6)
_LISTED = {
    ("NB", "ORG"): "Northgate Bulk",
    ("Pellin II", "VES"): "Pellin",
    ("Sill Wharf 4", "BTH"): "Sill Wharf 4",
}
NAMES = Names(
    lambda surface, code: _LISTED.get((surface, code)), {"VES": ["Corrie Lindmoor", "Northern Thrift"]}
)


def read(marked: str, template: Template = CALL, about: About | None = None) -> TextRecords:
    body, spans = read_marked(marked)
    table = SpanTable.of_spans([sorted(spans)])
    about = about or About(days=[MONDAY])
    return Assembler(template=template).assemble(batch_of([body]), table, NAMES, about, why=True)[0]


def records(marked: str, template: Template = CALL) -> list[Record]:
    return read(marked, template).records


def values(marked: str, template: Template = CALL) -> list[dict[str, str]]:
    return [{name: record.value(name) for name in record.values} for record in records(marked, template)]


def test_cues_tell_origin_from_destination() -> None:
    assert values("[VES Pellin] came from [PRT Varnby] and left for [PRT Ostvar].") == [
        {"vessel": "Pellin", "from": "Varnby", "to": "Ostvar"}
    ]


def test_a_cue_of_several_words_and_the_end_of_a_clause() -> None:
    assert values("[VES Pellin], bound for [PRT Ostvar].") == [{"vessel": "Pellin", "to": "Ostvar"}]
    (made,) = records("[VES Pellin] from [PRT Varnby]; [PRT Ostvar] is near.")
    assert made.value("from") == "Varnby"
    assert made.parts["from"][0].why.cue == "from"


def test_each_vessel_gets_what_follows_it() -> None:
    assert values("[VES Pellin] lies at [BTH Sill Wharf 4]. [VES Haldis] lies at [BTH Coal Steps].") == [
        {"vessel": "Pellin", "berth": "Sill Wharf 4"},
        {"vessel": "Haldis", "berth": "Coal Steps"},
    ]


def test_a_later_sentence_without_vessel_speaks_of_the_last_one() -> None:
    assert values("[VES Pellin] is in. She lies at [BTH Coal Steps].") == [
        {"vessel": "Pellin", "berth": "Coal Steps"}
    ]


def test_a_record_opens_only_where_enough_speaks_for_one() -> None:
    made = read("[VES Pellin] carries [CGO salt]. [VES Haldis] lies at [BTH Coal Steps].")
    assert [record.value("vessel") for record in made.records] == ["Haldis"]
    assert [(one.span.type, one.fate) for one in made.fates] == [
        ("VES", "open"),
        ("CGO", "open"),
        ("VES", "used"),
        ("BTH", "used"),
    ]


def test_one_record_for_each_distinct_vessel_by_its_list_name() -> None:
    (made,) = records("[VES Pellin] is in. [VES Pellin II] sailed [DAT Monday] at [TIM 0600].")
    assert made.value("sails") == "2026-07-06T06:00"


def test_shortened_names_are_those_of_the_list_or_of_the_text() -> None:
    assert values("[VES corrie l] out [TIM 1900]")[0]["vessel"] == "Corrie Lindmoor"
    assert values("[VES northn thrift] out [TIM 1900]")[0]["vessel"] == "Northern Thrift"
    (made,) = records("[VES Tern of Varnby] is in. The [VES Tern] lies at [BTH Coal Steps].")
    assert made.value("vessel") == "Tern of Varnby"
    assert (
        values("[VES Haldis] left [BTH Sill Wharf 3]; [VES Ketta] has [BTH 4].")[-1]["berth"]
        == "Sill Wharf 4"
    )


def test_names_that_could_be_short_for_two_are_their_own() -> None:
    text = "[VES Tern of Varnby] and [VES Tern of Hask] are out. The [VES Tern] lies at [BTH Coal Steps]."
    assert values(text)[-1] == {"vessel": "Tern", "berth": "Coal Steps"}
    assert NAMES.named("orrie l", "VES").name == "orrie l"
    assert NAMES.named("corrie indmoor", "VES").name == "corrie indmoor"
    assert NAMES.named("C L", "VES").name == "Corrie Lindmoor"
    assert Names(entries={"VES": ["Corrie Lindmoor", "Clay Lantern"]}).named("C L", "VES").name == "C L"


def test_a_day_and_the_moment_on_it_are_no_rivals() -> None:
    (made,) = records("[VES Pellin] sailed [DAT Friday], as planned, out [TIM 0615] [DAT Friday].")
    assert (made.value("sails"), made.rivals) == ("2026-07-03T06:15", [])
    (made,) = records("[VES Pellin] sailed [DAT Friday], as planned, out [TIM 0615] [DAT Thursday].")
    assert [part.written for _, part in made.rivals] != []


def test_groups_bar_entities_that_lack_them_all() -> None:
    body, spans = read_marked("[VES Pellin] at [BTH Coal Steps]. [VES Haldis] has [CGO salt].")
    m = material_of(batch_of([body]), SpanTable.of_spans([sorted(spans)]), CALL, Names())
    chance = np.zeros((2, len(CALL.filled)))
    chance[0, 2], chance[1, 5] = 0.9, 0.9
    assert may_open(m, chance).tolist() == [True, False]


def test_two_calls_of_one_vessel_are_two_records() -> None:
    assert values(
        "[VES Pellin] is in from [PRT Varnby]. [VES Haldis] is due [DAT Friday]. [VES Pellin] is back, ex [PRT Ostvar]. She "
        "lies at [BTH Coal Steps]."
    ) == [
        {"vessel": "Pellin", "from": "Varnby"},
        {"vessel": "Haldis", "arrives": "2026-07-10"},
        {"vessel": "Pellin", "from": "Ostvar", "berth": "Coal Steps"},
    ]


def test_what_one_mention_says_twice_is_a_rival() -> None:
    made = read("[VES Pellin] came from [PRT Varnby] or from [PRT Ostvar].")
    (record,) = made.records
    assert record.value("from") == "Varnby"
    assert [(name, part.value.text) for name, part in record.rivals] == [("from", "Ostvar")]
    assert [one.fate for one in made.fates] == ["used", "used", "rival"]


def test_each_mention_opens_a_record_where_the_template_says_so() -> None:
    made = values(
        "[TIM 2200] [INC fire], [PER Flint] and [PER Dole] hurt.\n[TIM 0115] [INC fire] again.", INCIDENT
    )
    assert made == [
        {"what": "fire", "when": "2026-07-06T22:00", "persons": "Flint; Dole"},
        {"what": "fire", "when": "2026-07-07T01:15"},
    ]


def test_a_shared_field_fills_several_records() -> None:
    made = values("[TIM 2200] [INC fire] and [INC flood].", INCIDENT)
    assert [one.get("when") for one in made] == ["2026-07-06T22:00", "2026-07-06T22:00"]


def test_values_are_read_and_say_how() -> None:
    (made,) = records(
        "[VES Pellin] due [TIM 0540] [DAT Wednesday] with [QTY 3,200 t] of salt; agents [ORG NB]."
    )
    assert made.value("arrives") == "2026-07-08T05:40"
    assert made.value("weight") == "3200 t"
    assert made.value("agent") == "Northgate Bulk"
    (agent,) = made.parts["agent"]
    assert (agent.written, agent.why.cue, agent.why.place) == (
        "NB",
        "agents",
        "up to 10 words before it",
    )
    assert agent.probability is not None
    assert agent.probability > 0.9
    assert made.missing == []


def test_a_day_and_a_time_that_stand_apart_make_one_moment() -> None:
    (made,) = records("[VES Pellin] sailed [DAT Friday] from the pool, out [TIM 0615].")
    assert made.value("sails") == "2026-07-03T06:15"
    assert [part.value.kind for part in made.parts["sails"]] == ["date", "time"]


def test_what_no_field_allows_stays_and_is_told() -> None:
    (made,) = records("[VES Pellin] at [BTH Coal Steps] with [QTY 90000 t].")
    (weight,) = made.values["weight"]
    assert (weight.text, weight.fault) == ("90000 t", "out of range")
    (made,) = records("[VES Pellin] at [BTH Coal Steps] with [QTY a good deal].")
    assert (made.value("weight"), made.values["weight"][0].fault) == ("a good deal", "no number")


def test_words_that_refer_to_another_value_are_worked_out() -> None:
    (one, other) = records(
        "[VES Pellin] at [BTH Coal Steps] with [QTY 800 t]. [VES Haldis] at [BTH Tide Berth] with [QTY half that weight]."
    )
    assert one.value("weight") == "800 t"
    (weight,) = other.values["weight"]
    assert (weight.text, weight.derived) == ("400 t", True)


def test_defaults_come_from_the_field_or_the_texts_metadata() -> None:
    template = Template(
        name="x",
        anchor="vessel",
        fields=(
            Field(name="vessel", types=("VES",)),
            Field(name="port", types=(), default="Tessmar"),
            Field(name="desk", types=(), default="none", default_from="kind"),
            Field(name="day", types=("DAT",), kind="date", default_from="dated"),
        ),
    )
    about = About(
        days=[MONDAY], metadata=lambda _text, key: {"kind": "night log", "dated": "2026-07-06"}.get(key, "")
    )
    (made,) = read("[VES Pellin] is in.", template, about).records
    assert {name: made.value(name) for name in made.values} == {
        "vessel": "Pellin",
        "port": "Tessmar",
        "desk": "night log",
        "day": "2026-07-06",
    }
    assert made.values["port"][0].notes[-1].what == "default"


def test_values_without_any_vessel_are_shown_open() -> None:
    made = read("Cleared from [PRT Varnby] for [PRT Ostvar], [BTH Tide Berth], with [CGO timber].")
    (record,) = made.records
    assert record.anchorless
    assert record.missing == ["vessel", "agent"]
    assert record.value("from") == "Varnby"
    assert {one.fate for one in made.fates} == {"open"}
    assert read("At [BTH Coal Steps] it rained.").records == []


def test_the_scope_bounds_what_belongs_together() -> None:
    text = "[VES Pellin] is in.\nAt [BTH Coal Steps].\n\nThere is [CGO salt] for [PRT Ostvar]."
    assert values(text, replace(CALL, scope="sentence")) == []
    assert values(text, replace(CALL, scope="paragraph")) == [{"vessel": "Pellin", "berth": "Coal Steps"}]
    assert "to" in values(text)[0]


def test_without_an_anchor_records_stand_for_sentences_or_texts() -> None:
    fields = (
        Field(name="port", types=("PRT",), kind="name"),
        Field(name="berth", types=("BTH",), kind="name"),
    )
    text = "[PRT Varnby] and [BTH Coal Steps]. Nothing. [PRT Ostvar]."
    by_sentence = Template(name="x", anchor="", fields=fields, scope="sentence")
    assert values(text, by_sentence) == [{"port": "Varnby", "berth": "Coal Steps"}, {"port": "Ostvar"}]
    by_text = Template(name="x", anchor="", fields=fields, scope="text")
    (made,) = records(text, by_text)
    assert (made.value("port"), made.value("berth")) == ("Varnby", "Coal Steps")
    assert [part.written for _, part in made.rivals] == ["Ostvar"]


def test_a_span_within_the_last_word_is_linked() -> None:
    body = "Pellin ex Varnby-roads"
    (made,) = assemble(analyse(body), [Span(0, 6, "VES"), Span(17, 22, "PRT")], CALL)
    assert made.value("from") == "roads"
    # What lies behind the last word stands in no sentence.
    assert assemble(analyse(body + " \n"), [Span(22, 24, "VES")], CALL) == []


def test_what_speaks_for_a_link_adds_up_to_its_odds() -> None:
    (made,) = records("[VES Pellin] came from [PRT Varnby]; [VES Haldis] lies at [BTH Coal Steps].")[:1]
    (part,) = made.parts["from"]
    assert part.probability is not None
    assert part.why.against == "from of Haldis"
    total = sum(one.weight for one in part.why.speaks)
    rest = 1 - part.probability
    assert total > np.log(part.probability / rest) - 1e-9
    assert [abs(one.weight) for one in part.why.speaks] == sorted(
        (abs(o.weight) for o in part.why.speaks), reverse=True
    )


@pytest.mark.parametrize(
    ("anchor", "fields", "words"),
    [
        ("ship", (Field(name="vessel", types=("VES",)),), "not a field"),
        ("vessel", (Field(name="vessel", types=("VES",)), Field(name="vessel", types=("VES",))), "twice"),
        ("vessel", (Field(name="vessel", types=()),), "no entity type"),
        ("vessel", (Field(name="vessel", types=("VES",), cues=("the",)),), "no cue words"),
        ("vessel", (Field(name="vessel", types=("VES",), many=True),), "one value"),
        ("", (), "needs a field"),
        ("a", (Field(name="a", types=("A",), kind="quantity", unit="furlong"),), "no UCUM code"),
        ("a", (Field(name="a", types=("A",), kind="money", unit="XXX"),), "unknown currency"),
        ("a", (Field(name="a", types=("A",), kind="number", least="few"),), "no number"),
        ("a", (Field(name="a", types=("A",), kind="name", least="1"),), "lie in an order"),
        ("a", (Field(name="a", types=("A",), kind="code", pattern="("),), "cannot be read"),
    ],
)
def test_bad_templates_are_refused(anchor: str, fields: tuple[Field, ...], words: str) -> None:
    with pytest.raises(BadInput, match=words):
        Template(name="x", anchor=anchor, fields=fields)


def test_groups_name_fields_of_the_template() -> None:
    fields = (Field(name="a", types=("A",)),)
    with pytest.raises(BadInput, match="“b”, which a record needs"):
        Template(name="x", anchor="a", fields=fields, opens=(("a", "b"),))
    with pytest.raises(BadInput, match="one at least"):
        Template(name="x", anchor="a", fields=fields, opens=((),))


PIECES = st.lists(
    st.sampled_from(
        [
            "[VES Pellin]",
            "[VES Haldis]",
            "[VES Pellin II]",
            "[PRT Varnby]",
            "[PRT Ostvar]",
            "[BTH Coal Steps]",
            "[BTH 4]",
            "[TIM 0540]",
            "[TIM 2310]",
            "[DAT Friday]",
            "[QTY 3,200 t]",
            "[QTY half that weight]",
            "[CGO salt]",
            "[ORG NB]",
            "[INC fire]",
            "from",
            "for",
            "due",
            "sailed",
            "she",
            ".",
            ";",
            ",",
            "|",
            "\n",
            "\n\n",
            "In\n",
        ]
    ),
    max_size=24,
).map(" ".join)


@given(PIECES, st.sampled_from(["text", "paragraph", "sentence"]), st.sampled_from(["entity", "mention"]))
@settings(max_examples=250, deadline=None)
def test_every_span_of_a_filling_type_ends_in_one_fate(text: str, scope: str, each: str) -> None:
    template = replace(CALL, scope=scope, each=each)  # type: ignore[arg-type] # one of them
    _, spans = read_marked(text)
    made = read(text, template)
    types = {code for f in template.fields for code in f.types}
    wanted = sorted((s.start, s.end, s.type) for s in spans if s.type in types)
    assert sorted((one.span.start, one.span.end, one.span.type) for one in made.fates) == wanted
    used = {(one.record, one.field, one.span.start) for one in made.fates if one.fate == "used"}
    for number, record in enumerate(made.records):
        if record.anchorless:
            continue
        assert any(name in record.values for name in ANY)
        for name, parts in record.parts.items():
            f = template.field_called(name)
            assert name in record.values
            assert all(part.span.type in f.types for part in parts)
            if name != template.anchor:
                assert {(number, name, part.span.start) for part in parts} <= used
            if not f.many and f.kind != "moment":
                assert len({part.value.text for part in parts}) == 1
    for one in made.fates:
        assert (one.record is not None) == (one.fate in ("used", "rival")) or one.fate == "open"


@given(st.lists(PIECES, min_size=2, max_size=4))
@settings(max_examples=60, deadline=None)
def test_texts_are_assembled_alike_alone_and_together(texts: list[str]) -> None:
    bodies, spans = zip(*(read_marked(text) for text in texts), strict=True)
    about = About(days=[MONDAY] * len(texts))
    together = Assembler(template=CALL).assemble(
        batch_of(bodies), SpanTable.of_spans([sorted(own) for own in spans]), NAMES, about, why=True
    )
    assert [[r.values for r in one.records] for one in together] == [
        [r.values for r in read(text).records] for text in texts
    ]
    assert [one.fates for one in together] == [read(text).fates for text in texts]


@given(
    st.integers(1, 4),
    st.integers(1, 3),
    st.lists(st.floats(0.01, 1), min_size=40, max_size=40),
)
@settings(max_examples=150, deadline=None)
def test_places_are_given_out_as_well_as_can_be(count: int, anchors: int, chances: list[float]) -> None:
    """Against all ways to give ports to vessels, one port each at most."""
    template = Template(
        name="x", anchor="v", fields=(Field(name="v", types=("VES",)), Field(name="p", types=("PRT",)))
    )
    text = " ".join([f"[VES V{k}]" for k in range(anchors)] + [f"[PRT P{k}]" for k in range(count)])
    body, spans = read_marked(text)
    m = material_of(batch_of([body]), SpanTable.of_spans([sorted(spans)]), template, Names())
    seen, _ = NOTHING_LEARNT.probabilities(m)
    raw = np.array(chances[: len(seen)])
    size = np.diff(seen.first)
    probability = raw / np.repeat(np.add.reduceat(raw, seen.first[:-1]), size)
    best = best_rows(seen, probability).tolist()
    chosen = decide(m, seen, probability, list(range(count)), best, lambda _a, _b: False)
    least, without = 0.2, np.log(0.1)

    def options(value: int) -> list[tuple[int, float]]:
        rows = range(int(seen.first[value]), int(seen.first[value + 1]))
        own = [
            (int(seen.entity[row]), float(np.log(probability[row])))
            for row in rows
            if row == best[value] or probability[row] >= least
        ]
        return [*own, (-2, float(without))]

    def worth(taken: tuple[tuple[int, float], ...]) -> float:
        held = [entity for entity, _ in taken if entity >= 0]
        return -np.inf if len(set(held)) < len(held) else sum(score for _, score in taken)

    crowded = len({int(seen.entity[row]) for row in best if seen.entity[row] >= 0}) < sum(
        seen.entity[row] >= 0 for row in best
    )

    def went_without(value: int) -> float:
        none = float(probability[int(seen.first[value + 1]) - 1])
        return max(float(np.log(none)) if none >= least else -np.inf, float(without))

    found = sum(
        went_without(value) if one.fate == "rival" else float(np.log(probability[one.row]))
        for value, one in chosen.items()
    )
    if crowded:
        assert found == pytest.approx(max(worth(taken) for taken in product(*map(options, range(count)))))
    else:
        assert [chosen[v].row for v in range(count)] == best
