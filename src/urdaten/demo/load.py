"""Loading the demo project through the same acts that everybody uses."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from sqlalchemy.orm import Session

from urdaten.demo.files import Demo, read_demo
from urdaten.errors import BadFile
from urdaten.places.desk import acts as desk
from urdaten.places.lists import acts as lists
from urdaten.places.records import acts as records
from urdaten.places.rules import acts as rules
from urdaten.places.team import acts as team
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types
from urdaten.platform.accounts import Role, create_account
from urdaten.platform.settings import Settings
from urdaten.server.tables import METADATA

assert METADATA.tables


@dataclass(frozen=True, kw_only=True)
class DemoAccount:
    login: str
    name: str
    role: Role


ACCOUNTS = (
    DemoAccount(login="ines", name="Ines", role=Role.LEAD),
    DemoAccount(login="jo", name="Jo", role=Role.ANNOTATOR),
)


def is_loaded(db: Session) -> bool:
    """Is there any project yet? The demo is loaded only into an empty database."""
    return bool(team.list_projects(db))


def load(
    db: Session, settings: Settings, passwords: Mapping[str, str], demo: Demo | None = None
) -> team.Project:
    """Load accounts and the demo project, all in this transaction."""
    demo = demo or read_demo()
    people = [
        create_account(db, settings, login=a.login, name=a.name, role=a.role, password=passwords[a.login])
        for a in ACCOUNTS
    ]
    lead = people[0].id
    project = team.create_project(db, slug=demo.slug, name=demo.name, language=demo.language)
    for t in demo.types:
        types.add_type(db, project.id, lead, types.TypeDraft(**vars(t)))
    _load_texts(db, project, demo, lead)
    for names in demo.lists:
        made = lists.add_list(db, project.id, lists.ListDraft(name=names.name, type=names.type))
        drafts = [lists.EntryDraft(preferred=e.preferred, variants=e.variants) for e in names.entries]
        lists.add_entries(db, project.id, made.id, drafts)
    for r in demo.rules:
        rules.add_rule(
            db,
            project.id,
            rules.RuleDraft(
                name=r.name,
                type=r.type,
                about=r.about,
                pattern=r.rule.pattern,
                must_find=r.must_find,
                must_not_find=r.must_not_find,
            ),
        )
    for template in demo.templates:
        records.add_template(db, project.id, template)
    return project


def _load_texts(db: Session, project: team.Project, demo: Demo, lead: int) -> None:
    drafts = [
        (texts.TextDraft(title=b.title, group=b.group, dated=b.dated, split=b.split), b.body)
        for b in demo.bulletins
    ]
    made = texts.add_texts(db, project, drafts)
    sentences = texts.sentences_of(db, [text.id for text in made])
    signings = {}
    for text, bulletin in zip(made, demo.bulletins, strict=True):
        left = set(bulletin.gold)
        for sentence in sentences[text.id]:
            here = [s for s in bulletin.gold if sentence.start <= s.start and s.end <= sentence.end]
            left -= set(here)
            if bulletin.signed:
                signings[sentence.id] = here
        if left:
            words = ", ".join(f"“{bulletin.body[s.start : s.end]}”" for s in sorted(left))
            raise BadFile(f"Bulletin {bulletin.title}: a sentence ends within {words}.")
    desk.sign_many(db, project.id, lead, signings)
    for wanted in demo.rounds:
        draft = desk.RoundDraft(
            name=wanted.name,
            note=wanted.note,
            priority=wanted.priority,
            suggestions=wanted.suggestions,
            open=wanted.open,
        )
        # Tests load a part of the demo, which lacks some weeks.
        if own := [text.id for text in made if text.group in wanted.weeks]:
            desk.add_round(db, project.id, draft, own)
