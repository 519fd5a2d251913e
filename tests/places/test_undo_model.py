"""Undo and redo against a model: whatever two people do in whatever order, nothing is lost or invented."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from uuid import uuid4

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from sqlalchemy.orm import Session

from urdaten.core.spans import Span
from urdaten.errors import NotFound
from urdaten.places.desk import acts
from urdaten.places.desk.acts import changing, travelling
from urdaten.places.team import acts as team
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types
from urdaten.platform.database import engine_for
from urdaten.platform.settings import Settings

BODY = "Pellin is in. Haldis stays. Ketta sails."
SPANS = ((Span(0, 6, "VES"),), (Span(14, 20, "VES"),), (Span(28, 33, "VES"),))
PEOPLE = (1, 2)

# What somebody does: mark or empty a sentence, undo, redo.
Step = tuple[int, str, int]
STEPS = st.lists(
    st.tuples(st.sampled_from(PEOPLE), st.sampled_from(["mark", "clear", "undo", "redo"]), st.integers(0, 2)),
    max_size=25,
)


@dataclass
class Model:
    """What must stand: marked or not per sentence, and each person's stacks of (sentence, before, after)."""

    marked: list[bool | None] = field(default_factory=lambda: [None, None, None])
    done: dict[int, list[tuple[int, bool | None, bool]]] = field(
        default_factory=lambda: {p: [] for p in PEOPLE}
    )
    undone: dict[int, list[tuple[int, bool | None, bool]]] = field(
        default_factory=lambda: {p: [] for p in PEOPLE}
    )


@contextmanager
def rolled_back(settings: Settings) -> Iterator[Session]:
    """A session whose work is thrown away, so that every example begins alike."""
    with Session(engine_for(settings.database_url), expire_on_commit=False) as db:
        yield db
        db.rollback()


def change(db: Session, person: int, sentence: texts.Sentence, *, mark: bool) -> None:
    now = acts.annotation_of(db, sentence.id)
    wanted = SPANS[sentence.number] if mark else ()
    # A change has to change something to be one.
    kind = "mark" if mark else "remove"
    acts.annotate(db, 1, person, sentence.id, acts.Marks(kind=kind, version=now.version, wanted=wanted))


def travel(db: Session, model: Model, person: int, *, back: bool) -> None:
    source, target = (model.done, model.undone) if back else (model.undone, model.done)
    act = acts.undo if back else acts.redo
    if not source[person]:
        with pytest.raises(NotFound):
            act(db, 1, person)
        return
    sentence, before, after = source[person][-1]
    expected, result = (after, before) if back else (before, after)
    done = act(db, 1, person)
    source[person].pop()
    if model.marked[sentence] is not expected:
        # Left alone, and passed over from now on.
        assert (done.sentences, done.left) == (0, 1)
        return
    assert (done.sentences, done.left) == (1, 0)
    target[person].append((sentence, before, after))
    model.marked[sentence] = result


@settings(max_examples=40, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(steps=STEPS)
def test_undo_follows_the_model(settings: Settings, steps: list[Step]) -> None:
    with rolled_back(settings) as db:
        types.add_type(db, 1, 1, types.TypeDraft(code="VES", name="vessel", key="v", hue=1))
        (text,) = texts.add_texts(db, team.project_by_id(db, 1), [(texts.TextDraft(title="t"), BODY)])
        sentences = texts.sentences_of(db, [text.id])[text.id]
        model = Model()
        for person, what, number in steps:
            if what in {"undo", "redo"}:
                travel(db, model, person, back=what == "undo")
            else:
                mark = what == "mark"
                change(db, person, sentences[number], mark=mark)
                model.done[person].append((number, model.marked[number], mark))
                model.undone[person] = []
                model.marked[number] = mark
            for sentence, marked in zip(sentences, model.marked, strict=True):
                stands = acts.annotation_of(db, sentence.id)
                assert stands.spans == (SPANS[sentence.number] if marked else ())
                assert (stands.state == acts.UNTOUCHED) == (marked is None)
        log = [act for sentence in sentences for act in acts.history(db, 1, sentence.id)]
        travelled = sum(act.kind.startswith(("undo ", "redo ")) for act in log)
        assert len(log) - travelled == sum(what in {"mark", "clear"} for _, what, _ in steps)


def test_an_undo_that_is_sent_twice_at_once_is_done_once_and_answered_twice(
    settings: Settings, monkeypatch: pytest.MonkeyPatch
) -> None:
    really = changing.is_done
    with rolled_back(settings) as db:
        types.add_type(db, 1, 1, types.TypeDraft(code="VES", name="vessel", key="v", hue=1))
        (text,) = texts.add_texts(db, team.project_by_id(db, 1), [(texts.TextDraft(title="t"), BODY)])
        (sentence, *_) = texts.sentences_of(db, [text.id])[text.id]
        mark, undo = uuid4(), uuid4()
        wish = acts.Marks(kind="mark", version=0, wanted=SPANS[0], token=mark)
        acts.annotate(db, 1, 1, sentence.id, wish)
        first = acts.undo(db, 1, 1, of=mark, token=undo)
        # The second one looked before the first was kept.
        looks = iter([False])
        monkeypatch.setattr(
            travelling, "is_done", lambda *given: next(looks, None) is None and really(*given)
        )
        assert acts.undo(db, 1, 1, of=mark, token=undo) == first
        assert acts.annotation_of(db, sentence.id).version == 2
        # Another's undo of the same act is told that there is none.
        looks = iter([False])
        with pytest.raises(NotFound):
            acts.undo(db, 1, 1, of=mark, token=uuid4())
