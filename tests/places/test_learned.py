"""What is remembered of signed sentences is what reading them all anew would give."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import HealthCheck, given
from hypothesis import settings as hypothesis_settings
from sqlalchemy.orm import Session

from places.test_tallies import STEPS, do, filled, rolled_back
from urdaten.errors import NotFound, UrdatenError
from urdaten.places.desk import acts as desk
from urdaten.places.desk import learned
from urdaten.places.team import acts as team
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types
from urdaten.platform.settings import Settings


def held(db: Session) -> dict[int, Any]:
    with learned.memory(db, team.project_by_id(db, 1)) as names:
        return dict(names._held)


def held_anew(db: Session) -> dict[int, Any]:
    kept = learned._kept.pop(1, None)
    fresh = held(db)
    if kept is not None:
        learned._kept[1] = kept
    return fresh


@hypothesis_settings(
    max_examples=30, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture]
)
@given(steps=STEPS)
def test_it_follows_every_act(settings: Settings, steps: list[tuple[str, int, str]]) -> None:
    learned._kept.clear()
    with rolled_back(settings) as db:
        sentences = filled(db)
        layers = {"gold": desk.gold_layer(db, 1), "own": desk.add_layer(db, 1, "own").id}
        for kind, number, layer in steps:
            try:
                do(db, kind, sentences[number], layers[layer])
            except (NotFound, UrdatenError):
                continue  # nothing to undo, or to answer
            assert held(db) == held_anew(db)


def test_it_follows_changes_of_types_and_texts(settings: Settings) -> None:
    with rolled_back(settings) as db:
        sentences = filled(db)
        gold = desk.gold_layer(db, 1)
        for sentence in sentences:
            do(db, "sign", sentence, gold)
        # Of the test split nothing is learnt.
        assert held(db).keys() == {sentence.id for sentence in sentences[:3]}
        (one,) = types.list_types(db, 1)
        draft = types.TypeDraft(code="SHP", name="ship", key="s", hue=1)
        types.change_type(db, 1, 1, one.id, draft, one.version)
        assert {kind for _, marked in held(db).values() for _, _, kind in marked} == {"SHP"}
        text = texts.read_text(db, 1, sentences[0].text_id)
        texts.change_text(
            db, 1, text.id, texts.TextDraft(title="kept for testing", split="test"), text.version
        )
        assert held(db) == held_anew(db) == {}


def test_after_an_act_only_what_it_touched_is_read(
    settings: Settings, monkeypatch: pytest.MonkeyPatch
) -> None:
    asked: list[set[int] | None] = []
    read = desk.signed_versions

    def listen(db: Session, project_id: int, splits: Any, wanted: Any = None) -> dict[int, int]:
        asked.append(wanted)
        return read(db, project_id, splits, wanted)

    monkeypatch.setattr(desk, "signed_versions", listen)
    with rolled_back(settings) as db:
        sentences = filled(db)
        gold = desk.gold_layer(db, 1)
        held(db)
        do(db, "sign", sentences[0], gold)
        held(db)
        held(db)
        assert asked == [None, {sentences[0].id}]


def test_many_texts_are_learnt_in_portions(settings: Settings, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(learned, "AT_ONCE", 2)
    monkeypatch.setattr(learned, "FEW", 0)
    with rolled_back(settings) as db:
        sentences = filled(db)
        for sentence in reversed(sentences):
            do(db, "sign", sentence, desk.gold_layer(db, 1))
        in_portions = held(db)
        monkeypatch.undo()
        assert list(held_anew(db).items()) == list(in_portions.items())
        assert list(in_portions) == [sentence.id for sentence in sentences[:3]]
