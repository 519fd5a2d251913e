"""Annotated corpora: their spans come along by the plan, under the types that their labels stand for."""

from __future__ import annotations

import json
from typing import Any

import pytest

from acting import act
from conftest import Api
from importing import begun, kept, lines, looked
from urdaten.places.texts.acts import whole_over
from urdaten.platform.jobs import run_job

TYPES = (
    {"code": "VES", "name": "vessel", "key": "v", "hue": 1},
    {"code": "PRT", "name": "port", "key": "p", "hue": 2},
)
CORPUS = [
    {
        "text": "Amber Quay of Lindmoor sails. Nobody saw it.",
        "title": "one",
        "spans": [
            {"start": 0, "end": 10, "type": "ship"},
            {"start": 14, "end": 22, "type": "PRT"},
            {"start": 0, "end": 22, "type": "VES"},
            {"start": 30, "end": 36, "type": "other"},
        ],
        "sentences": [
            {"start": 0, "end": 29, "signed": True},
            {"start": 30, "end": 44, "signed": False},
        ],
    },
    {"text": "The Pellin is in.", "spans": [{"start": 4, "end": 10, "type": "vessel"}]},
]


@pytest.fixture
def typed(api: Api) -> Api:
    for one in TYPES:
        api.post("/types", one)
    return api


@pytest.mark.parametrize("spans", ["signed", "begun", "left out"])
def test_an_annotated_corpus_brings_its_spans(typed: Api, spans: str) -> None:
    seen = looked(typed, {"c.jsonl": lines(*CORPUS)})["looked"]
    assert {one["label"]: one["code"] for one in seen["labels"]} == {
        "ship": "",
        "PRT": "PRT",
        "VES": "VES",
        "vessel": "VES",
        "other": "",
    }
    ended = kept(typed, {"c.jsonl": lines(*CORPUS)}, spans=spans, labels={"ship": "VES", "other": ""})
    report = ended["report"]
    queue = typed.get("/desk/queue")["items"]
    states = [(item["state"], item["spans"]) for item in queue]
    if spans == "left out":
        assert report["spans"] == 0
        assert states == [("untouched", 0)] * 3
        return
    # The longest of those that overlap stands; nobody stands for what the corpus has not signed.
    assert report["left_out"] == {
        "of types that are not here": 1,
        "that overlap others, which this scheme does not let stand": 2,
    }
    assert report["spans"] == 2
    signed = "signed" if spans == "signed" else "draft"
    assert states == [(signed, 1), ("untouched", 0), ("draft", 1)]
    # Without sentences of its own nobody signed anything.
    first = typed.get(f"/desk/sentences/{queue[0]['id']}")
    assert [(s["start"], s["end"], s["type"]) for s in first["annotation"]["spans"]] == [(0, 22, "VES")]


def test_types_are_added_for_labels_that_have_none(typed: Api) -> None:
    made = begun(typed, {"c.jsonl": lines(*CORPUS)}, labels={"PRT": "PRT"}, spans="signed")
    shown = typed.post(f"/imports/{made['id']}/types", {"labels": ["ship", "other"]})
    assert shown["plan"]["labels"] == {"PRT": "PRT", "ship": "SHIP", "other": "OTH"}
    types = {one["code"]: one for one in typed.get("/types")["types"]}
    assert [(code, one["name"], one["key"]) for code, one in types.items()][2:] == [
        ("SHIP", "ship", "s"),
        ("OTH", "other", "o"),
    ]
    assert len({one["hue"] for one in types.values()}) == 4
    # As one version of the scheme.
    assert len(typed.get("/types/versions")[0]["step"]) == 2
    again = typed.post(f"/imports/{made['id']}/types", {"labels": ["ship"]}, expect=422)
    assert again["field"] == "labels"
    typed.post(f"/imports/{made['id']}/keep", expect=202)
    typed.run_jobs()
    assert typed.get(f"/imports/{made['id']}")["report"]["spans"] == 3


def test_a_hundred_labels_become_types_of_which_the_last_have_no_key(api: Api) -> None:
    labels = [f"LABEL-{number}" for number in range(110)]
    body = " ".join(f"w{number}" for number in range(110))
    starts = [body.index(f"w{number} ") if number < 109 else body.rindex("w") for number in range(110)]
    row = {
        "text": body,
        "spans": [
            {"start": start, "end": start + len(f"w{number}"), "type": label}
            for number, (start, label) in enumerate(zip(starts, labels, strict=True))
        ],
    }
    made = begun(api, {"c.jsonl": lines(row)})
    api.post(f"/imports/{made['id']}/types", {"labels": labels})
    types = api.get("/types")["types"]
    assert len({one["code"] for one in types}) == 110
    assert sorted(one["key"] for one in types if one["key"]) == sorted("abcdefghijklmnopqrstuvwxyz0123456789")
    api.post(f"/imports/{made['id']}/keep", expect=202)
    api.run_jobs()
    assert api.get(f"/imports/{made['id']}")["report"]["spans"] == 110


