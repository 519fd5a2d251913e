"""Texts a portion at a time: none is missed, none comes twice, and words that may stand in one bring it."""

from __future__ import annotations

from datetime import date
from itertools import chain
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from sqlalchemy import literal, select

from conftest import Api
from urdaten.places.texts import acts as texts
from urdaten.places.texts.acts import portions as module
from urdaten.places.texts.acts.portions import may_have
from urdaten.platform.database import engine_for, transaction

BODIES = [
    "Pellin is in.",
    "Ketta sails. 100% of it.",
    "Die Straße am Kai.",
    "ΟΔΟΣ",
    "Haldis\\lies off_shore.",
]


@pytest.fixture
def shelf(api: Api) -> Api:
    for number, body in enumerate(BODIES):
        told: dict[str, Any] = {"title": f"T{number % 2} {number}", "group": f"week-{number % 2}"}
        if number:
            told["dated"] = f"2026-08-0{number}"
        api.post("/texts", {"body": body, "split": ["train", "dev"][number % 2]} | told)
    return api


def read(api: Api, **which: Any) -> list[list[str]]:
    with transaction(api.settings.database_url) as db:
        return [[t.body for t in portion] for portion in texts.in_portions(db, 1, texts.Which(**which))]


@pytest.mark.parametrize(
    ("at_once", "size", "lengths"),
    [(2, 10**6, [2, 2, 1]), (5, 10**6, [5]), (500, 1, [1] * 5), (500, 20, [2, 1, 2])],
)
def test_portions_end_by_number_or_by_size(
    shelf: Api, monkeypatch: pytest.MonkeyPatch, at_once: int, size: int, lengths: list[int]
) -> None:
    monkeypatch.setattr(module, "TEXTS_AT_ONCE", at_once)
    monkeypatch.setattr(module, "BYTES_AT_ONCE", size)
    found = read(shelf)
    assert list(chain(*found)) == BODIES
    assert [len(portion) for portion in found] == lengths


@pytest.mark.parametrize(
    ("which", "expected"),
    [
        ({}, [0, 1, 2, 3, 4]),
        ({"splits": ["dev"]}, [1, 3]),
        ({"only": []}, []),
        ({"title": "t1"}, [1, 3]),
        ({"group": "week-1"}, [1, 3]),
        ({"group": "week"}, []),
        ({"since": date(2026, 8, 2)}, [2, 3, 4]),
        ({"until": date(2026, 8, 2)}, [1, 2]),
        ({"words": "PELLIN"}, [0]),
        ({"words": "0%"}, [1]),
        ({"words": "f_s"}, [4]),
        ({"words": "s\\l"}, [4]),
        ({"words": "STRASSE"}, [2]),
        ({"words": "οδοσ"}, [3]),
        ({"words": "sails", "splits": ["train"]}, []),
    ],
)
def test_texts_are_narrowed_by_what_is_said(shelf: Api, which: dict[str, Any], expected: list[int]) -> None:
    assert list(chain(*read(shelf, **which))) == [BODIES[number] for number in expected]


def test_texts_of_another_project_stay_out(shelf: Api) -> None:
    made = shelf.request("POST", "/api/projects", json={"name": "Other", "language": "en"}).json()
    shelf.request("POST", f"/api/projects/{made['slug']}/texts", json={"title": "x", "body": "Pellin too."})
    assert list(chain(*read(shelf, words="pellin"))) == [BODIES[0]]


SIGNS = st.text("aSsßẞΣσςKé%_\\ 1", max_size=12)


@settings(max_examples=100, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    before=SIGNS, words=SIGNS, after=SIGNS, change=st.sampled_from([str.upper, str.lower, str.swapcase, str])
)
def test_words_that_case_folding_finds_may_always_stand_there(
    api: Api, before: str, words: str, after: str, change: Any
) -> None:
    body = before + change(words) + after
    probe = select(literal(body).label("body")).cte("probe")
    with engine_for(api.settings.database_url).connect() as connection:
        if words.casefold() in body.casefold():
            assert connection.scalar(select(may_have(probe.c.body, words)))
