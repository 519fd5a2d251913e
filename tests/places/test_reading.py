"""Reading texts through, sentence after sentence."""

from __future__ import annotations

from typing import Any

import pytest

from acting import act
from conftest import Api


@pytest.fixture
def desk(api: Api) -> Api:
    api.post("/types", {"code": "VES", "name": "vessel", "key": "v", "hue": 1})
    for title, group, body in (
        ("33/1", "week-33", "One is in. Two is in. Three is in."),
        ("34/1", "week-34", "Elsewhere."),
        ("33/2", "week-33", "Four is in. Five is in."),
        ("alone", "", "Six. Seven."),
    ):
        api.post("/texts", {"title": title, "group": group, "body": body, "split": "train"})
    return api


def text_id(api: Api, title: str) -> int:
    number: int = next(t["id"] for t in api.get("/texts")["texts"] if t["title"] == title)
    return number


def words(page: dict[str, Any]) -> list[str]:
    return [s["stave"]["words"] for s in page["sentences"]]


def test_one_reads_from_a_text_through_its_group(desk: Api) -> None:
    first = desk.get("/desk/reading", text=text_id(desk, "33/1"), number=1, limit=3)
    assert words(first) == ["Two is in.", "Three is in.", "Four is in."]
    assert first["group"] == "week-33"
    assert first["next"] == {"text": text_id(desk, "33/2"), "number": 1}
    second = desk.get("/desk/reading", limit=3, **first["next"])
    assert (words(second), second["next"]) == (["Five is in."], None)


def test_a_page_that_ends_with_its_text_goes_on_with_the_next(desk: Api) -> None:
    page = desk.get("/desk/reading", text=text_id(desk, "33/1"), limit=3)
    assert page["next"] == {"text": text_id(desk, "33/2"), "number": 0}


def test_a_text_without_a_group_is_read_alone(desk: Api) -> None:
    page = desk.get("/desk/reading", text=text_id(desk, "alone"))
    assert (words(page), page["group"], page["next"]) == (["Six.", "Seven."], "", None)
    desk.get("/desk/reading", 404, text=999_999)


def test_gold_stands_in_it_also_while_it_is_not_signed(desk: Api) -> None:
    shown = desk.get("/desk/reading", text=text_id(desk, "33/1"))["sentences"][0]
    assert shown["state"] == "untouched"
    wish = act("mark", 0, [{"start": 0, "end": 3, "type": "VES"}])
    desk.put(f"/desk/sentences/{shown['stave']['sentence_id']}", wish)
    shown = desk.get("/desk/reading", text=text_id(desk, "33/1"))["sentences"][0]
    assert (shown["state"], shown["stave"]["lanes"]["gold"][0]["type"]) == ("draft", "VES")
