"""Loading the demo project through the same acts that everybody uses."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy.orm import Session

from urdaten.core.tagger import PRESETS
from urdaten.demo.files import Demo, read_demo
from urdaten.demo.gold_records import WEEKS as RECORD_WEEKS
from urdaten.demo.gold_records import read_gold_records
from urdaten.errors import BadFile
from urdaten.places.desk import acts as desk
from urdaten.places.lists import acts as lists
from urdaten.places.records import acts as records
from urdaten.places.rules import acts as rules
from urdaten.places.scores import acts as scores
from urdaten.places.tagger import acts as tagger
from urdaten.places.team import acts as team
from urdaten.places.texts import acts as texts
from urdaten.places.types import acts as types
from urdaten.platform.accounts import Person, create_account
from urdaten.server.tables import METADATA

assert METADATA.tables


@dataclass(frozen=True, kw_only=True)
class DemoAccount:
    login: str
    name: str
    role: team.Role
    keeper: bool = False


ACCOUNTS = (
    DemoAccount(login="ines", name="Ines", role=team.Role.LEAD, keeper=True),
    DemoAccount(login="jo", name="Jo", role=team.Role.ANNOTATOR),
)


def load(db: Session, password_hashes: Mapping[str, str], demo: Demo | None = None) -> team.Project:
    """Load accounts and the demo project, all in this transaction."""
    demo = demo or read_demo()
    people = [
        create_account(
            db, login=a.login, name=a.name, password_hash=password_hashes[a.login], keeper=a.keeper
        )
        for a in ACCOUNTS
    ]
    lead = people[0].id
    project = team.create_project(db, slug=demo.slug, name=demo.name, language=demo.language)
    desk.gold_layer(db, project.id)
    for account, person in zip(ACCOUNTS, people, strict=True):
        team.add_member(db, project.id, person.id, account.role)
    for t in demo.types:
        types.add_type(db, project.id, lead, types.TypeDraft(**vars(t)))
    loaded = _load_texts(db, project, demo, lead)
    _load_annotators(db, project, demo, loaded, people)
    furnish(db, project, demo)
    return project


def furnish(db: Session, project: team.Project, demo: Demo) -> None:
    """The demo's lists, rules and record templates for a project that has its scheme."""
    for names in demo.lists:
        made = lists.add_list(db, project.id, lists.ListDraft(name=names.name, type=names.type))
        drafts = [lists.EntryDraft(preferred=e.preferred, variants=e.variants) for e in names.entries]
        lists.add_entries(db, project, made.id, drafts)
    for one in demo.fragments:
        rules.add_fragment(
            db, project.id, rules.FragmentDraft(name=one.name, pattern=one.pattern, about=one.about)
        )
    for r in demo.rules:
        rules.add_rule(
            db,
            project.id,
            rules.RuleDraft(
                name=r.name,
                type=r.type,
                about=r.about,
                pattern=r.pattern,
                must_find=r.must_find,
                must_not_find=r.must_not_find,
            ),
        )
    for template in demo.templates:
        records.add_template(db, project.id, template)


def sign_records(db: Session, project: team.Project, demo: Demo | None = None) -> int:
    """The demo's records gold as signed records: of the weeks that have it, each text's are all there are. How many."""
    demo = demo or read_demo()
    account_id = _lead(db, project)
    by_title: dict[tuple[str, str], list[dict[str, list[str]]]] = {}
    for one in read_gold_records():
        values = {name: [value] for name, value in one.values.items()}
        by_title.setdefault((one.text, one.template), []).append(values)
    held = {b.title for b in demo.bulletins if b.group in RECORD_WEEKS and b.signed}
    loaded = {text.id: text.title for text in texts.all_texts(db, project.id) if text.title in held}
    count = 0
    for stored in records.read_templates(db, project.id):
        names = {f.name for f in stored.template.fields}
        own = {
            number: [
                {name: values for name, values in record.items() if name in names}
                for record in by_title.get((title, stored.template.name), [])
            ]
            for number, title in loaded.items()
        }
        count += records.bring_in_signed(db, project, stored.id, own, account_id)
    return count


def _lead(db: Session, project: team.Project) -> int:
    return next(m.id for m in team.read_members(db, project.id) if m.role is team.Role.LEAD)


def begin_work(db: Session, project: team.Project) -> None:
    """Train, score and assemble the demo in the background, so that no place is empty at first sight."""
    lead = _lead(db, project)
    tagger.start_training(db, project.id, lead, "first tagger", PRESETS["quick"])
    scores.start_scoring(db, project.id, lead)
    records.start_learning(db, project.id, lead)


def _load_annotators(
    db: Session,
    project: team.Project,
    demo: Demo,
    made: Mapping[str, texts.Text],
    people: Sequence[Person],
) -> None:
    """What each of the demo's annotators marked, as a layer of their own."""
    for name, bulletins in demo.annotators.items():
        # Tests load a part of the demo.
        held = {b.title: b.gold for b in bulletins if b.title in made and b.body == made[b.title].body}
        if not held:
            continue
        account = next((person.id for person in people if person.login == name), None)
        layer = desk.add_layer(db, project.id, name.capitalize(), account=account)
        sentences = texts.sentences_of(db, [made[title].id for title in held])
        signings = {
            sentence.id: [s for s in spans if sentence.start <= s.start and s.end <= sentence.end]
            for title, spans in held.items()
            for sentence in sentences[made[title].id]
        }
        desk.sign_many(db, project.id, account, signings, layer.id)


def _load_texts(db: Session, project: team.Project, demo: Demo, lead: int) -> dict[str, texts.Text]:
    """The bulletins as texts, by title."""
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
    return {text.title: text for text in made}
