"""Findings in the demo, counted again one by one from what the corpus says."""

from __future__ import annotations

import csv
import io
import json
from collections import Counter
from datetime import date
from typing import Any

import pytest
from openpyxl import load_workbook

from acting import stave_pages
from conftest import Api
from urdaten.places.findings import gathering

Row = tuple[int, str, str, dict[str, Any]]


def texts_of(api: Api, **wish: Any) -> list[dict[str, Any]]:
    answer = api.request("GET", "/api/projects/tessmar/corpus", params=wish)
    return [json.loads(line) for line in answer.text.splitlines()]


def gold(api: Api, **wish: Any) -> list[Row]:
    """Text, type and words of every span in a signed sentence, and its text."""
    found = []
    for one in texts_of(api, **wish):
        signed = [s for s in one["sentences"] if s["signed"]]
        for span in one["spans"]:
            if any(s["start"] <= span["start"] and span["end"] <= s["end"] for s in signed):
                words = " ".join(one["text"][span["start"] : span["end"]].casefold().split())
                found.append((int(one["id"]), span["type"], words, one))
    return found


def test_types_and_values_are_counted(demo_api: Api) -> None:
    rows = gold(demo_api)
    told = demo_api.get("/findings")
    assert told["found"] == told["total"] == demo_api.get("/texts/count")["total"]
    spans = Counter(code for _, code, *_ in rows)
    assert {one["type"]: one["spans"] for one in told["types"] if one["spans"]} == spans
    for one in told["types"]:
        mine = Counter(words for _, code, words, _ in rows if code == one["type"])
        values = demo_api.get("/findings/values", of=one["type"], limit=1000)
        assert (one["values"], values["total"], values["spans"]) == (len(mine), len(mine), mine.total())
        assert {value["value"].casefold(): value["spans"] for value in values["values"]} == mine
        assert one["examples"] == values["values"][:3]
    split = demo_api.get("/findings", split="dev")
    assert (split["found"], split["total"]) == (
        len(texts_of(demo_api, unsigned=True, split="dev")),
        told["total"],
    )
    assert sum(one["spans"] for one in split["types"]) == len(gold(demo_api, split="dev"))


def test_spans_over_time(demo_api: Api) -> None:
    rows = gold(demo_api)
    told = demo_api.get("/findings/time", of="VES", step="week")
    days = Counter(date.fromisoformat(one["date"]) for _, code, _, one in rows if code == "VES")
    for one in told["bins"]:
        since, until = date.fromisoformat(one["since"]), date.fromisoformat(one["until"])
        assert since.weekday() == 0
        assert (until - since).days == 6
        assert one["spans"] == sum(count for day, count in days.items() if since <= day <= until)
    assert sum(one["spans"] for one in told["bins"]) == days.total()
    assert len(demo_api.get("/findings/time", step="year")["bins"]) == 1
    months = demo_api.get("/findings/time", of="VES", named="PELLIN", step="month")["bins"]
    assert sum(one["spans"] for one in months) == sum(w == "pellin" and c == "VES" for _, c, w, _ in rows)
    assert all(date.fromisoformat(one["since"]).day == 1 for one in months)


def test_every_figure_opens_its_sentences(demo_api: Api) -> None:
    (most,) = demo_api.get("/findings/values", of="VES", limit=1)["values"]
    pages = stave_pages(demo_api, "/findings/sentences", of="VES", named=most["value"])
    staves = [stave for page in pages for stave in page]
    assert len(staves) == most["sentences"]
    assert all(
        stave["signed"] and any(s["type"] == "VES" for s in stave["lanes"]["gold"]) for stave in staves
    )
    table = demo_api.get("/findings/together", of="VES", beside="PRT", scope="text")
    row, column, count = table["rows"][0], table["columns"][0], table["counts"][0][0]
    page = demo_api.get(
        "/findings/sentences", of="VES", named=row, beside="PRT", beside_named=column, scope="text"
    )
    assert len({stave["text_id"] for stave in page["staves"]}) == count > 0
    first = demo_api.get("/findings/time", of="VES", step="week")["bins"][0]
    behind = demo_api.get("/findings/sentences", of="VES", first=first["since"], last=first["until"])
    dated = {one["id"]: one["dated"] for one in demo_api.get("/texts", limit=500)["texts"]}
    assert {dated[s["text_id"]] for s in behind["staves"]} <= {
        day for day in dated.values() if day and first["since"] <= day <= first["until"]
    }


