"""The same source again: what was signed in the version before comes over, or is told."""

from __future__ import annotations

from typing import Any

import pytest

from acting import act
from conftest import Api
from importing import kept, lines, looked

TYPES = (
    {"code": "VES", "name": "vessel", "key": "v", "hue": 1},
    {"code": "PRT", "name": "port", "key": "p", "hue": 2},
)
BODY = "Ketta sails for Tarn at noon. Nobody saw her. Mira waits at Lindmoor for oil. The tide is low."
NEXT = "It rained. Ketta sails for Tarn at noon. Nobody saw her. Mira waits at Lindmoor and takes oil. The tide is high."


def quoted(body: str, **quotes: str) -> list[dict[str, Any]]:
    """Spans by their types and words."""
    return sorted(
        (
            {"start": body.index(words), "end": body.index(words) + len(words), "type": kind}
            for kind, words in quotes.items()
        ),
        key=lambda span: span["start"],
    )


def sentences(api: Api, title: str) -> list[dict[str, Any]]:
    """Those of the newest text of this title."""
    numbers = [head["id"] for head in api.get("/texts")["texts"] if head["title"] == title]
    own = [item["id"] for item in api.get("/desk/queue")["items"] if item["text_id"] == max(numbers)]
    return [api.get(f"/desk/sentences/{number}") for number in own]


@pytest.fixture
def signed(api: Api) -> Api:
    for one in TYPES:
        api.post("/types", one)
    kept(api, {"log.txt": BODY.encode()}, split="dev", group="week 28")
    first, second, third, fourth = [one["id"] for one in sentences(api, "log")]
    api.put(f"/desk/sentences/{first}", act("sign", 0, quoted(BODY, VES="Ketta", PRT="Tarn")))
    api.put(f"/desk/sentences/{second}", act("sign as empty", 0))
    api.put(f"/desk/sentences/{third}", act("sign", 0, quoted(BODY, VES="Mira", PRT="Lindmoor")))
    api.put(f"/desk/sentences/{fourth}", act("sign as empty", 0))
    return api


def test_what_was_signed_comes_over_to_the_changed_text(signed: Api) -> None:
    before = sentences(signed, "log")
    files = {"log.txt": NEXT.encode()}
    seen = looked(signed, files)["looked"]
    told = {"texts": 1, "signed": 2, "begun": 1, "spans": 4, "left": 2, "stayed": 0}
    assert seen["carried"] == told
    # A new version is not one that stands twice.
    assert seen["near"] == 0
    ended = kept(signed, files, near="leave out")
    report = ended["report"]
    remains = report["carried"].pop("remains")
    assert report["carried"] == told
    assert signed.get("/texts/count")["total"] == 2
    after = sentences(signed, "log")
    held = [one["annotation"] for one in after]
    assert [one["state"] for one in held] == ["untouched", "signed", "signed", "draft", "untouched"]
    assert [[(NEXT[s["start"] : s["end"]], s["type"]) for s in one["spans"]] for one in held] == [
        [],
        [("Ketta", "VES"), ("Tarn", "PRT")],
        [],
        [("Mira", "VES"), ("Lindmoor", "PRT")],
        [],
    ]
    # Whoever signed it stands for it still, with the time of then.
    acts = signed.get(f"/desk/sentences/{after[1]['id']}/history")
    first = signed.get(f"/desk/sentences/{before[0]['id']}/history")
    assert [one["kind"] for one in acts] == ["carry over"]
    assert acts[0]["after"]["signed_at"] == first[-1]["after"]["signed_at"]
    assert acts[0]["after"]["signed_by"] == first[-1]["after"]["signed_by"]
    # It stands in the split and group of the one before.
    heads = [head for head in signed.get("/texts")["texts"] if head["title"] == "log"]
    assert {(head["split"], head["group"]) for head in heads} == {("dev", "week 28")}
    # What was changed is told, with the sentence that it became.
    assert [(one["sentence"], one["why"], one["lost"], one["now"]) for one in remains] == [
        (before[2]["id"], "changed", [], after[3]["id"]),
        (before[3]["id"], "changed", [], after[4]["id"]),
    ]
    # Nothing of the text before has changed.
    assert [one["annotation"] for one in before] == [
        one["annotation"] for one in sentences_of(signed, before)
    ]


def sentences_of(api: Api, shown: list[dict[str, Any]]) -> list[dict[str, Any]]:
    return [api.get(f"/desk/sentences/{one['id']}") for one in shown]


def test_a_text_that_comes_unchanged_needs_no_other_version(signed: Api) -> None:
    ended = kept(signed, {"log.txt": BODY.encode(), "other.txt": b"Ketta sails for Tarn at noon."})
    assert (ended["report"]["texts"], ended["report"]["same"]) == (1, 1)
    # What comes from elsewhere takes nothing over, though it is the same words.
    assert ended["report"]["carried"] is None


def test_another_text_of_the_same_name_is_no_version(signed: Api) -> None:
    seen = looked(
        signed, {"log.txt": b"Fog since four. All boats stay in the Spit until it lifts, says Vane."}
    )["looked"]
    assert seen["carried"] is None


def test_rows_of_a_table_are_versions_of_each_other_wherever_they_stand(api: Api) -> None:
    for one in TYPES:
        api.post("/types", one)
    rows = [
        "Ketta sails for Tarn. She takes oil.",
        "Mira is late again today. Nobody knows why.",
        "All well here.",
    ]
    kept(api, {"t.jsonl": lines(*({"text": row} for row in rows))})
    queue = api.get("/desk/queue")["items"]
    api.put(f"/desk/sentences/{queue[0]['id']}", act("sign", 0, quoted(rows[0], VES="Ketta")))
    api.put(f"/desk/sentences/{queue[2]['id']}", act("sign", 0, quoted(rows[1], VES="Mira")))
    moved = [
        "Something new that came first.",
        "Ketta sails for Tarn. She takes amber, oil.",
        "All well here.",
    ]
    report = kept(api, {"t.jsonl": lines(*({"text": row} for row in moved))})["report"]
    carried = report["carried"]
    assert (report["texts"], report["same"]) == (2, 1)
    # The row that did not come again stays as it is.
    assert (carried["texts"], carried["signed"], carried["left"], carried["stayed"]) == (1, 1, 0, 1)


def test_what_a_corpus_brings_along_stands_instead(signed: Api) -> None:
    row = {
        "text": NEXT,
        "spans": quoted(NEXT, PRT="Tarn"),
        "sentences": [{"start": 0, "end": len(NEXT), "signed": False}],
    }
    report = kept(signed, {"log.txt": lines(row)}, kind="jsonl")["report"]
    assert (report["spans"], report["carried"]) == (1, None)


def test_a_version_is_of_the_newest_one_that_is_as_near(signed: Api) -> None:
    kept(signed, {"log.txt": NEXT.encode()})
    (third,) = [one for one in sentences(signed, "log") if one["annotation"]["state"] == "draft"]
    spans = quoted(NEXT, VES="Mira", PRT="Lindmoor")
    version = third["annotation"]["version"]
    signed.put(f"/desk/sentences/{third['id']}", act("sign", version, spans))
    last = NEXT + " So says Vane."
    report = kept(signed, {"log.txt": last.encode()})["report"]["carried"]
    assert (report["texts"], report["signed"], report["stayed"]) == (1, 3, 1)
    held = [one["annotation"]["state"] for one in sentences(signed, "log")]
    assert held == ["untouched", "signed", "signed", "signed", "untouched", "untouched"]
