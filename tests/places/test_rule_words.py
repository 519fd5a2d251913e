"""What rules know of words, rules out of gold, and what a rule finds while it is typed."""

from __future__ import annotations

from typing import Any

import pytest
from sqlalchemy import text

from acting import act
from conftest import Api
from urdaten.core.rules import Rule
from urdaten.installed import words
from urdaten.platform.database import transaction

VES = {"code": "VES", "name": "vessel", "key": "v", "hue": 1}
CGO = {"code": "CGO", "name": "cargo", "key": "c", "hue": 2}
LOOK = "The pilot has boarded the Amber Quay. She leaves."


@pytest.fixture
def port(api: Api) -> Api:
    api.post("/types", VES)
    api.post("/types", CGO)
    return api


def rule(pattern: str, type: str = "VES", **more: Any) -> dict[str, Any]:
    return {"name": "tried", "type": type, "pattern": pattern, "must_find": [], "must_not_find": [], **more}


def test_words_are_told_with_all_that_rules_may_ask(port: Api) -> None:
    made = port.post("/lists", {"name": "ships", "type": "VES"})
    port.post(f"/lists/{made['id']}/entries", {"preferred": "Amber Quay", "variants": []})
    port.post("/rules", rule("[ lemma('leave') ]", "CGO"))
    port.post("/rules/fragments", {"name": "a quay", "pattern": "'quay'"})
    told = port.post("/rules/words", {"text": LOOK}, expect=200)
    at = {LOOK[word["start"] : word["end"]]: word for word in told["words"]}
    assert [at[form]["tag"] for form in ("The", "pilot", "has", "boarded", "Amber", "She", "leaves")] == [
        "DET", "NOUN", "AUX", "VERB", "PROPN", "PRON", "VERB",
    ]  # fmt: skip
    assert [at[form]["lemma"] for form in ("has", "boarded", "leaves")] == ["have", "board", "leave"]
    assert "person" in at["pilot"]["kinds"]
    assert at["The"]["shapes"] == ["capital", "letters"]
    assert [at[form]["sentence"] for form in ("pilot", "leaves")] == [0, 1]
    named = {
        name: [(LOOK[span["start"] : span["end"]], span["type"]) for span in told[name]]
        for name in ("lists", "rules", "phrases")
    }
    assert named["lists"] == [("Amber Quay", "VES")]
    assert named["rules"] == [("leaves", "CGO")]
    # Ready-made fragments, as if they had been taken, and the project's own.
    assert {("The pilot", "noun phrase"), ("has boarded", "verb group"), ("Quay", "a quay")} <= set(
        named["phrases"]
    )
    assert port.post("/rules/words", {"text": ""}, expect=200)["words"] == []


def test_the_language_says_how_often_tags_are_right(port: Api) -> None:
    told = port.get("/rules/language")
    assert [one["tag"] for one in told["tags"]][:3] == ["ADJ", "ADP", "ADV"]
    assert "person" in told["kinds"]
    assert {one["source"] for one in told["held_out"]} == {"bulletins", "other prose"}
    known = words("en")
    assert known is not None
    for one in told["tags"]:
        gold, found, right = known.parts.figures["tags"].get(one["tag"], (0, 0, 0))
        assert (one["gold"], one["found"], one["right"]) == (gold, found, right)
    fragments: dict[str, str] = {}
    for ready in told["ready_made"]:
        fragments[ready["name"]] = ready["pattern"]
        Rule(name="r", type="VES", text=f"[ use({ready['name']}) ]").compiled(fragments, known)
        port.post("/rules/fragments", ready)


def test_a_rule_says_what_it_leans_on_also_through_a_fragment(port: Api) -> None:
    port.post("/rules/fragments", {"name": "noun", "pattern": "tag(NOUN)"})
    made = port.post(
        "/rules", rule("lemma('board') [ use(noun) or tag(PROPN) ]".replace(" or ", " up to 1 any ", 1))
    )
    assert made["leans"] == {"tags": ["NOUN", "PROPN"], "lemmas": True}
    assert port.post("/rules/try", rule("[ capital ]"), expect=200)["leans"] == {"tags": [], "lemmas": False}


def test_in_another_language_a_rule_cannot_ask_for_parts_of_speech(port: Api) -> None:
    port.request("POST", "/api/projects", json={"name": "Anderswo", "language": "neutral"})
    path = "/api/projects/anderswo"
    port.request("POST", f"{path}/types", json=VES)
    for pattern in ("[ tag(NOUN) ]", "[ lemma('sail') ]", "[ kind(person) ]"):
        answer = port.request("POST", f"{path}/rules", json=rule(pattern))
        assert (answer.status_code, answer.json()["field"]) == (422, "pattern")
        assert "Line 1, column 3" in answer.json()["detail"]
    told = port.request("POST", f"{path}/rules/words", json={"text": LOOK}).json()
    assert {word["tag"] for word in told["words"]} == {""}
    assert port.request("GET", f"{path}/rules/language").json()["tags"] == []
    answer = port.request("POST", f"{path}/rules/fragments", json={"name": "n", "pattern": "tag(NOUN)"})
    assert answer.status_code == 422


