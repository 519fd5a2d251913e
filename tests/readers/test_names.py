"""Files of names: what each kind says, what is refused and where, and what is written is read back."""

from __future__ import annotations

import io
import json
import random
import re
from typing import Any

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from openpyxl import Workbook

from urdaten.core.formats import NAME_FORMATS, ListedName, NameFormat, write_names
from urdaten.readers import Found, HowNames, NameRow, Names, Refusal, read_source
from urdaten.readers.wire import item_of, to_line


def read(data: bytes, name: str, **how: Any) -> tuple[list[NameRow], list[Refusal], Found | None]:
    """By way of the lines that the process that reads writes."""
    items = [item_of(*json.loads(to_line(item))) for item in read_source(data, name, HowNames(**how))]
    rows = [row for item in items if isinstance(item, Names) for row in item.rows]
    refused = [item for item in items if isinstance(item, Refusal)]
    return rows, refused, next((item for item in items if isinstance(item, Found)), None)


def names(data: bytes, name: str, **how: Any) -> list[tuple[str, ...]]:
    rows, refused, _ = read(data, name, **how)
    assert refused == []
    return [(row.name, *row.variants) for row in rows]


def test_a_table_says_by_its_heading_what_columns_are_for() -> None:
    data = b"id,label,aliases,remarks,active\nV1,Haldis,Hald.;H.,tug,yes\nV2,Osk,,,no\n"
    rows, refused, found = read(data, "ships.csv")
    assert rows == [
        NameRow(name="Haldis", variants=("Hald.", "H."), identifier="V1", note="tug", place="line 2"),
        NameRow(name="Osk", identifier="V2", on=False, place="line 3"),
    ]
    assert refused == []
    assert found is not None
    assert [(c.name, c.role) for c in found.columns] == [
        ("id", "identifier"), ("label", "name"), ("aliases", "variants"), ("remarks", "note"), ("active", "on"),
    ]  # fmt: skip


def test_columns_are_for_what_is_said() -> None:
    data = b"Schiff\tRuf\tZahl\nHaldis\tHald, H\t12\n"
    assert names(data, "a.tsv", roles={"Schiff": "name", "Ruf": "variants"}, parts=",") == [
        ("Haldis", "Hald", "H")
    ]
    rows, _, found = read(data, "a.tsv")
    # A heading that says nothing that is known is taken for a name.
    assert [(row.name, row.variants) for row in rows] == [("Schiff", ()), ("Haldis", ())]
    assert found is not None
    assert found.delimiter == "\t"
    _, (refusal,), _ = read(data, "a.tsv", roles={"Schiff": "captain"})
    assert "not 'captain'" in refusal.why
    _, (refusal,), _ = read(data, "a.tsv", roles={"Schiff": "note", "Ruf": "none", "Zahl": "on"})
    assert "No column holds names" in refusal.why


def test_two_columns_without_a_heading_are_a_name_and_its_variants() -> None:
    assert names(b"Haldis;Hald.|H.\nOsk;\n", "a.csv", header=False, delimiter=";") == [
        ("Haldis", "Hald.", "H."),
        ("Osk",),
    ]


def test_lines_are_names_as_they_stand() -> None:
    assert names(b"Haldis\n\n  Amber   Quay, old\nOsk; or not\n", "a.txt") == [
        ("Haldis",),
        ("Amber Quay, old",),
        ("Osk; or not",),
    ]


@pytest.mark.parametrize(
    ("data", "name", "kind"),
    [
        (b"Haldis\tH.\nOsk\tO.\n", "x", "csv"),
        (b"Haldis, tug\nOsk\n", "x", "lines"),
        (b'{"name": "Haldis"}\n', "x", "jsonl"),
        (b'[{"name": "Haldis"}]', "x.json", "jsonl"),
    ],
)
def test_what_a_file_is_is_found_out(data: bytes, name: str, kind: str) -> None:
    rows, refused, found = read(data, name)
    assert (rows[0].name.split(",")[0], refused) == ("Haldis", [])
    assert found is not None
    assert found.kind == kind


