"""Lines of the corpus that the database writes, held against the writer of the core."""

from __future__ import annotations

from collections.abc import Generator
from typing import Any

import pytest
from hypothesis import HealthCheck, Phase, given
from hypothesis import settings as hypothesis_settings
from hypothesis import strategies as st
from sqlalchemy import text
from sqlalchemy.orm import Session

from conftest import Api
from urdaten.core.formats import write_corpus
from urdaten.core.spans import Span
from urdaten.places.desk import acts as desk
from urdaten.places.desk.acts import corpus
from urdaten.places.desk.acts import corpus_lines as lines
from urdaten.places.team import acts as team
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types
from urdaten.platform.database import engine_for, transaction
from urdaten.platform.settings import Settings

WORDS = st.text(st.characters(exclude_categories=["Cs"], exclude_characters="\0"), min_size=1, max_size=12)
HEADS = st.fixed_dictionaries(
    {"title": WORDS, "group": st.just("") | WORDS, "split": st.sampled_from(texts.SPLITS)}
)


def drafts_of(found: list[tuple[str, dict[str, Any]]]) -> list[tuple[texts.TextDraft, str]]:
    made = []
    for k, (body, head) in enumerate(found):
        named = head | {"title": f"{k} {head['title']}"}
        made.append(
            (
                texts.TextDraft(**named),
                f'{body} Pellin {k} lies here.\nNobody "reads" \\{k}\t.\n\x07 Next. {body}',
            )
        )
    return made


@hypothesis_settings(
    max_examples=8,
    phases=[Phase.generate],
    deadline=None,
    suppress_health_check=[HealthCheck.function_scoped_fixture],
)
@given(
    found=st.lists(st.tuples(WORDS, HEADS), max_size=4),
    meta=st.dictionaries(WORDS, WORDS, max_size=3),
    data=st.data(),
)
def test_the_database_writes_what_the_core_writes(
    settings: Settings, found: list[tuple[str, dict[str, Any]]], meta: dict[str, str], data: st.DataObject
) -> None:
    with Session(engine_for(settings.database_url)) as db:
        project = team.project_by_id(db, 1)
        for code, key in (("VES", "v"), ("PRT", "p"), ("QX", "q")):
            types.add_type(db, 1, 1, types.TypeDraft(code=code, name=code, key=key, hue=1))
        db.execute(text("UPDATE project SET overlap = 'free'"))
        made = texts.add_texts(db, project, drafts_of(found)) if found else []
        if made and meta:
            draft = texts.ChangeDraft(meta={f"m {name}": value for name, value in meta.items()})
            texts.change_texts(db, 1, 1, [made[0].id], draft)
        bodies = {one.id: one.body for one in made}
        for sentences in texts.sentences_of(db, [one.id for one in made]).values():
            for sentence in sentences:
                kind = data.draw(st.sampled_from(["", "sign", "mark"]))
                body = bodies[sentence.text_id]
                ends = st.sampled_from(
                    [e for e in range(sentence.start + 1, sentence.end + 1) if not body[e - 1].isspace()]
                )
                spans = {
                    Span(sentence.start, data.draw(ends), data.draw(st.sampled_from(["VES", "PRT", "QX"])))
                    for _ in range(data.draw(st.integers(0, 3)))
                }
                if kind == "sign":
                    desk.annotate(
                        db,
                        1,
                        1,
                        sentence.id,
                        desk.Signing(
                            kind="sign" if spans else "sign as empty", version=0, wanted=tuple(spans)
                        ),
                    )
                elif kind and spans:
                    desk.annotate(
                        db, 1, 1, sentence.id, desk.Marks(kind="mark", version=0, wanted=tuple(spans))
                    )
        db.flush()
        project = team.project_by_id(db, 1)
        for unsigned in (False, True):
            for splits in (texts.SPLITS, ("dev",)):
                wish = desk.CorpusWish(unsigned=unsigned, which=texts.Which(splits=splits))
                slowly = list(write_corpus(corpus._read(db, project, wish, {}, None)))
                assert list(desk.write_out(db, project, wish)) == slowly
        db.rollback()


def test_portions_by_several_connections_are_one_state_of_the_corpus(
    demo_api: Api, monkeypatch: pytest.MonkeyPatch
) -> None:
    url = demo_api.settings.database_url
    wish = desk.CorpusWish(unsigned=True)
    with transaction(url, snapshot=True) as db:
        project = team.project_by_slug(db, "tessmar")
        whole = list(desk.write_out(db, project, wish))
    monkeypatch.setattr(lines, "_AT_ONCE", 3)
    assert len(whole) > 12
    with transaction(url, snapshot=True) as db:
        written = desk.write_out(db, project, wish)
        first = [next(written) for _ in range(2)]
        # What comes now is of another state.
        demo_api.post("/texts", {"title": "late", "body": "Ketta comes late.", "group": "", "split": "none"})
        assert [*first, *written] == whole
    with transaction(url, snapshot=True) as db:
        signed = list(desk.write_out(db, project, desk.CorpusWish()))
    assert signed == [line for line in whole if '"signed": true' in line]
    # A file that is not wanted to its end leaves no connection behind.
    with transaction(url, snapshot=True) as db:
        begun = desk.write_out(db, project, wish)
        assert next(begun) == whole[0]
        assert isinstance(begun, Generator)
        begun.close()