def test_spans_can_stand_in_a_layer_of_their_own(typed: Api) -> None:
    kept(typed, {"c.jsonl": lines(*CORPUS)}, spans="signed", layer="from elsewhere")
    assert [item["state"] for item in typed.get("/desk/queue")["items"]] == ["untouched"] * 3
    layers = {layer["name"]: layer for layer in typed.get("/desk/layers")}
    assert layers["from elsewhere"]["kind"] == "imported"
    answer = typed.request(
        "GET",
        "/api/projects/tessmar/corpus",
        params={"layer": layers["from elsewhere"]["id"], "unsigned": "true"},
    )
    rows = [json.loads(line) for line in answer.text.splitlines()]
    assert [len(row["spans"]) for row in rows] == [1, 1]


def test_a_corpus_that_was_taken_out_comes_back_the_same(typed: Api) -> None:
    typed.post(
        "/texts", {"title": "33/1", "body": "Amber Quay sails. Pellin stays.", "group": "w", "split": "train"}
    )
    items = typed.get("/desk/queue")["items"]
    signing = act("sign", 0, [{"start": 0, "end": 10, "type": "VES"}])
    typed.put(f"/desk/sentences/{items[0]['id']}", signing)
    for format_ in ("jsonl", "bio", "conllu"):
        file = typed.request("GET", "/api/projects/tessmar/corpus", params={"format": format_}).content
        other = typed.request(
            "POST", "/api/projects", json={"name": f"Copy {format_}", "language": "en"}
        ).json()
        there = OtherProject(typed, other["slug"])
        for one in TYPES:
            there.post("/types", one)
        ended = kept(there, {f"corpus.{format_}": file}, spans="signed")  # type: ignore[arg-type] # as the other
        assert (ended["report"]["signed"], ended["report"]["spans"]) == (1, 1), format_
        again = there.request("GET", f"/api/projects/{other['slug']}/corpus", params={"format": "jsonl"}).text
        (one,) = [json.loads(line) for line in again.splitlines()]
        assert one["spans"] == [{"start": 0, "end": 10, "type": "VES"}]
        assert [s["signed"] for s in one["sentences"]] == [True, False]


class OtherProject:
    """The same client in another project."""

    def __init__(self, api: Api, slug: str) -> None:
        self._api, self._slug = api, slug

    def request(self, method: str, path: str, **more: Any) -> Any:
        return self._api.request(method, path.replace("/projects/tessmar", f"/projects/{self._slug}"), **more)

    def _ask(self, method: str, path: str, expect: int, **more: Any) -> Any:
        answer = self.request(method, f"/api/projects/{self._slug}{path}", **more)
        assert answer.status_code == expect, answer.text
        return answer.json()

    def get(self, path: str, expect: int = 200, **params: Any) -> Any:
        return self._ask("GET", path, expect, params=params)

    def post(self, path: str, body: Any = None, expect: int = 201) -> Any:
        return self._ask("POST", path, expect, json=body)

    def put(self, path: str, body: Any = None, expect: int = 200) -> Any:
        return self._ask("PUT", path, expect, json=body)

    def run_jobs(self) -> None:
        for job in reversed(self.get("/jobs")):
            if job["state"] == "waiting":
                run_job(self._api.settings.database_url, job["id"])


def test_a_label_for_a_type_that_is_not_there_fails(typed: Api) -> None:
    made = begun(typed, {"c.jsonl": lines(*CORPUS)}, labels={"ship": "SHP"})
    typed.post(f"/imports/{made['id']}/look", expect=202)
    typed.run_jobs()
    work = typed.get(f"/imports/{made['id']}")["work"]
    assert (work["state"], "no such type" in work["message"]) == ("failed", True)


@pytest.mark.parametrize(
    ("sentences", "spans", "made"),
    [
        ([(0, 5), (6, 9)], [], [(0, 5), (6, 9)]),
        ([(0, 5), (6, 9)], [(1, 3), (6, 9)], [(0, 5), (6, 9)]),
        ([(0, 5), (6, 9)], [(4, 7)], [(0, 9)]),
        ([(0, 5), (5, 9)], [(3, 5), (5, 6)], [(0, 5), (5, 9)]),
        ([(0, 5), (9, 12)], [(6, 8)], [(0, 5), (6, 8), (9, 12)]),
        ([(0, 2), (3, 4), (5, 6)], [(1, 6)], [(0, 6)]),
    ],
)
def test_sentences_are_joined_where_a_span_reaches_over_them(
    sentences: list[tuple[int, int]], spans: list[tuple[int, int]], made: list[tuple[int, int]]
) -> None:
    assert whole_over(sentences, spans) == made