def test_objects_have_lists_of_variants() -> None:
    data = b'{"name": "Haldis", "variants": ["H.", "Hald; old"], "on": false}\n{"name": 7}\n[]\n'
    rows, (refusal,), _ = read(data, "a.jsonl")
    assert rows == [
        NameRow(name="Haldis", variants=("H.", "Hald; old"), on=False, place="line 1"),
        NameRow(name="7", place="line 2"),
    ]
    assert (refusal.place, refusal.why) == ("line 3", "An object with fields is wanted.")


def test_concepts_have_labels_and_what_they_are_a_kind_of() -> None:
    data = """
    @prefix skos: <http://www.w3.org/2004/02/skos/core#> .
    @prefix x: <http://ships.test/> .
    x:tug a skos:Concept ; skos:prefLabel "tug"@en, "Schlepper"@de ; skos:altLabel "tugboat" ; skos:broader x:ship .
    x:ship a skos:Concept ; skos:prefLabel "ship" ; skos:notation "S1" ; skos:definition "floats" .
    x:none a skos:Concept .
    """
    rows, (refusal,), _ = read(data.encode(), "ships.ttl")
    assert [(r.name, r.variants, r.identifier, r.note) for r in rows] == [
        ("ship", (), "S1", "floats"),
        ("tug", ("Schlepper", "tugboat"), "http://ships.test/tug", "kind of ship"),
    ]
    assert (refusal.place, refusal.why) == ("http://ships.test/none", "There is no name in it.")
    assert read(data.encode(), "anything")[0] == rows


def test_bad_rows_are_told_with_their_lines_and_the_rest_is_read() -> None:
    data = ("name,variants\nHaldis,H.\n,x\n" + "y" * 301 + ',\nOsk,a,b\n"open,\nTern,\n').encode()
    rows, refused, _ = read(data, "a.csv")
    assert [row.name for row in rows] == ["Haldis", "Tern"]
    assert [(one.place, one.why[:26]) for one in refused] == [
        ("line 3", "There is no name in it."),
        ("line 4", "A name has at most 300 cha"),
        ("line 5", "It has 3 values; the table"),
        ("line 6", "A quotation mark in it is "),
    ]
    many = b"name,variants\nHaldis," + b";".join(b"v%d" % k for k in range(201)) + b"\n"
    assert read(many, "a.csv")[1][0].why == "An entry has at most 200 variants."


@pytest.mark.parametrize(
    ("data", "name", "why"),
    [
        (b"", "a.csv", "The file is empty."),
        (b"name\n", "a.csv", "The table holds no rows"),
        (b"\xff\xfe\x00", "a.xlsx", "damaged"),
        (b"PK\x03\x04 no", "a.zip", "damaged"),
        (b"@prefix", "a.ttl", "no Turtle"),
        (b"<x> <y> <z> .", "a.ttl", "no skos:Concept"),
        (b'{"@context": "http://else.test/c"}', "a.jsonld", "stands elsewhere"),
        (b"Haldis\n", "a.txt", ""),
    ],
)
def test_what_is_no_file_of_names_is_refused_with_the_reason(data: bytes, name: str, why: str) -> None:
    rows, refused, _ = read(data, name)
    assert (rows == []) == bool(why)
    assert all(why in one.why for one in refused)
    assert bool(refused) == bool(why)


def test_a_kind_there_is_not_is_refused() -> None:
    (refusal,) = read(b"x", "a.txt", kind="pdf")[1]
    assert "There is no kind 'pdf'" in refusal.why


def test_every_sheet_of_a_workbook_is_read() -> None:
    book = Workbook(write_only=True)
    for title, rows in (("one", [["name", "variants"], ["Haldis", "H."]]), ("more", [["Osk", "O."]])):
        sheet = book.create_sheet(title)
        for row in rows:
            sheet.append(row)
    out = io.BytesIO()
    book.save(out)
    found, _, _ = read(out.getvalue(), "ships.xlsx")
    assert [(row.name, row.variants, row.place) for row in found] == [
        ("Haldis", ("H.",), "one, row 2"),
        ("Osk", ("O.",), "more, row 1"),
    ]


