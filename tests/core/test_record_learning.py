"""Learning to link and to open, what is kept of it, and record scores."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from urdaten.core.formats import read_marked
from urdaten.core.records import (
    About,
    Assembler,
    Field,
    Linker,
    Names,
    Record,
    Signings,
    Template,
    fitting_spans,
    learnt_bytes,
    learnt_from,
    lesson_of,
    nearest_before,
    schema_of,
    score_records,
    teach,
    teaching,
    template_of,
)
from urdaten.core.records.layout import Layout
from urdaten.core.records.linker import Lesson, learn
from urdaten.core.records.linker import _part as teaching_part
from urdaten.core.records.template import Kind
from urdaten.core.spans import SpanTable
from urdaten.core.text import batch_of
from urdaten.core.values import Reading, read_value
from urdaten.errors import BadFile, BadInput

CALL = Template(
    name="Call",
    anchor="vessel",
    opens=(("from", "to"),),
    fields=(
        Field(name="vessel", types=("VES",), kind="name", required=True),
        Field(name="from", types=("PRT",), kind="name"),
        Field(name="to", types=("PRT",), kind="name"),
        Field(name="weight", types=("QTY",), kind="quantity", unit="t"),
    ),
)
SHIPS = ("Pellin", "Haldis", "Ketta", "Sundrey", "Merrin", "Tallow")
PORTS = ("Varnby", "Ostvar", "Kessing", "Wexholm", "Garsby", "Hask")


def texts(count: int, seed: int) -> tuple[list[str], list[list[dict[str, list[str]]]]]:
    """Bulletins that say by words without any cue in the template where ships come from; some ships only pass."""
    random = np.random.default_rng(seed)
    marked, records = [], []
    for _ in range(count):
        ship, other = random.choice(SHIPS, 2, replace=False)
        one, two = random.choice(PORTS, 2, replace=False)
        weight = int(random.integers(10, 900))
        forms = [
            (
                f"[VES {ship}] hails out of [PRT {one}] laden with [QTY {weight} t].",
                {"from": [one], "weight": [f"{weight} t"]},
            ),
            (
                f"[VES {ship}] heads towards [PRT {two}] with [QTY {weight} t].",
                {"to": [two], "weight": [f"{weight} t"]},
            ),
            (
                f"[VES {ship}] hails out of [PRT {one}] and heads towards [PRT {two}].",
                {"from": [one], "to": [two]},
            ),
        ]
        said, values = forms[int(random.integers(len(forms)))]
        own = [{"vessel": [str(ship)]} | {name: [str(v) for v in vs] for name, vs in values.items()}]
        if random.random() < 0.6:
            said += f" [VES {other}] was merely seen near [PRT {random.choice(PORTS)}]."
        marked.append(said)
        records.append(own)
    return marked, records


def signings(count: int, seed: int) -> Signings:
    marked, records = texts(count, seed)
    bodies, spans = zip(*(read_marked(text) for text in marked), strict=True)
    return Signings(
        batch=batch_of(bodies),
        spans=SpanTable.of_spans([sorted(own) for own in spans]),
        records=records,
        groups=[k // 4 for k in range(count)],
        names=Names(),
        about=About(days=[date(2026, 7, 6)] * count),
    )


def f1(assembler: Assembler, judged: Signings) -> tuple[float, float]:
    found = assembler.assemble(judged.batch, judged.spans, judged.names, judged.about)
    scores = score_records(
        CALL, list(zip(judged.records, [one.records for one in found], strict=True)), rounds=20
    )
    return scores.fields.f1 or 0, scores.opened.f1 or 0


def test_what_was_signed_teaches_words_that_no_cue_names() -> None:
    judged = signings(80, 2)
    plain, learnt = f1(Assembler(template=CALL), judged), f1(teach(CALL, signings(80, 1)), judged)
    assert plain[0] < 0.75
    assert plain[1] < 0.85
    assert learnt[0] > 0.97
    assert learnt[1] > 0.97


def test_opening_learns_from_links_by_those_who_have_not_seen_the_text(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    sizes: list[int] = []
    plain = learn

    def watched(lessons: Sequence[Lesson]) -> Linker:
        sizes.append(sum(lesson.records for lesson in lessons))
        return plain(lessons)

    monkeypatch.setattr(teaching, "learn", watched)
    teach(CALL, signings(40, 1))
    whole, *others = sizes
    assert len(others) == 5
    assert sum(whole - size for size in others) == whole


def test_what_is_near_an_entity_without_a_record_may_be_its_own() -> None:
    own = signings(60, 1)
    lesson, signed = lesson_of(CALL, own)
    assert set(lesson.unopened) == set(np.flatnonzero(~signed).tolist())
    seen, right, known = teaching_part(lesson, Layout.of(CALL, lesson.material.types))
    rows = [k for k, entity in enumerate(seen.entity.tolist()) if entity in lesson.unopened]
    assert rows
    of_none = [not lesson.right[int(seen.value[k])] for k in rows]
    assert [bool(right[k]) for k in rows] == of_none
    assert known.all()


def test_a_few_signed_records_change_nothing() -> None:
    assert teach(CALL, signings(5, 1)) == Assembler(template=CALL)


def test_the_same_records_teach_the_same_to_the_byte() -> None:
    assert learnt_bytes(teach(CALL, signings(40, 1))) == learnt_bytes(teach(CALL, signings(40, 1)))


def test_probabilities_of_links_are_about_right() -> None:
    judged = signings(120, 3)
    found = teach(CALL, signings(60, 1)).assemble(judged.batch, judged.spans, judged.names, judged.about)
    chances, right = [], []
    for signed, one in zip(judged.records, found, strict=True):
        wanted = {(name, value) for record in signed for name, values in record.items() for value in values}
        for record in one.records:
            for name, parts in record.parts.items():
                for part in parts:
                    if part.probability is not None:
                        chances.append(part.probability)
                        right.append((name, part.value.text) in wanted)
    assert abs(np.mean(chances) - np.mean(right)) < 0.05


def test_what_was_learnt_has_a_file() -> None:
    made = teach(CALL, signings(40, 1))
    data = learnt_bytes(made)
    again = learnt_from(data, CALL)
    judged = signings(30, 4)
    assert f1(again, judged) == f1(made, judged)
    assert learnt_bytes(again) == data
    assert learnt_from(learnt_bytes(Assembler(template=CALL)), CALL) == Assembler(template=CALL)
    other = Template(name="Call", anchor="vessel", fields=CALL.fields[:2])
    with pytest.raises(BadFile, match="other fields"):
        learnt_from(data, other)


@given(st.data())
@settings(max_examples=60, deadline=None)
def test_a_damaged_file_is_refused(data: st.DataObject) -> None:
    whole = bytearray(_learnt())
    at = data.draw(st.integers(0, len(whole) - 1))
    whole[at] ^= data.draw(st.integers(1, 255))
    cut = data.draw(st.booleans())
    with pytest.raises(BadFile):
        learnt_from(bytes(whole[:at] if cut else whole), CALL)


_kept: list[bytes] = []


def _learnt() -> bytes:
    if not _kept:
        _kept.append(learnt_bytes(teach(CALL, signings(20, 1))))
    return _kept[0]


def test_signed_values_find_their_words() -> None:
    body, spans = read_marked(
        "[VES Haldis] and [VES Pellin]: [PRT Varnby] to [PRT Ostvar], [QTY 1,200 t]. [PRT Varnby]."
    )
    own = Signings(
        batch=batch_of([body]),
        spans=SpanTable.of_spans([sorted(spans)]),
        records=[[{"vessel": ["Pellin"], "from": ["Varnby"], "weight": ["1200 t"], "to": ["Hask"]}]],
        groups=[""],
        names=Names(),
    )
    ((record,),) = fitting_spans(CALL, own)
    assert {name: [part.written for part in parts] for name, parts in record.parts.items()} == {
        "vessel": ["Pellin"],
        "from": ["Varnby"],
        "weight": ["1,200 t"],
    }
    assert record.parts["from"][0].span.start == body.index("Varnby")
    assert record.value("to") == "Hask"


def found(**values: str) -> Record:
    record = Record(CALL, entity=values.get("vessel", ""))
    for name, text in values.items():
        f = CALL.field_called(name)
        record.values[name] = [read_value(text, f.kind, Reading(unit=f.unit))]
    return record


def signed(**values: str) -> Mapping[str, Sequence[str]]:
    return {name: [value] for name, value in values.items()}


def test_records_and_fields_are_counted() -> None:
    pairs = [
        (
            [
                signed(vessel="Pellin", **{"from": "Varnby"}, weight="1.2 t"),
                signed(vessel="Haldis", to="Hask"),
            ],
            [
                found(vessel="pellin", **{"from": "Ostvar"}, weight="1200 kg"),
                found(vessel="Ketta", to="Garsby"),
            ],
        ),
        ([], []),
    ]
    scores = score_records(CALL, pairs, rounds=50)
    assert (scores.opened.right, scores.opened.in_gold, scores.opened.in_found) == (1, 2, 2)
    assert (scores.fields.right, scores.fields.in_gold, scores.fields.in_found) == (2, 5, 5)
    assert scores.whole.right == 0
    assert scores.by_field["weight"].f1 == 1
    assert {(one.record, one.field, one.outcome, one.wanted, one.found) for one in scores.ledger} == {
        ("pellin", "vessel", "right", "Pellin", "pellin"),
        ("pellin", "from", "wrong value", "Varnby", "Ostvar"),
        ("pellin", "weight", "right", "1.2 t", "1200 kg"),
        ("Haldis", "vessel", "missing", "Haldis", ""),
        ("Haldis", "to", "missing", "Hask", ""),
        ("Ketta", "vessel", "no such record", "", "Ketta"),
        ("Ketta", "to", "no such record", "", "Garsby"),
    }
    assert scores.low is not None
    assert scores.low <= (scores.fields.f1 or 0)


def test_of_two_records_of_one_entity_each_finds_its_own() -> None:
    wanted = [signed(vessel="Pellin", **{"from": "Varnby"}), signed(vessel="Pellin", to="Hask")]
    scores = score_records(
        CALL, [(wanted, [found(vessel="Pellin", to="Hask"), found(vessel="Pellin", **{"from": "Varnby"})])]
    )
    assert (scores.whole.right, scores.fields.f1) == (2, 1)


def test_open_records_do_not_count() -> None:
    alone = found(to="Hask")
    alone.anchorless = True
    assert score_records(CALL, [([], [alone])]).fields.in_found == 0


def test_the_baseline_goes_by_what_stands_before() -> None:
    body, spans = read_marked("[PRT Hask]. [VES Pellin] to [PRT Varnby] and [PRT Ostvar]. [VES Haldis].")
    own = Signings(
        batch=batch_of([body]),
        spans=SpanTable.of_spans([sorted(spans)]),
        records=[[]],
        groups=[""],
        names=Names(),
    )
    ((record,),) = nearest_before(CALL, own)
    assert {name: record.value(name) for name in record.values} == {"vessel": "Pellin", "from": "Varnby"}


NAMES = st.text(st.characters(categories=["L", "N"]), min_size=1, max_size=8)
KINDS: st.SearchStrategy[Kind] = st.sampled_from(
    ["none", "name", "date", "time", "moment", "number", "quantity", "money", "code"]
)


@st.composite
def templates(draw: st.DrawFn) -> Template:
    names = draw(st.lists(NAMES, min_size=1, max_size=5, unique=True))
    anchor = draw(st.sampled_from([*names, ""]))
    fields = []
    for name in names:
        kind: Kind = draw(KINDS)
        own = name == anchor
        fields.append(
            Field(
                name=name,
                types=tuple(
                    draw(
                        st.lists(st.sampled_from(["VES", "PRT", "QTY"]), min_size=1, max_size=2, unique=True)
                    )
                ),
                cues=() if own else tuple(draw(st.lists(NAMES, max_size=2))),
                required=draw(st.booleans()),
                description=draw(st.text(max_size=10)),
                many=False if own else draw(st.booleans()),
                shared=draw(st.booleans()),
                kind=kind,
                unit={"quantity": "t", "money": "EUR"}.get(kind, ""),
                pattern="[A-Z]+" if kind == "code" else "",
                allowed=tuple(draw(st.lists(NAMES, max_size=2))),
                least="1" if kind in ("number", "quantity") else "",
                most="2.5" if kind == "number" else "",
                default=draw(st.sampled_from(["", "x"])),
                default_from=draw(st.sampled_from(["", "kind"])),
            )
        )
    return Template(
        name=draw(NAMES),
        anchor=anchor,
        fields=tuple(fields),
        description=draw(st.text(max_size=10)),
        scope=draw(st.sampled_from(["sentence", "paragraph", "text"])),
        each=draw(st.sampled_from(["entity", "mention"])),
        opens=tuple(
            tuple(draw(st.lists(st.sampled_from(names), min_size=1, unique=True)))
            for _ in range(draw(st.integers(0, 2)))
        ),
    )


@given(templates())
@settings(max_examples=150, deadline=None)
def test_a_template_comes_back_from_its_json_schema(template: Template) -> None:
    assert template_of(schema_of(template)) == template


def test_a_schema_without_our_annotations_takes_types_by_their_names() -> None:
    schema = {
        "title": "Call",
        "type": "object",
        "properties": {
            "vessel": {"type": "string"},
            "day": {"type": "string", "format": "date"},
            "crew": {"type": "integer", "minimum": 1},
            "cargo": {"type": "array", "items": {"type": "string", "enum": ["salt", "coal"]}},
        },
        "required": ["vessel"],
    }
    made = template_of(schema, {"VES": "vessel", "DAY": "date", "CRW": "crew", "CGO": "cargo", "DAT": "day"})
    told = {f.name: (f.types, f.kind, f.many, f.required, f.allowed, f.least) for f in made.fields}
    assert told == {
        "vessel": (("VES",), "none", False, True, (), ""),
        "day": (("DAY", "DAT"), "date", False, False, (), ""),
        "crew": (("CRW",), "number", False, False, (), "1"),
        "cargo": (("CGO",), "none", True, False, ("salt", "coal"), ""),
    }


@pytest.mark.parametrize(
    ("schema", "where"),
    [
        ([], "the schema"),
        ({}, "title"),
        ({"title": "x"}, "properties"),
        ({"title": "x", "properties": {"a": 1}}, "properties/a"),
        ({"title": "x", "properties": {"a": {"type": "object"}}}, "properties/a"),
        ({"title": "x", "properties": {"a": {"type": "array"}}}, "properties/a/items"),
        ({"title": "x", "properties": {"a": {}}, "required": ["b"]}, "required"),
        (
            {"title": "x", "properties": {"a": {"urdaten": {"types": ["A"], "kind": "song"}}}},
            "properties/a/urdaten/kind",
        ),
        ({"title": "x", "properties": {"a": {"urdaten": {"types": 3}}}}, "properties/a/urdaten/types"),
        (
            {"title": "x", "properties": {"a": {"urdaten": {"types": ["A"]}}}, "allOf": [{"anyOf": 1}]},
            "allOf/0/anyOf",
        ),
        (
            {"title": "x", "properties": {"a": {"urdaten": {"types": ["A"]}}}, "urdaten": {"scope": "page"}},
            "urdaten/scope",
        ),
        ({"title": "x", "properties": {"a": {}}}, "fields"),
    ],
)
def test_a_bad_schema_is_refused_with_its_place(schema: object, where: str) -> None:
    with pytest.raises(BadInput) as caught:
        template_of(schema)
    assert caught.value.detail["field"] == where