def test_a_rule_that_was_brought_to_another_language_says_why_it_finds_nothing(port: Api) -> None:
    made = port.post("/rules", rule("[ tag(NOUN) ]"))
    assert made["trouble"] is None
    with transaction(port.settings.database_url) as db:
        db.execute(text("UPDATE project SET language = 'neutral'"))
    (shown,) = port.get("/rules")
    assert "parts of speech, and there are none for this language" in shown["trouble"]
    assert shown["leans"] == {"tags": [], "lemmas": False}


BODY = "The barge Tern sails. The barge Lark sails. The barge Ada lies. The barge Rose rides. The crane Otto lies."


def sign(api: Api, own: int, number: int, name: str | None) -> None:
    sentence = api.get(f"/texts/{own}/sentences")["sentences"][number]
    if name is None:
        api.put(f"/desk/sentences/{sentence['id']}", act("sign as empty", 0))
        return
    start = BODY.index(name)
    span = {"start": start, "end": start + len(name), "type": "VES"}
    api.put(f"/desk/sentences/{sentence['id']}", act("sign", 0, [span]))


def test_a_trial_shows_its_first_sentences_wrong_ones_first(port: Api) -> None:
    own = port.post("/texts", {"title": "1", "body": BODY})["id"]
    sign(port, own, 0, "Tern")
    sign(port, own, 1, None)
    told = port.post("/rules/try", rule("'barge' [ capital ]"), expect=200)
    assert (told["finds"], told["right"], told["judged"]) == (4, 1, 2)
    shown = [(one["words"].split()[2], one["signed"], one["differs"]) for one in told["staves"]]
    assert shown == [
        ("Lark", True, True),
        ("Tern", True, False),
        ("Ada", False, False),
        ("Rose", False, False),
    ]
    assert [len(one["lanes"]["rules"]) for one in told["staves"]] == [1, 1, 1, 1]
    assert [len(one["lanes"]["gold"]) for one in told["staves"]] == [0, 1, 0, 0]


def test_rules_are_offered_from_what_is_signed_outside_test(port: Api) -> None:
    made = port.post("/texts", {"title": "1", "body": BODY, "split": "train"})
    assert port.post("/rules/offers", {"type": "VES"}, expect=200) == {
        "offers": [],
        "sentences": 0,
        "all": True,
    }
    for number, name in enumerate(["Tern", "Lark", "Ada", "Rose", None]):
        sign(port, made["id"], number, name)
    told = port.post("/rules/offers", {"type": "VES"}, expect=200)
    assert (told["sentences"], told["all"]) == (5, True)
    first = told["offers"][0]
    assert (first["right"], first["wrong"], first["adds"]) == (4, 0, 4)
    assert first["aloud"]
    assert port.post("/rules/offers", {"type": "CGO"}, expect=200)["offers"] == []
    port.post("/rules/offers", {"type": "NON"}, expect=422)
    # Once it is taken there is nothing left to offer.
    port.post("/rules", rule(first["pattern"]))
    assert port.post("/rules/offers", {"type": "VES"}, expect=200)["offers"] == []
    # Test texts are judged by, and never learnt from.
    head = port.get(f"/texts/{made['id']}")
    port.put(f"/texts/{made['id']}", {"title": "1", "group": "", "split": "test", "version": head["version"]})
    assert port.post("/rules/offers", {"type": "VES"}, expect=200)["sentences"] == 0


def test_what_each_part_of_a_rule_took_in_right_finds_and_in_wrong_ones(port: Api) -> None:
    own = port.post("/texts", {"title": "1", "body": BODY})["id"]
    made = port.post("/rules", rule("('barge' or 'crane') [ capital ] 'lies'\n'barge' [ capital ] 'sails'"))
    path = f"/rules/{made['id']}/slots"
    blank = {"finds": 0, "right": 0, "alone": 0, "shared": [], "slots": []}
    assert port.get(path) == blank
    for number, name in enumerate(["Tern", "Lark", "Ada", None, None]):
        sign(port, own, number, name)
    told = port.get(path)
    assert (told["finds"], told["right"], told["alone"], told["shared"]) == (4, 3, 3, [])
    parts = [
        (
            one["line"],
            one["said"],
            one["marked"],
            [(x["words"], x["right"], x["wrong"]) for x in one["taken"]],
        )
        for one in told["slots"]
    ]
    assert parts == [
        (0, "“barge” or “crane”", False, [("crane", 0, 1), ("barge", 1, 0)]),
        (0, "a word with a capital", True, [("Otto", 0, 1), ("Ada", 1, 0)]),
        (0, "“lies”", False, [("lies", 1, 1)]),
        (1, "“barge”", False, [("barge", 2, 0)]),
        (1, "a word with a capital", True, [("Lark", 1, 0), ("Tern", 1, 0)]),
        (1, "“sails”", False, [("sails", 2, 0)]),
    ]
    port.get("/rules/999/slots", expect=404)
    # Another rule finds two of the three right ones.
    port.post("/rules", rule("[ capital ] 'sails'") | {"name": "another"})
    again = port.get(path)
    assert (again["right"], again["alone"], again["shared"]) == (3, 1, [{"rule": "another", "finds": 2}])