WORDS = st.text(
    st.characters(exclude_categories=("Cc", "Cs", "Zs", "Zl", "Zp", "Cn")), min_size=1, max_size=8
)
NAME = st.one_of(WORDS, st.sampled_from(["=1+1", "-x", "a;b", "[x]", "a|b", '"q"', "a,b", "off"]))
LISTED = st.builds(
    lambda name, variants, identifier, note, on: ListedName(
        name=name,
        variants=tuple(v for v in dict.fromkeys(variants) if v != name),
        identifier=identifier,
        note=note,
        on=on,
    ),
    NAME,
    st.lists(NAME, max_size=3),
    st.one_of(st.just(""), st.from_regex("[A-Z]{1,3}[0-9]{1,4}", fullmatch=True)),
    st.one_of(st.just(""), st.just("a note, long; and more")),
    st.booleans(),
)


@given(
    st.lists(LISTED, min_size=1, max_size=5, unique_by=lambda one: one.name),
    st.sampled_from(["csv", "tsv", "xlsx", "jsonl"]),
)
def test_what_is_written_is_read_back(listed: list[ListedName], form: NameFormat) -> None:
    # An apostrophe before such a sign keeps spreadsheets from running it.
    assume(
        form != "csv" or not any(re.match("'[=+@-]", n) for one in listed for n in (one.name, *one.variants))
    )
    data = b"".join(write_names(listed, form))
    rows, refused, _ = read(data, f"names.{form}")
    assert refused == []
    assert [
        ListedName(name=r.name, variants=r.variants, identifier=r.identifier, note=r.note, on=r.on)
        for r in rows
    ] == listed


def test_lines_and_concepts_are_read_back_as_far_as_they_say_it() -> None:
    listed = [
        ListedName(name="Amber Quay", variants=("A. Quay", "AQ"), identifier="V 1", note="berth"),
        ListedName(name="Osk é", on=False),
    ]
    assert names(b"".join(write_names(listed, "lines")), "a.txt") == [("Amber Quay",), ("Osk é",)]
    for form, ending in (("turtle", "ttl"), ("json-ld", "jsonld")):
        rows, _, _ = read(b"".join(write_names(listed, form)), f"a.{ending}")  # type: ignore[arg-type] # both are formats
        assert sorted((r.name, r.variants, r.identifier, r.note) for r in rows) == [
            ("Amber Quay", ("A. Quay", "AQ"), "V 1", "berth"),
            ("Osk é", (), "", ""),
        ]


def test_damaged_files_are_read_or_refused_and_never_more() -> None:
    chance = random.Random(3)
    listed = [ListedName(name=f"Name {k}", variants=(f"N. {k}",), identifier=f"V{k}") for k in range(8)]
    for form in NAME_FORMATS:
        data = b"".join(write_names(listed, form))
        for _ in range(40):
            hurt = bytearray(data)
            for _ in range(chance.randint(1, 6)):
                hurt[chance.randrange(len(hurt))] = chance.randrange(256)
            rows, refused, _ = read(bytes(hurt), f"a.{form}")
            assert rows or refused


def test_labels_by_heading_and_by_standing_again_and_again() -> None:
    def roles(data: str) -> list[str]:
        found = read(data.encode(), "x.csv")[2]
        assert found is not None
        return [column.role for column in found.columns]

    assert roles("label,name\nship,Haldis\n") == ["label", "name"]
    assert roles("vessel,type\nHaldis,ship\n") == ["name", "label"]
    assert roles("id,label,colour\n1,Haldis,red\n") == ["identifier", "name", "none"]
    assert roles("label\nHaldis\nOsk\n") == ["name"]
    bare = "Haldis;ship\nOsk;port\nTern;ship\nKetta;ship\nVarnby;port\nOrr;port\n"
    assert roles(bare) == ["name", "label"]
    assert roles("Haldis;Hald.\nOsk;O.\nTern;T.\n") == ["name", "variants"]
    rows, _, _ = read(bare.encode(), "x.csv")
    assert [(row.name, row.label) for row in rows][:2] == [("Haldis", "ship"), ("Osk", "port")]