def test_slices_are_compared_by_values_and_by_words(demo_api: Api) -> None:
    told = demo_api.get("/findings/comparison", of="VES", by="split", one="train", other="dev")
    splits = Counter(one["split"] for one in demo_api.get("/texts", limit=500)["texts"])
    assert (told["one_texts"], told["other_texts"]) == (splits["train"], splits["dev"])
    rows = gold(demo_api)
    for each in told["one"] + told["other"]:
        name = each["name"].casefold()
        assert each["one"] == sum(c == "VES" and w == name and t["split"] == "train" for _, c, w, t in rows)
        assert each["other"] == sum(c == "VES" and w == name and t["split"] == "dev" for _, c, w, t in rows)
    zs = [each["z"] for each in told["one"]]
    assert zs == sorted(zs, reverse=True)
    assert all(z > 0 for z in zs)
    rest = demo_api.get("/findings/comparison", by="split", one="dev")
    assert rest["other_texts"] == splits.total() - splits["dev"]
    words = {each["name"] for each in rest["one"]}
    assert words
    assert not any(word.strip(".,;") == "" for word in words)
    demo_api.post("/texts", {"title": "undated", "body": "Nobody knows when."})
    month = demo_api.get("/texts/facets", of="month")["values"][0]
    dated = demo_api.get("/findings/comparison", by="month", one=month["value"])
    assert dated["one_texts"] == month["texts"]
    assert dated["one_texts"] + dated["other_texts"] == splits.total() + 1


@pytest.mark.parametrize(
    ("path", "asked", "field"),
    [
        ("", {"lane": "oracle"}, "lane"),
        ("/values", {"of": "XXX"}, "of"),
        ("/comparison", {"by": "colour", "one": "red"}, "by"),
        ("/comparison", {"by": "month", "one": "May"}, "one"),
        ("/context", {}, "words"),
    ],
)
def test_what_cannot_be_asked_is_named(demo_api: Api, path: str, asked: dict[str, Any], field: str) -> None:
    assert demo_api.get(f"/findings{path}", expect=422, **asked)["field"] == field


def test_words_in_their_context(demo_api: Api) -> None:
    told = demo_api.get("/findings/context", words="amber  quay", sort="right")
    bodies = [one["text"] for one in texts_of(demo_api, unsigned=True)]
    count = sum(" ".join(body.casefold().split()).count("amber quay") for body in bodies)
    assert len(told["places"]) == count > 3
    rights = [place["after"].casefold().split() for place in told["places"]]
    assert rights == sorted(rights)
    lefts = demo_api.get("/findings/context", words="amber quay", sort="left")["places"]
    keys = [place["before"].casefold().split()[::-1] for place in lefts]
    assert keys == sorted(keys)
    for place in told["places"]:
        sentence = demo_api.get(f"/desk/sentences/{place['sentence']}")
        assert sentence["start"] <= place["start"] < sentence["end"]
        assert place["words"].casefold() == "amber quay"
    spans = demo_api.get("/findings/context", of="VES", named="Amber Quay")["places"]
    assert 0 < len(spans) <= count
    assert demo_api.get("/findings/context", words="mber")["places"] == []


def test_findings_follow_what_is_signed_and_speak_of_any_source(demo_api: Api) -> None:
    before = {one["type"]: one["spans"] for one in demo_api.get("/findings")["types"]}
    lists = {one["type"]: one["spans"] for one in demo_api.get("/findings", lane="lists")["types"]}
    assert sum(lists.values()) > 0
    rules = demo_api.get("/rules")
    name = next(
        rule["name"] for rule in rules if demo_api.get("/findings/context", rule=rule["name"])["places"]
    )
    assert len(demo_api.get("/findings/context", rule=name)["places"]) > 0
    gone = demo_api.get("/texts", type="VES", limit=1)["texts"][0]
    demo_api.delete(f"/texts/{gone['id']}", expect=200)
    after = {one["type"]: one["spans"] for one in demo_api.get("/findings")["types"]}
    assert after["VES"] < before["VES"]


