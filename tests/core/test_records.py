"""Templates and assembly."""

from __future__ import annotations

import pytest

from urdaten.core.formats import read_marked
from urdaten.core.records import Field, Record, Template, assemble
from urdaten.core.spans import Span
from urdaten.core.text import analyse
from urdaten.errors import BadInput

CALL = Template(
    name="Port call",
    anchor="vessel",
    fields=(
        Field(name="vessel", types=("VES",), required=True),
        Field(name="from", types=("PRT",), cues=("from", "ex")),
        Field(name="to", types=("PRT",), cues=("for",)),
        Field(name="berth", types=("BTH",)),
        Field(name="sails", types=("DAT", "TIM"), cues=("sailed",)),
        Field(name="agent", types=("ORG",), required=True),
    ),
)


def records(marked: str, template: Template = CALL) -> list[Record]:
    body, spans = read_marked(marked)
    names = {("NB", "ORG"): "Northgate Bulk", ("Pellin II", "VES"): "Pellin"}
    return assemble(analyse(body), spans, template, lambda surface, code: names.get((surface, code)))


def values(marked: str) -> list[dict[str, str]]:
    return [{f.name: r.value(f.name) for f in CALL.fields if r.value(f.name)} for r in records(marked)]


def test_cues_tell_origin_from_destination() -> None:
    assert values("[VES Pellin] came from [PRT Varnby] and left for [PRT Ostvar].") == [
        {"vessel": "Pellin", "from": "Varnby", "to": "Ostvar"}
    ]


def test_the_nearest_cue_wins_and_a_clause_ends_its_reach() -> None:
    assert values("[VES Pellin] from [PRT Varnby]; [PRT Ostvar] is near.") == [
        {"vessel": "Pellin", "from": "Varnby"}
    ]


def test_each_vessel_gets_what_follows_it() -> None:
    assert values("[VES Pellin] lies at [BTH Sill Wharf 3]. [VES Haldis] lies at [BTH Coal Steps].") == [
        {"vessel": "Pellin", "berth": "Sill Wharf 3"},
        {"vessel": "Haldis", "berth": "Coal Steps"},
    ]


def test_a_later_sentence_without_vessel_speaks_of_the_last_one() -> None:
    assert values("[VES Pellin] is in. She lies at [BTH Sill Wharf 3].") == [
        {"vessel": "Pellin", "berth": "Sill Wharf 3"}
    ]


def test_the_vessels_own_sentence_has_the_first_word() -> None:
    (made,) = records("At [BTH Coal Steps] it rained. [VES Haldis] lies at [BTH Tide Berth].")
    assert made.value("berth") == "Tide Berth"
    assert [(name, part.value) for name, part in made.rivals] == [("berth", "Coal Steps")]


def test_one_record_for_each_distinct_vessel_by_its_list_name() -> None:
    made = records("[VES Pellin] is in. [VES Pellin II] sailed [DAT Monday] at [TIM 0600].")
    assert len(made) == 1
    assert made[0].value("sails") == "Monday 0600"


def test_two_calls_of_one_vessel_are_two_records() -> None:
    assert values(
        "[VES Pellin] is in from [PRT Varnby]. [VES Haldis] is due. [VES Pellin] is back, ex [PRT Ostvar]. She lies at "
        "[BTH Coal Steps]. [VES Pellin II] sailed [DAT Monday] ex [PRT Ostvar]."
    ) == [
        {"vessel": "Pellin", "from": "Varnby"},
        {"vessel": "Haldis"},
        {"vessel": "Pellin", "from": "Ostvar", "berth": "Coal Steps", "sails": "Monday"},
    ]


def test_what_one_mention_says_twice_is_a_rival() -> None:
    (made,) = records("[VES Pellin] came from [PRT Varnby] or from [PRT Ostvar].")
    assert made.value("from") == "Varnby"
    assert [(name, part.value) for name, part in made.rivals] == [("from", "Ostvar")]


LONG_CUES = Template(
    name="Port call",
    anchor="vessel",
    fields=(
        Field(name="vessel", types=("VES",)),
        Field(name="from", types=("PRT",), cues=("out of",)),
        Field(name="to", types=("PRT",), cues=("of", "on her way to", "bound for")),
    ),
)


@pytest.mark.parametrize(
    ("marked", "expected"),
    [
        ("[VES Pellin] Out  of [PRT Varnby].", ("Varnby", "")),
        ("[VES Pellin], pride of [PRT Varnby].", ("", "Varnby")),
        ("[VES Pellin] is out of [PRT Varnby] on her way to [PRT Ostvar].", ("Varnby", "Ostvar")),
        ("[VES Pellin] is on her way; to [PRT Ostvar].", ("", "")),
        # The cue's last word is eight words away, and nine.
        ("[VES Pellin] bound for a b c d e f g [PRT Ostvar].", ("", "Ostvar")),
        ("[VES Pellin] bound for a b c d e f g h [PRT Ostvar].", ("", "")),
    ],
)
def test_cues_of_several_words(marked: str, expected: tuple[str, str]) -> None:
    (made,) = records(marked, LONG_CUES)
    assert (made.value("from"), made.value("to")) == expected


def test_a_span_within_the_last_word_is_linked() -> None:
    body = "Pellin ex Varnby-roads"
    (made,) = assemble(analyse(body), [Span(0, 6, "VES"), Span(17, 22, "PRT")], CALL)
    assert made.value("from") == "roads"
    assert assemble(analyse(body), [Span(17, 22, "VES")], CALL)[0].value("vessel") == "roads"
    # What lies behind the last word stands in no sentence.
    assert assemble(analyse(body + " \n"), [Span(22, 24, "VES")], CALL) == []


def test_values_say_why() -> None:
    (made,) = records("[VES Pellin], ex [PRT Varnby]; agents [ORG NB].")
    (origin,), (agent,) = made.parts["from"], made.parts["agent"]
    assert origin.why == "after “ex”; nearest vessel before it in the sentence"
    assert (
        agent.why
        == "only field for its type; nearest vessel before it in the sentence; list name “Northgate Bulk”"
    )
    assert (agent.written, agent.value) == ("NB", "Northgate Bulk")
    assert made.missing == []


def test_missing_required_fields_are_named() -> None:
    (made,) = records("[VES Pellin] is in.")
    assert made.missing == ["agent"]


def test_without_an_anchor_there_is_no_record() -> None:
    assert records("At [BTH Coal Steps] it rained.") == []


@pytest.mark.parametrize(
    ("anchor", "fields", "words"),
    [
        ("ship", (Field(name="vessel", types=("VES",)),), "not a field"),
        ("vessel", (Field(name="vessel", types=("VES",)), Field(name="vessel", types=("VES",))), "twice"),
        ("vessel", (Field(name="vessel", types=()),), "no entity type"),
        ("vessel", (Field(name="vessel", types=("VES",), cues=("the",)),), "no cue words"),
    ],
)
def test_bad_templates_are_refused(anchor: str, fields: tuple[Field, ...], words: str) -> None:
    with pytest.raises(BadInput, match=words):
        Template(name="x", anchor=anchor, fields=fields)