def test_the_table_has_a_row_for_each_text(demo_api: Api) -> None:
    texts = {int(one["id"]): one for one in texts_of(demo_api, unsigned=True)}
    held: dict[int, dict[str, set[str]]] = {}
    for number, code, words, _ in gold(demo_api):
        held.setdefault(number, {}).setdefault(code, set()).add(words)
    one = demo_api.get("/texts")["texts"][0]["id"]
    demo_api.post("/texts/changes", {"texts": [one], "meta": {"Desk": "=1+1"}}, expect=200)
    rows: list[dict[str, Any]] = []
    after: dict[str, int] = {}
    while True:
        page = demo_api.get("/findings/table", limit=30, **after)
        rows += page["rows"]
        if page["next"] is None:
            break
        after = {"after": page["next"]}
    assert [row["id"] for row in rows] == list(texts)
    assert page["meta"] == ["Desk"]
    (shown,) = [row for row in rows if row["id"] == one]
    behind = demo_api.get("/findings/sentences", of=shown["cells"][0]["type"], text=one)["staves"]
    assert {stave["text_id"] for stave in behind} == {one}
    for row in rows:
        assert {c["type"]: {v.casefold() for v in c["values"]} for c in row["cells"]} == held.get(
            row["id"], {}
        )
    file = demo_api.request("GET", "/api/projects/tessmar/findings/table/file")
    lines = list(csv.reader(io.StringIO(file.text, newline="")))
    assert lines[0] == ["title", "group", "date", "split", "Desk", *page["types"]]
    assert lines[1][4] == "'=1+1", "no spreadsheet runs it"
    assert len(lines) == len(texts) + 1
    book = demo_api.request("GET", "/api/projects/tessmar/findings/table/file", params={"format": "xlsx"})
    sheet = load_workbook(io.BytesIO(book.content)).active
    assert sheet is not None
    cells = [[cell.value or "" for cell in row] for row in sheet.iter_rows()]
    assert cells[0] == lines[0]
    assert cells[1][4] == "=1+1"
    assert sheet.cell(2, 5).data_type == "s"
    assert [row[:4] + row[5:] for row in cells] == [row[:4] + row[5:] for row in lines]


def test_of_many_texts_a_sample_is_read_and_said(demo_api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    whole = demo_api.get("/findings", lane="lists")
    monkeypatch.setattr(gathering, "MOST_READ", 5)
    told = demo_api.get("/findings", lane="lists", search="the")
    assert (told["looked"], told["found"] > 5) == (5, True)
    assert sum(one["spans"] for one in told["types"]) < sum(one["spans"] for one in whole["types"])
    # The same texts whenever it is asked, and gold is counted as a whole.
    assert max(one["texts"] for one in told["types"]) <= 5
    gold_told = demo_api.get("/findings")
    assert gold_told["looked"] == gold_told["found"] > 5
    compared = demo_api.get("/findings/comparison", by="split", one="train", other="dev")
    assert compared["most_read"] == 5
    assert (
        demo_api.get("/findings/comparison", lane="lists", of="VES", by="split", one="train")["most_read"]
        == 5
    )
    assert demo_api.get("/findings/comparison", of="VES", by="split", one="train")["most_read"] is None
    # A table shows what each of its texts has, and a file has all of them.
    page = demo_api.get("/findings/table", lane="lists", limit=30)
    assert sum(bool(row["cells"]) for row in page["rows"]) > 5
    answer = demo_api.request(
        "GET", "/api/projects/tessmar/findings/table/file", params={"lane": "lists", "format": "csv"}
    )
    rows = list(csv.DictReader(io.StringIO(answer.text)))
    assert sum(bool(row["VES"]) for row in rows) > 5
